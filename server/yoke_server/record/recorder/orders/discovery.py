"""Device discovery on the bench computer's network, in threads of its own."""

import logging
import threading
from collections.abc import Callable

from yoke_server.bench.drivers.base import DriverError
from yoke_server.bench.drivers.finding import find_devices
from yoke_server.bench.drivers.trial import try_address
from yoke_server.bench.models import OrderState
from yoke_server.bench.orders import FindDevices, OrderSpec, TryAddress

log = logging.getLogger(__name__)

MAX_AT_ONCE = 4  # looks; each has its thread, and a slow address keeps it for some seconds
Answer = Callable[[str, OrderState, dict[str, object]], None]
# Orders that ask about the network, not the bench: no run minds them.
LOOKS: dict[type[OrderSpec], Callable[..., dict[str, object]]] = {
    FindDevices: find_devices,
    TryAddress: try_address,
}


class DeviceDiscovery:
    """Nothing it does reaches the devices of the bench, or delays an order to them."""

    def __init__(self, answer: Answer) -> None:
        self._answer = answer
        self._free = threading.Semaphore(MAX_AT_ONCE)

    def look(self, key: str, wanted: OrderSpec) -> None:
        """Answer an order of `LOOKS` when it is done; refused while too many are under way."""
        if not self._free.acquire(blocking=False):
            self._refuse(key, "Others are looking around already.", "Try again in some seconds.")
            return
        threading.Thread(target=self._look, args=(key, wanted), daemon=True).start()

    def _look(self, key: str, wanted: OrderSpec) -> None:
        try:
            found = LOOKS[type(wanted)](**wanted.arguments)
            self._answer(key, OrderState.DONE, found)
        except DriverError as error:
            text = str(error)
            self._refuse(key, text[:1].upper() + text[1:])
        except Exception:
            log.exception("Not looked: %s", wanted.kind)
            self._refuse(key, "The recorder failed to look.", "Its log says why.")
        finally:
            self._free.release()

    def _refuse(self, key: str, title: str, hint: str = "") -> None:
        self._answer(key, OrderState.REFUSED, {"title": title, "hint": hint})
