from django.conf import settings
from django.db import models


class Bench(models.Model):
    """Amplifiers and an actuator in one place. One person at a time holds its yoke."""

    name = models.CharField(max_length=60, unique=True)
    active_setup = models.ForeignKey("wire.Setup", models.SET_NULL, null=True, related_name="+")
    yoke_holder = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    yoke_session = models.CharField(max_length=64, default="")
    # Written by the recorder about once a second.
    state = models.JSONField(default=dict)
    state_at = models.DateTimeField(null=True)


class Link(models.TextChoices):
    UNKNOWN = "unknown"
    LINKED = "linked"
    LOST = "lost"


class Device(models.Model):
    """Something at a TCP address; what it says of itself is written by the recorder."""

    label = models.CharField(max_length=12)
    host = models.CharField(max_length=100)
    port = models.PositiveIntegerField()
    link = models.CharField(max_length=8, choices=Link.choices, default=Link.UNKNOWN)
    link_note = models.CharField(max_length=300, default="")
    identity = models.CharField(max_length=120, default="")
    serial = models.CharField(max_length=40, default="")
    firmware = models.CharField(max_length=40, default="")
    self_test = models.CharField(max_length=40, default="")

    class Meta:
        abstract = True


class Amplifier(Device):
    """Its data port is the one after the control port."""

    bench = models.ForeignKey(Bench, models.CASCADE, related_name="amplifiers")
    input_count = models.PositiveSmallIntegerField(default=8)
    temperature_c = models.FloatField(null=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["bench", "label"], name="amplifier_label_once")
        ]


class Actuator(Device):
    bench = models.OneToOneField(Bench, models.CASCADE, related_name="actuator")


class CommandState(models.TextChoices):
    WAITING = "waiting"
    DONE = "done"
    REFUSED = "refused"


class Command(models.Model):
    """An order to the recorder of a bench, and its answer."""

    bench = models.ForeignKey(Bench, models.CASCADE, related_name="commands")
    kind = models.CharField(max_length=20)
    arguments = models.JSONField(default=dict)
    issued_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    issued_at = models.DateTimeField(auto_now_add=True)
    state = models.CharField(
        max_length=8, choices=CommandState.choices, default=CommandState.WAITING
    )
    answer = models.JSONField(default=dict)

    class Meta:
        indexes = [
            models.Index(
                fields=["bench", "id"],
                name="command_waiting",
                condition=models.Q(state=CommandState.WAITING),
            )
        ]


class LiveFrame(models.Model):
    """A block's worth of readings to show; unlogged, kept for seconds."""

    seq = models.BigAutoField(primary_key=True)
    bench_id = models.BigIntegerField()
    payload = models.BinaryField()
