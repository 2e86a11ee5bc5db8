"""Files that are being imported. A file goes once its run is made, or a day after it came."""

import uuid

from django.conf import settings
from django.db import models

from yoke_server.record.models import Run
from yoke_server.setups.models import Setup


class FileState(models.TextChoices):
    COMING = "coming"  # its parts arrive
    HERE = "here"
    READING = "reading"  # the worker makes a run of it
    READ = "read"


class ImportedFile(models.Model):
    """A file somebody sends; ``received`` of its ``size`` bytes are here."""

    key = models.UUIDField(primary_key=True, default=uuid.uuid4)
    setup = models.ForeignKey(Setup, models.CASCADE, related_name="+")
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
    name = models.CharField(max_length=120)
    size = models.BigIntegerField()
    received = models.BigIntegerField(default=0)
    at = models.DateTimeField(auto_now_add=True)
    state = models.CharField(max_length=8, choices=FileState.choices, default=FileState.COMING)
    choices = models.JSONField(default=dict)  # how the run is made of it
    problem = models.CharField(max_length=300, default="")
    run = models.ForeignKey(Run, models.CASCADE, null=True, related_name="+")


class FilePart(models.Model):
    """Bytes of a file from ``at`` on."""

    file = models.ForeignKey(ImportedFile, models.CASCADE, related_name="parts", db_index=False)
    at = models.BigIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["at"]
        constraints = [models.UniqueConstraint(fields=["file", "at"], name="file_part_once")]
