"""The docket: passes owed, and who is running them."""

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.models import Bench


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
    # {"phase", "elapsed_s", "left_s", "readings": {…}} as last reported.
    progress = models.JSONField(default=dict)

    class Meta:
        ordering = ["column__review", "column__position", "test__position", "number"]
