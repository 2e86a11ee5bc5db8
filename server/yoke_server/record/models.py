"""Runs and what they recorded. Raw samples are output ratios (V/V) and never change."""

from django.conf import settings
from django.db import models

from yoke_server.wire.models import Setup, positive


class RunState(models.TextChoices):
    STARTING = "starting"
    RECORDING = "recording"
    KEPT = "kept"
    INTERRUPTED = "interrupted"
    FAILED = "failed"


OPEN_STATES = (RunState.STARTING, RunState.RECORDING)


class Run(models.Model):
    setup = models.ForeignKey(Setup, models.PROTECT, related_name="runs")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=80)
    state = models.CharField(max_length=12, choices=RunState.choices, default=RunState.STARTING)
    operator = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)
    created_at = models.DateTimeField(auto_now_add=True)
    started_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)
    ended_because = models.CharField(max_length=200, default="")
    # The run's own copy of its setup (wire/frozen.py), never changed.
    frozen = models.JSONField()
    # The test piece, measured by hand; may be put right afterwards.
    specimen = models.CharField(max_length=30)
    width_m = models.FloatField()
    thickness_m = models.FloatField()
    gauge_length_m = models.FloatField()
    notes = models.TextField(default="", blank=True)
    seal = models.CharField(max_length=64, default="")

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["setup", "number"], name="run_number_once"),
            positive("width_m"),
            positive("thickness_m"),
            positive("gauge_length_m"),
        ]


class Stream(models.Model):
    """Channels of a run kept by one rule at one rate."""

    run = models.ForeignKey(Run, models.CASCADE, related_name="streams")
    acquisition = models.BigIntegerField()
    rate_hz = models.FloatField()
    channel_count = models.PositiveSmallIntegerField()
    first_sequence = models.BigIntegerField()
    start_ns = models.BigIntegerField()
    samples = models.BigIntegerField(default=0)
    # [[first missing sequence, last missing sequence]], filled when the run closes
    gaps = models.JSONField(default=list)

    class Meta:
        constraints = [positive("rate_hz")]


class Block(models.Model):
    """Samples as they came: planar little-endian float32, V/V."""

    stream = models.ForeignKey(Stream, models.CASCADE, related_name="blocks")
    sequence = models.BigIntegerField()
    start_ns = models.BigIntegerField()
    first_sample = models.BigIntegerField()
    samples = models.IntegerField()
    checksum = models.BigIntegerField()
    data = models.BinaryField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["stream", "sequence"], name="block_sequence_once"),
            positive("samples"),
        ]


class EnvelopeRow(models.Model):
    """Min/max pairs of one channel: float32 lows, then highs; one pair per factor^level samples."""

    stream = models.ForeignKey(Stream, models.CASCADE, related_name="envelope")
    channel = models.PositiveSmallIntegerField()
    level = models.PositiveSmallIntegerField()
    first_pair = models.BigIntegerField()
    pairs = models.IntegerField()
    data = models.BinaryField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["stream", "channel", "level", "first_pair"], name="envelope_row_once"
            )
        ]
