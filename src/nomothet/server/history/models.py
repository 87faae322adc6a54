"""Who did what to which object, and when."""

from django.conf import settings
from django.db import models


class Event(models.Model):
    """One act on one object. Never changed, never deleted, and kept when its object is gone."""

    kind = models.CharField(max_length=20)
    object_id = models.BigIntegerField()
    act = models.CharField(max_length=40)
    # {"field": [before, after], …}
    changes = models.JSONField(default=dict)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [models.Index(fields=["kind", "object_id"], name="history_of_an_object")]
