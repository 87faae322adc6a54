"""Systems, their benches and configurations."""

from django.db import models

from nomothet.core.parts import ORIGINS
from nomothet.core.quantities import VALUE_KINDS
from nomothet.server.shelf.models import Part


class System(models.Model):
    """One physical or simulated machine under test. `version` rises with every edit and is the entity tag."""

    key = models.SlugField(unique=True)
    name = models.CharField(max_length=120)
    description = models.TextField(blank=True)
    simulated = models.BooleanField(default=False)
    # {"slots": [{"name", "channel", "fill"}], "max_gb", "max_module_gb",
    # "speeds": [{"modules_per_channel", "rate_mts"}], "takes_ecc"}; empty where nothing is known.
    slot_map = models.JSONField(default=dict)
    # What the supply and the board offer, in words: "8-pin graphics power × 1".
    connectors = models.JSONField(default=list)
    origin = models.CharField(max_length=10, choices=[(word, word) for word in ORIGINS], default="not said")
    origin_note = models.CharField(max_length=200, blank=True)
    # Who makes the changes between configurations: a tester at the machine, or the bench by itself.
    changes_by = models.CharField(max_length=6, choices=[("tester", "tester"), ("bench", "bench")], default="tester")
    # What an observed value that is not what was set does to the docket.
    on_mismatch = models.CharField(max_length=4, choices=[("stop", "stop"), ("flag", "flag")], default="stop")
    # [{"key", "words", "reading"?, "at_most"?, "unit"?, "each_pass"?}]: looked at before the first pass after a change,
    # or before each pass that is run by hand.
    checks = models.JSONField(default=list)
    present = models.ForeignKey(
        "Configuration", null=True, blank=True, on_delete=models.SET_NULL, related_name="present_on"
    )
    archived_at = models.DateTimeField(null=True)
    version = models.PositiveIntegerField(default=1)


class Bench(models.Model):
    """The program on a system. Its token is stored hashed and shown once."""

    system = models.OneToOneField(System, on_delete=models.CASCADE, related_name="bench")
    token_hash = models.CharField(max_length=64, unique=True)
    issued_at = models.DateTimeField()
    heard_at = models.DateTimeField(null=True)
    inventory = models.JSONField(default=dict)
    # Passes that the server would not take, as it told them: [{"id", "reason", "at"}]; and whether to send them again.
    set_aside = models.JSONField(default=list)
    send_again = models.BooleanField(default=False)
    # The process that holds the token now and when it spoke; when another one was last turned away.
    instance = models.CharField(max_length=36, blank=True)
    instance_at = models.DateTimeField(null=True)
    rival_at = models.DateTimeField(null=True)
    # How far its clock was ahead of the server's when it last told.
    clock_off_s = models.FloatField(null=True)
    # What it last read off its idle machine: {"processor use": 2.0, …}.
    readings = models.JSONField(default=dict)


class Configuration(models.Model):
    """A system with its parts in their places and its settings, told as what differs from its base.

    Frozen once it, or one that builds on it, has passes; a change then makes a new revision.
    """

    system = models.ForeignKey(System, on_delete=models.PROTECT, related_name="configurations")
    name = models.CharField(max_length=120)
    note = models.CharField(max_length=200, blank=True)
    base = models.ForeignKey("self", null=True, blank=True, on_delete=models.PROTECT, related_name="derived")
    # {"power_limit_w": 35, …}: what is set otherwise than on the base; null takes a setting away.
    settings = models.JSONField(default=dict)
    # {"memory_mts": {"value": 5600, "at": "2026-…"}}: what its passes observed last.
    observed = models.JSONField(default=dict)
    # Why it cannot be built: does not fit, no connector, module refused. Empty for one that can.
    blocked = models.CharField(max_length=200, blank=True)
    revision = models.PositiveSmallIntegerField(default=1)
    replaces = models.OneToOneField(
        "self", null=True, blank=True, on_delete=models.SET_NULL, related_name="replaced_by"
    )
    archived_at = models.DateTimeField(null=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["system", "name", "revision"], name="one_revision_of_a_configuration")
        ]

    @property
    def title(self) -> str:
        return self.name if self.revision == 1 else f"{self.name}, revision {self.revision}"


class OwnSetting(models.Model):
    """A setting that the team has defined. Its key says what it acts on, where it is set, and its unit."""

    key = models.CharField(max_length=80, unique=True)
    label = models.CharField(max_length=40, unique=True)
    kind = models.CharField(max_length=8, choices=[(word, word) for word in VALUE_KINDS])
    choices = models.JSONField(default=list)
    # How one sees that it holds.
    verify = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey("people.User", null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["label"]


class Bundle(models.Model):
    """Settings by one name, such as memory tuning: tight. Of tests where it names a workload."""

    family = models.CharField(max_length=40)
    name = models.CharField(max_length=40)
    settings = models.JSONField(default=dict)
    workload = models.CharField(max_length=50, blank=True)
    by = models.ForeignKey("people.User", null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ["family", "name"]
        constraints = [models.UniqueConstraint(fields=["workload", "family", "name"], name="one_bundle_of_a_name")]


class Fitting(models.Model):
    """What sits at a place of a configuration otherwise than on its base; no part means that the place is empty.

    `place` is a kind of part, such as "graphics", or a slot, such as "slot A1"; a slot holds one module of a kit.
    """

    configuration = models.ForeignKey(Configuration, on_delete=models.CASCADE, related_name="fittings")
    place = models.CharField(max_length=60)
    part = models.ForeignKey(Part, null=True, on_delete=models.PROTECT, related_name="fittings")
    module = models.PositiveSmallIntegerField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["configuration", "place"], name="one_fitting_at_a_place")]


class Observation(models.Model):
    """What somebody has read off a machine in a configuration; passes bring their own."""

    configuration = models.ForeignKey(Configuration, on_delete=models.CASCADE, related_name="observations")
    key = models.CharField(max_length=80)
    value = models.JSONField()
    source = models.CharField(max_length=80, default="read by the tester")
    by = models.ForeignKey("people.User", null=True, on_delete=models.SET_NULL)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
