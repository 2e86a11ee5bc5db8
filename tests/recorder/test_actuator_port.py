"""The hand on an actuator: it moves only under a permit that holds, and stops come first."""

import time

import pytest
from yoke_server.bench.drivers.base import ControlRefused, FrameState, Refusal
from yoke_server.bench.drivers.load_frame import HEARTBEAT
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.model.events import (
    ActuatorCommandFinished,
    ActuatorLost,
    ActuatorState,
)
from yoke_server.record.recorder.model.permit import Permit
from yoke_server.record.recorder.ports.actuator_port import SILENT, ActuatorPort
from yoke_server.record.recorder.ports.faults import OUR_FAULT

from tests.processes import wait_for
from tests.simulation.virtual import VirtualClock

BEGINS_AFTER = 0.15  # s; longer than the look that follows the order


class Driver:
    """An actuator that notes what it is told."""

    def __init__(self, notes):
        self.notes = notes
        self.moves = ""
        self.refuses = self.foreign = False

    def connect(self):
        self.notes.append("connect")

    def take_control(self, host):
        if self.foreign:
            raise ControlRefused("somebody else controls it.")

    def close(self):
        self.notes.append("close")

    def stop(self):
        self.notes.append("stop")
        if self.refuses:
            raise Refusal("it is busy.")
        self.moves = ""

    def begin(self, name):
        self.notes.append(f"begin {name}")
        self.moves = name

    def state(self):
        self.notes.append("state")
        return FrameState("RAMP" if self.moves else "HOLD", 0.0, "", self.moves)


class Hand:
    """A port that the test turns, on a clock of its own."""

    def __init__(self):
        self.clock, self.notes, self.seen = VirtualClock(), [], []
        self.driver = Driver(self.notes)
        self.port = ActuatorPort(
            "frame", "a test", lambda: self.driver, self.clock, self.seen.append
        )

    def step(self, seconds=0.0):
        """What it says to the actuator in its next turn."""
        self.clock.now += seconds
        self.notes.clear()
        self.port.step()
        return list(self.notes)

    def permit(self, name="pull"):
        return Permit(name, self.clock.now)

    def begin(self, permit):
        self.port.begin(permit, lambda driver: driver.begin(permit.motion_id))

    def answers(self):
        found = [e for e in self.seen if isinstance(e, ActuatorCommandFinished)]
        return [(e.action, e.token, e.problem) for e in found]


@pytest.fixture
def hand():
    return Hand()


def test_without_a_permit_each_look_begins_with_a_stop(hand):
    assert hand.step() == ["connect", "stop", "state"]
    assert hand.step(1.0) == ["stop", "state"]


def test_under_a_permit_it_moves_and_gives_signs_of_life_and_then_it_stands(hand):
    permit = hand.permit()
    hand.begin(permit)
    assert hand.step() == ["connect", "begin pull", "state"]
    assert hand.answers() == [("begin", "pull", "")]
    assert hand.step(0.2) == ["state"]
    permit.renew(hand.clock.now)
    assert hand.step(0.7) == ["state"]
    assert hand.step(0.2) == ["stop", "state"]  # nobody has renewed it
    permit.renew(hand.clock.now)  # too late: it never holds again
    assert hand.step(0.2) == ["stop", "state"]


def test_what_was_revoked_before_its_turn_never_begins(hand):
    permit = hand.permit()
    hand.begin(permit)
    permit.revoke()
    hand.port.stop("a person")
    assert "begin pull" not in hand.step()
    assert hand.answers() == [("begin", "pull", "it was stopped before."), ("stop", "a person", "")]


def test_a_stop_that_is_not_confirmed_is_followed_by_silence_on_a_closed_link(hand):
    permit = hand.permit()
    hand.begin(permit)
    hand.step()
    hand.driver.refuses = True
    permit.revoke()
    assert hand.step() == ["stop", "close"]
    assert hand.step(1.0) == []
    assert hand.step(SILENT) == ["connect", "stop", "close"]
    lost = [e.why for e in hand.seen if isinstance(e, ActuatorLost)]
    assert lost[0] == "it does not confirm its stop: it is busy."


def test_a_person_is_told_that_a_stop_is_not_confirmed(hand):
    hand.step()
    hand.driver.refuses = True
    hand.port.stop("a person")
    hand.step()
    assert hand.answers() == [("stop", "a person", "it is busy.")]


def test_what_another_host_controls_is_left_alone_until_a_person_wants_it_to_stop(hand):
    hand.driver.foreign = True
    assert hand.step() == ["connect", "close"]
    hand.port.stop("a person")
    assert hand.step() == ["connect", "stop", "close"]
    ((_, _, problem),) = hand.answers()
    assert "It confirmed the stop all the same" in problem


def test_a_motion_of_another_name_is_not_permitted(hand):
    permit = hand.permit()
    hand.begin(permit)
    hand.step()
    hand.driver.moves = "nobody's"
    hand.step(0.2)
    assert not permit.holds(hand.clock.now)
    assert hand.step()[0] == "stop"


class SlowToBegin:
    """Holds by itself when no word came for longer than its heartbeat while it was to move."""

    ordered = heard = 0.0
    held = False
    name = ""

    def connect(self):
        return None

    def take_control(self, host):
        pass

    def close(self):
        pass

    def stop(self):
        self.ordered = 0.0

    def ramp(self, name):
        self.ordered = self.heard = time.monotonic()
        self.name = name

    def state(self):
        now = time.monotonic()
        self.held |= bool(self.ordered) and now - self.heard > HEARTBEAT
        self.heard = now
        moves = self.ordered and now - self.ordered > BEGINS_AFTER
        return FrameState("RAMP" if moves else "HOLD", 0.0, "", self.name)


def test_a_motion_that_begins_late_is_not_left_without_signs_of_life():
    frame, seen, clock = SlowToBegin(), [], SystemClock()
    port = ActuatorPort("frame", "test", lambda: frame, clock, seen.append)
    port.start()
    permit = Permit("pull", clock.monotonic())
    port.begin(permit, lambda driver: driver.ramp("pull"))
    until = time.monotonic() + 2 * HEARTBEAT
    while time.monotonic() < until:
        permit.renew(clock.monotonic())
        time.sleep(0.05)
    moving = any(isinstance(e, ActuatorState) and e.state.moving for e in seen)
    port.finish()
    assert moving
    assert not frame.held


class FaultyDriver(SlowToBegin):
    """Fails in a way of its own until it is repaired: answers that it cannot read."""

    repaired = False

    def state(self):
        return super().state() if self.repaired else FrameState(**{"no": "state"})

    def go_home(self):
        raise KeyError("speed")


def test_a_driver_that_fails_is_tried_again_and_its_orders_are_answered():
    frame, seen, clock = FaultyDriver(), [], SystemClock()
    port = ActuatorPort("frame", "test", lambda: frame, clock, seen.append)
    port.start()

    def seen_of(kind):
        return [e for e in seen if isinstance(e, kind)]

    wait_for(lambda: seen_of(ActuatorLost), "the fault", 20)
    port.begin(Permit("home", clock.monotonic()), lambda driver: driver.go_home())
    wait_for(lambda: seen_of(ActuatorCommandFinished), "an answer", 20)
    port.stop("stop")
    wait_for(lambda: len(seen_of(ActuatorCommandFinished)) == 2, "an answer", 20)
    answers = [(e.token, e.problem) for e in seen_of(ActuatorCommandFinished)]
    assert answers == [("home", OUR_FAULT), ("stop", "")]
    frame.repaired = True
    wait_for(lambda: seen_of(ActuatorState), "it to be seen again", 20)
    port.finish()
