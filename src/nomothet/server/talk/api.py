"""Talk: threads of a review, the inbox, and who is looking."""

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import signed_in
from nomothet.server.reviews.api import review_of
from nomothet.server.shapes import shape, shaped
from nomothet.server.talk import commands
from nomothet.server.talk.models import About, Comment
from nomothet.server.talk.queries import InboxShape, LookingShape, TalkShape, inbox, looking, talk
from nomothet.server.talk.since import SinceShape, have_read, note_look, since_last

SHEETS = ("brief", "matrix", "findings", "verdict")


class CommentSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=commands.LONGEST)
    thread = serializers.IntegerField(required=False, allow_null=True)
    about = serializers.ChoiceField(About.values, default=About.REVIEW)
    test = serializers.IntegerField(required=False, allow_null=True)
    column = serializers.IntegerField(required=False, allow_null=True)
    owner = serializers.UUIDField(required=False, allow_null=True)
    key = serializers.CharField(max_length=2000, allow_blank=True, default="")


class CommentTextSerializer(serializers.Serializer[Any]):
    text = serializers.CharField(max_length=commands.LONGEST)


class SeenSerializer(serializers.Serializer[Any]):
    upto = serializers.IntegerField(min_value=0)


class NoticesReadSerializer(serializers.Serializer[Any]):
    notices = serializers.ListField(child=serializers.IntegerField(), max_length=1000, default=list)


class LookingSerializer(serializers.Serializer[Any]):
    sheet = serializers.ChoiceField(SHEETS)


def _valid(form: serializers.Serializer[Any]) -> dict[str, Any]:
    form.is_valid(raise_exception=True)
    return dict(form.validated_data)


class TalkView(APIView):
    @extend_schema(responses=shape(TalkShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(talk(signed_in(request), review_of(review)))

    @extend_schema(request=CommentSerializer, responses={201: shape(TalkShape)})
    def post(self, request: Request, review: int) -> Response:
        user, found = signed_in(request), review_of(review)
        commands.comment(user, found, _valid(CommentSerializer(data=request.data)))
        return shaped(talk(user, found), 201)


class TalkSeenView(APIView):
    @extend_schema(request=SeenSerializer, responses={204: None})
    def put(self, request: Request, review: int) -> Response:
        commands.mark_read(signed_in(request), review_of(review), _valid(SeenSerializer(data=request.data))["upto"])
        return Response(status=204)


class CommentView(APIView):
    @extend_schema(request=CommentTextSerializer, responses=shape(TalkShape))
    def patch(self, request: Request, comment: int) -> Response:
        user = signed_in(request)
        with transaction.atomic():
            found = get_object_or_404(Comment.objects.select_for_update(), pk=comment)
            commands.edit_comment(user, found, _valid(CommentTextSerializer(data=request.data))["text"])
        return shaped(talk(user, found.review))


class ThreadClosedView(APIView):
    @extend_schema(request=None, responses={204: None})
    def put(self, request: Request, comment: int) -> Response:
        commands.close(signed_in(request), get_object_or_404(Comment, pk=comment), True)
        return Response(status=204)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, comment: int) -> Response:
        commands.close(signed_in(request), get_object_or_404(Comment, pk=comment), False)
        return Response(status=204)


class InboxView(APIView):
    @extend_schema(responses=shape(InboxShape))
    def get(self, request: Request) -> Response:
        return shaped(inbox(signed_in(request)))

    @extend_schema(request=NoticesReadSerializer, responses=shape(InboxShape))
    def put(self, request: Request) -> Response:
        user = signed_in(request)
        commands.read_notices(user, _valid(NoticesReadSerializer(data=request.data))["notices"])
        return shaped(inbox(user))


class SinceView(APIView):
    """What happened since one was here last; DELETE says that it has been read."""

    @extend_schema(responses=shape(SinceShape))
    def get(self, request: Request, review: int) -> Response:
        return shaped(since_last(signed_in(request), review_of(review)))

    @extend_schema(responses={204: None})
    def delete(self, request: Request, review: int) -> Response:
        have_read(signed_in(request), review_of(review))
        return Response(status=204)


class LookingView(APIView):
    """Says that one looks at a sheet just now; the answer is who else does."""

    @extend_schema(request=LookingSerializer, responses=shape(LookingShape, many=True))
    def put(self, request: Request, review: int) -> Response:
        user, found = signed_in(request), review_of(review)
        note_look(user, found, _valid(LookingSerializer(data=request.data))["sheet"])
        return shaped(looking(user, found))
