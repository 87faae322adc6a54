"""Workloads: what is run."""

from django.conf import settings
from django.db import models


class Kind(models.TextChoices):
    SCENE = "scene", "game or real-time scene"
    SUITE = "suite", "suite with named part scores"
    TASK = "task", "timed task with phases"
    LOAD_SEARCH = "load_search", "load search"
    SOAK = "soak", "soak"
    IDLE = "idle", "idle baseline"
    OBSERVATION = "observation", "observation"


class Workload(models.Model):
    """What is run, in one version. Versions of a key are its editions; they are never comparable unless declared.

    `edit` rises with every edit and is the entity tag.
    """

    key = models.SlugField()
    name = models.CharField(max_length=120)
    version = models.CharField(max_length=40)
    kind = models.CharField(max_length=12, choices=Kind.choices)
    description = models.TextField(blank=True)
    # One sentence; the steps say it in full.
    procedure = models.TextField(blank=True)
    # [{"kind": "scene" | "route" | "input" | "start" | "end" | "warm-up" | "duration", "words", "seconds"?}]
    steps = models.JSONField(default=list)
    # The runner that a bench knows it by; a bench runs nothing that is not among its own runners.
    runner = models.CharField(max_length=60, blank=True)
    # How a bench starts it, when its runner is "command"; see forms.CommandSerializer. Empty otherwise.
    command = models.JSONField(default=dict)
    # [{"key", "label", "unit"?, "values"?}]
    settings = models.JSONField(default=list)
    # [{"key", "label", "unit", "direction", "scale", "role"?}]: what is reported beyond the figures of its frames.
    metrics = models.JSONField(default=list)
    # [{"aspect", "label", "least"?, "unit"?}]: memory, graphics memory, features.
    requirements = models.JSONField(default=list)
    # Where its files come from.
    files = models.TextField(blank=True)
    duration_s = models.FloatField(null=True, blank=True)
    warm_up_s = models.FloatField(null=True, blank=True)
    # [{"name", "kind": "text" | "json" | "table", "expression", "metric", "unit"?}]
    rules = models.JSONField(default=list)
    # What the team thinks of it as a test: too short, too light, unrealistic.
    judgement = models.TextField(blank=True)
    # [{"version", "why"}]: other editions whose figures may be compared with this one's.
    comparable = models.JSONField(default=list)
    # [{"key", "words", "reading"?, "at_most"?, "unit"?, "each_pass"?}]
    checks = models.JSONField(default=list)
    # Its first run after a start is a group of its own: another thing than the warm runs that follow.
    first_run_apart = models.BooleanField(default=False)
    archived_at = models.DateTimeField(null=True)
    edit = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [models.UniqueConstraint(fields=["key", "version"], name="one_workload_of_a_version")]


class Approval(models.Model):
    """An admin's word that a workload's command may run on a system. It holds for this command only."""

    workload = models.ForeignKey(Workload, on_delete=models.CASCADE, related_name="approvals")
    system = models.ForeignKey("systems.System", on_delete=models.CASCADE, related_name="approvals")
    # SHA-256 of the command as it was approved.
    digest = models.CharField(max_length=64)
    # The bench's fingerprint of the program that ran first under this approval; another program is refused.
    program = models.CharField(max_length=64, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workload", "system"], name="one_approval_on_a_system")]


class MetricNote(models.Model):
    """What a metric means, in the team's own words for readers; written once and used by every record from then on."""

    metric = models.CharField(max_length=80, unique=True)
    words = models.CharField(max_length=600)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now=True)
