"""The link to one amplifier: connects, reads in a thread, connects again when it is lost."""

import logging
import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass

from yoke_server.bench.drivers.base import AmplifierDriver, DriverError, Identity, SampleBlock

log = logging.getLogger(__name__)

RETRY = 1.0  # s


@dataclass(frozen=True, slots=True)
class LinkUp:
    driver: AmplifierDriver
    identity: Identity


@dataclass(frozen=True, slots=True)
class LinkDown:
    why: str


Event = LinkUp | LinkDown | SampleBlock


class AmplifierLink(threading.Thread):
    """Puts events into ``inbox``; ``make`` gives a fresh driver for each try."""

    def __init__(
        self, make: Callable[[], AmplifierDriver], inbox: "queue.SimpleQueue[object]"
    ) -> None:
        super().__init__(name="amplifier", daemon=True)
        self._make = make
        self._inbox = inbox
        self._ending = threading.Event()
        self._driver: AmplifierDriver | None = None

    def finish(self) -> None:
        self._ending.set()
        if self._driver:
            self._driver.close()

    def run(self) -> None:
        while not self._ending.is_set():
            driver = self._driver = self._make()
            try:
                identity = driver.connect()
                self._inbox.put(LinkUp(driver, identity))
                for block in driver.blocks():
                    self._inbox.put(block)
            except (DriverError, OSError) as error:
                if not self._ending.is_set():
                    self._inbox.put(LinkDown(str(error)))
            finally:
                driver.close()
            self._ending.wait(RETRY)
