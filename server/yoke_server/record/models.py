"""Runs and what they recorded. Raw samples are electrical signals and never change.

In stored samples NaN never stands: what is missing lies between segments. A sample at the
converter's rail is plus or minus infinity: that it clipped is known, its value is not.
"""

from django.conf import settings
from django.db import models

from yoke_server.bench.models import Device, SignalKind
from yoke_server.common.db.constraints import positive
from yoke_server.setups.models import Setup, SetupRevision


class RunState(models.TextChoices):
    RECORDING = "recording"
    KEPT = "kept"
    INTERRUPTED = "interrupted"


OPEN_STATES = (RunState.RECORDING,)
# Which state may follow which; only the recorder writes them.
FOLLOWING: dict[str, frozenset[str]] = {
    RunState.RECORDING: frozenset({RunState.KEPT, RunState.INTERRUPTED}),
    RunState.KEPT: frozenset(),
    RunState.INTERRUPTED: frozenset(),
}


class SignalCheck(models.Model):
    """A look at the signals of a setup before a test; never changed."""

    setup = models.ForeignKey(Setup, models.CASCADE, related_name="+")
    version = models.PositiveIntegerField()  # of the setup
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    mains_hz = models.FloatField()
    document = models.JSONField()  # what was found, as `signal_check.schemas.CheckedSignals`

    class Meta:
        indexes = [models.Index(fields=["setup", "-id"], name="signal_check_newest")]


class RunsThere(models.Manager["Run"]):
    """Runs but for those that were discarded."""

    def get_queryset(self) -> "models.QuerySet[Run]":
        return super().get_queryset().filter(discarded_at__isnull=True)


class Run(models.Model):
    """One recording. It begins with the recorder's first samples, never before."""

    setup = models.ForeignKey(Setup, models.PROTECT, related_name="runs")
    # The setup as it stood, for good; what is put right afterwards stands in corrections.
    revision = models.ForeignKey(SetupRevision, models.PROTECT, related_name="runs")
    # Of a run that was imported from a file: what its columns are; else the revision says it.
    document = models.JSONField(null=True)
    order_key = models.UUIDField(unique=True)  # the order that began it, so that it begins once
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=80)
    state = models.CharField(max_length=12, choices=RunState.choices, default=RunState.RECORDING)
    operator = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    started_at = models.DateTimeField()
    ended_at = models.DateTimeField(null=True)
    ended_because = models.CharField(max_length=200, default="")
    start_ns = models.BigIntegerField()  # bench time of its first sample
    notes = models.TextField(default="", blank=True)
    seal = models.CharField(max_length=64, default="")
    is_dry = models.BooleanField(default=False)  # it keeps nothing, and is gone when it ends
    accepted = models.JSONField(default=list)  # preflight issues that its starter took, in words
    answers = models.JSONField(default=dict)  # to what the setup asks for at a start, by its name
    # One that was discarded can be restored for some time, then it is deleted.
    discarded_at = models.DateTimeField(null=True)
    discarded_because = models.CharField(max_length=200, default="")

    objects = RunsThere()
    everything = models.Manager()

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["setup", "number"], name="run_number_once"),
            models.CheckConstraint(
                condition=models.Q(state__in=RunState.values), name="run_state_known"
            ),
        ]


class RunProgress(models.Model):
    """What a run has reached, written with the samples it belongs to: what ends it, the states
    of its conditions. A recorder that restarts goes on from there."""

    run = models.OneToOneField(Run, models.CASCADE, primary_key=True, related_name="progress")
    reached = models.JSONField(default=dict)


class MarkerKind(models.TextChoices):
    PERSON = "person"
    GUARD = "guard"
    PAUSE = "pause"
    PROGRAMME = "programme"
    TRIGGER = "trigger"
    RESTART = "restart"  # the recorder began anew
    STEP = "step"  # a step of a sweep: of its end the channels are averaged


class Marker(models.Model):
    """A named instant of a run: what a person noted, or what happened by itself."""

    run = models.ForeignKey(Run, models.CASCADE, related_name="markers")
    key = models.UUIDField(unique=True)  # so that it is written once
    at_ns = models.BigIntegerField()  # bench time
    from_ns = models.BigIntegerField(null=True)  # of one about a stretch, where that begins
    kind = models.CharField(max_length=12)  # a `MarkerKind`
    text = models.CharField(max_length=200)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)

    class Meta:
        ordering = ["at_ns", "id"]


