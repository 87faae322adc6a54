"""Results as they are kept beside one another."""

from django.conf import settings
from django.db import models

from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.models import Configuration, System
from nomothet.server.workloads.models import Workload


class Result(models.Model):
    """A cell's figure of one metric, kept so that those of many reviews are read at once. Made anew, never edited."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="+")
    test = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="results")
    column = models.ForeignKey(Column, on_delete=models.CASCADE, related_name="+")
    configuration = models.ForeignKey(Configuration, on_delete=models.CASCADE, related_name="+")
    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="+")
    workload = models.ForeignKey(Workload, on_delete=models.CASCADE, related_name="+")
    # That of its workload: versions of one workload stand on one page.
    key = models.CharField(max_length=50)
    # A digest of the test's settings, with their words.
    settings = models.CharField(max_length=16)
    settings_words = models.CharField(max_length=160, blank=True)
    metric = models.CharField(max_length=80)
    # Whether it is what the test shows first.
    leads = models.BooleanField(default=False)
    label = models.CharField(max_length=120)
    unit = models.CharField(max_length=40, blank=True)
    direction = models.CharField(max_length=8)
    scale = models.CharField(max_length=10)
    n = models.PositiveIntegerField()
    centre = models.FloatField(null=True)
    low = models.FloatField(null=True)
    high = models.FloatField(null=True)
    first_at = models.DateTimeField()
    last_at = models.DateTimeField()
    # {"numbers", "sessions", "spread", "held", "low_definition", "power_source", "apart", "doubts"}; notes as
    # [code, values].
    content = models.JSONField(default=dict)
    # How its passes were run, merged (section 16).
    fingerprint = models.JSONField(default=dict)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["test", "column", "metric"], name="one_result_of_a_metric_in_a_cell")
        ]
        indexes = [
            models.Index(fields=["key", "settings", "metric", "-last_at"], name="results_of_a_page"),
            # All that is asked when earlier results are offered beside tests, so that no row is read for it.
            models.Index(fields=["leads", "key", "settings", "column", "n", "last_at"], name="results_to_offer"),
            models.Index(
                fields=["key", "settings", "metric", "leads", "label", "unit", "direction", "scale"],
                name="metrics_of_a_page",
            ),
            models.Index(fields=["system", "last_at"], name="results_of_a_system"),
        ]


class Reference(models.Model):
    """A column of another review, or of a source outside, beside those of a review; what it holds never changes."""

    class Kind(models.TextChoices):
        # Results of this installation, as they were when they were taken.
        OWN = "own"
        # Figures from a publication, a reader or memory: shown, and held against nothing.
        FOREIGN = "foreign"

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="references")
    kind = models.CharField(max_length=8, choices=Kind, default=Kind.OWN)
    # Its number among the references of the review, for its mark; given once.
    number = models.PositiveSmallIntegerField()
    label = models.CharField(max_length=120)
    # Where it is from: another column, or words.
    column = models.ForeignKey(Column, on_delete=models.SET_NULL, null=True, related_name="+")
    source = models.CharField(max_length=400)
    day = models.DateField()
    # What `freezing` makes of the results, and its SHA-256.
    content = models.JSONField()
    seal = models.CharField(max_length=64)
    taken_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    taken_at = models.DateTimeField(auto_now_add=True)
    removed_at = models.DateTimeField(null=True)
    removed_why = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["review", "number"], name="one_number_of_a_reference")]


class TestSet(models.Model):
    """A team's own set of tests with weights, in an edition; an edit makes the next one and keeps this."""

    name = models.CharField(max_length=80)
    edition = models.PositiveSmallIntegerField(default=1)
    replaces = models.OneToOneField("self", on_delete=models.PROTECT, null=True, related_name="replaced_by")
    note = models.TextField(blank=True, max_length=2000)
    margin = models.FloatField(default=0.03)
    # [{"workload": pk, "settings": {...}, "metric": key, "weight": above 0}]
    items = models.JSONField(default=list)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    archived_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["name", "-edition"]


class SavedStanding(models.Model):
    """What somebody chose of a standing, under a name; published, it has a page of its own for everybody."""

    name = models.CharField(max_length=120)
    note = models.TextField(blank=True, max_length=2000)
    # The address of its page, by the names of its parameters.
    query = models.JSONField(default=dict)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    saved_at = models.DateTimeField(auto_now_add=True)
    removed_at = models.DateTimeField(null=True)
    # The last part of its public address; none as long as it was never published.
    slug = models.SlugField(max_length=80, unique=True, null=True)
    # Whether the page stays as it was when it was published, which is in `content`, or follows the results.
    frozen = models.BooleanField(default=True)
    content = models.JSONField(null=True)
    published_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    published_at = models.DateTimeField(null=True)
    withdrawn_at = models.DateTimeField(null=True)
    withdrawn_why = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["name", "pk"]


class LastTold(models.Model):
    """What a system was last told to run of what updates change: a driver, an image, a firmware."""

    system = models.ForeignKey(System, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=80)
    value = models.CharField(max_length=200)
    at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["system", "key"], name="one_last_word_of_a_system")]


class KeptTest(models.Model):
    """As what a test's results were kept: where one of these is other now, they are made anew. What lists count of them
    is kept beside it, so that they need not read the results."""

    test = models.OneToOneField(Test, on_delete=models.CASCADE, related_name="kept_results")
    stamp = models.PositiveBigIntegerField()
    review_version = models.PositiveIntegerField()
    workload_edit = models.PositiveIntegerField()
    made_by = models.PositiveSmallIntegerField()
    # As of its results, of which `leading` are of the metric that the test shows first.
    key = models.CharField(max_length=50, default="")
    settings = models.CharField(max_length=16, default="")
    settings_words = models.CharField(max_length=160, blank=True, default="")
    leading = models.PositiveIntegerField(default=0)

    class Meta:
        indexes = [models.Index(fields=["key", "settings"], name="kept_tests_of_a_page")]
