"""The preflight list: what stands between a setup and a run, and where to mend it."""

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache

from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import MOVING, Capability
from yoke_server.bench.models import Bench, Device, Link
from yoke_server.common.clock import laboratory_today
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.chain import chain_of, takes_zero
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.record.forecast import HOUR, forecast
from yoke_server.record.guarding import unguarded
from yoke_server.record.models import Run
from yoke_server.record.queries import (
    last_revision,
    last_start,
    open_run,
    pulled_specimens,
)
from yoke_server.record.runs import next_number, next_run_name
from yoke_server.record.space import free_space
from yoke_server.setups.document import FrozenChannel, FrozenSetup, read_document
from yoke_server.setups.freezing import freeze, newest
from yoke_server.setups.models import Setup, SetupRevision
from yoke_server.setups.revisions.differences import differences
from yoke_server.setups.watched import WatchedSetup
from yoke_server.wire.check.subject import wired_as
from yoke_server.wire.models import WiringCheck

LOW_BATTERY = 0.2  # of a full one
MIN_SPACE = 500_000_000  # bytes; a run is not begun with less


@dataclass(frozen=True, slots=True)
class PreflightIssue:
    """One thing to mend; one that ``blocks`` must be mended before a run may start."""

    code: str
    stage: str
    text: str
    hint: str = ""
    blocks: bool = False


def preflight_issues(
    setup: Setup,
    frozen: FrozenSetup | None = None,
    pulled: set[str] | None = None,
    name: str = "",
) -> list[PreflightIssue]:
    """Everything that is missing, the blocking ones first.

    ``frozen``, ``pulled`` (specimens of kept runs) and ``name`` (of the next run) save reading
    them where they are known.
    """
    recorded = (frozen or freeze(setup)).as_recorded
    found = recorded.channels
    if pulled is None:
        pulled = pulled_specimens(setup)
    everything = [
        *_of_channels(found),
        *_to_zero_again(setup, found),
        *_of_wiring(setup),
        *_of_bench(setup.bench, setup, recorded),
        *_of_devices(setup, found),
        *_of_specimen(setup, pulled),
        *_of_name(setup, name or next_run_name(setup, next_number(setup))),
        *_of_changes(setup),
        *_of_disk(recorded),
    ]
    return sorted(everything, key=lambda issue: not issue.blocks)


def require_startable(setup: Setup) -> list[PreflightIssue]:
    """The issues that do not block. Raises a 409 problem of the first one that does, and
    `ScalingError` for a bad scaling."""
    frozen = freeze(setup)
    for channel in frozen.as_recorded.channels:
        chain_of(channel)
    if running := open_run(setup.bench_id):
        raise Problem(
            409,
            f"{running.name} is still being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Stop it first.",
        )
    issues = preflight_issues(setup, frozen)
    for issue in issues:
        if issue.blocks:
            raise Problem(
                409, issue.text, code=ProblemType.PREFLIGHT, field=issue.code, hint=issue.hint
            )
    return issues


def _of_channels(channels: list[FrozenChannel]) -> list[PreflightIssue]:
    if not channels:
        text, hint = "There is no channel to record.", "Go to Wire and give an input a sensor."
        return [PreflightIssue("no_channel", "wire", text, hint, blocks=True)]
    today = laboratory_today()
    asked = [step.asks_for(c, today) for c in channels for step in c.steps if step.on]
    return [
        *(_overdue(c) for c in channels if c.due_on and c.due_on < today),
        *(PreflightIssue("to_read", "calibrate", x.text, x.hint) for x in asked if x),
        *(
            PreflightIssue("not_zeroed", "calibrate", f"{c.name} is not zeroed.", "Zero it.")
            for c in channels
            if c.zero is None and takes_zero(c)
        ),
    ]


def _to_zero_again(setup: Setup, channels: list[FrozenChannel]) -> list[PreflightIssue]:
    """Channels that want a new zero before each run, and have none since the last one began."""
    wanting = [c for c in channels if c.zero_each_run and takes_zero(c) and not _zeroes_itself(c)]
    if not wanting or (last := last_start(setup.pk)) is None:
        return []
    return [
        PreflightIssue(
            "zero_again",
            "calibrate",
            f"{c.name} is to be zeroed before each run.",
            "Take all load off, and zero it.",
            blocks=True,
        )
        for c in wanting
        if is_zero_stale(c, last)
    ]


