"""Pictures of two configurations beside each other, and what somebody says of them."""

from django.db import transaction

from nomothet.server.analysis.models import PicturePair
from nomothet.server.passes.models import Picture
from nomothet.server.people.models import User
from nomothet.server.people.permissions import Act, require
from nomothet.server.problems import conflict, unusable
from nomothet.server.reviews.commands.review import touch
from nomothet.server.reviews.models import Review


def state_pictures(user: User, review: Review, a: Picture, b: Picture, verdict: str, words: str) -> PicturePair:
    """Say whether two pictures of one test on two configurations are equal; it becomes a statement of the review.

    Raises
    ------
    Problem
        422 where the pictures are not of two configurations of one test of the review, or a difference has no words.
    """
    require(user, Act.EDIT_REVIEW)
    if {a.owner.test.review_id, b.owner.test.review_id} != {review.pk}:
        raise unusable("Both pictures must be of passes of this review.", field="picture_b")
    if a.owner.test_id != b.owner.test_id:
        raise unusable("The pictures are of two tests; choose two of the same.", field="picture_b")
    if a.owner.column_id == b.owner.column_id:
        raise unusable("The pictures are of one configuration; choose one of another.", field="picture_b")
    words = words.strip()
    if verdict == "not equal" and not words:
        raise unusable("Say what differs: where, and how one sees it.", field="words")
    with transaction.atomic():
        Review.objects.select_for_update().get(pk=review.pk)
        both = [a.pk, b.pk]
        if PicturePair.objects.filter(picture_a__in=both, picture_b__in=both).exists():
            raise conflict("Something is said of these two pictures already; take that off first.")
        made = PicturePair.objects.create(
            review=review, picture_a=a, picture_b=b, verdict=verdict, words=words, by=user
        )
        touch(user, review, "pictures compared", {"pictures": [None, verdict]})
    return made


def withdraw_pictures(user: User, pair: PicturePair) -> None:
    """Take a statement off; the pictures stay."""
    require(user, Act.EDIT_REVIEW)
    with transaction.atomic():
        touch(user, pair.review, "comparison of pictures taken off", {"pictures": [pair.verdict, None]})
        pair.delete()
