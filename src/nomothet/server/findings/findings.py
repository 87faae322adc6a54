"""All findings of a review: what the program proposes, what somebody has drawn, and what is pinned."""

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import msgspec
from django.core.cache import cache

from nomothet.server.findings.choice import Choice
from nomothet.server.findings.kept import KINDS, drawn, kept, last_kept, state_of, work_out
from nomothet.server.findings.models import DrawnFinding, Pin
from nomothet.server.findings.shapes import FindingShape, PinShape
from nomothet.server.findings.tasks import due_key, see_to_findings
from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review
from nomothet.words.findings import changed_words

# From so many passes on findings are worked out in the background, and the page says so meanwhile.
LARGE = 2000
# So long is waited for the background; then they are worked out while the page waits.
LONGEST_S = 10.0


@dataclass(frozen=True)
class FindingKindShape:
    """A kind with how many findings of it there are; `offers` is what "draw another" can change about it."""

    key: str
    words: str
    count: int
    offers: list[str]


@dataclass(frozen=True)
class GonePinShape:
    """A pin whose finding is no longer made, with what it said."""

    key: str
    pin: PinShape


@dataclass(frozen=True)
class FindingsShape:
    """`computing` while newer ones are worked out in the background."""

    kinds: list[FindingKindShape]
    findings: list[FindingShape]
    gone: list[GonePinShape]
    computing: bool


def findings(review: Review) -> FindingsShape:
    """What a review says; pinned ones are marked, and stand in the list where they belong."""
    state = state_of(review)
    shapes, computing = _proposed(review, state)
    for one in review.drawn_findings.select_related("by"):
        shapes = [*shapes, *of_drawn(review, state, one)]
    pins = {pin.key: pin for pin in review.pins.kept().select_related("by")}
    shapes = [replace(one, pin=pin_shape(pins[one.key], one)) if one.key in pins else one for one in shapes]
    made = {one.key for one in shapes}
    gone = [GonePinShape(key, pin_shape(pin, None)) for key, pin in pins.items() if key not in made and not computing]
    counted = [
        FindingKindShape(kind.key, kind.words, sum(one.kind == kind.key for one in shapes), list(kind.offers))
        for kind in KINDS
    ]
    return FindingsShape(counted, shapes, gone, computing)


def _proposed(review: Review, state: str) -> tuple[list[FindingShape], bool]:
    known = kept(state)
    if known is not None:
        return known, False
    if Pass.objects.whole().filter(test__review=review)[:LARGE].count() < LARGE:
        return work_out(review, state), False
    waiting_since = cache.get(due_key(review.pk))
    if waiting_since is not None and time.time() - waiting_since > LONGEST_S:
        # The worker is busy with something longer; whoever looks at the sheet shall not wait for that.
        cache.delete(due_key(review.pk))
        return work_out(review, state), False
    see_to_findings(review.pk)
    return last_kept(review), True


def of_drawn(review: Review, state: str, one: DrawnFinding) -> list[FindingShape]:
    """What somebody has drawn, under keys of its own; nothing where it no longer fits."""
    kind = next((kind for kind in KINDS if kind.key == one.kind), None)
    if kind is None:
        return []
    made = drawn(review, state, kind, msgspec.convert(one.choice, Choice))
    return [replace(shape, key=f"{shape.key}~{one.pk}", drawn=one.pk, drawn_by=one.by.display_name) for shape in made]


def what_it_says(one: FindingShape) -> dict[str, Any]:
    """What a pin keeps of a finding."""
    return {"sentence": one.sentence, "told": one.told, "verdict": one.verdict}


def pin_shape(pin: Pin, now: FindingShape | None) -> PinShape:
    """A pin, with what changed since somebody has seen it."""
    changed = ""
    if now is None:
        changed = changed_words(pin.seen, None)
    elif what_it_says(now) != pin.seen:
        changed = changed_words(pin.seen, what_it_says(now))
    return PinShape(pin.pk, pin.position, pin.number, pin.note, pin.said["sentence"], pin.by.display_name, changed)


def finding_of(review: Review, key: str, among: Sequence[FindingShape] | None = None) -> FindingShape | None:
    """A finding by its key."""
    return next((one for one in among or findings(review).findings if one.key == key), None)
