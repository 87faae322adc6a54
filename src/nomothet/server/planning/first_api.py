"""A team's first review: what there is to choose from, and making it."""

from dataclasses import dataclass
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.core.parts import KINDS
from nomothet.core.settings import CATALOGUE
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.planning.first_review import TOLD, Differing, begin_first_review
from nomothet.server.reviews.api import review_response
from nomothet.server.reviews.queries import ReviewShape
from nomothet.server.shapes import shape, shaped
from nomothet.server.systems.models import System
from nomothet.server.workloads.templates import TEMPLATES

# Where the two configurations can differ first: what people exchange, and what they set.
_PLACES = ("graphics", "memory_kit", "processor", "cooling", "storage", "power_supply", "os_build")
_SETTINGS = ("power_limit_w", "memory_mts", "graphics_limit_w", "graphics_driver")


@dataclass(frozen=True)
class FirstChoice:
    """Something to choose; `unit` where a number is wanted."""

    key: str
    label: str
    unit: str


@dataclass(frozen=True)
class FirstTemplate:
    key: str
    label: str
    example: str
    reads: str


@dataclass(frozen=True)
class FirstMachine:
    """A machine that is there; `told` is what its bench says of it, in words."""

    id: int
    name: str
    told: list[str]


@dataclass(frozen=True)
class FirstShape:
    """What a first review is made of."""

    machines: list[FirstMachine]
    parts: list[FirstChoice]
    differing: list[FirstChoice]
    templates: list[FirstTemplate]


class FirstReviewSerializer(serializers.Serializer[Any]):
    question = serializers.CharField(max_length=300)
    system = serializers.IntegerField(required=False, min_value=1)
    machine = serializers.CharField(max_length=120, required=False, allow_blank=True, default="")
    parts = serializers.DictField(
        child=serializers.CharField(max_length=120, allow_blank=True), required=False, default=dict
    )
    differing = serializers.CharField(max_length=80)
    a = serializers.CharField(max_length=120)
    b = serializers.CharField(max_length=120)
    template = serializers.ChoiceField(choices=list(TEMPLATES))
    workload = serializers.CharField(max_length=120)
    version = serializers.CharField(max_length=40, required=False, allow_blank=True, default="1")


class FirstReviewView(APIView):
    """GET: what there is to choose from; POST: the review."""

    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(responses=shape(FirstShape))
    def get(self, request: Request) -> Response:
        settings = [CATALOGUE[key].spec for key in _SETTINGS]
        return shaped(
            FirstShape(
                machines=[
                    _machine(one)
                    for one in System.objects.filter(archived_at=None).select_related("bench").order_by("name")
                ],
                parts=[FirstChoice(key, KINDS[key].label, "") for key in TOLD],
                differing=[
                    *(FirstChoice(key, KINDS[key].label, "") for key in _PLACES),
                    *(FirstChoice(spec.key, spec.label, spec.unit) for spec in settings),
                ],
                templates=[FirstTemplate(one.key, one.label, one.example, one.reads) for one in TEMPLATES.values()],
            )
        )

    @extend_schema(request=FirstReviewSerializer, responses={201: shape(ReviewShape)})
    def post(self, request: Request) -> Response:
        form = FirstReviewSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = dict(form.validated_data)
        pk = given.pop("system", None)
        differing = Differing(given.pop("differing"), given.pop("a"), given.pop("b"))
        made = begin_first_review(
            signed_in(request),
            system=None if pk is None else get_object_or_404(System, pk=pk),
            differing=differing,
            **given,
        )
        return review_response(made, status=201)


def _machine(system: System) -> FirstMachine:
    bench = getattr(system, "bench", None)
    told = bench.inventory if bench else {}
    words = [str(told[key]) for key in ("processor", "graphics", "memory", "operating system") if told.get(key)]
    return FirstMachine(system.pk, system.name, words)
