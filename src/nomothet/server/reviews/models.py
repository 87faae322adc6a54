"""Reviews: a question with its configurations (columns) and tests (rows)."""

from django.conf import settings
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from nomothet.formats.words import LOW_DEFINITIONS
from nomothet.server.systems.models import Configuration
from nomothet.server.workloads.models import Workload


class Review(models.Model):
    """A question with its plan. `version` rises with every edit and is the entity tag."""

    key = models.SlugField(unique=True)
    question = models.CharField(max_length=300)
    expectation = models.TextField(blank=True)
    # When the expectation got its present words.
    expectation_at = models.DateTimeField(null=True)
    # What is expected in a form that can be held against the data, as expectations.Expectation writes it.
    expectations = models.JSONField(default=list, blank=True)
    audience = models.CharField(max_length=300, blank=True)
    decision = models.CharField(max_length=300, blank=True)
    # Budget, case, parts at hand; interest and origin of the machines; limits of skill and tools.
    constraints = models.CharField(max_length=400, blank=True)
    disclosure = models.CharField(max_length=400, blank=True)
    skill_note = models.CharField(max_length=400, blank=True)
    # [{"key", "name", "aspects": ["power_limit_w"], "levels": [...]}]: what it varies on purpose. Levels are stored
    # for a factor without aspects only; see levels.py.
    factors = models.JSONField(default=list)
    constant = models.CharField(max_length=400, blank=True)
    margin = models.FloatField(default=0.03, validators=[MinValueValidator(0.0001), MaxValueValidator(1.0)])
    # {"temperature": 2.0}: margins on the difference scale that are not the usual ones (core.margins).
    margins = models.JSONField(default=dict, blank=True)
    low_definition = models.CharField(max_length=16, choices=list(LOW_DEFINITIONS.items()), default="slowest_mean")
    target_fps = models.FloatField(null=True, blank=True, validators=[MinValueValidator(1.0)])
    target_c = models.FloatField(null=True, blank=True, validators=[MinValueValidator(-50), MaxValueValidator(200)])
    target_s = models.FloatField(null=True, blank=True, validators=[MinValueValidator(0.001)])
    # {"W": 90.0}: limits from above for quantities of other units, where lower is better.
    targets = models.JSONField(default=dict, blank=True)
    # Whether no pass may fail.
    target_no_failure = models.BooleanField(default=False)
    # One configuration alone, judged by targets and prices and held against no other.
    single = models.BooleanField(default=False)
    # The smallest effect that matters, as a fraction; the margin counts without it.
    expected_effect = models.FloatField(
        null=True, blank=True, validators=[MinValueValidator(0.0001), MaxValueValidator(10)]
    )
    returns_to_baseline = models.BooleanField(default=False)
    asks_price = models.BooleanField(default=False)
    passes_per_test = models.PositiveSmallIntegerField(
        default=3, validators=[MinValueValidator(1), MaxValueValidator(50)]
    )
    editor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="reviews")
    created_at = models.DateTimeField(auto_now_add=True)
    version = models.PositiveIntegerField(default=1)
    position = models.PositiveSmallIntegerField(default=0)
    archived_at = models.DateTimeField(null=True)
    # The review whose plan it took over.
    copied_from = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="copies")


class Column(models.Model):
    """A configuration in a review, with its seal's letter and its level of each factor."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="columns")
    configuration = models.ForeignKey(Configuration, on_delete=models.PROTECT)
    position = models.PositiveSmallIntegerField()
    label = models.CharField(max_length=80)
    note = models.CharField(max_length=200, blank=True)
    is_baseline = models.BooleanField(default=False)
    # Its place in a chain of steps that are made on top of one another, from 0; null where it is in none.
    step = models.PositiveSmallIntegerField(null=True)
    # {"audience": "indoors"}: the level of each factor that stands for no setting or part; see levels.py.
    levels = models.JSONField(default=dict)
    # The column of the same machine before it was changed in the middle of the review.
    continues = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="continued_by")
    # The later revision of its configuration that somebody has decided about.
    settled = models.ForeignKey(Configuration, on_delete=models.SET_NULL, null=True, related_name="+")

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
    # Metrics that people added to it, as own_metrics.OwnMetric.
    metrics = models.JSONField(default=list)
    # Which part the settings are meant to make the limit: processor, graphics, memory, storage, cooling, all.
    isolates = models.CharField(max_length=12, blank=True)
    # {metric: limit or null}: targets of its own, before the review's; null for none. "no_failure" is true or false.
    targets = models.JSONField(default=dict)
    # Where its power is told: a source of section 14, or a metric in W; empty for the source that most passes have.
    power = models.CharField(max_length=60, blank=True)
    # {metric: {"method", "half_width"}}: how typed readings of a row are taken, asked once and remembered.
    readings = models.JSONField(default=dict)
    skip_s = models.FloatField(default=0.0)
    end_cut_s = models.FloatField(default=0.0)
    # Which marked spans count, the same way for every pass: {"rule": "only" | "without", "labels": [...]}; empty for
    # all of the run.
    counts = models.JSONField(default=dict)
    # Rises whenever its evidence changes, so that what was computed of it can be kept until then.
    stamp = models.PositiveBigIntegerField(default=0)

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["review", "position"], name="one_test_at_a_position")]


class Caveat(models.Model):
    """A difference that nobody wanted and everybody knows of; it is printed with every comparison that it touches."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="caveats")
    aspect = models.CharField(max_length=120)
    words = models.CharField(max_length=300)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [models.UniqueConstraint(fields=["review", "aspect"], name="one_caveat_of_an_aspect")]
