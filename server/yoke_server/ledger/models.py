from django.conf import settings
from django.db import models


class Entry(models.Model):
    """Who changed what: the fields before and after, so that it can be undone."""

    at = models.DateTimeField(auto_now_add=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    action = models.CharField(max_length=120)
    setup = models.ForeignKey("wire.Setup", models.CASCADE, null=True, related_name="entries")
    # What can be undone: fields of one row of the setup ("event": nothing to undo).
    subject = models.CharField(max_length=20)
    subject_id = models.BigIntegerField()
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    undone = models.BooleanField(default=False)

    class Meta:
        ordering = ["id"]
        indexes = [models.Index(fields=["setup", "undone", "id"])]
