"""Courses of events drawn from a seed, played on the stage; the rules must hold after each step.

What comes next is drawn by the state of the bench: somebody wants to test, and things go wrong.
A course that breaks a rule is shrunk by leaving out what it does not need, and prints as a list
that `failure` plays again.
"""

import random
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any
from unittest.mock import patch

from yoke_server.bench.models import OrderState
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.hold import HoldLeg
from yoke_server.kinds.legs.repeat import RepeatLeg
from yoke_server.kinds.legs.wait import WaitLeg
from yoke_server.kinds.legs.wave import WaveLeg
from yoke_server.kinds.motions.force_ramp import ForceRamp
from yoke_server.kinds.motions.force_sine import ForceSine
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.motions.programme import Programme
from yoke_server.kinds.motions.ramp import PositionRamp
from yoke_server.kinds.stops.cycles_done import CyclesDone
from yoke_server.kinds.stops.force_drop import ForceDrop
from yoke_server.kinds.stops.motion_end import MotionEnd
from yoke_server.kinds.stops.time_up import TimeUp
from yoke_server.kinds.triggers.level import Level
from yoke_server.live.protocol import Phase
from yoke_server.record import envelopes
from yoke_server.record.recorder.stream.keep.keeping import Keeping

from tests.simulation.rules import HIDDEN_N, QUEUE_BYTES, Broken, Rules
from tests.simulation.stage import Stage

if TYPE_CHECKING:
    from tests.simulation.coverage import Coverage

Action = tuple[float, str, object]
ACTIONS = 20
STEP = 0.05  # s between two looks at the rules
SMALL_ROWS = (8, 4, 2, 2, 2)  # pairs a row, so that rows of all levels become full
WRITE_KEPT_S = (1.0, 2.0, 8.0)  # that a checkpoint of the keep rules may be apart from the next
CHANNELS = ["0f3a1b7c21d9", "0f3a3b7c21d9"]

SWING = ForceSine(lowest_n=200.0, highest_n=1800.0, frequency_hz=1.0)
LEGS = Programme(
    legs=[
        ForceLeg(force_n=1000.0, rate_n_s=1000.0),
        HoldLeg(seconds=0.5),
        WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=2.0, cycles=3),
        RepeatLeg(first=1, times=2),
        WaitLeg(text="turn it"),
        ForceLeg(force_n=0.0, rate_n_s=1000.0),
    ]
)
FORCE = "0f3a1b7c21d9"
UP = Level(channel=FORCE, level=900.0, hysteresis=100.0, before_s=1.0)
HOLDS = Outside(channel=FORCE, highest=1500.0, action=GuardAction.HOLD)
UNLOADS = HOLDS.model_copy(update={"action": GuardAction.UNLOAD})
ENDS = Outside(channel=FORCE, highest=1700.0, action=GuardAction.STOP, debounce_s=0.05)
PROGRAMMES: dict[str, tuple[Any, ...]] = {
    "legs": (LEGS, [MotionEnd()]),
    "held legs": (LEGS, [], [HOLDS]),
    "guarded": (SWING, [CyclesDone(cycles=30)], [ENDS]),
    "pull": (PositionRamp(speed_m_s=1.85e-4, travel_limit_m=12e-3), [ForceDrop(share=0.4)]),
    "load": (ForceRamp(peak_n=1000.0, rate_n_s=400.0), [MotionEnd()]),
    "swing": (SWING, [CyclesDone(cycles=2)]),
    "long swing": (SWING, [CyclesDone(cycles=30)]),
    "refused": (ForceSine(lowest_n=0.0, highest_n=50e3, frequency_hz=0.5), [TimeUp(seconds=5.0)]),
    "waits": (LEGS, [MotionEnd()], [], UP),
    "measure": (NoMotion(), [TimeUp(seconds=4.0)]),
}

