"""Courses of events drawn from a seed, played on the stage; what must hold after each step.

A schedule is a list of (seconds to wait, deed, argument). One that breaks a rule is shrunk by
leaving out what it does not need, and prints as a list that `replay` takes.
"""

import random
from collections.abc import Iterator
from dataclasses import dataclass, field

from yoke_server.bench.models import OrderState
from yoke_server.record.models import RunState
from yoke_server.record.recorder.control.motion import DATABASE_AWAY
from yoke_server.record.recorder.control.run_controller import UNWATCHED
from yoke_server.record.recorder.model.phases import Phase
from yoke_server.record.recorder.stream.block_order import MAX_HELD
from yoke_server.wire.specs.base import Spec
from yoke_server.wire.specs.motion import ForceRamp, ForceSine, NoMotion, PositionRamp
from yoke_server.wire.specs.stop import CyclesDone, ForceDrop, MotionEnd, TimeUp

from tests.simulation.database import channels_of, data_of, sequences_of, stored_pairs
from tests.simulation.frame import HEARTBEAT
from tests.simulation.listener import Order
from tests.simulation.stage import Stage
from tests.simulation.virtual import BLOCK_S, STEP

Deed = tuple[float, str, object]
SLACK = HEARTBEAT + 3 * STEP  # within which a stop must have reached the frame, come what may
QUEUE_BYTES = 20_000
HIDDEN = 1e6  # N, beyond the range: what the force does is not to be seen
MOST_HIDDEN = 4.0  # s until that must have been noticed, also if every other block is lost

# What can happen, and how often beside the other things.
DEEDS: list[tuple[str, int]] = [
    ("start", 14), ("start without pull", 3), ("stop", 5), ("emergency", 5), ("return", 4),
    ("measure", 3), ("shunt", 4), ("check", 3),
    ("reset_peaks", 1), ("nonsense", 1), ("impatient start", 2),
    ("force", 8), ("break", 3),
    ("lose blocks", 5), ("delay blocks", 3), ("double blocks", 3), ("lose many blocks", 2),
    ("cut", 4), ("mend", 8), ("switch device off and on", 2), ("put clock", 2),
    ("cut frame", 3), ("mend frame", 6), ("slow frame", 2),
    ("database away", 4), ("database back", 9), ("database crash", 2), ("lose answers", 4),
    ("refuse run", 1), ("crash", 4), ("begin anew", 9), ("programme", 4),
]  # fmt: skip

PULLING = ("RAMP", "FORCE", "SINE")
SWING = ForceSine(lowest_n=200.0, highest_n=1800.0, frequency_hz=0.5)
PROGRAMMES: dict[str, tuple[Spec, list[Spec]]] = {
    "pull": (PositionRamp(speed_m_s=1.85e-4, travel_limit_m=12e-3), [ForceDrop(share=0.4)]),
    "load": (ForceRamp(peak_n=1000.0, rate_n_s=200.0), [MotionEnd()]),
    "swing": (
        ForceSine(lowest_n=200.0, highest_n=1800.0, frequency_hz=0.5),
        [CyclesDone(cycles=2)],
    ),
    "refused": (ForceSine(lowest_n=0.0, highest_n=50e3, frequency_hz=0.5), [TimeUp(seconds=5.0)]),
    "measure": (NoMotion(), [TimeUp(seconds=5.0)]),
}


def draw(seed: int, deeds: int = 60) -> list[Deed]:
    """The schedule of a seed, always the same."""
    dice = random.Random(seed)
    names, weights = zip(*DEEDS, strict=True)
    found: list[Deed] = [(2.0, "start", None)] if dice.random() < 0.7 else []
    for _ in range(deeds):
        name = dice.choices(names, weights)[0]
        argument: object = None
        if name in ("cut", "mend", "switch device off and on", "put clock") or "blocks" in name:
            argument = dice.choice(["A1", "A2"])
        elif name == "programme":
            argument = dice.choice(list(PROGRAMMES))
        elif name == "force":
            argument = dice.choice([200.0, 900.0, 4000.0, 9000.0, HIDDEN])
        wait = dice.choice([0.0, 0.0, STEP, STEP, 2 * STEP, 2 * STEP, 4 * STEP, 8 * STEP])
        found.append((wait, name, argument))
    return found


