"""Verdicts with their revisions, what people answer to the checks, and signatures."""

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Review

AUTHOR = settings.AUTH_USER_MODEL


class Verdict(models.Model):
    """The editor's conclusion. `version` rises with every edit and is the entity tag."""

    review = models.OneToOneField(Review, on_delete=models.CASCADE, related_name="conclusion")
    # The answer in one sentence, which leads the record and the list of reviews.
    answer = models.CharField(max_length=300, blank=True)
    # By use, as content.Use writes it.
    uses = models.JSONField(default=list)
    version = models.PositiveIntegerField(default=1)


class Revision(models.Model):
    """A verdict as it stood in a version."""

    verdict = models.ForeignKey(Verdict, on_delete=models.CASCADE, related_name="revisions")
    version = models.PositiveIntegerField()
    answer = models.CharField(max_length=300, blank=True)
    uses = models.JSONField()
    by = models.ForeignKey(AUTHOR, null=True, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-version"]
        constraints = [models.UniqueConstraint(fields=["verdict", "version"], name="one_revision_of_a_version")]


class Reply(models.Model):
    """What somebody answers to the check of a sentence; it counts as long as the sentence stands as it is."""

    class Kind(models.TextChoices):
        JUDGEMENT = "judgement", "a judgement"
        STANDS = "stands", "stands all the same"

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="replies")
    sentence = models.CharField(max_length=2000)
    kind = models.CharField(max_length=9, choices=Kind.choices)
    words = models.CharField(max_length=400, blank=True)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]


class Settled(models.Model):
    """What somebody answers to a point that is open before publishing."""

    class How(models.TextChoices):
        ACCEPTED = "accepted", "accepted"
        LEFT_OUT = "left out", "left out"

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="settled")
    # The point's key, and what it said then: a point that says something else wants a new answer.
    key = models.CharField(max_length=64)
    point = models.CharField(max_length=600)
    how = models.CharField(max_length=8, choices=How.choices)
    words = models.CharField(max_length=400)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["review", "key"], name="one_answer_to_a_point")]


class Signature(models.Model):
    """Somebody stands for a verdict as it was; what changed since takes the signature back and leaves it on record."""

    class Role(models.TextChoices):
        AUTHOR = "author", "author"
        SECOND = "second reader", "second reader"

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="signatures")
    role = models.CharField(max_length=13, choices=Role.choices)
    # {"verdict", "review", "evidence"}: what it was given for.
    state = models.JSONField()
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["at", "pk"]
