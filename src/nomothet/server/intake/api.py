"""Setting passes aside, taking them back, and passes from files."""

import uuid
from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.formats.frames_in import UNITS_MS
from nomothet.server.intake.frame_files import import_frames
from nomothet.server.intake.tellings import move_to_group, tell
from nomothet.server.passes.commands import set_aside, take_back
from nomothet.server.passes.models import Pass
from nomothet.server.passes.told import ToldShape
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.reviews.models import Column, Test
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.versions import IF_MATCH, require_match


class ReasonSerializer(serializers.Serializer[Any]):
    reason = serializers.CharField(max_length=300, allow_blank=True, default="")


class TellingSerializer(serializers.Serializer[Any]):
    note = serializers.CharField(max_length=2000, allow_blank=True, required=False)
    action = serializers.CharField(max_length=300, allow_blank=True, required=False)
    fallback = serializers.CharField(max_length=300, allow_blank=True, required=False)
    ran_by = serializers.CharField(max_length=120, allow_blank=True, required=False)
    helped_by = serializers.CharField(max_length=200, allow_blank=True, required=False)


class FrameFileSerializer(serializers.Serializer[Any]):
    file = serializers.FileField(allow_empty_file=True)
    column = serializers.CharField(required=False, max_length=200)
    unit = serializers.ChoiceField(required=False, choices=list(UNITS_MS))


class SetAsideView(APIView):
    """A pass set aside: PUT with a reason; DELETE takes it back."""

    @extend_schema(request=ReasonSerializer, responses={204: None})
    def put(self, request: Request, pass_id: uuid.UUID) -> Response:
        form = ReasonSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        set_aside(signed_in(request), get_object_or_404(Pass, pk=pass_id).pk, form.validated_data["reason"])
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pass_id: uuid.UUID) -> Response:
        take_back(signed_in(request), get_object_or_404(Pass, pk=pass_id).pk)
        return Response(status=204)


class TellingView(APIView):
    """What is told of a pass: why it failed, what was done, what ran instead, who ran it and who helped."""

    @extend_schema(request=TellingSerializer, parameters=[IF_MATCH], responses=shape(ToldShape))
    def patch(self, request: Request, pass_id: uuid.UUID) -> Response:
        user = signed_in(request)
        require(user, Act.RECORD)
        form = TellingSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        told = tell(
            user,
            get_object_or_404(Pass, pk=pass_id).pk,
            form.validated_data,
            lambda present: require_match(request, present.tag, plain(present)),
        )
        return shaped(told, headers={"ETag": f'"{told.tag}"'})


class FirstRunView(APIView):
    """PUT moves a pass among the first runs after a start; DELETE moves it back."""

    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, pass_id: uuid.UUID) -> Response:
        move_to_group(signed_in(request), get_object_or_404(Pass, pk=pass_id).pk, "first")
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pass_id: uuid.UUID) -> Response:
        move_to_group(signed_in(request), get_object_or_404(Pass, pk=pass_id).pk, "")
        return Response(status=204)


class FrameFileView(APIView):
    """A file of frame times for a cell; the id of the pass is made by the client, so sending twice stores once."""

    parser_classes = [MultiPartParser]

    @extend_schema(request=FrameFileSerializer, responses={201: None})
    def put(self, request: Request, review: int, test: int, column: int, pass_id: uuid.UUID) -> Response:
        user = signed_in(request)
        require(user, Act.IMPORT_PASSES)
        form = FrameFileSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        file = form.validated_data["file"]
        owner = import_frames(
            user,
            get_object_or_404(Test.objects.select_related("review", "workload"), pk=test, review=review),
            get_object_or_404(Column, pk=column, review=review),
            pass_id=pass_id,
            file=file.file,
            name=file.name,
            column_name=form.validated_data.get("column"),
            unit=form.validated_data.get("unit"),
        )
        return Response({"id": str(owner.pk), "number": owner.number}, status=201)
