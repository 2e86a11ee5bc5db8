"""The port of one device, with drivers that fail in their own ways."""

import itertools
import queue
import threading
import time

import pytest
from yoke_core.timebase.clock import ClockReading
from yoke_server.bench.drivers.base import DriverError, Housekeeping, Identity
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.ports.device_port import MAX_WAIT, DevicePort

from tests.recorded import block


class Driver:
    """Links, and fails with ``error`` once it is told to send samples, or to be set."""

    def __init__(self, error):
        self.error = error
        self.told = queue.SimpleQueue()

    def connect(self):
        return Identity("model", "1", "1", "passed")

    def close(self): ...
    def take_control(self, host): ...

    def housekeeping(self):
        return Housekeeping()

    def read_clock(self, now_ns):
        return ClockReading(0, now_ns(), 1)

    def configure(self, inputs, rate_hz):
        self.told.put(None)
        raise self.error

    def blocks(self):
        self.told.get(timeout=10)
        raise self.error
        yield


def test_a_driver_that_fails_is_tried_again_and_its_orders_are_answered():
    for error, words in [
        (DriverError("the cable is out."), "the cable is out."),
        (AttributeError("None has no recv"), "its driver failed"),
    ]:
        heard = queue.SimpleQueue()
        port = DevicePort(
            "A1", "here", lambda e=error: Driver(e), SystemClock(), heard.put, heard.put
        )
        port.start()
        try:

            def heard_next(kind, heard=heard):
                while not isinstance(event := heard.get(timeout=10), kind):
                    pass
                return event

            for _ in range(2):  # and once more after it was lost
                heard_next(events.Linked)
                port.configure("setup", [], 10.0)
                found = [heard_next((events.Configured, events.Lost)) for _ in range(2)]
                assert all(words in getattr(e, "problem", getattr(e, "why", "")) for e in found)
        finally:
            port.finish()


class Sending(Driver):
    """Has so many blocks ready, then one a tenth of a second."""

    def __init__(self, ready):
        super().__init__(None)
        self.left = ready

    def blocks(self):
        for i in itertools.count():
            if self.left:
                self.left -= 1
            else:
                time.sleep(0.1)
            yield block(i, rate=1000.0)

    def more(self):
        return self.left > 0


def test_samples_that_nobody_heeds_are_read_together_and_at_once_when_they_are_wanted():
    heard, arrived = queue.SimpleQueue(), queue.SimpleQueue()
    port = DevicePort("A1", "here", lambda: Sending(5), SystemClock(), heard.put, arrived.put)
    port.set_streaming(False)
    port.start()
    try:
        found = [arrived.get(timeout=10) for _ in range(5)]  # what waits is read in one go
        with pytest.raises(queue.Empty):
            arrived.get(timeout=0.5)
        begun = time.monotonic()
        port.configure("setup", [], 1000.0)  # a device that is set is read at once
        found += [arrived.get(timeout=10) for _ in range(4)]
        assert time.monotonic() - begun < MAX_WAIT
        assert [e.block.sequence for e in found] == list(range(9))
    finally:
        port.finish()


class Slow(queue.SimpleQueue):
    """Takes its time to take an order in; the link breaks meanwhile."""

    def __init__(self):
        super().__init__()
        self.coming = threading.Event()

    def put(self, item):
        if item is not None:
            self.coming.set()
            time.sleep(0.5)
        super().put(item)


class Breaking(Driver):
    """Its link breaks when an order is on its way to it; what is told to each is noted."""

    def __init__(self, coming, told):
        super().__init__(None)
        self.coming, self.told_here = coming, []
        told.append(self.told_here)

    def blocks(self):
        self.coming.wait(10)
        raise DriverError("the cable is out.")
        yield

    def set_shunt(self, inputs, on):
        self.told_here.append(on)

    def shunt_ohm(self, number):
        return 59e3


def test_an_order_that_comes_as_the_link_breaks_is_answered_and_not_carried_out_on_the_next():
    heard, told, slow = queue.SimpleQueue(), [], Slow()
    port = DevicePort(
        "A1", "here", lambda: Breaking(slow.coming, told), SystemClock(), heard.put, heard.put
    )
    port._actions = slow
    port.start()
    try:
        links, answers = 0, []
        while links < 3:
            event = heard.get(timeout=10)
            if isinstance(event, events.Linked):
                links += 1
                if links == 1:
                    port.set_shunt("order", [1], True)
            elif isinstance(event, events.ShuntSet):
                answers.append(event.problem)
    finally:
        port.finish()
    assert len(answers) == 1
    assert told[1:] == [[], []]
