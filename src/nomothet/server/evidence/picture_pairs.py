"""The pictures of a review by test and configuration, and what is said of two of them beside each other."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from nomothet.core.notes import note
from nomothet.server.analysis.models import PicturePair
from nomothet.server.passes.models import Picture
from nomothet.server.reviews.models import Review
from nomothet.words import say


@dataclass(frozen=True)
class PictureSide:
    """A picture with where it belongs."""

    id: int
    test: int
    column: int
    number: int
    caption: str
    width: int
    height: int


@dataclass(frozen=True)
class PicturePairShape:
    """Two pictures of one test: equal, not equal, or cannot tell. `said` is the statement."""

    id: int
    a: PictureSide
    b: PictureSide
    verdict: str
    words: str
    by: str
    at: datetime
    said: str


@dataclass(frozen=True)
class PicturesShape:
    pictures: list[PictureSide]
    pairs: list[PicturePairShape]


def pictures_of(review: Review) -> PicturesShape:
    """All pictures of kept and failed passes, and the statements; two queries."""
    found = (
        Picture.objects.filter(owner__test__review=review, owner__set_aside=False)
        .exclude(owner__whole_at=None)
        .select_related("owner")
        .defer("blob", "thumbnail")
        .order_by("owner__test__position", "owner__column__position", "owner__number", "pk")
    )
    return PicturesShape([_side(one) for one in found], picture_pairs(review))


def picture_pairs(review: Review) -> list[PicturePairShape]:
    """What is said of pictures beside each other; one query."""
    told: Iterable[PicturePair] = (
        review.picture_pairs.select_related(
            "by", "picture_a__owner__column", "picture_b__owner__column", "picture_a__owner__test__workload"
        )
        .defer("picture_a__blob", "picture_a__thumbnail", "picture_b__blob", "picture_b__thumbnail")
        .order_by("at", "pk")
    )
    return [
        PicturePairShape(
            one.pk,
            _side(one.picture_a),
            _side(one.picture_b),
            one.verdict,
            one.words,
            one.by.display_name,
            one.at,
            say(
                note(
                    "pictures_compared",
                    verdict=one.verdict,
                    a=one.picture_a.owner.column.label,
                    b=one.picture_b.owner.column.label,
                    test=_test_name(one),
                    words=one.words,
                )
            ),
        )
        for one in told
    ]


def _test_name(one: PicturePair) -> str:
    test = one.picture_a.owner.test
    return f"{test.workload.name}, {test.detail}" if test.detail else test.workload.name


def _side(one: Picture) -> PictureSide:
    owner = one.owner
    return PictureSide(one.pk, owner.test_id, owner.column_id, owner.number, one.caption, one.width, one.height)
