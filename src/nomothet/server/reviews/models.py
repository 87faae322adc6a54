"""Reviews: a question with its configurations (columns) and tests (rows)."""

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from nomothet.formats.words import LOW_DEFINITIONS
from nomothet.server.systems.models import Configuration
from nomothet.server.workloads.models import Workload


class Review(models.Model):
    """A question with its plan and verdict. `version` rises with every edit and is the entity tag."""

    key = models.SlugField(unique=True)
    question = models.CharField(max_length=300)
    expectation = models.TextField(blank=True)
    audience = models.CharField(max_length=300, blank=True)
    # {"name": "power limit", "unit": "W"}: what the review varies on purpose.
    factor = models.JSONField(default=dict)
    constant = models.CharField(max_length=400, blank=True)
    margin = models.FloatField(default=0.03, validators=[MinValueValidator(0.0), MaxValueValidator(1.0)])
    low_definition = models.CharField(max_length=16, choices=list(LOW_DEFINITIONS.items()), default="slowest_mean")
    target_fps = models.FloatField(null=True, blank=True, validators=[MinValueValidator(1.0)])
    passes_per_test = models.PositiveSmallIntegerField(default=3)
    verdict = models.TextField(blank=True)
    editor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="reviews")
    created_at = models.DateTimeField(auto_now_add=True)
    version = models.PositiveIntegerField(default=1)
    position = models.PositiveSmallIntegerField(default=0)


class Column(models.Model):
    """A configuration in a review, with its seal's letter and its level of the factor."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="columns")
    configuration = models.ForeignKey(Configuration, on_delete=models.PROTECT)
    position = models.PositiveSmallIntegerField()
    label = models.CharField(max_length=80)
    note = models.CharField(max_length=200, blank=True)
    is_baseline = models.BooleanField(default=False)

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["review", "position"], name="one_column_at_a_position")]


class Test(models.Model):
    """A workload with settings in a review: a row."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="tests")
    workload = models.ForeignKey(Workload, on_delete=models.PROTECT)
    position = models.PositiveSmallIntegerField()
    settings = models.JSONField(default=dict)
    detail = models.CharField(max_length=160, blank=True)
    # Metric keys that the matrix shows, the leading one first. `low_1pct` follows the review's definition of low.
    shown = models.JSONField(default=list)
    skip_s = models.FloatField(default=0.0)
    end_cut_s = models.FloatField(default=0.0)

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["review", "position"], name="one_test_at_a_position")]
