"""A verdict as its sheet shows it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from nomothet.core.notes import note
from nomothet.server.findings.findings import FindingsShape, findings
from nomothet.server.matrix.matrix import MatrixShape, matrix
from nomothet.server.people.models import Team
from nomothet.server.reviews.differences import compared
from nomothet.server.reviews.models import Review
from nomothet.server.reviews.queries import ReviewShape, review_shape
from nomothet.server.systems.prices import ConfigurationPrice, prices_of
from nomothet.server.systems.states import states
from nomothet.server.verdicts.claim_facts import Sources, facts_of
from nomothet.server.verdicts.content import Use, uses_of
from nomothet.server.verdicts.models import Reply, Verdict
from nomothet.server.verdicts.owed import owed_by
from nomothet.server.verdicts.points import PointShape, points_of
from nomothet.server.verdicts.sentences import SentenceShape, checked_sentences
from nomothet.server.verdicts.signatures import SignatureShape, lacking, signatures_of
from nomothet.words import say


@dataclass(frozen=True)
class UsePriceShape:
    """What a configuration costs, for a use in which prices play a part."""

    use: str
    column: int
    words: str


@dataclass(frozen=True)
class VerdictShape:
    """A verdict with its checks; `version` is what If-Match wants. `lacks` are signatures that the team asks for."""

    version: int
    answer: str
    uses: list[Use]
    edited_by: str
    edited_at: datetime | None
    revisions: int
    sentences: list[SentenceShape]
    prices: list[UsePriceShape]
    points: list[PointShape]
    signatures: list[SignatureShape]
    two_signatures: bool
    lacks: list[str]


@dataclass(frozen=True)
class CheckShape:
    """What came of checking a text that is not stored yet."""

    sentences: list[SentenceShape]


def verdict_of(review: Review) -> Verdict | None:
    return Verdict.objects.filter(review=review).first()


def verdict_shape(review: Review, shown: MatrixShape | None = None, found: FindingsShape | None = None) -> VerdictShape:
    """The verdict of a review, and all that is open about it.

    Parameters
    ----------
    shown, found : optional
        The matrix and the findings of the review, where they are known already.
    """
    verdict = verdict_of(review)
    uses = uses_of(verdict)
    answer = verdict.answer if verdict else ""
    side_by_side = compared(review)
    shape, shown, found = review_shape(review, side_by_side), shown or matrix(review), found or findings(review)
    sentences = _checked(review, shape, shown, found, answer, uses)
    last = verdict.revisions.select_related("by").first() if verdict else None
    version = verdict.version if verdict else 0
    signatures = signatures_of(review, version)
    return VerdictShape(
        version=version,
        answer=answer,
        uses=uses,
        edited_by=last.by.display_name if last and last.by else "",
        edited_at=last.at if last else None,
        revisions=verdict.revisions.count() if verdict else 0,
        sentences=sentences,
        prices=prices_by_use(review, uses),
        points=points_of(review, side_by_side, shape, shown, found, sentences),
        signatures=signatures,
        two_signatures=Team.settings().two_signatures,
        lacks=lacking(signatures),
    )


def check_text(review: Review, answer: str, uses: Sequence[Use]) -> CheckShape:
    """The check of a text as it is being written."""
    return CheckShape(_checked(review, review_shape(review), matrix(review), findings(review), answer, uses))


def _checked(
    review: Review, shape: ReviewShape, shown: MatrixShape, found: FindingsShape, answer: str, uses: Sequence[Use]
) -> list[SentenceShape]:
    texts = [answer, *(use.text for use in uses)]
    if not any(texts):
        return []
    numbers = {one.key: one.pin.number for one in found.findings if one.pin}
    # A finding that nobody has pinned can be offered all the same; it gets its number when it is put in.
    unpinned = [one.key for one in found.findings if one.key not in numbers]
    offered = {key: -at for at, key in enumerate(unpinned, 1)}
    facts = facts_of(Sources(review, shape, shown, found, {**numbers, **offered}), texts)
    replies = {one.sentence: one for one in Reply.objects.filter(review=review).select_related("by")}
    keys = {number: key for key, number in {**numbers, **offered}.items()}
    known = {one.key: one for one in found.findings}
    named = {number: known[key] for number, key in keys.items()}
    return checked_sentences(answer, uses, facts, replies, keys, owed_by(shown, named))


def prices_by_use(review: Review, uses: Sequence[Use]) -> list[UsePriceShape]:
    """What each judged configuration costs, in words with basis, currency and day, where a use names a basis."""
    wanted = [use for use in uses if use.conditions.basis]
    if not wanted:
        return []
    columns = {one.pk: one for one in review.columns.select_related("configuration")}
    held = states([one.configuration for one in columns.values()])
    made = []
    for use in wanted:
        prices = prices_of(held, use.conditions.basis)
        made += [
            UsePriceShape(use.key, one.column, _price(prices[columns[one.column].configuration_id]))
            for one in use.judged
            if one.column in columns
        ]
    return made


def _price(price: ConfigurationPrice) -> str:
    if price.total is None:
        return price.words
    return say(note("use_price", total=price.total, basis=price.basis, on=price.on.isoformat() if price.on else ""))