class Correction(models.Model):
    """What was put right of a run afterwards; the newest value of a field counts."""

    run = models.ForeignKey(Run, models.CASCADE, related_name="corrections")
    at = models.DateTimeField(auto_now_add=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    reason = models.CharField(max_length=200, default="")
    changes = models.JSONField()

    class Meta:
        ordering = ["id"]


class Layout(models.TextChoices):
    UNIFORM = "uniform"  # one rate; times follow from segments
    TIMED = "timed"  # each sample with its time


class MeasuredStreams(models.Manager["Stream"]):
    """Streams as they were recorded; what is computed of them is asked for by its home."""

    def get_queryset(self) -> "models.QuerySet[Stream]":
        return super().get_queryset().filter(home__isnull=True)


class Stream(models.Model):
    """Channels of one device kept by one rule at one rate; ``samples`` counts when it is closed.

    One with a ``home`` is computed: readings of one channel in SI, sample by sample those of the
    stream that is its home, NaN where not known. It has no segments of its own and no seal; it
    can be dropped and made again from what was measured. Until it is ``complete`` it grows.
    """

    run = models.ForeignKey(Run, models.CASCADE, related_name="streams")
    device = models.ForeignKey(Device, models.SET_NULL, null=True, related_name="+")
    device_label = models.CharField(max_length=12)
    rule = models.CharField(max_length=20, default="everything")
    layout = models.CharField(max_length=8, choices=Layout.choices, default=Layout.UNIFORM)
    rate_hz = models.FloatField()  # by the device's clock
    # Where in what the device sends its first block is: what is missing from there shows.
    first_acquisition = models.BigIntegerField(null=True)
    first_sequence = models.BigIntegerField(null=True)
    first_device_ns = models.BigIntegerField(null=True)
    first_bench_ns = models.BigIntegerField(null=True)
    samples = models.BigIntegerField(default=0)
    sample_bytes = models.PositiveSmallIntegerField(default=4)  # 4: float32, 8: float64
    seal = models.CharField(max_length=64, default="")
    home = models.ForeignKey("self", models.CASCADE, null=True, related_name="+")
    fingerprint = models.CharField(max_length=64, default="")  # of a computed one's definition
    complete = models.BooleanField(default=True)

    objects = MeasuredStreams()
    everything = models.Manager()

    class Meta:
        ordering = ["device_label", "id"]
        constraints = [
            models.UniqueConstraint(
                fields=["run", "device_label", "rule"],
                condition=models.Q(home__isnull=True),
                name="stream_once",
            ),
            models.UniqueConstraint(
                fields=["run", "fingerprint"],
                condition=models.Q(home__isnull=False),
                name="computed_stream_once",
            ),
            positive("rate_hz"),
        ]


class StreamChannel(models.Model):
    """Which channel stands at which place of a stream's blocks, and what its samples are."""

    stream = models.ForeignKey(Stream, models.CASCADE, related_name="channels")
    position = models.PositiveSmallIntegerField()
    channel_key = models.CharField(max_length=12)
    signal = models.CharField(max_length=12, choices=SignalKind.choices)

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["stream", "position"], name="stream_place_once")
        ]


class Cause(models.TextChoices):
    """Why a segment begins."""

    START = "start"
    GAP = "gap"  # blocks before it are missing
    CLOCK = "clock"  # the rate against the bench's clock is known better
    STEP = "step"  # the device's clock was put
    PAUSE = "pause"
    BURST = "burst"


class Segment(models.Model):
    """Samples that follow each other evenly, from ``first_sample`` to the next segment's.

    Sample i was taken at bench time ``bench_ns`` + (i - ``first_sample``) / ``rate_hz``.
    """

    # its place in the unique index is index enough
    stream = models.ForeignKey(Stream, models.CASCADE, related_name="segments", db_index=False)
    first_sample = models.BigIntegerField()
    cause = models.CharField(max_length=6, choices=Cause.choices)
    device_ns = models.BigIntegerField()
    bench_ns = models.BigIntegerField()
    rate_hz = models.FloatField()  # by the bench's clock
    acquisition = models.BigIntegerField()
    missing_blocks = models.BigIntegerField(default=0)  # lost before it, as the device counts

    class Meta:
        ordering = ["first_sample"]
        constraints = [
            models.UniqueConstraint(fields=["stream", "first_sample"], name="segment_once"),
            positive("rate_hz"),
        ]
        # Where something is missing, or a clock was put, among many that only follow a clock.
        indexes = [
            models.Index(
                fields=["stream", "first_sample"],
                condition=models.Q(cause__in=["gap", "step"]),
                name="segment_breaks",
            )
        ]


class Block(models.Model):
    """Samples as they came: channel by channel, little-endian floats, the signal's SI unit.

    ``checksum`` and ``chain``, the running seal, are as `record/seal.py` makes them.
    """

    stream = models.ForeignKey(Stream, models.CASCADE, related_name="blocks", db_index=False)
    first_sample = models.BigIntegerField()
    samples = models.IntegerField()
    last_sequence = models.BigIntegerField()  # of the device's blocks in it
    device_ns = models.BigIntegerField()
    checksum = models.BigIntegerField()
    chain = models.BinaryField()
    data = models.BinaryField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["stream", "first_sample"], name="block_once"),
            positive("samples"),
        ]


class EnvelopeRow(models.Model):
    """Min/max pairs of all channels: float32, by channel the lows, then the highs.

    A pair spans factor^level samples; infinite where a sample clipped.
    """

    stream = models.ForeignKey(Stream, models.CASCADE, related_name="envelope", db_index=False)
    level = models.PositiveSmallIntegerField()
    first_pair = models.BigIntegerField()
    pairs = models.IntegerField()
    data = models.BinaryField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["stream", "level", "first_pair"], name="envelope_row_once"
            )
        ]
