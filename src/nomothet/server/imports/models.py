"""Files that people bring in: one or a whole folder, looked at first, stored in the background."""

import uuid

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Review


class JobState(models.TextChoices):
    # Looked at; waits for somebody to say what goes where.
    OPEN = "open"
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    CANCELLED = "cancelled"


class ImportJob(models.Model):
    """One file or archive on its way into the passes of a review. Its id is made by the client."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="imports")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    name = models.CharField(max_length=200)
    state = models.CharField(max_length=9, choices=JobState.choices, default=JobState.OPEN)
    # One for each file in it: {"name", "size", "columns", "test", "column", "problem", "remarks", "state", "pass_id",
    # "every_s", "refusal"}.
    items = models.JSONField(default=list)
    cancel_wanted = models.BooleanField(default=False)
    at = models.DateTimeField(auto_now_add=True)
    over_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-at"]
