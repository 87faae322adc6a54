"""Reading, writing, checking and signing verdicts."""

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.http import Http404, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from nomothet.claims.sentences import LONGEST
from nomothet.server.edits import edit_form
from nomothet.server.matrix.matrix import matrix
from nomothet.server.people.permissions import Act, require, signed_in
from nomothet.server.problems import unusable
from nomothet.server.responses import number_parameter
from nomothet.server.reviews.api import editing, review_of
from nomothet.server.reviews.models import Review
from nomothet.server.shapes import plain, shape, shaped
from nomothet.server.verdicts import commands
from nomothet.server.verdicts.content import CALLS, LONGEST_LINE, OUTCOMES, read_uses
from nomothet.server.verdicts.exports import EXPORTS, TYPES, export
from nomothet.server.verdicts.models import Reply, Settled, Signature
from nomothet.server.verdicts.revisions import RevisionsShape, revisions_of
from nomothet.server.verdicts.verdict import CheckShape, VerdictShape, check_text, verdict_of, verdict_shape
from nomothet.server.versions import IF_MATCH, entity_tag, require_match
from nomothet.server.workloads.metric_notes import LONGEST as LONGEST_NOTE
from nomothet.server.workloads.metric_notes import note_tag, notes_of, own_words, set_note


class JudgedSerializer(serializers.Serializer[Any]):
    column = serializers.IntegerField()
    call = serializers.ChoiceField(CALLS)
    note = serializers.CharField(max_length=LONGEST_LINE, allow_blank=True, default="")


class ConditionsSerializer(serializers.Serializer[Any]):
    settings = serializers.CharField(max_length=LONGEST_LINE, allow_blank=True, default="")
    room = serializers.CharField(max_length=LONGEST_LINE, allow_blank=True, default="")
    workload = serializers.CharField(max_length=LONGEST_LINE, allow_blank=True, default="")
    basis = serializers.CharField(max_length=12, allow_blank=True, default="")


class VerdictUseSerializer(serializers.Serializer[Any]):
    key = serializers.CharField(max_length=40, allow_blank=True, default="")
    name = serializers.CharField(max_length=LONGEST_LINE, allow_blank=True, default="")
    outcome = serializers.ChoiceField(OUTCOMES, default="")
    judged = JudgedSerializer(many=True, default=list)
    conditions = ConditionsSerializer(default=dict)
    text = serializers.CharField(allow_blank=True, default="", trim_whitespace=False)


class VerdictEditSerializer(serializers.Serializer[Any]):
    answer = serializers.CharField(max_length=LONGEST_LINE, allow_blank=True, default="")
    uses = VerdictUseSerializer(many=True, default=list)


class ReplySerializer(serializers.Serializer[Any]):
    sentence = serializers.CharField(max_length=LONGEST)
    kind = serializers.ChoiceField(Reply.Kind.values)
    words = serializers.CharField(max_length=400, allow_blank=True, default="")


class SettleSerializer(serializers.Serializer[Any]):
    how = serializers.ChoiceField(Settled.How.values)
    words = serializers.CharField(max_length=400)


class SignSerializer(serializers.Serializer[Any]):
    role = serializers.ChoiceField(Signature.Role.values)


def _response(review: Review, status: int = 200) -> Response:
    found = verdict_shape(review)
    return shaped(found, status=status, headers={"ETag": entity_tag(found.version)})


class ExportView(APIView):
    """Figures, cells, findings or the verdict, as csv, md or json."""

    @extend_schema(responses={(200, "text/plain"): OpenApiTypes.STR})
    def get(self, request: Request, review: int, what: str, form: str) -> StreamingHttpResponse:
        found = review_of(review)
        lines = export(found, what, form)
        if lines is None:
            raise Http404(f"There is no export {what}.{form}; there is {', '.join('.'.join(one) for one in EXPORTS)}.")
        response = StreamingHttpResponse(lines, content_type=f"{TYPES[form]}; charset=utf-8")
        response.headers["Content-Disposition"] = f'attachment; filename="{found.key}-{what}.{form}"'
        return response


@dataclass(frozen=True)
class MetricNoteShape:
    """What a metric of a review means for readers; empty where nobody has said so. `tag` is what If-Match wants."""

    metric: str
    label: str
    words: str
    # The team's own words, empty where the usual ones hold.
    own: str
    tag: str


class MetricNoteSerializer(serializers.Serializer[Any]):
    words = serializers.CharField(max_length=LONGEST_NOTE, allow_blank=True)


