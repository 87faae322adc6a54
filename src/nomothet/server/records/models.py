"""Records: published, frozen states of a review."""

from django.conf import settings
from django.db import models

from nomothet.server.passes.models import Pass
from nomothet.server.reviews.models import Review


class Record(models.Model):
    """One edition. `content` is all that the public page shows; it never changes after publishing."""

    review = models.ForeignKey(Review, on_delete=models.PROTECT, related_name="records")
    edition = models.PositiveIntegerField()
    slug = models.CharField(max_length=80, unique=True)
    published_at = models.DateTimeField(auto_now_add=True)
    published_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    # The request that published it: the same one again gives the same record.
    request = models.UUIDField(null=True, unique=True)
    # The name of who published it, as it was then.
    publisher = models.CharField(max_length=150)
    change_note = models.CharField(max_length=300, blank=True)
    content = models.JSONField()
    passes = models.ManyToManyField(Pass)
    # Withdrawn, its page says so and why; what it held stays on record.
    withdrawn_at = models.DateTimeField(null=True)
    withdrawn_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    withdrawn_why = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering = ["-edition"]
        constraints = [models.UniqueConstraint(fields=["review", "edition"], name="one_record_of_an_edition")]
