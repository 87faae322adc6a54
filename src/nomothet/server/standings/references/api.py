"""References as pages read and take them."""

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.problems import unusable
from nomothet.server.responses import number_parameter
from nomothet.server.reviews.models import Column, Review
from nomothet.server.shapes import shape, shaped
from nomothet.server.standings.models import Reference
from nomothet.server.standings.references import commands
from nomothet.server.standings.references.offers import ReferenceOffer, offers
from nomothet.server.standings.references.queries import ReferencesShape, references_of


class ForeignFigureSerializer(serializers.Serializer[Any]):
    test = serializers.IntegerField(min_value=1)
    value = serializers.FloatField(min_value=-1e12, max_value=1e12)


class TakeReferenceSerializer(serializers.Serializer[Any]):
    """Either a column of another review, or figures from outside with a name, where they are told and when."""

    column = serializers.IntegerField(required=False, min_value=1)
    named = serializers.CharField(required=False, max_length=120)
    told_in = serializers.CharField(required=False, max_length=400)
    day = serializers.DateField(required=False)
    figures = ForeignFigureSerializer(many=True, required=False)


class WhySerializer(serializers.Serializer[Any]):
    why = serializers.CharField(max_length=300, allow_blank=True, default="")


class ReferencesView(APIView):
    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(
        parameters=[OpenApiParameter("baseline", int, description="Column to compare with.")],
        responses=shape(ReferencesShape),
    )
    def get(self, request: Request, review: int) -> Response:
        baseline = number_parameter(request, "baseline")
        found = get_object_or_404(Review, pk=review)
        return shaped(references_of(found, int(baseline) if baseline is not None else None))

    @extend_schema(request=TakeReferenceSerializer, responses={201: shape(ReferencesShape)})
    def post(self, request: Request, review: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = TakeReferenceSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        found = get_object_or_404(Review, pk=review)
        if "column" in given:
            column = Column.objects.select_related("review").filter(pk=given["column"]).first()
            if column is None:
                raise unusable("There is no such configuration in any review.", field="column")
            commands.take(user, found, column)
        else:
            lacking = [name for name in ("named", "told_in", "day", "figures") if not given.get(name)]
            if lacking:
                raise unusable(
                    "Name the configuration of another review, or tell name, source, day and figures of what was "
                    "measured elsewhere.",
                    field=lacking[0],
                )
            told = {one["test"]: one["value"] for one in given["figures"]}
            commands.note_foreign(
                user, found, label=given["named"], source=given["told_in"], day=given["day"], figures=told
            )
        return shaped(references_of(found), status=201)


class ReferenceOffersView(APIView):
    @extend_schema(responses=shape(ReferenceOffer, many=True))
    def get(self, request: Request, review: int) -> Response:
        return shaped(offers(get_object_or_404(Review, pk=review)))


class ReferenceTakenOffView(APIView):
    """PUT takes a reference off its review, with a reason; DELETE brings it back."""

    needs = {"PUT": Act.EDIT_REVIEW, "DELETE": Act.EDIT_REVIEW}

    @extend_schema(request=WhySerializer, responses={204: None})
    def put(self, request: Request, reference: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = WhySerializer(data=request.data)
        form.is_valid(raise_exception=True)
        commands.take_off(user, get_object_or_404(Reference, pk=reference), form.validated_data["why"])
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, reference: int) -> Response:
        commands.bring_back(signed_in(request), get_object_or_404(Reference, pk=reference))
        return Response(status=204)
