"""The append-only table of changes that browsers follow."""

from django.db import models


class Change(models.Model):
    """One change. Numbers rise in the order of commits, so a reader that has seen one has seen all before it."""

    number = models.PositiveBigIntegerField(primary_key=True)
    at = models.DateTimeField(auto_now_add=True)
    kind = models.CharField(max_length=40)
    payload = models.JSONField(default=dict)


class Head(models.Model):
    """One row that holds the last number; locking it makes commits take turns."""

    number = models.PositiveBigIntegerField(default=0)
