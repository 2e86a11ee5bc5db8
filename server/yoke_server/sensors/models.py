"""The sensor library: instruments, lots of gauges, their certificates and pictures."""

from typing import cast

from django.conf import settings
from django.db import models

from yoke_server.common.clock import laboratory_today
from yoke_server.kinds.channel_specs import SensorSpec
from yoke_server.kinds.inputs.base import Wiring
from yoke_server.kinds.spec import SpecField
from yoke_server.sensors.calibration_status import CalibrationStatus, status_of


class Sensor(models.Model):
    """An instrument or a lot of gauges in the library; ``kind`` is what people call it."""

    kind = models.CharField(max_length=20)
    name = models.CharField(max_length=60)
    serial = models.CharField(max_length=40, unique=True)
    quantity = models.CharField(max_length=12)  # a name of common/units.py
    spec: SensorSpec = SpecField(SensorSpec)  # type: ignore[assignment]
    calibrated_on = models.DateField(null=True)
    due_on = models.DateField(null=True)
    # [{"colour", "pin", "function"}], the wire colour table.
    cores = models.JSONField(default=list)
    place = models.CharField(max_length=60, default="", blank=True)  # where it is kept
    note = models.CharField(max_length=200, default="", blank=True)
    # Taken out of use; runs that it was in still know it.
    retired_at = models.DateTimeField(null=True)

    @property
    def signal(self) -> str:
        """What an input must measure for it."""
        return self.spec.wiring.signal

    @property
    def connection(self) -> str:
        """How it is connected, as a person says it."""
        return self._wiring.connection

    @property
    def active_arms(self) -> list[int]:
        """The arms of a bridge that it strains."""
        return self._wiring.active_arms

    @property
    def named_as(self) -> str:
        """What its channel is named after: its quantity, or that it is a rosette."""
        return "rosette" if self.spec.grid_angles else self.quantity

    @property
    def newest_certificate(self) -> "Certificate | None":
        """The one that is in force; None of an instrument without."""
        return self.certificates.order_by("calibrated_on", "pk").last()

    @property
    def _wiring(self) -> Wiring:
        return cast(Wiring, self.spec.channel()["wiring"])

    @property
    def calibration_status(self) -> CalibrationStatus:
        """How its calibration stands today."""
        return status_of(self.calibrated_on, self.due_on, laboratory_today())


class Certificate(models.Model):
    """A calibration of an instrument, added and never changed; the newest is in force."""

    sensor = models.ForeignKey(Sensor, models.CASCADE, related_name="certificates")
    number = models.CharField(max_length=40)
    calibrated_on = models.DateField()
    due_on = models.DateField(null=True)
    rated_output = models.FloatField(null=True)  # V/V at capacity, of a bridge transducer
    # Relative expanded uncertainty (k = 2) of what it reads, and the class that it was given.
    expanded = models.FloatField(null=True)
    instrument_class = models.CharField(max_length=40, default="", blank=True)
    # [[load, signal]], SI, as the certificate lists them.
    points = models.JSONField(default=list)
    file = models.BinaryField(null=True)  # a PDF, whole once it has its size
    file_size = models.PositiveIntegerField(default=0)
    file_name = models.CharField(max_length=100, default="", blank=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["calibrated_on", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["sensor", "number"], name="certificate_once")
        ]

    @property
    def is_overdue(self) -> bool:
        return self.due_on is not None and self.due_on < laboratory_today()

    @property
    def has_file(self) -> bool:
        return self.file is not None and len(self.file) == self.file_size


class Picture(models.Model):
    """What an instrument looks like: a small JPEG, never changed; another one is another row."""

    sensor = models.OneToOneField(Sensor, models.CASCADE, related_name="picture")
    image = models.BinaryField()
