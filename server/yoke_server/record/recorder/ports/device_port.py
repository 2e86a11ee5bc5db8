"""The port of one device: a thread that reads its samples, and one that gives it orders.

Reading never waits for an order and no order for the runner; whatever happens is put out as
an event. A block is handed on by the thread that read it. A lost link is tried again for ever.
"""

import queue
import threading
from collections.abc import Callable
from contextlib import suppress

from yoke_server.bench.drivers.base import (
    AcquiringDriver,
    AcquisitionStatus,
    AddressUnknown,
    ControlRefused,
    DriverError,
    InputSettings,
    LinkBroken,
    SampleBlock,
)
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import (
    Arrived,
    ClockRead,
    CommandFinished,
    Configured,
    Event,
    HousekeepingRead,
    Linked,
    Lost,
    Probed,
    ShuntSet,
    StatusRead,
)
from yoke_server.record.recorder.ports.faults import why_lost

RETRY = 1.0  # s between tries to connect
SLOW_RETRY = 30.0  # s, to an address that is none
POLL = 1.0  # s between readings of the device's clock, which also keep its control
HOUSEKEEPING = 60.0  # s between readings of how the device is
FIRST_READINGS = 3
AT_ONCE = 1 << 16  # bytes of samples that nobody heeds, which may wait to be read together
MAX_WAIT = 1.0  # s that they wait
DeviceAction = Callable[[AcquiringDriver], Event | None]
DeviceCommand = Callable[[AcquiringDriver], dict[str, object]]


