from django.conf import settings
from django.db import models


class Entry(models.Model):
    """Who did what; with the fields before and after where it can be undone."""

    at = models.DateTimeField(auto_now_add=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    action = models.CharField(max_length=120)
    setup_id = models.BigIntegerField(null=True)  # of setups, also one that was deleted since
    # [{"subject", "id", "before", "after"}]; empty: an event, nothing to undo.
    changes = models.JSONField(default=list)
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["setup_id", "undone", "id"])]
