"""What is found in passes, and what people make of it: ranges set aside, hypotheses, looks at flags, trust."""

from django.conf import settings
from django.db import models

from nomothet.formats.words import DOUBTS, PAIR_KINDS, PICTURE_VERDICTS
from nomothet.server.passes.models import OfPassQuerySet, Pass, Picture
from nomothet.server.reviews.models import Column, Review, Test
from nomothet.server.systems.models import System
from nomothet.server.workloads.models import Workload

AUTHOR = settings.AUTH_USER_MODEL


class Analysis(models.Model):
    """What the core finds in a pass (core.pass_analysis). Recomputed, never edited."""

    owner = models.OneToOneField(Pass, on_delete=models.CASCADE, related_name="analysis")
    method_version = models.PositiveSmallIntegerField()
    # As PassAnalysis says it; lists and objects only.
    content = models.JSONField(default=dict)
    # What the matrix needs of it, and how the pass was run (section 16): read for every pass of a review at once.
    summary = models.JSONField(default=dict)
    fingerprint = models.JSONField(default=dict)
    # Which rules of counting it was computed by (computing.rules_of); others since then, and it is computed anew.
    counted_by = models.CharField(max_length=16, blank=True)
    # Why a pass with frames has no figures; empty where it has.
    no_figures = models.CharField(max_length=300, blank=True)

    objects = OfPassQuerySet.as_manager()


class AsideRange(models.Model):
    """A range of time of a pass that no figure counts, with a reason; taken back, it stays on record."""

    owner = models.ForeignKey(Pass, on_delete=models.CASCADE, related_name="ranges")
    start_s = models.FloatField()
    end_s = models.FloatField()
    reason = models.CharField(max_length=300)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    back_by = models.ForeignKey(AUTHOR, null=True, on_delete=models.PROTECT, related_name="+")
    back_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["start_s", "pk"]


class Status(models.TextChoices):
    ASSERTED = "asserted"
    TESTED = "tested"
    REFUTED = "refuted"
    OPEN = "open"


class Hypothesis(models.Model):
    """A possible explanation of what a cell or a row shows, with the test that would decide.

    `version` rises with every edit and is the entity tag.
    """

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="hypotheses")
    test = models.ForeignKey(Test, null=True, on_delete=models.CASCADE, related_name="+")
    column = models.ForeignKey(Column, null=True, on_delete=models.CASCADE, related_name="+")
    words = models.CharField(max_length=400)
    status = models.CharField(max_length=8, choices=Status.choices, default=Status.OPEN)
    # Why it has this status: what was seen.
    grounds = models.CharField(max_length=400, blank=True)
    # The test that would decide, in words; and as a test of the review that can be put on the docket.
    decided_by = models.CharField(max_length=300, blank=True)
    deciding_test = models.ForeignKey(Test, null=True, on_delete=models.SET_NULL, related_name="+")
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["at", "pk"]


class Look(models.Model):
    """Somebody has looked at a flag and let it stand. `flag` is its words, so that a new one wants a new look."""

    test = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="looks")
    column = models.ForeignKey(Column, on_delete=models.CASCADE, related_name="looks")
    flag = models.CharField(max_length=200)
    words = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["test", "column", "flag"], name="one_look_at_a_flag")]


class Untrusted(models.Model):
    """A metric that is not trusted for a workload: it stays visible and enters no verdict and no overall figure."""

    workload = models.ForeignKey(Workload, on_delete=models.CASCADE, related_name="untrusted")
    metric = models.CharField(max_length=60)
    reason = models.CharField(max_length=300)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workload", "metric"], name="one_distrust_of_a_metric")]


class SensorDoubt(models.Model):
    """A sensor that a person does not believe, of a pass, a system or a workload; taken back, it stays on record.

    One that is "not recorded" is shown by some tool and cannot be recorded.
    """

    owner = models.ForeignKey(Pass, null=True, on_delete=models.CASCADE, related_name="doubts")
    system = models.ForeignKey(System, null=True, on_delete=models.CASCADE, related_name="doubts")
    workload = models.ForeignKey(Workload, null=True, on_delete=models.CASCADE, related_name="doubts")
    sensor = models.CharField(max_length=80)
    kind = models.CharField(max_length=12, choices=[(kind, kind) for kind in DOUBTS])
    reason = models.CharField(max_length=300)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    back_by = models.ForeignKey(AUTHOR, null=True, on_delete=models.PROTECT, related_name="+")
    back_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["at", "pk"]


class PicturePair(models.Model):
    """What somebody says of two pictures of one test on two configurations: a statement of the review."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="picture_pairs")
    picture_a = models.ForeignKey(Picture, on_delete=models.PROTECT, related_name="+")
    picture_b = models.ForeignKey(Picture, on_delete=models.PROTECT, related_name="+")
    verdict = models.CharField(max_length=11, choices=[(verdict, verdict) for verdict in PICTURE_VERDICTS])
    # What differs, or why nobody can tell.
    words = models.CharField(max_length=400, blank=True)
    by = models.ForeignKey(AUTHOR, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]


class PairKind(models.TextChoices):
    PLAY = "play", PAIR_KINDS["play"]
    SETTING = "setting", PAIR_KINDS["setting"]
    EDITION = "edition", PAIR_KINDS["edition"]
    INSTRUMENT = "instrument", PAIR_KINDS["instrument"]


class Pair(models.Model):
    """Two rows that are looked at together, with their gap, and never pooled."""

    review = models.ForeignKey(Review, on_delete=models.CASCADE, related_name="pairs")
    kind = models.CharField(max_length=10, choices=PairKind.choices)
    test_a = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="+")
    metric_a = models.CharField(max_length=60)
    test_b = models.ForeignKey(Test, on_delete=models.CASCADE, related_name="+")
    metric_b = models.CharField(max_length=60)
    # Of two instruments, the one that counts in verdicts: "a" or "b"; empty where it has not been said.
    counts = models.CharField(max_length=1, blank=True, choices=[("a", "the first"), ("b", "the second")])
    by = models.ForeignKey(AUTHOR, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["test_a", "metric_a", "test_b", "metric_b"], name="one_pair_of_two_rows")
        ]
