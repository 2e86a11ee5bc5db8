"""Projects, their setups as they are and were, and what was measured of their channels."""

import uuid

from django.conf import settings
from django.db import models
from django.db.models.fields.json import KT

from yoke_server.bench.models import Bench, Device, Input
from yoke_server.common.db.constraints import positive
from yoke_server.kinds.channel_specs import ConditioningSpec, ScalingSpec, WiringSpec
from yoke_server.kinds.computed import ComputedList
from yoke_server.kinds.guards import GuardList
from yoke_server.kinds.inputs.grid import Grid
from yoke_server.kinds.keep_rules import KeepRuleList, stored_default
from yoke_server.kinds.motions import MotionSpec
from yoke_server.kinds.spec import SpecField
from yoke_server.kinds.specimens import SpecimenSpec
from yoke_server.kinds.steps import StepList
from yoke_server.kinds.stops import StopList
from yoke_server.kinds.triggers import TriggerSpec
from yoke_server.kinds.triggers import stored_default as stored_trigger
from yoke_server.sensors.models import Sensor
from yoke_server.setups.lists import AskedList, BatchList


class LaboratoryUnit(models.Model):
    """A unit of the laboratory's own, by a formula of other units; never changed."""

    name = models.CharField(max_length=12, unique=True)
    quantity = models.CharField(max_length=20)
    definition = models.CharField(max_length=60)
    factor = models.FloatField()  # SI = value * factor
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        constraints = [positive("factor")]


class Project(models.Model):
    name = models.CharField(max_length=80, unique=True)
    customer = models.CharField(max_length=80, default="", blank=True)
    article = models.CharField(max_length=120, default="", blank=True)
    standard = models.CharField(max_length=80, default="", blank=True)
    created_at = models.DateTimeField(auto_now_add=True)
    archived_at = models.DateTimeField(null=True)


class Setup(models.Model):
    """Channels, rates, specimen, motion, stops, guards, keep rules and trigger of one test,
    as they are now; ``batch`` are the specimens that are to be tested in this order, ``asked``
    what whoever starts a run is asked for.

    ``version`` is the number of its newest revision.
    """

    project = models.ForeignKey(Project, models.CASCADE, related_name="setups")
    bench = models.ForeignKey(Bench, models.PROTECT, related_name="setups")
    # Its bench, while that works with this setup.
    on_bench = models.OneToOneField(Bench, models.PROTECT, null=True, related_name="active_setup")
    name = models.CharField(max_length=80)
    version = models.PositiveIntegerField(default=0)
    run_name_pattern = models.CharField(max_length=60, default="{specimen} run {number}")
    specimen = models.CharField(max_length=30, default="C1")
    piece: SpecimenSpec = SpecField(SpecimenSpec)  # type: ignore[assignment]
    motion: MotionSpec = SpecField(MotionSpec)  # type: ignore[assignment]
    stops: StopList = SpecField(StopList, default=list)  # type: ignore[assignment]
    guards: GuardList = SpecField(GuardList, default=list)  # type: ignore[assignment]
    keep_rules: KeepRuleList = SpecField(  # type: ignore[assignment]
        KeepRuleList, default=stored_default
    )
    trigger: TriggerSpec = SpecField(  # type: ignore[assignment]
        TriggerSpec, default=stored_trigger
    )
    batch: BatchList = SpecField(BatchList, default=list)  # type: ignore[assignment]
    asked: AskedList = SpecField(AskedList, default=list)  # type: ignore[assignment]
    computed: ComputedList = SpecField(ComputedList, default=list)  # type: ignore[assignment]


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
        expression=KT("document__specimen__specimen"),
        db_persist=True,
        output_field=models.TextField(null=True),
    )
    fingerprint = models.CharField(max_length=64)
    action = models.CharField(max_length=120)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["setup", "number"], name="revision_once")]


class SetupPages(models.Model):
    """Pages of panes (pages.py): somebody's own of a setup, or without ``owner`` the setup's."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="+")
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, null=True, related_name="+")
    document = models.JSONField()
    at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["setup", "owner"], name="pages_once", nulls_distinct=False
            )
        ]


class NamedProgramme(models.Model):
    """A programme kept under a name; ``channels`` are the names that it looks at, by the keys in
    its legs."""

    name = models.CharField(max_length=80, unique=True)
    motion: MotionSpec = SpecField(MotionSpec)  # type: ignore[assignment]
    channels = models.JSONField(default=dict)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now=True)


class SetupTemplate(models.Model):
    """A setup kept to begin others with: its document, without what was measured."""

    name = models.CharField(max_length=80, unique=True)
    document = models.JSONField()
    pages = models.JSONField(default=dict)  # of panes, as SetupPages keeps them
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

    ``key`` never changes, also when the row is changed or restored: live readings, streams,
    zeros and corrections name a channel by it.
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
    steps: StepList = SpecField(StepList, default=list)  # type: ignore[assignment]
    # Off: it is wired, shown and checked, but no run records it.
    recorded = models.BooleanField(default=True)
    zero_each_run = models.BooleanField(default=False)  # a run may begin only after a new zero
    zero_by_itself = models.BooleanField(default=False)  # which it takes while nothing is loaded
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


class ShuntCalibration(Measured):
    """What a resistor across an arm must read and does read, mV/V; null: not checked."""

    expected_mv_v = models.FloatField(null=True)
    measured_mv_v = models.FloatField(null=True)
    resistor = models.JSONField(null=True)  # a `ShuntResistor`; none of checks before they had one