class DevicePort:
    """``make`` gives a fresh driver for each try; ``emit`` takes events from any thread.

    ``deliver`` takes blocks, and may work them through before it comes back.
    """

    def __init__(
        self,
        label: str,
        host_name: str,
        make: Callable[[], AcquiringDriver],
        clock: Clock,
        emit: Callable[[Event], None],
        deliver: Callable[[Arrived], None],
    ) -> None:
        self.label = label
        self._host_name = host_name
        self._make = make
        self._clock = clock
        self._emit = emit
        self._deliver = deliver
        self._ending = threading.Event()
        self._heeded = threading.Event()
        self._heeded.set()
        self._driver: AcquiringDriver | None = None
        self._actions: queue.SimpleQueue[tuple[DeviceAction, Callable[[str], Event | None]] | None]
        self._actions = queue.SimpleQueue()
        self._linking = threading.Lock()  # orders are put and dropped by one at a time
        self._linked = False
        self._other = ""  # who controls the device instead
        self._retry = RETRY
        self._housekeeping_due = 0.0
        self._thread = threading.Thread(target=self._run, name=f"port-{label}", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def finish(self) -> None:
        """End both threads; the device keeps what it keeps."""
        self._ending.set()
        self._heeded.set()
        self._actions.put(None)
        if self._driver:
            self._driver.close()

    def set_streaming(self, yes: bool) -> None:
        """Whether samples are wanted as they come; else they are read some at a time."""
        if yes or self._ending.is_set():
            self._heeded.set()
        else:
            self._heeded.clear()

    # What the runner asks for; answers come as events

    def configure(self, token: str, settings: list[InputSettings], rate_hz: float) -> None:
        """Bring settings in force and read them back; shunts are off then."""
        self.set_streaming(True)

        def action(driver: AcquiringDriver) -> Event:
            return self._configured(token, driver.configure(settings, rate_hz))

        self._order(action, lambda why: Configured(self.label, token, None, why))

    def _configured(self, token: str, status: AcquisitionStatus) -> Event:
        return Configured(self.label, token, status)

    def read_status(self, token: str) -> None:
        """Have the device say where in what it samples it is."""

        def action(driver: AcquiringDriver) -> Event:
            return StatusRead(self.label, token, driver.status())

        self._order(action, lambda why: StatusRead(self.label, token, None, why))

    def set_shunt(self, token: str, inputs: list[int], on: bool) -> None:
        def action(driver: AcquiringDriver) -> Event:
            driver.set_shunt(inputs, on)
            ohm = driver.shunt_ohm(inputs[0])
            return ShuntSet(self.label, token, on, ohm, since=driver.status())

        self._order(action, lambda why: ShuntSet(self.label, token, on, problem=why))

    def probe(self, token: str, inputs: list[int]) -> None:
        """Have the checking circuit read the pins of some inputs."""

        def action(driver: AcquiringDriver) -> Event:
            probes = driver.probe(inputs)
            return Probed(self.label, token, probes, since=driver.status())

        self._order(action, lambda why: Probed(self.label, token, {}, why))

    def tell(self, token: str, what: DeviceCommand) -> None:
        """Something beside its measuring; ``what`` gives the answer."""

        def action(driver: AcquiringDriver) -> Event:
            return CommandFinished(self.label, token, what(driver))

        self._order(action, lambda why: CommandFinished(self.label, token, {}, why))

    def send_again(self, first: int, last: int) -> None:
        def action(driver: AcquiringDriver) -> None:
            driver.send_again(first, last)

        self._order(action, lambda why: None)

    def _order(self, action: DeviceAction, failed: Callable[[str], Event | None]) -> None:
        with self._linking:
            if self._linked:
                self._actions.put((action, failed))
                return
        if event := failed("the device is not linked."):
            self._emit(event)

    # The reading thread

    def _run(self) -> None:
        while not self._ending.is_set():
            self._retry = RETRY
            self._once()
            self._ending.wait(self._retry)

    def _once(self) -> None:
        """One connection, from its beginning to its end."""
        worker: threading.Thread | None = None
        try:
            driver = self._driver = self._make()
        except DriverError as error:
            self._emit(Lost(self.label, str(error)))
            return
        try:
            self._link(driver)
            worker = threading.Thread(target=self._give_orders, args=(driver,), daemon=True)
            worker.start()
            for block in driver.blocks():
                self._deliver(Arrived(self.label, block))
                if self._ending.is_set():
                    return
                if not self._heeded.is_set() and not driver.more():
                    self._heeded.wait(_rest(block))
        except Exception as error:  # whatever a driver does, the device is tried again
            if isinstance(error, AddressUnknown):
                self._retry = SLOW_RETRY
            if not self._ending.is_set():
                self._emit(Lost(self.label, why_lost(error, self.label)))
        finally:
            with self._linking:
                self._linked = False  # whatever is ordered from now on is refused
            driver.close()
            if worker:
                self._actions.put(None)
                worker.join(timeout=5)
            self._drop_actions()

    def _link(self, driver: AcquiringDriver) -> None:
        self._identity = driver.connect()
        self._take_control(driver)
        for _ in range(FIRST_READINGS):
            self._emit(self._read_clock(driver))
        self._linked = True
        self._emit(Linked(self.label, self._identity, self._other))
        self._emit(self._read_housekeeping(driver))

    def _take_control(self, driver: AcquiringDriver) -> None:
        try:
            driver.take_control(self._host_name)
            self._other = ""
        except ControlRefused as refused:
            self._other = str(refused)

    # The ordering thread

    def _give_orders(self, driver: AcquiringDriver) -> None:
        """Until None; the clock is read whenever there is nothing else to do."""
        while True:
            try:
                item = self._actions.get(timeout=POLL)
            except queue.Empty:
                item = (self._poll, lambda why: None)
            if item is None:
                return
            action, failed = item
            try:
                event = action(driver)
            except Exception as error:  # an order is always answered
                event = failed(why_lost(error, self.label))
                if isinstance(error, LinkBroken):  # whoever reads samples is to link anew
                    driver.close()
            if event:
                self._emit(event)

    def _poll(self, driver: AcquiringDriver) -> Event:
        """Compare clocks; and ask for control again, should another host have had it."""
        if self._other:
            self._take_control(driver)
            if not self._other:
                return Linked(self.label, self._identity, "")
        if self._clock.monotonic() >= self._housekeeping_due:
            return self._read_housekeeping(driver)
        return self._read_clock(driver)

    def _read_housekeeping(self, driver: AcquiringDriver) -> Event:
        self._housekeeping_due = self._clock.monotonic() + HOUSEKEEPING
        return HousekeepingRead(self.label, driver.housekeeping())

    def _read_clock(self, driver: AcquiringDriver) -> Event:
        return ClockRead(self.label, driver.read_clock(self._clock.bench_ns))

    def _drop_actions(self) -> None:
        with suppress(queue.Empty):
            while True:
                item = self._actions.get_nowait()
                if item and (event := item[1]("the link to the device broke.")):
                    self._emit(event)


def _rest(block: SampleBlock) -> float:
    """s until samples at this block's rate are worth reading."""
    return min(MAX_WAIT, AT_ONCE / (block.counts.nbytes / block.samples * block.rate_hz))
