"""Which devices announce themselves on the network: DNS-SD (RFC 6763), multicast DNS."""

import threading
import time
from concurrent.futures import ThreadPoolExecutor

from zeroconf import (
    DNSQuestionType,
    InterfaceChoice,
    IPVersion,
    ServiceBrowser,
    ServiceListener,
    Zeroconf,
)

from yoke_server.bench.drivers.base import DriverError
from yoke_server.bench.drivers.registry import announced_as, services

LISTEN = 2.0  # s that answers are waited for
QUIET = 1.0  # s without a new one, before which nobody stops listening
MAX_LISTEN = 4.0  # s
ASK = 2500  # ms for what one of them says of itself
# An answer to this computer alone would reach any one of its programs that share the port.
TO_ALL = DNSQuestionType.QM
AT_ONCE = 16
MAX_FOUND = 200


class Heard(ServiceListener):
    """Collects the names under which something answers."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._names: dict[str, str] = {}
        self._newest = 0.0  # when the last new one was heard

    def add_service(self, zc: Zeroconf, type_: str, name: str) -> None:
        with self._lock:
            if len(self._names) < MAX_FOUND and name not in self._names:
                self._names[name], self._newest = type_, time.monotonic()

    def update_service(self, zc: Zeroconf, type_: str, name: str) -> None:
        self.add_service(zc, type_, name)

    def remove_service(self, zc: Zeroconf, type_: str, name: str) -> None:
        with self._lock:
            self._names.pop(name, None)

    def listen(self) -> None:
        """On a network of many devices, or one that is slow, some are late."""
        begun = now = time.monotonic()
        while now < begun + LISTEN or now < min(self._newest + QUIET, begun + MAX_LISTEN):
            time.sleep(0.05)
            now = time.monotonic()

    def names(self) -> list[tuple[str, str]]:
        with self._lock:
            return list(self._names.items())


def _ask(zeroconf: Zeroconf, name: str, service: str) -> dict[str, object] | None:
    """What a device says of itself; None where it does not answer to that."""
    info = zeroconf.get_service_info(service, name, timeout=ASK, question_type=TO_ALL)
    if info is None or not info.port or not info.parsed_addresses():
        return None
    said = {
        key.decode("ascii", "replace"): (value or b"").decode("utf-8", "replace")[:60]
        for key, value in info.properties.items()
    }
    model = said.get("Model") or name.removesuffix(f".{service}")[:60]
    return {
        "driver": announced_as(service, model),
        "model": model,
        "serial": said.get("SerialNumber", ""),
        "firmware": said.get("FirmwareVersion", ""),
        "host": info.parsed_addresses()[0],
        "port": info.port,
    }


def find_devices() -> dict[str, object]:
    """What answers within some seconds, on all networks of this computer.

    Raises DriverError where the computer has no network that could be asked.
    """
    heard = Heard()
    try:
        zeroconf = Zeroconf(interfaces=InterfaceChoice.All, ip_version=IPVersion.V4Only)
    except OSError as error:
        raise DriverError(
            "this computer has no network on which devices could be asked for. "
            "Add the device by its address."
        ) from error
    try:
        ServiceBrowser(zeroconf, services(), heard, question_type=TO_ALL)
        heard.listen()
        with ThreadPoolExecutor(AT_ONCE) as pool:
            answers = pool.map(lambda known: _ask(zeroconf, *known), heard.names())
            found = [device for device in answers if device]
    finally:
        zeroconf.close()
    return {"devices": sorted(found, key=lambda d: (d["model"], d["serial"]))}
