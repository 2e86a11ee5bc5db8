"""Turning any failure of a driver into a lost device that is connected again."""

import logging

from yoke_server.bench.drivers.base import DriverError, printable

log = logging.getLogger(__name__)

OUR_FAULT = "its driver failed; the recorder's log says why."


def why_lost(error: Exception, device: str) -> str:
    """For the person at the bench; what only a fault of ours explains goes to the log."""
    if isinstance(error, DriverError | OSError):
        return printable(str(error))
    log.error("The driver of %s failed", device, exc_info=error)
    return OUR_FAULT
