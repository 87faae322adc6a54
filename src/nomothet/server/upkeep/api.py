"""How the installation is: in a word for anybody, in full for admins, as figures for their monitoring."""

from dataclasses import dataclass
from datetime import datetime
from importlib.metadata import version
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework.negotiation import BaseContentNegotiation
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.shapes import shape, shaped
from nomothet.server.upkeep.health import FAILING, health, overall, told
from nomothet.server.upkeep.metrics import CONTENT_TYPE, metrics
from nomothet.server.upkeep.models import Backup
from nomothet.words import says

_BACKUPS_SHOWN = 10


@dataclass(frozen=True)
class InstallationPartShape:
    """A part of the installation; `state` is "well", "unwell" or "failing", `words` say what is wrong."""

    part: str
    state: str
    words: list[str]
    figures: dict[str, float]


@dataclass(frozen=True)
class BackupShape:
    """A backup that was made, or why none was."""

    id: int
    at: datetime
    folder: str
    name: str
    size: int
    took_s: float
    encrypted: bool
    problem: str
    checked_at: datetime | None
    found: str


@dataclass(frozen=True)
class InstallationShape:
    """The installation's state; `backup_every_h` is 0 where no schedule is set."""

    version: str
    status: str
    parts: list[InstallationPartShape]
    backup_every_h: float
    backups_kept: int
    backups: list[BackupShape]


def health_page(request: HttpRequest) -> JsonResponse:
    """The state of each part: 200 while the server can answer, 503 when it cannot."""
    parts = health()
    failing = overall(parts) == FAILING
    return JsonResponse(told(parts), status=503 if failing else 200, headers={"Cache-Control": "no-store"})


class InstallationView(APIView):
    @extend_schema(responses=shape(InstallationShape))
    def get(self, request: Request) -> Response:
        require(signed_in(request), Act.LOOK_AFTER)
        parts = health()
        backups = [
            BackupShape(
                one.pk, one.at, one.folder, one.name, one.size, one.took_s, one.encrypted, one.problem,
                one.checked_at, one.found,
            )
            for one in Backup.objects.all()[:_BACKUPS_SHOWN]
        ]  # fmt: skip
        shown = [InstallationPartShape(part.part, part.state, says(part.notes), part.figures) for part in parts]
        return shaped(
            InstallationShape(
                version("nomothet"), overall(parts), shown, settings.BACKUP_EVERY_H, settings.BACKUPS_KEPT, backups
            )
        )


class _AsItIs(BaseContentNegotiation):
    """There is one form only, whatever a collector says that it takes."""

    def select_parser(self, request: Request, parsers: Any) -> Any:
        return parsers[0]

    def select_renderer(self, request: Request, renderers: Any, format_suffix: Any = None) -> Any:
        return renderers[0], renderers[0].media_type


class MetricsView(APIView):
    """For a collector of the team, which sends an admin's token for reading."""

    content_negotiation_class = _AsItIs

    @extend_schema(responses={(200, "application/openmetrics-text"): OpenApiTypes.STR})
    def get(self, request: Request) -> HttpResponse:
        require(signed_in(request), Act.LOOK_AFTER)
        return HttpResponse(metrics(), content_type=CONTENT_TYPE)
