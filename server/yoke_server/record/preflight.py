"""The preflight list: what stands between a setup and a run, and where to mend it."""

from dataclasses import dataclass

from yoke_server.bench.models import Bench, Device, Link
from yoke_server.calibrate.scaling import chain_of, takes_zero
from yoke_server.common.problems import Problem
from yoke_server.record.models import Run, RunState
from yoke_server.record.queries import open_run, specimens_of
from yoke_server.record.space import free_space
from yoke_server.wire.document import FrozenChannel, freeze_channels
from yoke_server.wire.models import Setup

LEAST_SPACE = 500_000_000  # bytes; a run is not begun with less


@dataclass(frozen=True, slots=True)
class Gap:
    """One thing to mend; one that ``blocks`` must be mended before a run may start."""

    code: str
    stage: str
    text: str
    hint: str = ""
    blocks: bool = False


def gaps(
    setup: Setup, channels: list[FrozenChannel] | None = None, pulled: set[str] | None = None
) -> list[Gap]:
    """Everything that is missing, the blocking ones first.

    ``channels`` and ``pulled`` (specimens of kept runs) save reading them where they are known.
    """
    found = channels if channels is not None else freeze_channels(setup)
    if pulled is None:
        pulled = pulled_specimens(setup)
    everything = [
        *_of_channels(found), *_of_bench(setup.bench, setup, found), *_of_devices(setup, found),
        *_of_specimen(setup, pulled), *_of_disk(),
    ]  # fmt: skip
    return sorted(everything, key=lambda gap: not gap.blocks)


def require_startable(setup: Setup) -> None:
    """Raise a 409 problem naming the first gap that blocks; a `ScalingError` for a bad scaling."""
    channels = freeze_channels(setup)
    for channel in channels:
        chain_of(channel)
    if running := open_run(setup.bench_id):
        raise Problem(409, f"{running.name} is still being recorded.", hint="Stop it first.")
    for gap in gaps(setup, channels):
        if gap.blocks:
            raise Problem(409, gap.text, field=gap.code, hint=gap.hint)


def _of_channels(channels: list[FrozenChannel]) -> list[Gap]:
    if not channels:
        text, hint = "There is no channel to record.", "Go to Wire and give an input a sensor."
        return [Gap("no_channel", "wire", text, hint, blocks=True)]
    return [
        Gap("not_zeroed", "calibrate", f"{c.name} is not zeroed.", "Zero it.")
        for c in channels
        if c.zero is None and takes_zero(c)
    ]


def _of_bench(bench: Bench, setup: Setup, channels: list[FrozenChannel]) -> list[Gap]:
    found = []
    if bench.active_setup_id != setup.pk:
        text, hint = "The bench works with another setup.", "Put this setup on the bench first."
        found.append(Gap("other_setup", "wire", text, hint, blocks=True))
    state = bench.state
    if state.get("motion") and not state.get("home"):
        moving = state["motion"] in ("RAMP", "RETURN")
        text = "The actuator is moving." if moving else "The actuator is not home."
        hint = "Wait until it stands." if moving else "Return it first."
        found.append(Gap("actuator_not_home", "record", text, hint, blocks=True))
    return found


def _of_devices(setup: Setup, channels: list[FrozenChannel]) -> list[Gap]:
    """Devices that the setup uses, and the actuator, must be linked and obey this recorder."""
    used = {c.device_label for c in channels}
    return [
        _not_linked(device)
        for device in setup.bench.devices.all()
        if device.link != Link.LINKED and (device.label in used or not device.inputs.exists())
    ]


def _not_linked(device: Device) -> Gap:
    why = device.link_note or "it has not answered yet"
    text = f"{device.label} is not linked: {why}"
    return Gap("not_linked", "wire", text, "Check its cable, its power and its address.")


def pulled_specimens(setup: Setup) -> set[str]:
    """Names of the specimens of kept runs."""
    return specimens_of(Run.objects.filter(setup=setup, state=RunState.KEPT))


def _of_specimen(setup: Setup, pulled: set[str]) -> list[Gap]:
    if setup.specimen not in pulled:
        return []
    text = f"{setup.specimen} was pulled already: name the next specimen."
    return [Gap("specimen_used", "record", text, "Give the next specimen a name.")]


def _of_disk() -> list[Gap]:
    free = free_space()
    if free is None or free >= LEAST_SPACE:
        return []
    text = f"The disk has only {free / 1e6:.0f} MB left."
    return [Gap("disk", "record", text, "Make room on the database's disk.", blocks=True)]
