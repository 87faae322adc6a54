"""Marks on the clock of a pass while it runs or afterwards: moments, spans and impressions."""

from typing import Any

from django.db import transaction
from django.utils import timezone

from nomothet.server.analysis.commands import recompute_marked
from nomothet.server.docket.models import Entry, State
from nomothet.server.feed.commands import announce
from nomothet.server.history.commands import remember
from nomothet.server.passes.models import Mark, Pass
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable

# A second clock may run a little ahead of the one that timed the pass.
_CLOCK_SLACK_S = 0.5


def mark_running(user: User, entry: Entry, **fields: Any) -> Mark:
    """A mark at this moment of a running pass, or a span that begins now."""
    require(user, Act.RECORD)
    if entry.state != State.RUNNING or entry.pass_id is None:
        raise conflict("This pass is not running any more; mark it on its trace instead.")
    fields["start_s"] = elapsed_s(entry) if fields.get("start_s") is None else fields["start_s"]
    return _add(user, entry.test.review_id, pass_id=entry.pass_id, **fields)


def mark_pass(user: User, owner: Pass, **fields: Any) -> Mark:
    """A mark on a pass that is in."""
    require(user, Act.RECORD)
    if fields.get("start_s") is None:
        raise unusable("Say at which second of the pass it was.", field="start_s")
    for field in ("start_s", "end_s"):
        at = fields.get(field)
        if at is not None and owner.duration_s and at > owner.duration_s + _CLOCK_SLACK_S:
            raise unusable(f"The pass is over after {owner.duration_s:.1f} s.", field=field)
    return _add(user, owner.test.review_id, pass_id=owner.pk, owner=owner, **fields)


def _add(user: User, review: int, **fields: Any) -> Mark:
    end = fields.get("end_s")
    if end is not None and end <= fields["start_s"]:
        raise unusable("A span ends after it begins.", field="end_s")
    with transaction.atomic():
        mark: Mark = Mark.objects.create(by=user, **fields)
        if mark.owner is not None:
            recompute_marked(mark.owner)
        announce("marks", review=review, id=str(mark.pass_id))
    return mark


def end_span(user: User, mark: Mark) -> Mark:
    """A span of a running pass ends now."""
    require(user, Act.RECORD)
    entry = Entry.objects.filter(pass_id=mark.pass_id, state=State.RUNNING).select_related("test").first()
    if entry is None:
        raise conflict("The pass is over; the span ends with it unless you say where.")
    with transaction.atomic():
        locked: Mark = Mark.objects.select_for_update().get(pk=mark.pk)
        if locked.end_s is None:
            locked.end_s = max(locked.start_s, elapsed_s(entry))
            locked.save(update_fields=["end_s"])
        announce("marks", review=entry.test.review_id, id=str(mark.pass_id))
    return locked


def take_off(user: User, mark: Mark) -> None:
    """Take a mark off that was made by mistake; it stays on record and can be put back."""
    _put(user, mark, off=True)


def put_back(user: User, mark: Mark) -> None:
    """Put a mark back that was taken off."""
    _put(user, mark, off=False)


def _put(user: User, mark: Mark, *, off: bool) -> None:
    require(user, Act.RECORD)
    review = mark.owner.test.review_id if mark.owner else None
    if review is None:
        review = Entry.objects.filter(pass_id=mark.pass_id).values_list("test__review", flat=True).first()
    with transaction.atomic():
        pass_id, owner = mark.pass_id, mark.owner
        mark.off_at, mark.off_by = (timezone.now(), user) if off else (None, None)
        mark.save(update_fields=["off_at", "off_by"])
        if owner is not None:
            recompute_marked(owner)
        if review is not None:
            told = {"mark": [mark.label, None] if off else [None, mark.label]}
            remember(user, "review", review, "mark taken off" if off else "mark put back", told)
            announce("marks", review=review, id=str(pass_id))


def elapsed_s(entry: Entry) -> float:
    """Seconds on the clock of a running pass: what its bench told last, and the time since."""
    told = entry.progress.get("elapsed_s")
    if told is not None and entry.told_at is not None:
        return round(float(told) + (timezone.now() - entry.told_at).total_seconds(), 2)
    since = entry.taken_at or timezone.now()
    return round((timezone.now() - since).total_seconds(), 2)