def is_zero_stale(channel: FrozenChannel, last: datetime) -> bool:
    """Whether a channel was not zeroed since the last run began."""
    return channel.zeroed_at is None or channel.zeroed_at < last


def _zeroes_itself(channel: FrozenChannel) -> bool:
    """Whether a run that starts takes the zero; the first one is a person's."""
    return channel.zero_by_itself and channel.zero is not None


def _overdue(channel: FrozenChannel) -> PreflightIssue:
    said = f"The certificate of {channel.name}, {channel.sensor_serial}, is overdue"
    text = f"{said} since {channel.due_on}."
    return PreflightIssue("overdue", "calibrate", text, "Have it calibrated, or wire another.")


def _of_wiring(setup: Setup) -> list[PreflightIssue]:
    """Channels whose last check found something, and that are wired as they were then."""
    checks = newest(WiringCheck, setup.pk)
    if all(c.passed for c in checks.values()):
        return []
    return [
        PreflightIssue("wiring", "wire", f"{c.name}: {check.found['title']}.", check.found["hint"])
        for c in setup.channels.all()
        if (check := checks.get(c.key)) and not check.passed and check.of == wired_as(c)
    ]


def _of_bench(bench: Bench, setup: Setup, recorded: FrozenSetup) -> list[PreflightIssue]:
    found = []
    if not setup.on_bench_id:
        text, hint = "The bench works with another setup.", "Put this setup on the bench first."
        found.append(PreflightIssue("other_setup", "record", text, hint, blocks=True))
    found += _of_programme(setup, recorded)
    state = bench.state
    if setup.motion.moves and state.get("latched"):
        text = "An emergency stop is in force."
        found.append(PreflightIssue("latched", "record", text, "Release it.", blocks=True))
    if setup.motion.moves and state.get("motion") and not state.get("home"):
        moving = state["motion"] in MOVING
        text = "The actuator is moving." if moving else "The actuator is not home."
        hint = "Wait until it stands." if moving else "Return it first."
        found.append(PreflightIssue("actuator_not_home", "record", text, hint, blocks=True))
    return found


def _of_programme(setup: Setup, recorded: FrozenSetup) -> list[PreflightIssue]:
    """What the bench or the channels lack for the motion, and for what is to end it."""
    able = set().union(*(registry.capabilities(d.driver) for d in setup.bench.devices.all()))
    lacking = setup.motion.needs - able
    found = []
    if Capability.MOVES in lacking:
        text, hint = f"{setup.bench.name} has no actuator.", "Choose a motion that needs none."
        found.append(PreflightIssue("no_actuator", "record", text, hint, blocks=True))
    elif lacking:
        text = f"The actuator of {setup.bench.name} does not control a force."
        hint = "Choose another motion, or another bench."
        found.append(PreflightIssue("no_force_control", "record", text, hint, blocks=True))
    watched = WatchedSetup(recorded)
    lacks = dict.fromkeys(
        [
            *setup.motion.lacks(watched),
            *(x for s in setup.stops for x in s.lacks(watched)),
            *(x for g in setup.guards for x in g.lacks(watched)),
            *(x for r in setup.keep_rules for x in r.lacks(watched)),
            *setup.trigger.lacks(watched),
        ]
    )
    found += [_no_guard(channel) for channel in unguarded(recorded)]
    found += _of_unloading(setup)
    return [
        *found,
        *(PreflightIssue("stop_unfit", "record", x.text, x.hint, blocks=True) for x in lacks),
    ]


def _of_unloading(setup: Setup) -> list[PreflightIssue]:
    unloads = any(guard.action is GuardAction.UNLOAD for guard in setup.guards)
    if not unloads or setup.motion.gentle_rate_n_s is not None:
        return []
    text = "A guard is to go to no load, which only a programme can."
    hint = "Have the guard hold, or choose a programme."
    return [PreflightIssue("no_gentle_end", "record", text, hint, blocks=True)]


def _no_guard(channel: FrozenChannel) -> PreflightIssue:
    text = f"No guard looks at {channel.name}, which something that moves may overload."
    return PreflightIssue("no_guard", "record", text, "Take the proposed guard, or set one.")