# What a person does, by what the bench is doing; and how often beside the other things.
PERSON: dict[str, dict[str, int]] = {
    "idle": {
        "start": 60, "start without pull": 20, "measure": 1, "shunt": 2, "check": 1,
        "programme": 16,
        "late start": 1, "stop": 1, "emergency": 1, "start and stop": 2, "stalled order": 1,
        "start and lose device": 1, "shunt and stop": 2, "measure and lose device": 1,
        "brief start": 5, "dry start": 4,
    },
    "away": {
        "return": 20, "start without pull": 20, "measure": 1, "emergency": 1, "late return": 1,
        "slow return and stop": 2, "stalled order": 2,
    },
    "latched": {"release": 20, "return": 1, "start": 2, "start without pull": 5},
    "beginning": {"wait": 6, "stop": 2, "emergency": 2},
    "recording": {
        "wait": 36, "break": 3, "stop": 2, "emergency": 2, "measure": 1, "start": 1, "return": 1,
        "programme": 1, "stall": 1, "stall and stop": 1, "refused stop": 1, "lose and stop": 1,
        "pause": 3, "go on": 12, "hold": 2, "skip": 2, "unload": 1, "mark": 1,
        "another moves it": 1, "long read only": 1, "end and crash": 1,
        "stop and leave": 1, "break and wait": 1, "blind and wait": 1,
        "late and wait": 1,
    },
    "measuring": {"wait": 4, "stop": 1, "start": 1},
    "none": {"begin anew": 24, "stop": 1, "start": 1},
}  # fmt: skip
# What goes wrong, and what mends it again.
FAULTS: dict[str, int] = {
    "lose blocks": 5, "delay blocks": 3, "double blocks": 2, "lose many blocks": 2, "deaf": 1,
    "late samples": 1, "cut": 3, "switch device off and on": 1, "begin acquisition anew": 1,
    "put clock": 3, "lose and put clock": 2, "flat": 1, "hide force": 1,
    "cut frame": 2, "slow frame": 1, "frame refuses": 1, "frame lies": 1, "frame nan": 1,
    "frame mute": 1, "foreign host": 1,
    "database away": 2, "hang": 2, "read only": 1, "full": 1, "slow": 1, "lose answers": 4,
    "database crash": 3, "two crashes": 2, "cut connections": 2, "stall flush": 2,
    "keep dead sessions": 1,
    "lock": 4, "database clock": 1, "refuse run": 1, "damage run": 1,
    "crash": 4, "another recorder": 1, "hang recorder": 1,
}  # fmt: skip
MENDS: dict[str, str] = {
    "cut": "mend", "deaf": "mend", "late samples": "mend", "flat": "mend",
    "hide force": "show force",
    "cut frame": "mend frame", "slow frame": "mend frame", "frame refuses": "mend frame",
    "frame lies": "mend frame", "frame nan": "mend frame", "frame mute": "mend frame",
    "foreign host": "mend frame",
    "database away": "database back", "hang": "database back", "read only": "database back",
    "full": "database back", "slow": "database back", "stall flush": "database back",
    "keep dead sessions": "database back", "crash": "begin anew", "hang recorder": "crash",
}  # fmt: skip
# Share of turns in which something goes wrong: most where the most may be lost.
FAULTY, FAULTY_ELSE = 0.45, 0.2
OF_A_DEVICE = {
    "lose blocks",
    "delay blocks",
    "double blocks",
    "lose many blocks",
    "deaf",
    "late samples",
    "cut",
    "mend",
    "switch device off and on",
    "begin acquisition anew",
    "put clock",
    "lose and put clock",
    "flat",
}


