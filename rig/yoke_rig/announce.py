"""Saying on the network which devices are here: DNS-SD (RFC 6763) over multicast DNS."""

import asyncio
import logging
import socket
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass

from zeroconf import IPVersion
from zeroconf.asyncio import AsyncServiceInfo, AsyncZeroconf

log = logging.getLogger(__name__)

TEXT_COMMANDS = "_scpi-raw._tcp.local."
MODBUS = "_mbap._tcp.local."
LINES = "_text-gauge._tcp.local."


@dataclass(frozen=True, slots=True)
class Announced:
    """A device as it says of itself."""

    service: str
    model: str
    serial: str
    firmware: str
    port: int


@asynccontextmanager
async def announced_as(devices: list[Announced], host: str) -> AsyncIterator[None]:
    """Announce on the interface of ``host``; where it takes no multicast, nothing is found."""
    try:
        zeroconf = AsyncZeroconf(interfaces=[host], ip_version=IPVersion.V4Only)
    except OSError as error:
        log.warning("Nothing is announced: %s", error)
        yield
        return
    try:
        await asyncio.gather(*(_register(zeroconf, device, host) for device in devices))
        yield
    finally:
        await zeroconf.async_close()


async def _register(zeroconf: AsyncZeroconf, device: Announced, host: str) -> None:
    """Under a name with its port: rigs of one computer may not hear each other's claim to one."""
    info = AsyncServiceInfo(
        device.service,
        f"{device.model} {device.serial} at {device.port}.{device.service}",
        addresses=[socket.inet_aton(host)],
        port=device.port,
        properties={
            "txtvers": "1",
            "Model": device.model,
            "SerialNumber": device.serial,
            "FirmwareVersion": device.firmware,
        },
    )
    await zeroconf.async_register_service(info)
