"""The hand on an actuator: signs of life before the motion shows, a driver that fails."""

import time

from yoke_server.bench.drivers.base import FrameState
from yoke_server.bench.drivers.load_frame import HEARTBEAT
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.model.events import (
    ActuatorCommandFinished,
    ActuatorLost,
    ActuatorState,
)
from yoke_server.record.recorder.ports.actuator_port import ActuatorPort
from yoke_server.record.recorder.ports.faults import OUR_FAULT

from tests.processes import wait_for

BEGINS_AFTER = 0.15  # s; longer than the look that follows the order


class SlowToBegin:
    """Holds by itself when no word came for longer than its heartbeat while it was to move."""

    ordered = heard = 0.0
    held = False

    def connect(self):
        return None

    def take_control(self, host):
        pass

    def close(self):
        pass

    def stop(self):
        self.ordered = 0.0

    def ramp(self):
        self.ordered = self.heard = time.monotonic()

    def state(self):
        now = time.monotonic()
        self.held |= bool(self.ordered) and now - self.heard > HEARTBEAT
        self.heard = now
        moves = self.ordered and now - self.ordered > BEGINS_AFTER
        return FrameState("RAMP" if moves else "HOLD", 0.0)


def test_a_motion_that_begins_late_is_not_left_without_signs_of_life():
    frame, seen = SlowToBegin(), []
    port = ActuatorPort("test", lambda: frame, SystemClock(), seen.append)
    port.start()
    port.move("order", lambda driver: driver.ramp())
    until = time.monotonic() + 2 * HEARTBEAT
    while time.monotonic() < until:
        port.alive()
        time.sleep(0.05)
    moving = any(getattr(e, "state", None) and e.state.moving for e in seen)
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
    frame, seen = FaultyDriver(), []
    port = ActuatorPort("test", lambda: frame, SystemClock(), seen.append)
    port.start()

    def watched(kind):
        port.alive()
        return [e for e in seen if isinstance(e, kind)]

    wait_for(lambda: watched(ActuatorLost), "the fault", 20)
    port.home("home")
    wait_for(lambda: watched(ActuatorCommandFinished), "an answer", 20)
    port.stop("stop")
    wait_for(lambda: len(watched(ActuatorCommandFinished)) == 2, "an answer", 20)
    assert [(e.token, e.problem) for e in watched(ActuatorCommandFinished)] == [
        ("home", OUR_FAULT),
        ("stop", ""),
    ]
    frame.repaired = True
    wait_for(lambda: watched(ActuatorState), "it to be seen again", 20)
    port.finish()
