"""Benches, their devices and inputs, orders to the recorder, live frames."""

import uuid

from django.conf import settings
from django.db import models


class Bench(models.Model):
    """Devices in one place. One person at a time holds its yoke."""

    name = models.CharField(max_length=60, unique=True)
    yoke_holder = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    yoke_session = models.CharField(max_length=64, default="")
    # Written by the recorder about once a second.
    state = models.JSONField(default=dict)
    state_at = models.DateTimeField(null=True)
    # Put away: no recorder serves it; what was recorded on it stays.
    archived_at = models.DateTimeField(null=True)


class Link(models.TextChoices):
    UNKNOWN = "unknown"
    LINKED = "linked"
    LISTENING = "listening"  # samples arrive, but another host controls the device
    LOST = "lost"


class Device(models.Model):
    """Something with an address; what it says of itself is written by the recorder."""

    bench = models.ForeignKey(Bench, models.CASCADE, related_name="devices")
    label = models.CharField(max_length=12)
    driver = models.CharField(max_length=30)  # a name of bench/drivers/registry.py
    host = models.CharField(max_length=100)
    port = models.PositiveIntegerField()
    link = models.CharField(max_length=9, choices=Link.choices, default=Link.UNKNOWN)
    link_note = models.CharField(max_length=300, default="")
    identity = models.CharField(max_length=120, default="")
    serial = models.CharField(max_length=40, default="")
    firmware = models.CharField(max_length=40, default="")
    self_test = models.CharField(max_length=40, default="")
    temperature_c = models.FloatField(null=True)
    battery = models.FloatField(null=True)  # what is left, 1: full; null: none, or not said
    controlled_by = models.CharField(max_length=60, default="")
    # How far its clock runs from the bench's, and how often it was put.
    drift_ppm = models.FloatField(null=True)
    clock_steps = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["label"]
        constraints = [models.UniqueConstraint(fields=["bench", "label"], name="device_label_once")]


class SignalKind(models.TextChoices):
    """What an input gives, before any scaling; the unit of stored samples in brackets."""

    BRIDGE_RATIO = "bridge ratio"  # V/V
    VOLTAGE = "voltage"  # V
    CURRENT = "current"  # A
    RESISTANCE = "resistance"  # ohm
    FREQUENCY = "frequency"  # Hz
    COUNT = "count"  # 1
    VALUE = "value"  # as the device says

    @property
    def sample_bytes(self) -> int:
        """Of a stored sample: float32 holds each count of a 24-bit converter; numbers that a
        device has made ready have more digits, and are float64."""
        return 8 if self in READY_MADE else 4


READY_MADE = {SignalKind.VALUE}


class Input(models.Model):
    """One plug of a device."""

    device = models.ForeignKey(Device, models.CASCADE, related_name="inputs")
    number = models.PositiveSmallIntegerField()
    label = models.CharField(max_length=20)
    signal = models.CharField(
        max_length=12, choices=SignalKind.choices, default=SignalKind.BRIDGE_RATIO
    )

    class Meta:
        ordering = ["device__label", "number"]
        constraints = [
            models.UniqueConstraint(fields=["device", "number"], name="input_number_once")
        ]


class OrderState(models.TextChoices):
    WAITING = "waiting"
    CLAIMED = "claimed"
    DONE = "done"
    REFUSED = "refused"


class Order(models.Model):
    """Something the recorder of a bench is asked to do, once, before it expires."""

    key = models.UUIDField(primary_key=True, default=uuid.uuid4)
    bench = models.ForeignKey(Bench, models.CASCADE, related_name="orders")
    kind = models.CharField(max_length=20)
    arguments = models.JSONField(default=dict)
    issued_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    requested_at = models.DateTimeField()  # when the request came in, by the database's clock
    expires_at = models.DateTimeField()
    state = models.CharField(max_length=8, choices=OrderState.choices, default=OrderState.WAITING)
    answer = models.JSONField(default=dict)
    given_up_at: float = 0.0  # monotonic, of the process that waits for its answer

    class Meta:
        indexes = [
            models.Index(
                fields=["bench", "requested_at"],
                name="order_waiting",
                condition=models.Q(state=OrderState.WAITING),
            ),
            models.Index(fields=["requested_at"], name="order_age"),
        ]


class StopRequest(models.Model):
    """A stop as it was given. Storing it needs no other table."""

    key = models.UUIDField(primary_key=True)
    bench_id = models.BigIntegerField()
    emergency = models.BooleanField()
    requested_at = models.DateTimeField()
    by = models.CharField(max_length=160, default="")
    why = models.CharField(max_length=200)
    run = models.BigIntegerField(null=True)  # the only one that it was meant for
    confirmed = models.BooleanField(default=False)  # by the recorder: it is carried out
    problem = models.CharField(max_length=300, default="")  # why something may not stand
    ended_run = models.BigIntegerField(null=True)
    released_at = models.DateTimeField(null=True)  # of an emergency: things may move again

    class Meta:
        indexes = [
            models.Index(
                fields=["bench_id", "requested_at"],
                name="stop_standing",
                condition=models.Q(confirmed=False)
                | models.Q(emergency=True, released_at__isnull=True),
            )
        ]


class RecorderSign(models.Model):
    """Which recorder serves a bench, and when it last wrote that it lives."""

    bench_id = models.BigIntegerField(primary_key=True)
    holder = models.CharField(max_length=80, default="")  # empty: it has left
    at = models.DateTimeField()


class LiveFrame(models.Model):
    """A block's worth of readings to show; unlogged, kept for seconds."""

    seq = models.BigAutoField(primary_key=True)
    bench_id = models.BigIntegerField()
    payload = models.BinaryField()

    class Meta:
        indexes = [models.Index(fields=["bench_id", "seq"], name="frame_of_bench")]
