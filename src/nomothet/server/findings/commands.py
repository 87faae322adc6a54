"""Drawing findings otherwise, and pinning them."""

from collections.abc import Mapping, Sequence
from typing import Any

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from nomothet.server.docket.commands import MOST_AT_ONCE, ask_for_passes
from nomothet.server.feed.commands import announce
from nomothet.server.findings.choice import Choice, read_choice
from nomothet.server.findings.findings import finding_of, of_drawn, what_it_says
from nomothet.server.findings.kept import KINDS, state_of
from nomothet.server.findings.models import DrawnFinding, Pin
from nomothet.server.history.commands import remember
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.models import Review

MOST_DRAWN = 60
MOST_PINS = 60


def draw_another(user: User, review: Review, kind: str, given: Mapping[str, Any]) -> DrawnFinding:
    """Put a kind of finding about something else into the list, for everybody; the same one twice is one.

    Raises
    ------
    Problem
        422 where it cannot be drawn, with why.
    """
    require(user, Act.EDIT_REVIEW)
    known = next((one for one in KINDS if one.key == kind), None)
    if known is None or not known.offers:
        raise unusable(f"{kind!r} is no kind of finding that can be drawn otherwise.", field="kind")
    choice = read_choice(
        given,
        columns=set(review.columns.values_list("pk", flat=True)),
        tests=set(review.tests.values_list("pk", flat=True)),
        factors={factor["key"] for factor in review.factors},
    )
    _offered(known.words, known.offers, choice)
    if review.drawn_findings.count() >= MOST_DRAWN:
        raise unusable(f"A review has {MOST_DRAWN} drawn findings at most; take one away first.")
    with transaction.atomic():
        made, new = DrawnFinding.objects.get_or_create(
            review=review, kind=kind, choice=choice.stored, defaults={"by": user}
        )
        if not of_drawn(review, state_of(review), made):
            raise unusable(f"{known.words.capitalize()} cannot be drawn about this: too little of it was measured.")
        if new:
            remember(user, "review", review.pk, "finding drawn", {"finding": [None, known.words]})
            announce("findings", review=review.pk)
    return made


def _offered(words: str, offers: tuple[str, ...], choice: Choice) -> None:
    other = [key for key in choice.stored if key not in offers]
    if other:
        raise unusable(f"Of {words} nothing else can be chosen than {', '.join(offers)}.", field=other[0])
    if not choice.stored:
        raise unusable("Choose what it is to be about; as it is, the program proposes it already.")


def owe(user: User, review: Review, cells: Sequence[Mapping[str, int]]) -> int:
    """Put the passes on the docket that a finding lacks, all of them or none; returns how many."""
    asked = 0
    with transaction.atomic():
        for one in cells:
            for at in range(0, one["passes"], MOST_AT_ONCE):
                count = min(MOST_AT_ONCE, one["passes"] - at)
                asked += len(ask_for_passes(user, review, [one["test"]], [one["column"]], count))
    return asked


def take_away(user: User, drawn: DrawnFinding) -> None:
    """Take a drawn finding out of the list, with its pins."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        review = drawn.review_id
        Pin.objects.kept().filter(review=review, key__endswith=f"~{drawn.pk}").update(unpinned_at=timezone.now())
        drawn.delete()
        remember(user, "review", review, "finding taken away", {"finding": [drawn.kind, None]})
        announce("findings", review=review)


def pin(user: User, review: Review, key: str, note: str = "") -> Pin:
    """Pin a finding, with a note; what it says now is kept. Pinning it again changes the note."""
    require(user, Act.EDIT_REVIEW)
    found = finding_of(review, key)
    if found is None:
        raise unusable("There is no such finding any more; reload the sheet.", field="key")
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=review.pk)
        if review.pins.kept().count() >= MOST_PINS:
            raise unusable(f"A review has {MOST_PINS} pins at most; unpin one first.")
        said = what_it_says(found)
        anew = {"position": _after(review, "position"), "said": said, "seen": said, "by": user, "unpinned_at": None}
        made = review.pins.filter(key=key).first()
        if made is None:
            made = Pin(review=review, key=key, number=_after(review, "number") or 1, **anew)
        elif made.unpinned_at is not None:
            for field, value in anew.items():
                setattr(made, field, value)
        made.note = note.strip()
        made.save()
        announce("findings", review=review.pk)
    return made


def _after(review: Review, field: str) -> int:
    """One more than any pin of a review ever had."""
    last = review.pins.aggregate(last=Max(field))["last"]
    return 0 if last is None else int(last) + 1


def unpin(user: User, found: Pin) -> None:
    """Take a pin off."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        found.unpinned_at = timezone.now()
        found.save(update_fields=["unpinned_at"])
        announce("findings", review=found.review_id)


def order_pins(user: User, review: Review, order: list[int]) -> None:
    """Bring the pins into an order."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=review.pk)
        own = set(review.pins.kept().values_list("pk", flat=True))
        if len(order) != len(own) or set(order) != own:
            raise conflict("The pins have changed meanwhile; reload and order them again. Nothing was changed.")
        for at, pk in enumerate(order):
            review.pins.filter(pk=pk).update(position=at)
        announce("findings", review=review.pk)


def seen(user: User, found: Pin) -> None:
    """Somebody has seen what changed about a pinned finding."""
    require(user, Act.RECORD)
    now = finding_of(found.review, found.key)
    if now is None:
        raise unusable("This finding is no longer made; unpin it instead.")
    with transaction.atomic():
        found.seen = what_it_says(now)
        found.save(update_fields=["seen"])
        announce("findings", review=found.review_id)