class Broken(AssertionError):
    """A rule does not hold."""


@dataclass(eq=False)
class Player:
    """Plays one schedule and checks the rules after each step."""

    stage: Stage = field(default_factory=lambda: Stage(QUEUE_BYTES))
    must_stand_since: float | None = None
    hidden_since: float | None = None
    states: dict[int, str] = field(default_factory=dict)

    def play(self, schedule: list[Deed]) -> None:
        for wait, name, argument in schedule:
            for _ in range(round(wait / STEP)):
                self.step()
            self.do(name, argument)
        self.heal_and_end()

    def step(self) -> None:
        self.stage.step()
        self.check()

    def do(self, name: str, argument: object) -> None:
        deed = getattr(self, "_" + name.replace(" ", "_"), None)
        if deed:
            deed(argument) if argument is not None else deed()
        else:
            self.stage.order(name, **_ARGUMENTS.get(name, {}))

    # The deeds

    def _start(self) -> None:
        self.stage.start_order()

    def _start_without_pull(self) -> None:
        self.stage.start_order(pull=False)

    def _impatient_start(self) -> None:
        self.stage.start_order(seconds=0.5)

    def _programme(self, name: str) -> None:
        self.stage.programme(*PROGRAMMES[name])

    def _stop(self) -> None:
        self._stop_all("stop")

    def _emergency(self) -> None:
        self._stop_all("emergency")

    def _stop_all(self, kind: str) -> None:
        self.stage.order(kind)

    def _force(self, newtons: float) -> None:
        self.stage.force = newtons

    def _break(self) -> None:
        self.stage.force = 0.0

    def _lose_blocks(self, label: str) -> None:
        self.stage.devices[label].losing += 3

    def _lose_many_blocks(self, label: str) -> None:
        self.stage.devices[label].losing += 40

    def _delay_blocks(self, label: str) -> None:
        self.stage.devices[label].delaying += 3

    def _double_blocks(self, label: str) -> None:
        self.stage.devices[label].doubling += 3

    def _cut(self, label: str) -> None:
        self.stage.devices[label].reachable = False

    def _mend(self, label: str) -> None:
        self.stage.devices[label].reachable = True

    def _switch_device_off_and_on(self, label: str) -> None:
        self.stage.devices[label].restart()

    def _put_clock(self, label: str) -> None:
        self.stage.devices[label].offset_ns += 2_000_000_000

    def _cut_frame(self) -> None:
        self.stage.frame.reachable = False

    def _mend_frame(self) -> None:
        self.stage.frame.reachable = True

    def _slow_frame(self) -> None:
        self.stage.frame.late_s = 2 * STEP

    def _database_away(self) -> None:
        self.stage.database.away = True

    def _database_back(self) -> None:
        self.stage.database.away = False

    def _database_crash(self) -> None:
        self.stage.database.crash()

    def _lose_answers(self) -> None:
        self.stage.database.lose_answers += 2

    def _refuse_run(self) -> None:
        if found := self.stage.database.open_run():
            self.stage.database.refuse_runs.add(found[0])

    def _crash(self) -> None:
        self.stage.crash()

    def _begin_anew(self) -> None:
        self.stage.start()

    # The rules

    def check(self) -> None:
        self._see_whether_the_force_hides()
        self._nothing_moves_unwatched()
        self._only_living_orders_move()
        self._states_go_allowed_ways()
        self._memory_is_bounded()

    def _nothing_moves_unwatched(self) -> None:
        stage, recorder = self.stage, self.stage.recorder
        now = stage.clock.now
        why = ""
        if stage.frame.motion in PULLING:
            if recorder is None:
                why = "no recorder lives"
            elif recorder.context.phase is not Phase.RECORDING:
                why = f"the recorder is {recorder.context.phase}"
            elif now - stage.listener.heard_at > DATABASE_AWAY:
                why = "no order can come"
            elif now - recorder.context.devices["A1"].seen_at > UNWATCHED + BLOCK_S:
                why = "nobody sees the force"
            elif self.hidden_since and now - self.hidden_since > MOST_HIDDEN:
                why = "the force that ends it is not to be seen"
            elif recorder.run.recording and recorder.run.recording.met:
                why = "what ends the run was seen"
        if not why:
            self.must_stand_since = None
            return
        self.must_stand_since = self.must_stand_since or now
        if now - self.must_stand_since > SLACK:
            raise Broken(f"the actuator still pulls, though {why}")

    def _see_whether_the_force_hides(self) -> None:
        """Since when, while a motion is on that it is to end."""
        stage, recorder = self.stage, self.stage.recorder
        recording = recorder.run.recording if recorder else None
        kinds = {s.kind for s in recording.setup.stops} if recording else set()
        matters = stage.frame.motion in PULLING and kinds & {"force_drop", "cycles"}
        if not matters or stage.force != HIDDEN:
            self.hidden_since = None
        elif self.hidden_since is None:
            self.hidden_since = stage.clock.now

    def _only_living_orders_move(self) -> None:
        stage = self.stage
        if stage.moves > len(stage.moved) + 1:
            raise Broken("a motion that nobody ordered")
        for i, key in enumerate(stage.moved):
            order = stage.orders[key]
            if order.kind != "start" or not order.arguments["pull"]:
                raise Broken(f"{order.kind} moved the actuator")
            if key in stage.moved[:i]:
                raise Broken("one order moved the actuator twice")
            if order.state != OrderState.DONE:
                raise Broken(f"an order that is {order.state} moved the actuator")
        if stage.frame.motion in PULLING and stage.moved:
            self._not_stopped_since(stage.orders[stage.moved[-1]])

    def _not_stopped_since(self, start: Order) -> None:
        for other in self.stage.orders.values():
            later = other.kind in ("stop", "emergency") and other.turn > start.turn
            if later and self.stage.clock.now - (other.taken_at or 0) > SLACK:
                raise Broken("what was stopped moves again")

    def _states_go_allowed_ways(self) -> None:
        for run_id, run in self.stage.database.runs.items():
            before = self.states.get(run_id, RunState.RECORDING)
            if before not in (run.state, RunState.RECORDING):
                raise Broken(f"run {run_id} went from {before} to {run.state}")
            self.states[run_id] = run.state
        open_runs = [r for r in self.stage.database.runs.values() if r.state == RunState.RECORDING]
        if len(open_runs) > 1:
            raise Broken("two runs are open on one bench")

    def _memory_is_bounded(self) -> None:
        recorder, writer = self.stage.recorder, self.stage.writer
        if recorder is None or writer is None:
            return
        if writer._bytes > 3 * QUEUE_BYTES:
            raise Broken(f"the writer holds {writer._bytes} bytes")
        for track in recorder.run.recording.tracks.values() if recorder.run.recording else ():
            if track.order._held_bytes > MAX_HELD:
                raise Broken("too many early blocks are held")

    # The end

    def heal_and_end(self) -> None:
        """All faults mended, the run stopped: everything must come to an end, and be there."""
        stage = self.stage
        stage.database.away = False
        stage.database.lose_answers = 0
        stage.frame.reachable = True
        for device in stage.devices.values():
            device.reachable = True
            device.losing = device.delaying = device.doubling = 0
        stage.start()
        for _ in range(round(10 / STEP)):
            self.step()
        stage.order("stop")
        stage.order("emergency")
        for _ in range(round(14 / STEP)):
            self.step()
        self._everything_has_ended()
        self._everything_is_there()

    def _everything_has_ended(self) -> None:
        stage, recorder = self.stage, self.stage.recorder
        assert recorder is not None and stage.writer is not None
        if recorder.context.phase is not Phase.IDLE:
            raise Broken(f"the recorder is still {recorder.context.phase}")
        if stage.database.open_run():
            raise Broken("a run is still open")
        if not stage.writer.idle:
            raise Broken("the writer still has work")
        if stage.frame.motion in PULLING:
            raise Broken("the actuator still pulls")
        if any(device.shunt for device in stage.devices.values()):
            raise Broken("a shunt is still on")
        for order in stage.orders.values():
            if order.state in (OrderState.WAITING, OrderState.CLAIMED):
                raise Broken(f"{order.kind} was never answered")

    def _everything_is_there(self) -> None:
        database = self.stage.database
        for run_id, run in database.runs.items():
            for label, stream_id in run.streams.items():
                self._check_stream(run_id, label, database.streams[stream_id])

    def _check_stream(self, run_id: int, label: str, stream: object) -> None:
        found = sequences_of(stream)
        if sorted(set(found)) != found:
            raise Broken(f"blocks of {label} are stored twice or out of order")
        if run_id in self.stage.database.refuse_runs:
            return
        if found:
            absent = found[-1] - found[0] + 1 - len(found)
            shown = sum(s[7] for s in stream.segments)
            if absent != shown:
                raise Broken(f"{absent} blocks of {label} are missing, {shown} are shown as such")
        received = self.stage.in_run.get((run_id, label), set())
        lost = {s for s in received - set(found) if not found or s > found[-1]}
        if lost and (run_id, label) not in self._cut_short():
            raise Broken(f"{label} sent {sorted(lost)[:5]}, which are neither stored nor shown")
        self._check_envelope(label, stream)

    def _cut_short(self) -> set[tuple[int, str]]:
        """Streams whose end a crashed recorder took along, and the device restarted since."""
        return {
            (run_id, label)
            for run_id, run in self.stage.database.runs.items()
            for label in run.streams
            if "began anew" in run.why or "No device" in run.why
        }

    @staticmethod
    def _check_envelope(label: str, stream: object) -> None:
        data = data_of(stream)
        pairs = stored_pairs(stream, 1, 0)
        if pairs.low.shape != (channels_of(stream), -(-data.shape[1] // 16)):
            raise Broken(f"the envelope of {label} does not fit its samples")
        for group in range(pairs.low.shape[1]):
            part = data[:, 16 * group : 16 * (group + 1)]
            if not (part.min(axis=1) == pairs.low[:, group]).all():
                raise Broken(f"the envelope of {label} differs from its samples")


_ARGUMENTS = {
    "measure": {"channels": ["0f3a1b7c21d9", "0f3a3b7c21d9"]},
    "shunt": {"channels": ["0f3a1b7c21d9", "0f3a3b7c21d9"]},
    "check": {"channels": ["0f3a1b7c21d9", "0f3a3b7c21d9"]},
    "nonsense": {"channels": 7},
}


def failure(schedule: list[Deed]) -> str:
    """Why a schedule breaks a rule; empty if it does not."""
    try:
        Player().play(schedule)
    except AssertionError as broken:
        return str(broken) or repr(broken)
    return ""


def shrunk(schedule: list[Deed]) -> list[Deed]:
    """The same failure with as little as possible."""
    size = len(schedule) // 2
    while size:
        at = 0
        while at < len(schedule):
            fewer = schedule[:at] + schedule[at + size :]
            if failure(fewer):
                schedule = fewer
            else:
                at += size
        size //= 2
    return schedule


def failures(seeds: "Iterator[int] | range") -> Iterator[tuple[int, str, list[Deed]]]:
    """(seed, why, shrunk schedule) of each that breaks a rule."""
    for seed in seeds:
        schedule = draw(seed)
        if why := failure(schedule):
            small = shrunk(schedule)
            yield seed, failure(small) or why, small
