"""Passes with their captures and figures."""

import uuid

from django.conf import settings
from django.db import models

from nomothet.formats.words import OUTCOMES
from nomothet.server.passes.blobs import BlobField
from nomothet.server.reviews.models import Column, Test
from nomothet.server.systems.models import Bench


class Origin(models.TextChoices):
    BENCH = "bench"
    FILE = "file"


class Pass(models.Model):
    """One execution in a cell. Its id is made by the client, so that sending it twice stores it once."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    test = models.ForeignKey(Test, on_delete=models.PROTECT, related_name="passes")
    column = models.ForeignKey(Column, on_delete=models.PROTECT, related_name="passes")
    number = models.PositiveIntegerField()
    origin = models.CharField(max_length=5, choices=Origin.choices)
    outcome = models.CharField(max_length=16, choices=list(OUTCOMES.items()))
    note = models.TextField(blank=True)
    started_at = models.DateTimeField()
    duration_s = models.FloatField()
    # Not whole until every announced series is in; a pass that is not whole is in no figure.
    whole_at = models.DateTimeField(null=True, db_index=True)
    bench = models.ForeignKey(Bench, null=True, on_delete=models.SET_NULL)
    brought_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    # The fingerprint: operating system, settings, what was observed.
    environment = models.JSONField(default=dict)
    set_aside = models.BooleanField(default=False)
    method_version = models.PositiveSmallIntegerField(null=True)

    class Meta:
        indexes = [models.Index(fields=["test", "column"], name="passes_of_a_cell")]
        ordering = ["number", "started_at"]


class Series(models.Model):
    """One raw capture of a pass, one row whatever its length. `received` counts the bytes that have come in."""

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="series")
    name = models.CharField(max_length=80)
    # frames | sensor | file
    kind = models.CharField(max_length=8)
    unit = models.CharField(max_length=20, blank=True)
    place = models.CharField(max_length=80, blank=True)
    source = models.CharField(max_length=160, blank=True)
    # Full height of the lane, where the quantity has a capacity.
    capacity = models.FloatField(null=True)
    # When the first frame begins on the clock of the pass, in seconds.
    starts_at_s = models.FloatField(default=0.0)
    size = models.PositiveBigIntegerField()
    sha256 = models.CharField(max_length=64)
    received = models.PositiveBigIntegerField(default=0)
    blob = BlobField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_series_of_a_name")]


class Chunk(models.Model):
    """Part of a series on its way in; gone once the series is whole."""

    series = models.ForeignKey(Series, on_delete=models.CASCADE, related_name="chunks")
    offset = models.PositiveBigIntegerField()
    data = BlobField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["series", "offset"], name="one_chunk_at_an_offset")]


class Figure(models.Model):
    """One number of a pass, with its kind. Recomputed, never edited."""

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="figures")
    metric = models.CharField(max_length=60)
    unit = models.CharField(max_length=20, blank=True)
    direction = models.CharField(max_length=6)
    scale = models.CharField(max_length=10)
    # captured | extracted | typed | computed
    obtained = models.CharField(max_length=9)
    value = models.FloatField()
    thin = models.BooleanField(default=False)
    method_version = models.PositiveSmallIntegerField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["owner", "metric"], name="one_figure_of_a_metric")]


class Remark(models.Model):
    """What somebody did to a pass and why; set aside or taken back. Never deleted."""

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="remarks")
    act = models.CharField(max_length=10, choices=[("set_aside", "set aside"), ("taken_back", "taken back")])
    reason = models.CharField(max_length=300)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
