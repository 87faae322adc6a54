"""Earlier versions of a verdict, and what two of them differ in."""

import difflib
from dataclasses import dataclass
from datetime import datetime

import msgspec

from nomothet.claims import sentences_of
from nomothet.server.verdicts.content import Use
from nomothet.server.verdicts.models import Revision, Verdict


@dataclass(frozen=True)
class RevisionShape:
    version: int
    by: str
    at: datetime
    answer: str


@dataclass(frozen=True)
class ChangedLine:
    """A sentence that is in both versions, or that one of them has more: "same", "gone" or "new"."""

    change: str
    text: str


@dataclass(frozen=True)
class RevisionsShape:
    """The versions of a verdict, the latest first, and the two that were compared, line by line."""

    revisions: list[RevisionShape]
    before: int
    after: int
    lines: list[ChangedLine]


def revisions_of(verdict: Verdict, before: int | None = None, after: int | None = None) -> RevisionsShape:
    """All versions, and the difference of two; of the last two where none are named."""
    known = list(verdict.revisions.select_related("by"))
    by_version = {one.version: one for one in known}
    last = by_version.get(after or 0) or known[0]
    first = by_version.get(before or 0) or next((one for one in known if one.version < last.version), last)
    return RevisionsShape(
        [RevisionShape(one.version, one.by.display_name if one.by else "", one.at, one.answer) for one in known],
        first.version,
        last.version,
        _differences(_lines(first), _lines(last)),
    )


def _lines(one: Revision) -> list[str]:
    lines = [one.answer] if one.answer else []
    for use in msgspec.convert(one.uses, list[Use]):
        lines += [use.name] if use.name else []
        lines += [sentence.text for sentence in sentences_of(use.text)]
    return lines


def _differences(before: list[str], after: list[str]) -> list[ChangedLine]:
    made: list[ChangedLine] = []
    for tag, a, b, c, d in difflib.SequenceMatcher(None, before, after, autojunk=False).get_opcodes():
        if tag == "equal":
            made += [ChangedLine("same", text) for text in before[a:b]]
            continue
        made += [ChangedLine("gone", text) for text in before[a:b]]
        made += [ChangedLine("new", text) for text in after[c:d]]
    return made
