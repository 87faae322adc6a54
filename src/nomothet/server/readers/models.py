"""Questions and results that readers send in."""

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Review

AUTHOR = settings.AUTH_USER_MODEL


class Message(models.Model):
    """A question, or a result of a reader's own. Nothing of it is shown before somebody has let it through."""

    class Kind(models.TextChoices):
        QUESTION = "question"
        RESULT = "result"

    class State(models.TextChoices):
        WAITING = "waiting"
        SHOWN = "shown"
        REFUSED = "refused"

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="messages")
    # The edition that it was written under.
    edition = models.PositiveIntegerField()
    kind = models.CharField(max_length=8, choices=Kind.choices)
    text = models.TextField()
    # Of a result: on which machine, and the figure as the reader writes it.
    machine = models.CharField(max_length=300, blank=True)
    figure = models.CharField(max_length=100, blank=True)
    name = models.CharField(max_length=80, blank=True)
    # Never shown, and for the team only.
    email = models.CharField(max_length=254, blank=True)
    at = models.DateTimeField(auto_now_add=True)
    state = models.CharField(max_length=7, choices=State.choices, default=State.WAITING)
    decided_by = models.ForeignKey(AUTHOR, null=True, on_delete=models.PROTECT, related_name="+")
    decided_at = models.DateTimeField(null=True)
    answer = models.TextField(blank=True)
    answered_by = models.ForeignKey(AUTHOR, null=True, on_delete=models.PROTECT, related_name="+")
    answered_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["at", "pk"]
