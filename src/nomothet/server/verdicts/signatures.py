"""Whose signatures stand, and which were taken back by what was changed since."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import Sum

from nomothet.core.notes import note
from nomothet.server.people.models import Team
from nomothet.server.reviews.models import Review
from nomothet.server.verdicts.models import Signature
from nomothet.words import say

# What is signed, and what it is called where it has changed.
_CHANGED = {"verdict": "the text", "review": "the plan", "evidence": "the evidence"}


@dataclass(frozen=True)
class SignatureShape:
    """A signature. It `stands` until something is changed, or it is withdrawn; `why_not` says which."""

    id: int
    role: str
    by: str
    username: str
    at: datetime
    stands: bool
    why_not: str


def state_to_sign(review: Review, verdict_version: int) -> dict[str, int]:
    """What a signature is given for."""
    stamps = review.tests.aggregate(total=Sum("stamp"))["total"] or 0
    return {"verdict": verdict_version, "review": review.version, "evidence": int(stamps)}


def signatures_of(review: Review, verdict_version: int) -> list[SignatureShape]:
    """Every signature that a review was given, with whether it stands."""
    now = state_to_sign(review, verdict_version)
    return [_shape(one, now) for one in review.signatures.select_related("by")]


def _shape(one: Signature, now: dict[str, int]) -> SignatureShape:
    changed = [words for part, words in _CHANGED.items() if one.state.get(part) != now[part]]
    why = ""
    if one.withdrawn_at is not None:
        why = say(note("signature_withdrawn"))
    elif changed:
        why = say(note("signature_taken_back", changed=changed))
    return SignatureShape(one.pk, one.role, one.by.display_name, one.by.username, one.at, not why, why)


def lacking(standing: list[SignatureShape]) -> list[str]:
    """The signatures that the team asks for and that do not stand."""
    roles = {one.role for one in standing if one.stands}
    wanted = (Signature.Role.AUTHOR, Signature.Role.SECOND) if Team.settings().two_signatures else ()
    return [str(role.value) for role in wanted if role.value not in roles]
