"""Records of foreign origin: measured and published elsewhere, read here and never counted among our own."""

from django.conf import settings
from django.db import models


class ForeignRecord(models.Model):
    """A record that was brought in by its package; neither it nor the package changes."""

    class State(models.TextChoices):
        CHECKING = "checking"
        READY = "ready"
        REFUSED = "refused"

    state = models.CharField(max_length=10, choices=State, default=State.CHECKING)
    # Why it was refused.
    problem = models.TextField(blank=True)
    # Of the whole package: the same file again is the same record.
    sha256 = models.CharField(max_length=64, unique=True)
    # How its publisher calls it, and where it stands.
    name = models.CharField(max_length=200)
    origin = models.CharField(max_length=400, blank=True)
    edition = models.CharField(max_length=40)
    # Empty until the package was checked.
    content = models.JSONField(default=dict)
    # What a list says of it, so that none has to read the content: see `queries.Told`.
    told = models.JSONField(default=dict)
    # How much was worked out again when it came, as counts by kind.
    checked = models.JSONField(default=dict)
    size = models.PositiveBigIntegerField()
    brought_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    brought_at = models.DateTimeField(auto_now_add=True)
    # Off the list; what was brought in is kept.
    removed_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-brought_at"]


class PackagePiece(models.Model):
    """A stretch of a package, so that no statement has to carry all of it."""

    record = models.ForeignKey(ForeignRecord, on_delete=models.CASCADE, related_name="pieces")
    position = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["record", "position"], name="one_piece_at_a_position")]