@dataclass(eq=False)
class Player:
    """Draws a course, or plays one that was drawn; checks the rules after each step."""

    seed: int
    course: list[Action] = field(default_factory=list)  # as it was played

    def __post_init__(self) -> None:
        self.dice = random.Random(self.seed)
        self.stage = Stage(QUEUE_BYTES, random.Random(self.seed + 1))
        self._began_at = self.stage.clock.now
        self.rules = Rules(self.stage)
        self.stage.watch = self.rules
        self.to_mend: list[Action] = []
        self.played = 0  # actions

    def draw(self) -> None:
        """Play a course that is drawn on the way."""
        self.until(self._is_settled, 2.5)
        for _ in range(ACTIONS):
            action = self._next()
            self.course.append(action)
            self.play_action(action)
        self.heal_and_end()

    def play(self, course: list[Action]) -> None:
        self.until(self._is_settled, 2.5)
        for action in course:
            self.play_action(action)
        self.heal_and_end()

    def play_action(self, action: Action) -> None:
        wait, name, argument = action
        self.played += 1
        self.pass_time(wait)
        self.rules.coverage[self.phase(), name] += 1
        act = getattr(self, "_" + name.replace(" ", "_"))
        act(argument) if argument is not None else act()

    def pass_time(self, seconds: float) -> None:
        until = self.stage.clock.now + seconds
        while self.stage.clock.now < until - 1e-9:
            step = min(STEP, until - self.stage.clock.now)
            self.stage.run(step)
            self.rules.check(step)

    # What comes next

    @property
    def passed_s(self) -> float:
        return self.stage.clock.now - self._began_at

    def phase(self) -> str:
        process = self.stage.process
        return process.recorder.context.phase.value if process else "no recorder"

    def _next(self) -> Action:
        dice = self.dice
        recording = self._state() == "recording"
        wait = dice.choice([0.0, 0.1, 0.4, 0.9, 1.5] if recording else [0.0, 0.02, 0.1, 0.3])
        if self.to_mend and dice.random() < (0.4 if recording else 0.6):
            _, name, argument = self.to_mend.pop(0)
            return dice.choice([0.2, 0.6, 1.2]), name, argument
        faulty = FAULTY if recording else FAULTY_ELSE
        if dice.random() < faulty and len(self.to_mend) < 3:
            return wait, *self._fault()
        name = _chosen(dice, PERSON[self._state()])
        argument = dice.choice(list(PROGRAMMES)) if name == "programme" else None
        if name == "wait":
            wait = dice.choice([1.0, 2.0, 3.2])
        return wait, name, argument

    def _fault(self) -> tuple[str, object]:
        name = _chosen(self.dice, FAULTS)
        argument: object = self.dice.choice(["A1", "A1", "A2"]) if name in OF_A_DEVICE else None
        if name == "lock":
            argument = self.dice.choice(["orders", "runs", "blocks", "sign", "stops"])
        if mend := MENDS.get(name):
            self.to_mend.append((0.0, mend, argument if mend in OF_A_DEVICE else None))
        return name, argument

    def _state(self) -> str:
        process = self.stage.process
        if process is None:
            return "none"
        context = process.recorder.context
        if context.actuators.permits.latch:
            return "latched"
        if context.phase in (Phase.ARMING, Phase.BEGINNING, Phase.TAKING_UP):
            return "beginning"
        if context.phase in (Phase.RECORDING, Phase.CLOSING):
            return "recording"
        if context.phase is not Phase.IDLE:
            return "measuring"
        return "idle" if abs(self.stage.frame.position_m) < 5e-5 else "away"

    # What a person does

    def _wait(self) -> None: ...

    def _start(self) -> None:
        self.stage.start_order()

    def _start_without_pull(self) -> None:
        self.stage.start_order(pull=False)

    def _dry_start(self) -> None:
        self.stage.start_order(is_dry=True)

    def _late_start(self) -> None:
        """Its request came in a second ago: somebody's lock held it up; a stop came meanwhile."""
        requested_at = self.stage.server.utc()
        self._stop()
        self.pass_time(0.5)
        revision = self.stage.revision()
        self.stage.order_as_of(requested_at, "start", revision=revision, pull=True, operator=None)

    def _start_and_lose_device(self) -> None:
        self.stage.start_order()
        self.pass_time(random.Random(self.played).choice([0.0, 0.01, 0.03]))
        self._device("A2").restart()

    def _measure_and_lose_device(self) -> None:
        self._measure()
        self.pass_time(0.1)
        self._device("A2").restart()
        self.pass_time(0.9)

    def _shunt_and_stop(self) -> None:
        self._shunt()
        self.pass_time(random.Random(self.played).choice([0.5, 1.0, 1.4, 1.8]))
        self._stop()
        self.pass_time(1.5)

    def _late_return(self) -> None:
        requested_at = self.stage.server.utc()
        self._stop()
        self.pass_time(0.5)
        self.stage.order_as_of(requested_at, "return")

    def _slow_return_and_stop(self) -> None:
        """The stop comes while the return waits for an actuator that answers late."""
        self.stage.frame.answers_s = 0.5
        self.pass_time(0.3)
        self.stage.order("return")
        self.pass_time(0.15)
        self._emergency()
        self.to_mend.append((0.0, "mend frame", None))

    def _stalled_order(self) -> None:
        """The recorder was held up until the order was past."""
        with self._stalled():
            self.stage.order("return", seconds=0.5)
            self.pass_time(1.2)

    def _stall(self) -> None:
        with self._stalled():
            self.pass_time(2.8)

    def _stall_and_stop(self) -> None:
        with self._stalled():
            self._stop()
            self.pass_time(1.3)

    @contextmanager
    def _stalled(self) -> Iterator[None]:
        """Nothing is worked through, as on a computer that is very busy."""
        process = self.stage.process
        if process:
            process.hung = True
        yield
        if process:
            process.hung = False

    def _refused_stop(self) -> None:
        self.stage.frame.refuses_stop = True
        self._stop()
        self.pass_time(2.8)
        self.to_mend.append((0.0, "mend frame", None))

    def _brief_start(self) -> None:
        """Its time is over before the database has answered that the run begins."""
        seconds = random.Random(self.played).choice([0.8, 1.0, 1.2, 1.5, 1.8])
        self.stage.start_order(seconds=seconds)
        self.stage.server.slow_s = 0.12
        self.pass_time(2.5)
        self._database_back()

    def _long_read_only(self) -> None:
        self.stage.server.read_only = True
        self.pass_time(12.0)
        self._database_back()

    def _end_and_crash(self) -> None:
        """Killed in the tail that is recorded after what ends the run."""
        self._break()
        self.pass_time(0.6)
        self._crash()
        self.to_mend.append((0.0, "begin anew", None))

    def _lose_and_stop(self) -> None:
        """The run ends while later blocks wait for one that was lost."""
        device = self._device("A2")
        device.losing, device.deaf = 1, True
        self.pass_time(0.7)
        self._stop()
        self.to_mend.append((0.0, "mend", "A2"))

    def _another_moves_it(self) -> None:
        """It is told at its own panel to do something else."""
        self.stage.frame.motion_id = "somebody else"

    def _start_and_stop(self) -> None:
        """Both at once, or nearly."""
        self.stage.start_order()
        self.pass_time(random.Random(self.seed).choice([0.0, 0.02, 0.05, 0.1, 0.3]))
        self._emergency()

    def _stop(self, *, emergency: bool = False) -> None:
        """Without a database the person is told that nobody has heard it."""
        key = self.stage.stop(emergency=emergency)
        if not self.stage.server.away:
            self.rules.gave_stop(key)

    def _stop_and_leave(self) -> None:
        """Told once and written down; who gave it cannot tell it again."""
        self.stage.server.cut_connections()
        self.stage.stop(life_s=0.0)

    def _emergency(self) -> None:
        self._stop(emergency=True)

    def _release(self) -> None:
        self.stage.order("release")

    def _return(self) -> None:
        self.stage.order("return")

    def _of_run(self, kind: str, **more: object) -> None:
        runs = list(self.stage.server.runs)
        self.stage.order(kind, run=runs[-1] if runs else 1, operator=None, **more)

    def _pause(self) -> None:
        self._of_run("pause")

    def _go_on(self) -> None:
        self._of_run("go_on")

    def _hold(self) -> None:
        self._of_run("hold")

    def _skip(self) -> None:
        self._of_run("skip")

    def _unload(self) -> None:
        self._of_run("unload")

    def _mark(self) -> None:
        self._of_run("mark", text="heard something")

    def _measure(self) -> None:
        self.stage.order("measure", channels=CHANNELS)

    def _shunt(self) -> None:
        self.stage.order("shunt", channels=CHANNELS)

    def _check(self) -> None:
        self.stage.order("check", channels=CHANNELS)

    def _programme(self, name: str) -> None:
        motion, stops, *more = PROGRAMMES[name]
        if more and more[0] == [HOLDS] and self.seed % 3 == 0:
            more[0] = [UNLOADS]
        self.stage.programme(motion, stops, *more)

    def _break(self) -> None:
        """What is pulled at parts: there is no force any more."""
        self.stage.force = 0.0
        self.to_mend.append((0.0, "show force", None))

    def _break_and_wait(self) -> None:
        self._break()
        self.pass_time(4.5)

    def _late_and_wait(self) -> None:
        """Samples come, and are old."""
        self._late_samples("A1")
        self.pass_time(4.0)
        self._mend("A1")

    def _blind_and_wait(self) -> None:
        """Nothing can be seen in the force any more."""
        if random.Random(self.played).random() < 0.5:
            self._hide_force()
        else:
            self.stage.devices["A1"].flat = True
        self.pass_time(4.5)
        self._show_force()
        self.stage.devices["A1"].flat = False

    # What goes wrong

    def _device(self, label: object) -> Any:
        device = self.stage.devices[str(label)]
        device.trouble()
        return device

    def _lose_blocks(self, label: str) -> None:
        self._device(label).losing += 2

    def _lose_many_blocks(self, label: str) -> None:
        self._device(label).losing += 12

    def _delay_blocks(self, label: str) -> None:
        self._device(label).delaying += 3

    def _double_blocks(self, label: str) -> None:
        self._device(label).doubling += 3

    def _deaf(self, label: str) -> None:
        self._device(label).deaf = True

    def _late_samples(self, label: str) -> None:
        device = self._device(label)
        device.late_s, device.was_late = 1.6, True

    def _flat(self, label: str) -> None:
        self._device(label).flat = True

    def _hide_force(self) -> None:
        self.stage.force = HIDDEN_N

    def _show_force(self) -> None:
        self.stage.force = None

    def _cut(self, label: str) -> None:
        self._device(label).reachable = False

    def _mend(self, label: str) -> None:
        device = self._device(label)
        device.reachable, device.deaf, device.flat, device.late_s = True, False, False, 0.0

    def _switch_device_off_and_on(self, label: str) -> None:
        self._device(label).restart()

    def _begin_acquisition_anew(self, label: str) -> None:
        self._device(label).begin_anew()

    def _put_clock(self, label: str) -> None:
        by_ns = random.Random(self.played).choice([2, -2, 7]) * 10**9
        self.stage.devices[label].offset_ns += by_ns
        self.stage.devices[label].was_put = True

    def _lose_and_put_clock(self, label: str) -> None:
        """The lost block comes again when its clock is no longer that of today."""
        self._device(label).losing = 1
        self.pass_time(0.25)
        self._put_clock(label)

    def _cut_frame(self) -> None:
        self.stage.frame.reachable = False

    def _slow_frame(self) -> None:
        self.stage.frame.late_s = 0.5

    def _frame_refuses(self) -> None:
        self.stage.frame.refuses_stop = True

    def _frame_lies(self) -> None:
        self.stage.frame.lies = True

    def _frame_nan(self) -> None:
        self.stage.frame.nan = True

    def _frame_mute(self) -> None:
        self.stage.frame.mute = True

    def _foreign_host(self) -> None:
        frame = self.stage.frame
        frame.foreign, frame.host = True, "another"
        frame._hold("its host left")

    def _mend_frame(self) -> None:
        frame = self.stage.frame
        frame.reachable, frame.late_s, frame.answers_s = True, 0.0, 0.0
        frame.refuses_stop = frame.lies = frame.nan = frame.mute = False
        if frame.foreign:
            frame.foreign, frame.host = False, None

    def _database_away(self) -> None:
        self.stage.server.away = True
        self.stage.server.cut_connections()

    def _hang(self) -> None:
        self.stage.server.hanging = True

    def _read_only(self) -> None:
        self.stage.server.read_only = True

    def _full(self) -> None:
        self.stage.server.full = True

    def _slow(self) -> None:
        self.stage.server.slow_s = 0.05

    def _stall_flush(self) -> None:
        self.stage.server.stalled_flush = True

    def _keep_dead_sessions(self) -> None:
        self.stage.server.keeps_dead_sessions = True

    def _database_back(self) -> None:
        server = self.stage.server
        server.away = server.hanging = server.read_only = server.full = False
        server.stalled_flush = server.keeps_dead_sessions = False
        server.slow_s = 0.0

    def _lose_answers(self) -> None:
        self.stage.server.lose_answers += 1

    def _database_crash(self) -> None:
        self.stage.server.crash()

    def _two_crashes(self) -> None:
        """The second takes what was written again after the first."""
        self.stage.server.crash()
        self.pass_time(0.8)
        self.stage.server.crash()

    def _cut_connections(self) -> None:
        self.stage.server.cut_connections()

    def _lock(self, what: str) -> None:
        server, until = self.stage.server, self.stage.clock.now + 2.0
        names = {"orders": [f"order {k}" for k in server.orders]}
        names["runs"] = [f"run {k}" for k in server.runs]
        for name in names.get(what, [what]):
            server.locked_until[name] = until

    def _database_clock(self) -> None:
        self.stage.server.clock_offset_s += 8.0

    def _refuse_run(self) -> None:
        self.stage.server.refused_runs |= set(self.stage.server.open_runs())

    def _damage_run(self) -> None:
        """What was stored of the open run cannot be read by who takes it up."""
        self.stage.server.damaged_runs |= set(self.stage.server.open_runs())
        self._crash()
        self.to_mend.append((0.0, "begin anew", None))

    def _crash(self) -> None:
        self.stage.crash()

    def _begin_anew(self) -> None:
        self.stage.start()

    def _another_recorder(self) -> None:
        if not self.stage.others:
            self.stage.start_another()

    def _hang_recorder(self) -> None:
        if self.stage.process:
            self.stage.process.hung = True

    # The end

    def heal_and_end(self) -> None:
        """All faults mended, the run stopped: everything must come to an end, and be there."""
        stage = self.stage
        self._database_back()
        self._mend_frame()
        self._show_force()
        stage.server.lose_answers = 0
        stage.server.locked_until.clear()
        for device in stage.devices.values():
            self._mend(device.label)
            device.losing = device.delaying = device.doubling = 0
        for other in list(stage.others):
            stage.end(other)
        if stage.process and stage.process.hung:
            stage.crash()
        stage.start()
        self.pass_time(0.4)
        self.until(self._is_settled, 12.0)
        self._stop()
        self.until(self._has_ended, 3.0)
        self.rules.check_end()
        self._the_bench_works()

    def until(self, condition: Callable[[], bool], seconds: float) -> None:
        """Let time pass until it is so, or so long."""
        until = self.stage.clock.now + seconds
        while self.stage.clock.now < until and not condition():
            self.pass_time(0.1)

    def _is_settled(self) -> bool:
        """The recorder does what it does with all its devices there, and is not behind."""
        process = self.stage.process
        open_orders = (OrderState.WAITING, OrderState.CLAIMED)
        if any(o.state in open_orders for o in self.stage.server.orders.values()):
            return False
        if process is None or not process.writer.idle:
            return False
        context = process.recorder.context
        lines = [d for d in context.devices.values() if d.usable and d.line.age_s < 1.0]
        steady = context.phase in (Phase.IDLE, Phase.RECORDING)
        complete = len(lines) == len(self.stage.devices)
        return steady and complete and self.stage.frame.host is not None

    def _has_ended(self) -> bool:
        """All stops are told and confirmed, and nothing goes on any more."""
        process = self.stage.process
        rows = self.stage.server.stops.values()
        stops = not self.stage.being_told and all(row.confirmed for row in rows)
        idle = process is not None and process.recorder.context.phase is Phase.IDLE
        return stops and idle and process.writer.idle and not self.stage.frame.is_pulling

    def _the_bench_works(self) -> None:
        """A bench on which nothing can be started breaks a rule."""
        permits = self.stage.recorder.context.actuators.permits
        if permits.latch:
            self.stage.order("release")
            self.until(lambda: permits.latch is None, 1.0)
        self.pass_time(0.1)
        if not self._is_home():
            home = self.stage.order("return")
            self.until(lambda: self.stage.server.orders[home].state == OrderState.DONE, 3.0)
            self.until(self._is_home, 5.0)
        self.stage.programme(*PROGRAMMES["load"])
        key = self.stage.start_order()
        order, frame = self.stage.server.orders[key], self.stage.frame
        self.until(lambda: order.state == OrderState.DONE and frame.is_pulling, 8.0)
        if order.state != OrderState.DONE or not self.stage.frame.is_pulling:
            raise Broken(f"nothing can be started any more: {order.state} {order.answer}")
        self._stop()
        self.until(self._has_ended, 2.0)
        self.rules.check_end()

    def _is_home(self) -> bool:
        """It is, and the recorder has seen it."""
        actuators = self.stage.recorder.context.actuators
        main = actuators.main
        if main is None or main.state is None or main.state.moving:
            return False
        return main.is_home and not actuators.permits.moving


