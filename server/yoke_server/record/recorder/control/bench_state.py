"""What a bench's recorder says of itself each second."""

import math
from typing import Any

from yoke_server.kinds.keep_rules.base import names_of
from yoke_server.live.protocol import BenchState, DeviceState, KeptShown, ProgrammeShown
from yoke_server.record.recorder.control.bench_context import BenchContext
from yoke_server.record.recorder.control.bench_device import BenchDevice
from yoke_server.record.recorder.control.recording import Recording


def bench_state(context: BenchContext, recording: Recording | None) -> BenchState:
    """For the screens and for the preflight list; the layouts tell frames' channels."""
    parts, devices = context.parts, context.devices.values()
    actuators = context.actuators.state()
    return BenchState(
        phase=context.phase,
        run=recording.run_id if recording else None,
        run_name=recording.name if recording else "",
        elapsed_s=recording.elapsed_s if recording else 0,
        missing_blocks=recording.missing_blocks if recording else 0,
        backlog_s=round(parts.writer.backlog_s, 1),
        queue_left_s=_queue_left_s(recording, parts.writer.room_bytes),
        trouble=parts.writer.trouble,
        free_bytes=parts.free_bytes(),
        linked=all(d.usable for d in devices),
        devices={d.label: _device(d) for d in devices},
        layouts=[
            *(d.frames.layout for d in devices),
            *(d.late.layout for d in devices if d.late.keys),
        ],
        waiting=recording.waiting.words if recording and recording.waiting else "",
        dry=bool(recording and recording.is_dry),
        paused=recording.pauses.why if recording else "",
        programme=_programme(recording),
        tripped=recording.guards.tripped if recording else [],
        kept=_kept(recording),
        **_cycles(recording),
        **actuators._asdict(),
    )


def _programme(recording: Recording | None) -> ProgrammeShown | None:
    programme = recording.programme if recording else None
    if programme is None:
        return None
    progress = programme.progress
    return ProgrammeShown(
        leg=programme.state.leg + 1,
        legs=len(programme.parts),
        words=programme.words,
        round=programme.round,
        held=programme.state.held,
        waits=programme.waits,
        seconds=round(progress.passed_s, 1),
        cycles=progress.cycles,
        commanded=programme.commanded,
    )


def _kept(recording: Recording | None) -> list[KeptShown]:
    found = recording.kept if recording else {}
    names = names_of(recording.setup.keep_rules) if recording else []
    return [
        KeptShown(rule=place, samples=samples, nbytes=nbytes)
        for place, name in enumerate(names)
        for samples, nbytes in [found.get(name, (0, 0))]
    ]


def _cycles(recording: Recording | None) -> dict[str, Any]:
    """Cycles done, and between which forces (N) the last one held; nothing where none count."""
    meter = recording.cycles if recording else None
    held = meter.held if meter and meter.cycles else (None, None)
    return {
        "cycles": meter.cycles if meter else None,
        "held_low": _finite(held[0]),
        "held_high": _finite(held[1]),
    }


def _device(device: BenchDevice) -> DeviceState:
    """``age_s``: how old its newest sample is; none before there is one."""
    age = _finite(device.line.age_s)
    return DeviceState(
        why_not=device.why_not,
        faults=device.frames.faults | device.late.faults,
        age_s=None if age is None else round(age, 1),
        drift_ppm=round(device.clock.drift_ppm, 1),
        clock_steps=device.clock.steps,
    )


def _finite(value: float | None) -> float | None:
    """JSON has no word for not a number."""
    return value if value is not None and math.isfinite(value) else None


def _queue_left_s(recording: Recording | None, room_bytes: int) -> int | None:
    """How long the database may stay away before the run must end."""
    if recording is None:
        return None
    setup = recording.setup
    rate = sum(4 * setup.rates_hz[c.device_label] for c in setup.channels)
    return round(room_bytes / rate)
