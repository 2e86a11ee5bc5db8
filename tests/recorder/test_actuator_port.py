"""The hand on an actuator: signs of life from the order on, also before the motion shows."""

import time

from yoke_server.bench.drivers.base import FrameState
from yoke_server.bench.drivers.load_frame import HEARTBEAT
from yoke_server.record.recorder.actuator_port import ActuatorPort
from yoke_server.record.recorder.clock import SystemClock

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