def _of_devices(setup: Setup, channels: list[FrozenChannel]) -> list[PreflightIssue]:
    """Devices that the setup uses, and the actuator, must be linked and obey this recorder."""
    used = {c.device_label for c in channels}
    acquiring = set(registry.ACQUIRING)
    needed = [
        device
        for device in setup.bench.devices.all()
        if device.label in used or device.driver not in acquiring
    ]
    return [
        *(_not_linked(device) for device in needed if device.link != Link.LINKED),
        *(_low_battery(d) for d in needed if d.battery is not None and d.battery < LOW_BATTERY),
    ]


def _low_battery(device: Device) -> PreflightIssue:
    text = f"The battery of {device.label} has {100 * (device.battery or 0):.0f} % left."
    return PreflightIssue("battery_low", "wire", text, "Charge it, or put it on mains.")


def _not_linked(device: Device) -> PreflightIssue:
    why = device.link_note or "it has not answered yet"
    text = f"{device.label} is not linked: {why}"
    return PreflightIssue("not_linked", "wire", text, "Check its cable, its power and its address.")


def is_used(setup: Setup, pulled: set[str]) -> bool:
    """Whether the setup's piece was pulled already; a part may be loaded many times."""
    return setup.piece.used_once and setup.specimen in pulled


def _of_specimen(setup: Setup, pulled: set[str]) -> list[PreflightIssue]:
    if not is_used(setup, pulled):
        return []
    text = f"{setup.specimen} was pulled already: name the next specimen."
    return [PreflightIssue("specimen_used", "record", text, "Give the next specimen a name.")]


def _of_name(setup: Setup, name: str) -> list[PreflightIssue]:
    """A pattern without a number or a time may give a name twice."""
    if not Run.objects.filter(setup_id=setup.pk, name=name).exists():
        return []
    text = f"There is a run {name} already."
    return [PreflightIssue("name_used", "record", text, "Give the run name a {number}.")]


OF_COURSE = frozenset(
    {"specimen", "batch", "asked", "zero", "tare", "shunt expected", "shunt measured"}
)


def _of_changes(setup: Setup) -> list[PreflightIssue]:
    """What was set since the last run; the next specimen and what is measured are of course."""
    last = last_revision(setup.pk)
    if last is None or last.number == setup.version:
        return []
    many = _changes_between(setup.pk, last.number, setup.version)
    if not many:
        return []
    said = "A setting was changed" if many == 1 else f"{many} settings were changed"
    text = f"{said} since {last.run}."
    return [PreflightIssue("changed_since", "record", text, "Look at its versions, if in doubt.")]


@lru_cache(maxsize=256)
def _changes_between(setup_id: int, before: int, after: int) -> int:
    """Revisions are for good, so that what they differ by is too."""
    numbers = (before, after)
    rows = SetupRevision.objects.filter(setup_id=setup_id, number__in=numbers)
    documents = dict(rows.values_list("number", "document"))
    found = differences(*(read_document(documents[number]) for number in numbers))
    return sum(d.field not in OF_COURSE for d in found)


def _of_disk(recorded: FrozenSetup) -> list[PreflightIssue]:
    free = free_space()
    if free is None:
        return []
    if free >= MIN_SPACE:
        return _of_forecast(recorded, free)
    text = f"The disk has only {free / 1e6:.0f} MB left."
    return [
        PreflightIssue("disk", "record", text, "Make room on the database's disk.", blocks=True)
    ]


def _of_forecast(recorded: FrozenSetup, free: int) -> list[PreflightIssue]:
    """Whether what the run is to come to finds room."""
    if not recorded.channels or (wanted := forecast(recorded)).nbytes < free - MIN_SPACE:
        return []
    long = f"{wanted.seconds / HOUR:.3g} hours" if wanted.is_known else "an hour"
    text = f"{long.capitalize()} of it take {_size(wanted.nbytes)}, and {_size(free)} are free."
    hint = "Keep less of it, or make room on the database's disk."
    return [PreflightIssue("too_long", "record", text, hint, blocks=wanted.is_known)]


def _size(nbytes: float) -> str:
    return f"{nbytes / 1e9:.3g} GB"
