"""What people do with findings: drawn otherwise than proposed, and pinned."""

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Review

AUTHOR = settings.AUTH_USER_MODEL


class DrawnFinding(models.Model):
    """A kind of finding about something else than the program proposes; it stands in the list for everybody."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="drawn_findings")
    kind = models.CharField(max_length=20)
    # As choice.Choice.stored says it.
    choice = models.JSONField(default=dict)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]


class PinQuerySet(models.QuerySet["Pin"]):
    def kept(self) -> "PinQuerySet":
        """Those that nobody has taken off."""
        return self.filter(unpinned_at=None)


class Pin(models.Model):
    """A finding that somebody wants to keep in sight, with what it said then and what was last seen of it.

    One that is taken off stays on record: pinned again, it has its number again.
    """

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="pins")
    # The finding's key: its kind and what it is about.
    key = models.CharField(max_length=160)
    position = models.PositiveIntegerField()
    # What a text names it by: given once in a review, and to no other pin later.
    number = models.PositiveIntegerField()
    note = models.CharField(max_length=400, blank=True)
    # {"sentence", "told", "verdict"} when it was pinned, and when somebody last said that they have seen it.
    said = models.JSONField()
    seen = models.JSONField()
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    unpinned_at = models.DateTimeField(null=True)

    objects = PinQuerySet.as_manager()

    class Meta:
        ordering = ["position", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["review", "key"], name="one_pin_of_a_finding"),
            models.UniqueConstraint(fields=["review", "number"], name="one_pin_of_a_number"),
        ]
