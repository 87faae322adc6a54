"""Follow-ups, the addresses by which calendars read them, and what is to be watched on machines."""

from django.conf import settings
from django.db import models

from nomothet.server.analysis.models import Hypothesis
from nomothet.server.records.models import Record
from nomothet.server.reviews.models import Review
from nomothet.server.systems.models import System

AUTHOR = settings.AUTH_USER_MODEL


class FollowUp(models.Model):
    """Something that is to be done later. `version` rises with every edit and is the entity tag."""

    class WaitsFor(models.TextChoices):
        DAY = "day", "a day"
        PART = "part", "a part"
        DRIVER = "driver", "a driver or an image"
        VERSION = "version", "a version of a workload"
        PERSON = "person", "a person"

    class State(models.TextChoices):
        OPEN = "open"
        DONE = "done"
        DROPPED = "dropped"

    what = models.CharField(max_length=300)
    why = models.CharField(max_length=600, blank=True)
    review = models.ForeignKey(Review, null=True, on_delete=models.CASCADE, related_name="follow_ups")
    hypothesis = models.ForeignKey(Hypothesis, null=True, on_delete=models.SET_NULL, related_name="+")
    # A published edition of its review.
    record = models.ForeignKey(Record, null=True, on_delete=models.SET_NULL, related_name="+")
    system = models.ForeignKey(System, null=True, on_delete=models.CASCADE, related_name="follow_ups")
    waits_for = models.CharField(max_length=7, choices=WaitsFor.choices, default=WaitsFor.DAY)
    # Which part, driver, version or person.
    waits_words = models.CharField(max_length=200, blank=True)
    due = models.DateField(null=True)
    # What it waited for is here.
    here_at = models.DateTimeField(null=True)
    # The tests of its review that it wants, by id; empty for all of them.
    tests = models.JSONField(default=list)
    # Who sees to it.
    person = models.ForeignKey(AUTHOR, null=True, on_delete=models.SET_NULL, related_name="+")
    state = models.CharField(max_length=7, choices=State.choices, default=State.OPEN)
    # What came of it.
    outcome = models.CharField(max_length=600, blank=True)
    ended_by = models.ForeignKey(AUTHOR, null=True, on_delete=models.SET_NULL, related_name="+")
    ended_at = models.DateTimeField(null=True)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["due", "at", "pk"]
        indexes = [models.Index(fields=["state", "due"], name="follow_ups_by_day")]


class FeedAddress(models.Model):
    """Where a person's calendar reads follow-ups without signing in; its secret is kept as a digest alone."""

    user = models.OneToOneField(AUTHOR, on_delete=models.CASCADE, related_name="follow_up_feed")
    digest = models.CharField(max_length=64, unique=True)
    made_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)


class WatchItem(models.Model):
    """Something about a machine that everybody who plans with it should know; ended, it stays in the machine's book."""

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="watch_items")
    words = models.CharField(max_length=200)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    ended_by = models.ForeignKey(AUTHOR, null=True, on_delete=models.PROTECT, related_name="+")
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["at", "pk"]