class MetricNotesView(APIView):
    """What readers are told of the metrics of a review."""

    @extend_schema(responses=shape(MetricNoteShape, many=True))
    def get(self, request: Request, review: int) -> Response:
        rows = {row.metric: row for row in matrix(review_of(review)).rows}
        told = notes_of({metric: row.unit for metric, row in rows.items()})
        own = own_words(rows)
        return shaped(
            [
                MetricNoteShape(
                    metric, row.label.split(",")[0], told[metric], own.get(metric, ""), note_tag(own.get(metric, ""))
                )
                for metric, row in rows.items()
            ]
        )


class MetricNoteView(APIView):
    @extend_schema(request=MetricNoteSerializer, parameters=[IF_MATCH], responses={204: None})
    def put(self, request: Request, metric: str) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_WORKLOADS)
        form = MetricNoteSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        set_note(
            user,
            metric[:80],
            form.validated_data["words"],
            lambda own: require_match(request, note_tag(own), {"words": own, "tag": note_tag(own)}),
        )
        return Response(status=204)


class VerdictView(APIView):
    @extend_schema(responses=shape(VerdictShape))
    def get(self, request: Request, review: int) -> Response:
        return _response(review_of(review))

    @extend_schema(request=VerdictEditSerializer(partial=True), parameters=[IF_MATCH], responses=shape(VerdictShape))
    def patch(self, request: Request, review: int) -> Response:
        user = signed_in(request)
        require(user, Act.EDIT_REVIEW)
        form = edit_form(VerdictEditSerializer(data=request.data))
        form.is_valid(raise_exception=True)
        with editing(review) as found:
            verdict = verdict_of(found)
            version = verdict.version if verdict else 0
            current = plain(verdict_shape(found)) if request.headers.get("If-Match") != entity_tag(version) else None
            require_match(request, version, current)
            commands.edit_verdict(user, found, plain(form.validated_data))
        return _response(found)


class VerdictCheckView(APIView):
    """The check of a text as it is being written; nothing is stored."""

    needs = {"POST": Act.EDIT_REVIEW}

    @extend_schema(request=VerdictEditSerializer, responses=shape(CheckShape))
    def post(self, request: Request, review: int) -> Response:
        form = VerdictEditSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = review_of(review)
        given = plain(form.validated_data)
        return shaped(check_text(found, given["answer"], read_uses(found, given["uses"])))


class RevisionsView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("before", int), OpenApiParameter("after", int)], responses=shape(RevisionsShape)
    )
    def get(self, request: Request, review: int) -> Response:
        verdict = verdict_of(review_of(review))
        if verdict is None or not verdict.revisions.exists():
            raise unusable("Nothing has been written yet.")
        before, after = (number_parameter(request, name) for name in ("before", "after"))
        return shaped(revisions_of(verdict, int(before) if before else None, int(after) if after else None))


class RepliesView(APIView):
    @extend_schema(request=ReplySerializer, responses={201: shape(VerdictShape)})
    def post(self, request: Request, review: int) -> Response:
        form = ReplySerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = review_of(review)
        commands.reply(signed_in(request), found, **form.validated_data)
        return _response(found, 201)


class ReplyView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, reply: int) -> Response:
        commands.take_reply_back(signed_in(request), get_object_or_404(Reply, pk=reply))
        return Response(status=204)


class PointView(APIView):
    """An answer to a point that is open before publishing."""

    @extend_schema(request=SettleSerializer, responses=shape(VerdictShape))
    def put(self, request: Request, review: int, key: str) -> Response:
        form = SettleSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = review_of(review)
        commands.settle(signed_in(request), found, key, **form.validated_data)
        return _response(found)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, review: int, key: str) -> Response:
        commands.unsettle(signed_in(request), review_of(review), key)
        return Response(status=204)


class SignaturesView(APIView):
    @extend_schema(request=SignSerializer, responses={201: shape(VerdictShape)})
    def post(self, request: Request, review: int) -> Response:
        form = SignSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        found = review_of(review)
        commands.sign(signed_in(request), found, form.validated_data["role"])
        return _response(found, 201)


class SignatureView(APIView):
    @extend_schema(responses={204: None})
    def delete(self, request: Request, signature: int) -> Response:
        with transaction.atomic():
            found = get_object_or_404(Signature.objects.select_for_update(), pk=signature)
            commands.withdraw_signature(signed_in(request), found)
        return Response(status=204)
