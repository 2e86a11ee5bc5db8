"""Calibrations of sensors against known loads. Captures are added and never changed."""

from functools import cached_property

from django.conf import settings
from django.db import models

from yoke_server.calibrate.calibrations.plan import Plan
from yoke_server.kinds.spec import SpecField
from yoke_server.sensors.models import Certificate, Sensor
from yoke_server.setups.document import FrozenChannel, read_document
from yoke_server.setups.models import Setup, SetupRevision


class CalibrationState(models.TextChoices):
    UNDER_WAY = "under way"
    ACCEPTED = "accepted"
    GIVEN_UP = "given up"


class Calibration(models.Model):
    """One sensor calibrated at the input of a channel; a channel has one under way at most."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="calibrations")
    # As the setup was when it began: what is evaluated never changes with what is set later.
    revision = models.ForeignKey(SetupRevision, models.CASCADE, related_name="+")
    channel_key = models.CharField(max_length=12)
    sensor = models.ForeignKey(Sensor, models.PROTECT, related_name="calibrations")
    plan: Plan = SpecField(Plan)  # type: ignore[assignment]
    # Relative expanded uncertainty (k = 2) of the loads as the calibration began, and by whom.
    reference_uncertainty = models.FloatField()
    reference_words = models.CharField(max_length=200, default="", blank=True)
    state = models.CharField(
        max_length=9, choices=CalibrationState.choices, default=CalibrationState.UNDER_WAY
    )
    begun_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    begun_at = models.DateTimeField(auto_now_add=True)
    ended_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+"
    )
    ended_at = models.DateTimeField(null=True)
    certificate = models.OneToOneField(Certificate, models.PROTECT, null=True)

    @cached_property
    def channel(self) -> FrozenChannel:
        """The channel as it was when the calibration began."""
        channels = read_document(self.revision.document).channels
        return {c.key: c for c in channels}[self.channel_key]

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["setup", "channel_key"],
                condition=models.Q(state="under way"),
                name="one_calibration_under_way",
            )
        ]


class CalibrationPoint(models.Model):
    """What was captured at a step; of one step the newest row counts.

    A row with ``left_out`` says why the step takes no part.
    """

    calibration = models.ForeignKey(Calibration, models.CASCADE, related_name="points")
    step = models.PositiveSmallIntegerField()
    load = models.FloatField(null=True)  # SI, as it was
    signal = models.FloatField(null=True)  # SI
    deviation = models.FloatField(null=True)  # of the signal
    left_out = models.CharField(max_length=200, default="", blank=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    captured_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(signal__isnull=False) | ~models.Q(left_out=""),
                name="a_point_has_a_signal_or_a_reason",
            )
        ]
