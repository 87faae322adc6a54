"""Workloads: what is run."""

from django.db import models


class Kind(models.TextChoices):
    SCENE = "scene", "game or real-time scene"
    SUITE = "suite", "suite with named part scores"
    TASK = "task", "timed task"


class Workload(models.Model):
    """A game, suite or application task in one version. Versions are never comparable unless declared."""

    key = models.SlugField()
    name = models.CharField(max_length=120)
    version = models.CharField(max_length=40)
    kind = models.CharField(max_length=8, choices=Kind.choices)
    description = models.TextField(blank=True)
    procedure = models.TextField(blank=True)
    # The runner that a bench knows it by; a bench runs nothing that is not among its own runners.
    runner = models.CharField(max_length=60)
    # [{"key", "label", "unit", "values"?}]
    settings = models.JSONField(default=list)
    # [{"key", "label", "unit", "direction", "scale"}]: what the workload reports beyond the figures of its frames.
    metrics = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["key", "version"], name="one_workload_of_a_version")]
