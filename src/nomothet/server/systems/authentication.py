"""Benches sign in with their token: `Authorization: Bench TOKEN`."""

from typing import Any, cast

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import BaseAuthentication
from rest_framework.exceptions import AuthenticationFailed
from rest_framework.permissions import BasePermission
from rest_framework.request import Request

from nomothet.server.systems.commands import token_hash
from nomothet.server.systems.models import Bench


class BenchAuthentication(BaseAuthentication):
    def authenticate(self, request: Request) -> tuple[None, Bench] | None:
        scheme, _, token = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() != "bench" or not token:
            return None
        bench = Bench.objects.select_related("system").filter(token_hash=token_hash(token.strip())).first()
        if bench is None:
            raise AuthenticationFailed("This bench token is not known. An admin can issue a new one under Systems.")
        if bench.system.archived_at is not None:
            raise AuthenticationFailed(
                f"{bench.system.name} is archived, and its bench is not heard. Bring the system back under Systems."
            )
        return None, bench

    def authenticate_header(self, request: Request) -> str:
        return "Bench"


class IsBench(BasePermission):
    def has_permission(self, request: Request, view: Any) -> bool:
        return isinstance(request.auth, Bench)


def bench_of(request: Request) -> Bench:
    """The bench of a request that has passed `IsBench`."""
    return cast(Bench, request.auth)


class BenchAuthenticationScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """Describes the bench's token to the OpenAPI document."""

    target_class = BenchAuthentication
    name = "benchToken"

    def get_security_definition(self, auto_schema: Any) -> dict[str, str]:
        return {
            "type": "apiKey",
            "in": "header",
            "name": "Authorization",
            "description": "`Bench TOKEN`, issued once under Systems.",
        }
