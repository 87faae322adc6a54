"""The docket: passes owed, and who is running them."""

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.models import Bench, Configuration, System


class State(models.TextChoices):
    OWED = "owed"
    RUNNING = "running"
    DONE = "done"
    WITHDRAWN = "withdrawn"


class Entry(models.Model):
    """One pass owed in a cell."""

    test = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="entries")
    column = models.ForeignKey(Column, on_delete=models.CASCADE, related_name="entries")
    number = models.PositiveIntegerField()
    state = models.CharField(max_length=9, choices=State.choices, default=State.OWED, db_index=True)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    asked_at = models.DateTimeField(auto_now_add=True)
    bench = models.ForeignKey(Bench, null=True, on_delete=models.SET_NULL, related_name="entries")
    # Made by the bench before it asks for work, so that asking twice takes one entry.
    pass_id = models.UUIDField(null=True, unique=True)
    taken_at = models.DateTimeField(null=True)
    # The bench was interrupted through no fault of the pass: it is owed again once its remains are in.
    owe_again = models.BooleanField(default=False)
    stop_wanted = models.BooleanField(default=False)
    # Of a pair that is run to learn what recording costs: without the recorder, or with it.
    recorder = models.CharField(max_length=3, blank=True, choices=[("off", "off"), ("on", "on")])
    # {"phase", "elapsed_s", "left_s", "readings": {…}} as last reported.
    progress = models.JSONField(default=dict)
    # When the bench last told of it.
    told_at = models.DateTimeField(null=True)
    # Of a load search, what has been tried, also by the parts that were stopped before.
    attempts = models.JSONField(default=list)
    # Who runs it by hand; no bench then.
    by_hand = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")

    # Of a pass by hand: steps ticked, as {key: {"at", "by", "observed"}}, and when its clock was started and stopped.
    ticks = models.JSONField(default=dict)
    clock = models.JSONField(default=dict)

    class Meta:
        ordering = ["column__review", "column__position", "test__position", "number"]


class WorkOrder(models.Model):
    """How the passes owed on a system are put in order, when not with the fewest openings."""

    system = models.OneToOneField(System, on_delete=models.CASCADE, related_name="work_order")
    mode = models.CharField(
        max_length=8,
        choices=[(word, word) for word in ("fewest", "balanced", "shuffled", "by hand")],
        default="fewest",
    )
    seed = models.PositiveIntegerField(default=0)
    # Configuration ids in the order wanted, for "by hand".
    by_hand = models.JSONField(default=list)


class Changeover(models.Model):
    """A change from one configuration to the next, with its steps as they were when it began and who ticked them."""

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="changeovers")
    before = models.ForeignKey(Configuration, null=True, on_delete=models.PROTECT, related_name="+")
    configuration = models.ForeignKey(Configuration, on_delete=models.PROTECT, related_name="changeovers")
    # [{"key", "kind", "words", "asks", "expected", "unit", "reading", "at_most"}]
    steps = models.JSONField(default=list)
    # {step key: {"at", "by", "observed", "agrees"}}
    ticks = models.JSONField(default=dict)
    started_at = models.DateTimeField(auto_now_add=True)
    started_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    done_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-started_at", "-pk"]


class Release(models.Model):
    """A mismatch that somebody has seen and gone on with; it holds for this observed value only."""

    configuration = models.ForeignKey(Configuration, on_delete=models.CASCADE, related_name="releases")
    key = models.CharField(max_length=80)
    observed = models.JSONField()
    words = models.CharField(max_length=300)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)
