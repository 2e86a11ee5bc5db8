"""The thread of a part that speaks to the database: the same for orders, stops, signs of life."""

import logging
import threading
from typing import Protocol

log = logging.getLogger(__name__)

RETRY = 0.5  # s


class Part(Protocol):
    def step(self) -> bool:
        """Do what there is to do; False if the database could not be asked."""
        ...

    def rest(self) -> None:
        """Until there is something to do, or it is time to look."""
        ...

    def wake(self) -> None:
        """End the rest. From any thread."""
        ...

    def close(self) -> None: ...
    def leave(self) -> None:
        """Say what is left to be said, and close."""
        ...


class PartThread(threading.Thread):
    """Runs a part until it is asked to end; restarts it after an unexpected error."""

    def __init__(self, name: str, part: Part) -> None:
        super().__init__(name=name, daemon=True)
        self._part = part
        self._ending = threading.Event()

    def finish(self) -> None:
        self._ending.set()
        self._part.wake()
        self.join(timeout=5)

    def run(self) -> None:
        while not self._ending.is_set():
            try:
                if self._part.step():
                    self._part.rest()
                    continue
            except Exception:  # without it nobody could give an order, or a stop
                log.exception("%s: begins anew.", self.name)
                self._part.close()
            self._ending.wait(RETRY)
        self._part.leave()