def _chosen(dice: random.Random, weights: dict[str, int]) -> str:
    return dice.choices(list(weights), list(weights.values()))[0]


def failure(course: list[Action], seed: int = 0) -> str:
    """Why a course breaks a rule; empty if it does not."""
    return _played(lambda player: player.play(course), seed)[0]


def _played(play: Any, seed: int) -> tuple[str, Player]:
    often = random.Random(seed).choice(WRITE_KEPT_S)
    small = patch.object(envelopes, "ROW_PAIRS", SMALL_ROWS)
    with small, patch.object(Keeping, "checkpoint_s", often):
        player = Player(seed)
        try:
            play(player)
        except Exception as broken:  # a fault of ours breaks a rule too
            return f"{type(broken).__name__}: {broken}", player
    return "", player


def drawn(seed: int) -> tuple[str, Player]:
    """Why the course of a seed breaks a rule; and its player, with the course as it was drawn."""
    return _played(Player.draw, seed)


def shrunk(course: list[Action], seed: int) -> list[Action]:
    """The same failure with as little as possible."""
    size, why = len(course) // 2, failure(course, seed)[:40]
    while size:
        at = 0
        while at < len(course):
            fewer = course[:at] + course[at + size :]
            if failure(fewer, seed)[:40] == why:
                course = fewer
            else:
                at += size
        size //= 2
    return course


def failures(
    seeds: range, coverage: "Coverage | None" = None
) -> Iterator[tuple[int, str, list[Action]]]:
    """(seed, why, shrunk course) of each that breaks a rule; all are added to ``coverage``."""
    for seed in seeds:
        why, player = drawn(seed)
        if coverage:
            coverage.add(player)
        if why:
            course = player.course
            small = shrunk(course, seed) if failure(course, seed) else course
            yield seed, failure(small, seed) or why, small
