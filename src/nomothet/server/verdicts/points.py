"""What is open before a review goes out, with what somebody has answered to it."""

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from nomothet.core.notes import note
from nomothet.server.findings.findings import FindingsShape
from nomothet.server.matrix.completeness import completeness
from nomothet.server.matrix.matrix import MatrixShape
from nomothet.server.planning.check import plan
from nomothet.server.reviews.differences import Compared
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.queries import ReviewShape
from nomothet.server.verdicts.models import Settled
from nomothet.server.verdicts.sentences import SentenceShape
from nomothet.words import say

# Sentences whose check leaves something to be answered.
_OPEN_CLAIMS = ("contradicted", "further", "unsettled", "sourceless")


@dataclass(frozen=True)
class AnswerShape:
    how: str
    words: str
    by: str
    at: datetime


@dataclass(frozen=True)
class PointShape:
    """Something that is open. `leads` says where it is mended: brief, matrix, findings or verdict."""

    key: str
    kind: str
    words: str
    leads: str
    answer: AnswerShape | None


def points_of(
    review: Review,
    side_by_side: Compared,
    shape: ReviewShape,
    shown: MatrixShape,
    found: FindingsShape,
    sentences: Sequence[SentenceShape],
) -> list[PointShape]:
    """All that a reader should not stumble over: the plan, holes, flags, claims, differences, drift, sessions."""
    answers = {one.key: one for one in Settled.objects.filter(review=review).select_related("by")}
    raised: dict[str, PointShape] = {}
    for kind, words, leads in _raised(review, side_by_side, shape, shown, found, sentences):
        key = _key(kind, words)
        answer = answers.get(key)
        told = AnswerShape(answer.how, answer.words, answer.by.display_name, answer.at) if answer else None
        raised[key] = PointShape(key, kind, words, leads, told)
    return list(raised.values())


def _raised(
    review: Review,
    side_by_side: Compared,
    shape: ReviewShape,
    shown: MatrixShape,
    found: FindingsShape,
    sentences: Sequence[SentenceShape],
) -> Iterable[tuple[str, str, str]]:
    for one in sentences:
        if one.status in _OPEN_CLAIMS and one.reply is None:
            yield "claim", say(note("point_claim", text=one.text, status=one.status_words)), "verdict"
    for point in plan(review, side_by_side).points:
        if point.severity in ("stops", "warns"):
            yield "plan", f"{point.words[:1].upper()}{point.words[1:]}", "brief"
    labels = {column.id: column.label for column in shape.columns}
    names = {test.id: ", ".join(filter(None, (test.name, test.short))) for test in shape.tests}
    lacking = completeness(review, shown)
    for reason in dict.fromkeys(hole.reason for hole in lacking.holes):
        holes = [hole for hole in lacking.holes if hole.reason == reason]
        told = [f"{names[hole.test]} on {labels[hole.column]}" for hole in holes]
        yield "hole", say(note("point_holes", reason=reason, cells=list(dict.fromkeys(told)))), "matrix"
    for flag in lacking.flags:
        if not flag.looked:
            where = f"{names[flag.test]} on {labels[flag.column]}"
            yield "flag", say(note("point_flag", cell=where, words=flag.words)), "matrix"
    for words in lacking.drift:
        yield "drift", f"{words[:1].upper()}{words[1:]}", "matrix"
    if any(caveat.startswith("One session each") for one in found.findings for caveat in one.caveats):
        yield "session", say(note("point_one_session")), "matrix"
    if lacking.open_hypotheses:
        yield "hypothesis", say(note("point_hypotheses", count=lacking.open_hypotheses)), "matrix"


def _key(kind: str, words: str) -> str:
    """A point is known by what it says: one that says something else is another one."""
    return hashlib.sha256(f"{kind}\n{words}".encode()).hexdigest()[:32]
