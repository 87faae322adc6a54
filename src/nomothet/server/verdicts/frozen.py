"""The verdict as a record holds it: figures put in, findings numbered as they come."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

from nomothet.claims.sentences import MARK
from nomothet.server.findings.findings import FindingsShape
from nomothet.server.findings.shapes import FindingShape
from nomothet.server.verdicts.content import Conditions, Judged
from nomothet.server.verdicts.verdict import VerdictShape

_PARAGRAPH = re.compile(r"\n\s*\n")


@dataclass(frozen=True)
class Segment:
    """A stretch of text, and the number of the finding that is named after it; 0 for none."""

    text: str
    finding: int = 0


@dataclass(frozen=True)
class PricedConfiguration:
    column: int
    words: str


@dataclass(frozen=True)
class RecordUse:
    name: str
    outcome: str
    judged: list[Judged]
    conditions: Conditions
    prices: list[PricedConfiguration]
    paragraphs: list[list[Segment]]


@dataclass(frozen=True)
class RecordSignature:
    role: str
    by: str
    at: datetime


@dataclass(frozen=True)
class RecordPoint:
    """What was open when it went out, and what was said to it; without an answer it was published open."""

    kind: str
    words: str
    how: str = ""
    answer: str = ""
    by: str = ""


@dataclass(frozen=True)
class RecordVerdict:
    """The answer and the advice by use, with who stands for it and what was open."""

    answer: str = ""
    uses: list[RecordUse] = field(default_factory=list)
    signatures: list[RecordSignature] = field(default_factory=list)
    points: list[RecordPoint] = field(default_factory=list)
    # How many sentences the check called what.
    checked: dict[str, int] = field(default_factory=dict)


@dataclass(frozen=True)
class NumberedFinding:
    number: int
    finding: FindingShape


def frozen(verdict: VerdictShape, found: FindingsShape) -> tuple[RecordVerdict, list[NumberedFinding]]:
    """A verdict with its figures put in, and the findings that it names, in the order of the text; then the rest of the
    pinned ones.
    """
    pinned = {one.pin.number: one for one in found.findings if one.pin}
    texts = [verdict.answer, *(use.text for use in verdict.uses)]
    named = [int(mark[1]) for text in texts for mark in MARK.finditer(text) if int(mark[1]) in pinned]
    rest = sorted(pinned, key=lambda number: pinned[number].pin.position)  # type: ignore[union-attr]
    order = {number: at for at, number in enumerate(dict.fromkeys([*named, *rest]), 1)}
    uses = [
        RecordUse(
            use.name,
            use.outcome,
            use.judged,
            use.conditions,
            [PricedConfiguration(one.column, one.words) for one in verdict.prices if one.use == use.key],
            [_segments(" ".join(text.split()), pinned, order) for text in _PARAGRAPH.split(use.text.strip()) if text],
        )
        for use in verdict.uses
    ]
    checked: dict[str, int] = {}
    for one in verdict.sentences:
        checked[one.status] = checked.get(one.status, 0) + 1
    made = RecordVerdict(
        answer="".join(one.text for one in _segments(verdict.answer, pinned, order)).strip(),
        uses=uses,
        signatures=[RecordSignature(one.role, one.by, one.at) for one in verdict.signatures if one.stands],
        points=[
            RecordPoint(one.kind, one.words, one.answer.how, one.answer.words, one.answer.by)
            if one.answer
            else RecordPoint(one.kind, one.words)
            for one in verdict.points
        ],
        checked=checked,
    )
    # Notes on pins are for the team.
    return made, [NumberedFinding(at, replace(pinned[number], pin=None, acts=[])) for number, at in order.items()]


def _segments(text: str, pinned: Mapping[int, FindingShape], order: Mapping[int, int]) -> list[Segment]:
    """A paragraph cut at its marks; the amount of a finding stands in the text as it is now."""
    made: list[Segment] = []
    pending, at = "", 0
    for mark in MARK.finditer(text):
        pending += text[at : mark.start()]
        at = mark.end()
        number = int(mark[1])
        if number not in pinned:
            pending = pending.rstrip()
            continue
        if mark[2]:
            pending += amount_of(pinned[number]) if mark[2] == "amount" else interval_of(pinned[number])
        else:
            made.append(Segment(pending.rstrip(), order[number]))
            pending = ""
    pending += text[at:]
    return [*made, Segment(pending)] if pending.strip() else made


def amount_of(one: FindingShape) -> str:
    """A finding's amount as it stands in running text: without its sign, which the words around it tell."""
    return one.told.lstrip("+−-")


def interval_of(one: FindingShape) -> str:
    """The interval of a finding's own comparison; empty where it has none."""
    own: Sequence[str] = [band.interval for band in one.bands if band.told == one.told and band.interval]
    return f"({own[0]})" if own else ""
