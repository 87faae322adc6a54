"""Readers' messages: sending one without a sign-in, and deciding on them."""

from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import get_object_or_404
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.server.people.permissions import signed_in
from nomothet.server.problems import Problem
from nomothet.server.readers import commands
from nomothet.server.readers.models import Message
from nomothet.server.readers.queries import MessagesShape, messages
from nomothet.server.readers.rate import too_many
from nomothet.server.records.models import Record
from nomothet.server.records.page.views import page_with_problem
from nomothet.server.shapes import shape, shaped

DECISIONS = (Message.State.SHOWN.value, Message.State.REFUSED.value)


class DecisionSerializer(serializers.Serializer[Any]):
    decision = serializers.ChoiceField(DECISIONS)


class ReaderAnswerSerializer(serializers.Serializer[Any]):
    answer = serializers.CharField(max_length=commands.LONGEST)


# Nobody is signed in here, so that there is no session that a foreign page could make use of.
@csrf_exempt
@require_POST
def send(request: HttpRequest, slug: str) -> HttpResponse:
    """A form of the public page. Refused, the page comes back with what was typed and why."""
    record = get_object_or_404(Record.objects.select_related("review"), slug=slug, withdrawn_at=None)
    given = {key: str(value) for key, value in request.POST.items()}
    try:
        if too_many(request):
            raise Problem(
                429, "Too many", "So many messages came from your address that no more are taken for an hour."
            )
        commands.take(record, given)
    except Problem as problem:
        return page_with_problem(request, record, str(problem.detail), given, problem.status_code)
    return HttpResponseRedirect(f"/records/{slug}?received=1#questions")


class MessagesView(APIView):
    @extend_schema(responses=shape(MessagesShape))
    def get(self, request: Request) -> Response:
        return shaped(messages())


class MessageDecisionView(APIView):
    @extend_schema(request=DecisionSerializer, responses=shape(MessagesShape))
    def put(self, request: Request, message: int) -> Response:
        form = DecisionSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        commands.decide(signed_in(request), get_object_or_404(Message, pk=message), form.validated_data["decision"])
        return shaped(messages())


class MessageAnswerView(APIView):
    @extend_schema(request=ReaderAnswerSerializer, responses=shape(MessagesShape))
    def put(self, request: Request, message: int) -> Response:
        form = ReaderAnswerSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        commands.answer(signed_in(request), get_object_or_404(Message, pk=message), form.validated_data["answer"])
        return shaped(messages())


class MessageFollowUpView(APIView):
    """An explanation to be tested, made of what a reader says."""

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, message: int) -> Response:
        commands.follow_up(signed_in(request), get_object_or_404(Message.objects.select_related("review"), pk=message))
        return Response(status=204)
