"""Projects, their setups, the sensor library, and which sensor is on which input."""

import uuid

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.db.models.fields.json import KT

from yoke_server.bench.models import Bench, Device, Input
from yoke_server.common.clock import laboratory_today
from yoke_server.wire.calibration_status import CalibrationStatus, status_of
from yoke_server.wire.specs.base import SpecField
from yoke_server.wire.specs.conditioning import ConditioningSpec
from yoke_server.wire.specs.grid import Grid
from yoke_server.wire.specs.motion import MotionSpec
from yoke_server.wire.specs.scaling import ScalingSpec
from yoke_server.wire.specs.sensor import SensorSpec
from yoke_server.wire.specs.specimen import SpecimenSpec
from yoke_server.wire.specs.stop import StopList
from yoke_server.wire.specs.wiring import SIGNAL_OF, WiringSpec


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
    archived_at = models.DateTimeField(null=True)


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
        return SIGNAL_OF[self.spec.wired_as]

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
    def has_file(self) -> bool:
        return self.file is not None and len(self.file) == self.file_size


class Picture(models.Model):
    """What an instrument looks like: a small JPEG, never changed; another one is another row."""

    sensor = models.OneToOneField(Sensor, models.CASCADE, related_name="picture")
    image = models.BinaryField()


class Setup(models.Model):
    """Channels, rates, specimen, motion and stops of one test, as they are now.

    ``version`` is the number of its newest revision.
    """

    project = models.ForeignKey(Project, models.CASCADE, related_name="setups")
    bench = models.ForeignKey(Bench, models.PROTECT, related_name="setups")
    name = models.CharField(max_length=80)
    version = models.PositiveIntegerField(default=0)
    run_name_pattern = models.CharField(max_length=60, default="{specimen} run {number}")
    specimen = models.CharField(max_length=30, default="C1")
    piece: SpecimenSpec = SpecField(SpecimenSpec)  # type: ignore[assignment]
    motion: MotionSpec = SpecField(MotionSpec)  # type: ignore[assignment]
    stops: StopList = SpecField(StopList, default=list)  # type: ignore[assignment]


class SetupDevice(models.Model):
    """At which rate a setup has a device sample."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="devices")
    device = models.ForeignKey(Device, models.PROTECT, related_name="+")
    rate_hz = models.FloatField(default=1000)

    class Meta:
        ordering = ["device__label"]
        constraints = [
            models.UniqueConstraint(fields=["setup", "device"], name="setup_device_once"),
            positive("rate_hz"),
        ]


class SetupRevision(models.Model):
    """A setup as it stood after one action, whole and for good (wire/document.py)."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    schema_version = models.PositiveSmallIntegerField()
    document = models.JSONField()
    # Of the document, so that asking for it reads no document.
    specimen = models.GeneratedField(
        expression=KT("document__specimen__specimen"), db_persist=True,
        output_field=models.TextField(null=True),
    )  # fmt: skip
    digest = models.CharField(max_length=64)
    action = models.CharField(max_length=120)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["setup", "number"], name="revision_once")]


class SetupTemplate(models.Model):
    """A setup kept to begin others with: its document, without what was measured."""

    name = models.CharField(max_length=80, unique=True)
    document = models.JSONField()
    bench = models.ForeignKey(Bench, models.SET_NULL, null=True, related_name="+")  # it was made on
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["name"]


def new_key() -> str:
    return uuid.uuid4().hex[:12]


class Polarity(models.TextChoices):
    """Which way a channel counts."""

    AS_WIRED = "as wired"
    SWAPPED = "cores swapped"  # its signal comes with the wrong sign: turned before it is scaled
    TURNED = "turned"  # its quantity counts the other way: turned when it is scaled


class Channel(models.Model):
    """One wired input of a setup: wiring, conditioning, scaling, each of some kind.

    ``key`` never changes, whatever becomes of the row: live readings, streams, zeros and
    corrections name a channel by it.
    """

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="channels")
    key = models.CharField(max_length=12, unique=True, default=new_key)
    input = models.ForeignKey(Input, models.PROTECT, related_name="+")
    name = models.CharField(max_length=30)
    sensor = models.ForeignKey(Sensor, models.PROTECT)
    quantity = models.CharField(max_length=12)  # a name of common/units.py
    wiring: WiringSpec = SpecField(WiringSpec)  # type: ignore[assignment]
    conditioning: ConditioningSpec = SpecField(ConditioningSpec)  # type: ignore[assignment]
    scaling: ScalingSpec = SpecField(ScalingSpec)  # type: ignore[assignment]
    polarity = models.CharField(max_length=13, choices=Polarity.choices, default=Polarity.AS_WIRED)
    # Off: it is wired, shown and checked, but no run records it.
    recorded = models.BooleanField(default=True)
    grid: Grid | None = SpecField(Grid, null=True)  # type: ignore[assignment]
    # Display
    unit = models.CharField(max_length=12)
    decimals = models.PositiveSmallIntegerField(default=3)

    class Meta:
        ordering = ["input__device__label", "input__number"]
        constraints = [
            models.UniqueConstraint(
                fields=["setup", "input"],
                name="channel_one_per_input",
                deferrable=models.Deferrable.DEFERRED,  # likewise two sensors that changed places
            ),
            models.UniqueConstraint(
                fields=["setup", "name"],
                name="channel_name_once",
                deferrable=models.Deferrable.DEFERRED,  # names may be swapped in one action
            ),
            models.CheckConstraint(
                condition=models.Q(polarity__in=Polarity.values), name="channel_polarity_known"
            ),
        ]


class Measured(models.Model):
    """A fact about a channel that was measured: added, never changed; the newest is in force."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="+")
    channel_key = models.CharField(max_length=12)
    at = models.DateTimeField(auto_now_add=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+")

    class Meta:
        abstract = True
        indexes = [models.Index(fields=["setup", "channel_key", "-id"], name="%(class)s_newest")]


class Balance(Measured):
    """The signal (SI) at rest, taken off before scaling; null: none."""

    zero = models.FloatField(null=True)


class Tare(Measured):
    """A quantity (SI) taken off after scaling; null: none."""

    tare = models.FloatField(null=True)


class WiringCheck(Measured):
    """What a check of the wiring found, in words and figures (wire/check/).

    ``of`` is a digest of what was checked: another wiring makes the check an old one.
    """

    well = models.BooleanField()
    found = models.JSONField()
    of = models.CharField(max_length=64)


class SignTest(Measured):
    """Which way a channel went when somebody loaded its part, and which way they did it.

    ``of`` is as in `WiringCheck`. ``moved`` is in SI of the quantity.
    """

    positive = models.BooleanField()  # what was done is what the quantity counts positive
    moved = models.FloatField()
    of = models.CharField(max_length=64)

    @property
    def well(self) -> bool:
        return (self.moved > 0) == self.positive


class ShuntCalibration(Measured):
    """What the amplifier's own resistor must read and does read, mV/V; null: not checked."""

    expected_mv_v = models.FloatField(null=True)
    measured_mv_v = models.FloatField(null=True)
