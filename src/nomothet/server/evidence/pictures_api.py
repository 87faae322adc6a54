"""Pictures beside each other."""

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.formats.words import PICTURE_VERDICTS
from nomothet.server.analysis.models import PicturePair
from nomothet.server.analysis.picture_pairs import state_pictures, withdraw_pictures
from nomothet.server.evidence.picture_pairs import PicturesShape, pictures_of
from nomothet.server.passes.models import Picture
from nomothet.server.people.permissions import Act, signed_in
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import shape, shaped


class PicturePairSerializer(serializers.Serializer[Any]):
    picture_a = serializers.IntegerField()
    picture_b = serializers.IntegerField()
    verdict = serializers.ChoiceField(choices=PICTURE_VERDICTS)
    words = serializers.CharField(max_length=400, allow_blank=True, default="")


class PicturesOfView(APIView):
    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(responses=shape(PicturesShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(pictures_of(get_object_or_404(Review, pk=review)))

    @extend_schema(request=PicturePairSerializer, responses={201: shape(PicturesShape)})
    def post(self, request: Request, review: int) -> Response:
        form = PicturePairSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        given = form.validated_data
        found = get_object_or_404(Review, pk=review)
        both = Picture.objects.select_related("owner__test").defer("blob", "thumbnail")
        a, b = (get_object_or_404(both, pk=given[side]) for side in ("picture_a", "picture_b"))
        state_pictures(signed_in(request), found, a, b, given["verdict"], given["words"])
        return shaped(pictures_of(found), status=201)


class PicturePairView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, pair: int) -> Response:
        withdraw_pictures(signed_in(request), get_object_or_404(PicturePair.objects.select_related("review"), pk=pair))
        return Response(status=204)
