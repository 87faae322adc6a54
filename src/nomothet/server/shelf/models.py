"""The shelf: parts with their attributes, and what they cost when."""

from django.core.validators import MinValueValidator
from django.db import models

from nomothet.core.parts import KINDS, ORIGINS, PRICE_BASES


class Part(models.Model):
    """A component. `version` rises with every edit and is the entity tag."""

    kind = models.CharField(max_length=20, choices=[(kind.key, kind.label) for kind in KINDS.values()])
    name = models.CharField(max_length=120)
    # [{"key", "label", "value", "unit", "source"}] as core.parts.read_attributes has read them.
    attributes = models.JSONField(default=list)
    origin = models.CharField(max_length=10, choices=[(word, word) for word in ORIGINS], default="not said")
    origin_note = models.CharField(max_length=200, blank=True)
    note = models.TextField(blank=True)
    archived_at = models.DateTimeField(null=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["kind", "name", "pk"]
        constraints = [models.UniqueConstraint(fields=["kind", "name"], name="one_part_of_a_name")]

    def value(self, key: str) -> str | int | float | bool | None:
        """The value of an attribute; None where it is not known."""
        return next((one["value"] for one in self.attributes if one["key"] == key), None)


class Price(models.Model):
    """What a part cost on a day. Prices are added, never edited."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="prices")
    amount = models.DecimalField(max_digits=12, decimal_places=2, validators=[MinValueValidator(0)])
    currency = models.CharField(max_length=3)
    on = models.DateField()
    basis = models.CharField(max_length=6, choices=[(word, word) for word in PRICE_BASES])
    # Euro for one unit of the currency on that day, kept with the price so that it can be read later.
    euro_rate = models.DecimalField(max_digits=14, decimal_places=6, default=1, validators=[MinValueValidator(0)])
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-on", "-pk"]
