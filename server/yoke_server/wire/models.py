"""Projects, their setups, the sensor library, and which sensor is on which input."""

from django.db import models
from django.db.models import F, Q

from yoke_server.bench.models import Amplifier, Bench


def positive(field: str) -> models.CheckConstraint:
    """The database refuses a value of ``field`` that is not above zero."""
    return models.CheckConstraint(
        condition=Q(**{f"{field}__isnull": True}) | Q(**{f"{field}__gt": 0}),
        name=f"%(class)s_{field}_positive",
    )


class Project(models.Model):
    name = models.CharField(max_length=80, unique=True)
    customer = models.CharField(max_length=80, default="", blank=True)
    article = models.CharField(max_length=120, default="", blank=True)
    standard = models.CharField(max_length=80, default="", blank=True)
    created_at = models.DateTimeField(auto_now_add=True)


class Quantity(models.TextChoices):
    FORCE = "force"
    EXTENSION = "extension"
    STRAIN = "strain"


class SensorKind(models.TextChoices):
    LOAD_CELL = "load cell"
    EXTENSOMETER = "extensometer"
    STRAIN_GAUGE = "strain gauge"


class Sensor(models.Model):
    """An instrument or a lot of gauges in the library; SI units, ratios in mV/V."""

    kind = models.CharField(max_length=20, choices=SensorKind.choices)
    name = models.CharField(max_length=60)
    serial = models.CharField(max_length=40, unique=True)
    quantity = models.CharField(max_length=12, choices=Quantity.choices)
    arrangement = models.CharField(max_length=20)
    wires = models.PositiveSmallIntegerField()
    resistance_ohm = models.FloatField()
    rated_output_mv_v = models.FloatField(null=True)
    capacity = models.FloatField(null=True)
    gauge_factor = models.FloatField(null=True)
    calibrated_on = models.DateField(null=True)
    due_on = models.DateField(null=True)
    # [{"colour", "pin", "function"}], the wire colour table.
    cores = models.JSONField(default=list)

    class Meta:
        constraints = [
            positive("resistance_ohm"),
            positive("rated_output_mv_v"),
            positive("capacity"),
            positive("gauge_factor"),
        ]


class Setup(models.Model):
    """Channels, rate, specimen and stop condition of one kind of test."""

    project = models.ForeignKey(Project, models.CASCADE, related_name="setups")
    bench = models.ForeignKey(Bench, models.PROTECT, related_name="setups")
    name = models.CharField(max_length=80)
    version = models.PositiveIntegerField(default=1)
    rate_hz = models.FloatField(default=1000)
    run_name_pattern = models.CharField(max_length=60, default="{specimen} run {number}")
    specimen = models.CharField(max_length=30, default="C1")
    width_m = models.FloatField(default=12.5e-3)
    thickness_m = models.FloatField(default=3e-3)
    gauge_length_m = models.FloatField(default=50e-3)
    pull_speed_m_s = models.FloatField(default=1.85e-4)
    travel_limit_m = models.FloatField(default=12e-3)
    force_drop = models.FloatField(default=0.4)
    arm_force_n = models.FloatField(default=500)

    class Meta:
        constraints = [
            *(
                positive(f)
                for f in (
                    "rate_hz",
                    "width_m",
                    "thickness_m",
                    "gauge_length_m",
                    "pull_speed_m_s",
                    "travel_limit_m",
                    "arm_force_n",
                )
            ),
            models.CheckConstraint(
                condition=Q(force_drop__gt=0, force_drop__lt=1), name="setup_force_drop_share"
            ),
        ]


class ScalingKind(models.TextChoices):
    STRAIN = "strain"
    RATED_OUTPUT = "rated_output"
    TWO_POINTS = "two_points"


class Channel(models.Model):
    """One wired input of a setup: bridge, conditioning, scaling, zero, shunt check."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="channels")
    amplifier = models.ForeignKey(Amplifier, models.PROTECT)
    input_number = models.PositiveSmallIntegerField()
    name = models.CharField(max_length=30)
    sensor = models.ForeignKey(Sensor, models.PROTECT)
    quantity = models.CharField(max_length=12, choices=Quantity.choices)
    # Bridge
    arrangement = models.CharField(max_length=20)
    wires = models.PositiveSmallIntegerField()
    resistance_ohm = models.FloatField()
    excitation_v = models.FloatField(default=5)
    range_mv_v = models.FloatField(default=8)
    lead_length_m = models.FloatField(default=6)
    lead_ohm_per_m = models.FloatField(default=0.128)
    # Scaling
    scaling_kind = models.CharField(max_length=12, choices=ScalingKind.choices)
    gauge_factor = models.FloatField(null=True)
    poisson_ratio = models.FloatField(null=True)
    rated_output_mv_v = models.FloatField(null=True)
    capacity = models.FloatField(null=True)
    point_1_mv_v = models.FloatField(null=True)
    point_1_value = models.FloatField(null=True)
    point_2_mv_v = models.FloatField(null=True)
    point_2_value = models.FloatField(null=True)
    reversed = models.BooleanField(default=False)
    # Zero and shunt check
    zero_mv_v = models.FloatField(null=True)
    zeroed_at = models.DateTimeField(null=True)
    shunt_expected_mv_v = models.FloatField(null=True)
    shunt_measured_mv_v = models.FloatField(null=True)
    shunt_at = models.DateTimeField(null=True)
    # Display
    unit = models.CharField(max_length=12)
    decimals = models.PositiveSmallIntegerField(default=3)

    class Meta:
        ordering = ["input_number"]
        constraints = [
            models.UniqueConstraint(
                fields=["setup", "amplifier", "input_number"], name="channel_one_per_input"
            ),
            models.UniqueConstraint(fields=["setup", "name"], name="channel_name_once"),
            *[
                positive(f)
                for f in (
                    "resistance_ohm",
                    "excitation_v",
                    "range_mv_v",
                    "gauge_factor",
                    "rated_output_mv_v",
                    "capacity",
                )
            ],
            models.CheckConstraint(
                condition=Q(point_1_mv_v__isnull=True)
                | Q(point_2_mv_v__isnull=True)
                | ~Q(point_1_mv_v=F("point_2_mv_v")),
                name="channel_points_differ",
            ),
        ]
