"""Ladders: tests of a review that ask less and less, tried downwards until one meets its targets."""

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Column, Review


class Ladder(models.Model):
    """Tests in order, the most demanding first."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="ladders")
    name = models.CharField(max_length=80)
    # Keys of the tests.
    rungs = models.JSONField(default=list)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["review", "name"], name="one_ladder_of_a_name")]


class Going(models.Model):
    """A descent under way on a configuration: the next rung is owed as soon as the one before has missed."""

    ladder = models.ForeignKey(Ladder, on_delete=models.CASCADE, related_name="going")
    column = models.ForeignKey(Column, on_delete=models.CASCADE, related_name="+")
    passes = models.PositiveSmallIntegerField()
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["ladder", "column"], name="one_descent_at_a_time")]
