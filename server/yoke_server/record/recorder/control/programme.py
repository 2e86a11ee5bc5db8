"""The programme of a run: its legs one after the other, as long as nobody has it stand.

What moves does so by the order of a person: the one that started the run, or had it go on. A
recorder that restarts knows where it was; what moved stands until a person resumes it.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from math import inf, isnan

from yoke_core.fatigue.cycle_meter import CycleMeter
from yoke_core.streaming.block import BlockSummary

from yoke_server.bench.drivers.base import FrameState
from yoke_server.bench.orders import OrderSpec
from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.watching import LegWatch
from yoke_server.kinds.motions.base import Part
from yoke_server.record.recorder.control.actuators import Actuators, Authority
from yoke_server.record.recorder.model.events import OrderIn
from yoke_server.record.recorder.model.phases import Refused
from yoke_server.record.recorder.model.progress import ProgrammeState
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.watched import WatchedSetup

MAX_JUMPS = 1000  # from leg to leg at one look
ARRIVED = "arrived"
FULL_SIZE = 4  # cycles that count, after which a swing that swells has its size
TRIM_EVERY = 3  # cycles, so that each change is seen before the next one
SLIGHT = 5e-4  # of the range, by which a command that differs is not worth another
RESTARTED = "The recorder began anew"


class ProgrammeRunner:
    """An interpreter over the parts of a motion.

    bench_ns : bench time
    meter : what counts the cycles of the run; None where none are counted
    why_unseen : why nobody sees what moves; empty while somebody does
    keep : stores where the programme is, whenever that changes, with the words for a marker
    end_step : told what a step was, and for how long its end is averaged, s
    """

    def __init__(
        self,
        setup: FrozenSetup,
        actuators: Actuators,
        bench_ns: Callable[[], int],
        meter: Callable[[], CycleMeter | None],
        why_unseen: Callable[[], str],
        keep: Callable[[ProgrammeState, str], None],
        end_step: Callable[[str, float], None],
        state: ProgrammeState | None = None,
    ) -> None:
        self._motion = setup.motion
        self.state = state or ProgrammeState()
        if state and not state.held and not self.is_over:
            self.state = replace(state, held=RESTARTED)
        self.motion_id = ""  # of the motion that it has begun last
        self.stood = ""  # why the actuator stands, where that was not at the end of a leg
        self._watched = WatchedSetup(setup)
        self._watch: LegWatch | None = None  # of the leg that is under way
        self.commanded: tuple[float, float] | None = None  # N, where it holds the swing's size
        self._trim_at = 0  # cycles, from which on the size is looked at again
        self._said: tuple[Part | None, str] = (None, "")  # a leg and what it says
        self._actuators = actuators
        self._bench_ns, self._meter = bench_ns, meter
        self._why_unseen, self._keep, self._end_step = why_unseen, keep, end_step
        self._authority: Authority | None = None
        self._order_key = ""
        self._since_ns = self._arrived_ns = 0
        self._cycles_before = 0
        self._has_arrived = self._is_confirmed = False

    @property
    def parts(self) -> Sequence[Part]:
        """The parts of the motion; up to where a person has it end gently, and that end."""
        parts, end, rate = self._motion.parts, self.state.unloads_at, self._motion.gentle_rate_n_s
        if end is None or rate is None:
            return parts
        return [*parts[:end], ForceLeg(force_n=0.0, rate_n_s=rate)]

    @property
    def is_over(self) -> bool:
        return self.state.leg >= len(self.parts)

    @property
    def part(self) -> Part | None:
        """The leg that is under way, or held."""
        return None if self.is_over else self.parts[self.state.leg]

    @property
    def words(self) -> str:
        """What it does at present."""
        part = self.part
        if part is not self._said[0]:
            self._said = part, part.said(self._watched) if part else ""
        return self._said[1]

    @property
    def round(self) -> int | None:
        """Which round of the nearest repeat around the leg this is, from 1; None outside of all."""
        for place in range(self.state.leg, len(self.parts)):
            first = self.parts[place].back_to(0)
            if first is not None and first <= self.state.leg:
                return self.state.rounds.get(place, 0) + 1
        return None

    @property
    def waits(self) -> bool:
        """Whether it waits for a person: because it is held, or because that is the leg."""
        part = self.part
        confirmed = replace(self.progress, is_confirmed=True)
        asks = part is not None and not part.is_over(self.progress) and part.is_over(confirmed)
        return bool(self.state.held) or asks

    @property
    def progress(self) -> LegProgress:
        """Of the leg that is under way, or held."""
        passed_s, cycles = self.state.passed_s, self.state.cycles
        if not self.state.held and self._since_ns:
            passed_s += (self._bench_ns() - self._since_ns) * 1e-9
            cycles += self._counted - self._cycles_before
        arrived_s = (self._bench_ns() - self._arrived_ns) * 1e-9 if self._has_arrived else 0.0
        is_reached = self._watch is not None and self._watch.reached
        about = (passed_s, cycles, self._has_arrived, self._is_confirmed, arrived_s)
        return LegProgress(*about, self.state.step, is_reached)

    @property
    def watched_device(self) -> str | None:
        """Without whose samples the leg that is under way would not be seen to be over."""
        return self._watch.device if self._watch else None

    def look(self, device: str, block: BlockSummary, follows: bool) -> None:
        """A block, the next of its device; see `LegWatch`."""
        watch = self._watch
        if watch is None or watch.device != device or self.state.held or self.is_over:
            return
        watch.look(block, follows)
        if watch.problem:
            self.hold(f"{watch.problem}, which this leg looks at")
        elif watch.reached:
            self.tick()

    @property
    def _counted(self) -> int:
        meter = self._meter()
        return meter.cycles if meter else 0

    # By a person

    def start(self, order: OrderIn[OrderSpec]) -> None:
        """Begin with the first leg. Raises Refused where it may not."""
        self._take(order)
        self._begin()

    def _take(self, order: OrderIn[OrderSpec]) -> None:
        self._authority = Authority(order.requested_at, order.deadline)
        self._order_key = order.key

    def go_on(self, order: OrderIn[OrderSpec]) -> None:
        """Resume what is held, or say that what a leg waits for is done. Raises Refused."""
        if not self.waits:
            raise Refused("Nothing waits for a person.")
        self._take(order)
        if not self.state.held:
            self._is_confirmed = True
            return
        before, self.state = self.state, replace(self.state, held="")
        try:
            self._begin()
        except Refused:
            self.state = before
            raise

    def skip(self, order: OrderIn[OrderSpec]) -> None:
        """Go to the next leg. Raises Refused."""
        if self.is_over:
            raise Refused("The programme is over.")
        self._take(order)
        self.state = replace(self.state, held="")
        self._enter(self.state.leg + 1)

    def unload(self, order: OrderIn[OrderSpec]) -> None:
        """End gently: to no load at the programme's own rate, then it is over. Raises Refused."""
        if self._motion.gentle_rate_n_s is None:
            raise Refused("This motion has no gentle end.", "Stop it instead.")
        if self.is_over:
            raise Refused("The programme is over.")
        self._take(order)
        self._unload()

    def _unload(self) -> None:
        self.state = replace(
            self.state, held="", passed_s=0.0, cycles=0, step=0, unloads_at=self.state.leg
        )
        self._begin()

    # By itself

    def relieve(self, why: str) -> None:
        """End gently because a guard has tripped, by the word of the person who had it move.

        What cannot, stands; one that is on its way to no load goes on with that.
        """
        able = self._motion.gentle_rate_n_s is not None and self._authority is not None
        if not able or self.is_over or self.waits:
            self.hold(why)
        elif self.state.unloads_at is None:
            try:
                self._unload()
            except Refused as refused:
                self.hold(f"{why}; {refused}")

    def hold(self, why: str) -> None:
        """It stands from now on, and so does the actuator, also one that says it stands already."""
        self._actuators.stop_all()
        if self.is_over or self.state.held:
            return
        now = self.progress
        self.state = replace(self.state, passed_s=now.passed_s, cycles=now.cycles, held=why)
        self._keep(self.state, "")

    def tick(self) -> None:
        """Go to the next leg, where this one is over."""
        if self._was_stopped:
            why = self._actuators.stopped_because or "it was stopped"
            self.hold(f"The actuator stands: {why}")
        for _ in range(MAX_JUMPS):
            part = self.part
            if part is None or self.state.held or self._authority is None:
                return
            if why := part.stuck(self.progress):
                self.hold(why)
                self.state = replace(self.state, passed_s=0.0)
                return
            if not self._moves_on(part):
                return

    def _hold_size(self, part: Part) -> None:
        """Have the actuator swing between other forces, where those that are seen are amiss."""
        meter = self._meter()
        if meter is None or part.levels is None or self._has_arrived or not self.motion_id:
            return
        if self._counted < self._trim_at or isnan(sum(meter.held)):
            return
        before = self.commanded or part.levels
        wanted = part.trimmed(before, meter.held)
        if wanted is None:
            return
        self._trim_at = self._counted + TRIM_EVERY
        if max(abs(a - b) for a, b in zip(wanted, before, strict=True)) > SLIGHT * _range(part):
            self.commanded = wanted
            self._actuators.adjust(self.motion_id, lambda driver: driver.trim(*wanted))

    def _moves_on(self, part: Part) -> bool:
        """Go to the next step or leg, where this one is over."""
        self._hold_size(part)
        progress = self.progress
        is_over, step = part.is_over(progress), part.ends_step(progress)
        if step:
            self._end_step(f"Step {self.state.step + 1}: {step}", part.averaged_s)
        if is_over:
            self._leave(part)
        elif step:
            self._enter(self.state.leg, self.state.step + 1)
        return is_over or bool(step)

    @property
    def _was_stopped(self) -> bool:
        """What was stopped never starts by itself: neither does the leg after it."""
        begun = self.motion_id and not self.state.held
        return bool(begun) and not self._actuators.is_permitted(self.motion_id)

    def refuse(self, problem: str) -> None:
        """The actuator did not take its command."""
        self.hold(f"The actuator did not move: {problem}")

    def look_at_actuator(self, state: FrameState) -> None:
        """One that stands has done its part of the leg; or has been stopped, and the programme
        stands too."""
        if not self.motion_id or state.moving or state.motion_id != self.motion_id:
            return
        if state.cause == ARRIVED:
            if not self._has_arrived:
                self._arrived_ns = self._bench_ns()
            self._has_arrived = True
        elif not self._has_arrived and not self.state.held and not self.is_over:
            self.stood = state.cause
            why = self._actuators.stopped_because or state.cause
            self.hold(f"The actuator stands: {why}")

    # From leg to leg

    def _leave(self, part: Part) -> None:
        if part.ends_moving and not self._has_arrived:
            self.motion_id = ""  # it stands because it is over, and was not stopped
            self._actuators.stop_all()
        place = self.state.leg
        rounds = self.state.rounds.get(place, 0)
        back = part.back_to(rounds)
        counts = {k: v for k, v in self.state.rounds.items() if k != place}
        if back is not None:
            counts[place] = rounds + 1
        self.state = replace(self.state, rounds=counts)
        self._enter(place + 1 if back is None else back)

    def _enter(self, place: int, step: int = 0) -> None:
        passed_s = self.progress.passed_s if step else 0.0
        self.state = replace(self.state, leg=place, passed_s=passed_s, cycles=0, step=step)
        if self.is_over:
            self._keep(self.state, "The programme is over")
            return
        try:
            self._begin()
        except Refused as refused:
            self.hold(str(refused))

    def _begin(self) -> None:
        """The leg, from where it was held."""
        part, authority = self.parts[self.state.leg], self._authority
        assert authority is not None
        self._has_arrived = self._is_confirmed = False
        self.commanded = None
        self._watch = part.watch(self._watched)
        self.stood = ""
        before = LegProgress(self.state.passed_s, self.state.cycles, step=self.state.step)
        if part.needs:
            name = f"{self._order_key}/{self.state.motions}"
            action = part.begin(name, before)
            assert action is not None
            self._actuators.begin_part(authority, part.needs, name, action, self._why_unseen)
            # What follows is begun by the same word of a person, whenever its turn comes.
            self._authority = replace(authority, deadline=inf)
            self.motion_id = name
            self.state = replace(self.state, motions=self.state.motions + 1)
        meter = self._meter()
        if meter and part.levels:
            meter.aim(*part.levels)
        self._since_ns, self._cycles_before = self._bench_ns(), self._counted
        self._trim_at = self._counted + FULL_SIZE
        self._keep(self.state, "")


def _range(part: Part) -> float:
    return part.levels[1] - part.levels[0] if part.levels else 0.0
