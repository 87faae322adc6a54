"""Comments in threads, who is named in them, what has been read, and who is looking."""

from django.conf import settings
from django.db import models

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Column, Review, Test

AUTHOR = settings.AUTH_USER_MODEL


class About(models.TextChoices):
    REVIEW = "review"
    CELL = "cell"
    PASS = "pass"  # noqa: S105
    FINDING = "finding"
    SENTENCE = "sentence"


class Comment(models.Model):
    """A comment; without a parent it begins a thread about a thing. `words` name the thing as it was then, so that the
    thread is readable when the thing has gone.
    """

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="comments")
    parent = models.ForeignKey("self", null=True, on_delete=models.CASCADE, related_name="answers")
    about = models.CharField(max_length=8, choices=About.choices, default=About.REVIEW)
    test = models.ForeignKey(Test, null=True, on_delete=models.SET_NULL, related_name="+")
    column = models.ForeignKey(Column, null=True, on_delete=models.SET_NULL, related_name="+")
    owner = models.ForeignKey(Pass, null=True, on_delete=models.SET_NULL, related_name="comments")
    # The key of a finding, or a sentence of the verdict.
    key = models.CharField(max_length=2000, blank=True)
    words = models.CharField(max_length=400, blank=True)
    text = models.TextField()
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    edited_at = models.DateTimeField(null=True)
    closed_by = models.ForeignKey(AUTHOR, null=True, on_delete=models.PROTECT, related_name="+")
    closed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["at", "pk"]


class Notice(models.Model):
    """That a comment wants somebody's attention: they are named in it, or it answers in a thread of theirs."""

    comment = models.ForeignKey(Comment, on_delete=models.CASCADE, related_name="notices")
    person = models.ForeignKey(AUTHOR, on_delete=models.CASCADE, related_name="notices")
    named = models.BooleanField()
    read_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-comment"]
        constraints = [models.UniqueConstraint(fields=["comment", "person"], name="one_notice_of_a_comment")]


class Seen(models.Model):
    """Up to which comment somebody has read the talk of a review."""

    person = models.ForeignKey(AUTHOR, on_delete=models.CASCADE, related_name="+")
    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="+")
    comment = models.BigIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "review"], name="one_mark_of_what_was_read")]


class Looking(models.Model):
    """That somebody was looking at a sheet of a review just now."""

    person = models.ForeignKey(AUTHOR, on_delete=models.CASCADE, related_name="+")
    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="+")
    sheet = models.CharField(max_length=12)
    at = models.DateTimeField()
    # When they were here before they went away, until they have read what happened meanwhile.
    since = models.DateTimeField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["person", "review"], name="one_look_at_a_review")]
