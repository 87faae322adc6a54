"""Systems, their benches and configurations."""

from django.db import models


class System(models.Model):
    """One physical or simulated machine under test."""

    key = models.SlugField(unique=True)
    name = models.CharField(max_length=120)
    description = models.TextField(blank=True)
    simulated = models.BooleanField(default=False)
    # [{"kind": "processor", "name": "…"}, …] in the order in which they are shown.
    parts = models.JSONField(default=list)


class Bench(models.Model):
    """The program on a system. Its token is stored hashed and shown once."""

    system = models.OneToOneField(System, on_delete=models.CASCADE, related_name="bench")
    token_hash = models.CharField(max_length=64, unique=True)
    issued_at = models.DateTimeField()
    heard_at = models.DateTimeField(null=True)
    inventory = models.JSONField(default=dict)


class Configuration(models.Model):
    """A system with its settings; frozen once it has passes."""

    system = models.ForeignKey(System, on_delete=models.PROTECT, related_name="configurations")
    name = models.CharField(max_length=120)
    note = models.CharField(max_length=200, blank=True)
    # {"power_limit_w": 35, …}: what is set on this configuration.
    settings = models.JSONField(default=dict)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["system", "name"], name="one_configuration_of_a_name")]
