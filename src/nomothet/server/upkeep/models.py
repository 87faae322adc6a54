"""What an installation knows of its own state: signs of life, and backups."""

from django.db import models


class SignOfLife(models.Model):
    """When a part of the installation last did its work, such as "worker" or "cleaning"."""

    part = models.CharField(max_length=40, primary_key=True)
    at = models.DateTimeField()


class Backup(models.Model):
    """A backup that was made, or that failed; what is kept lies in its folder, not here."""

    at = models.DateTimeField()
    folder = models.CharField(max_length=500)
    name = models.CharField(max_length=120, blank=True)
    size = models.PositiveBigIntegerField(default=0)
    took_s = models.FloatField(default=0)
    encrypted = models.BooleanField(default=False)
    # Why there is none.
    problem = models.CharField(max_length=500, blank=True)
    checked_at = models.DateTimeField(null=True)
    # What the check found wrong.
    found = models.CharField(max_length=500, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]
