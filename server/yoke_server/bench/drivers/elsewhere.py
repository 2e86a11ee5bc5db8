"""Devices are elsewhere: people name their addresses, and must not make the bench's computer speak
to its own services, or to what only its own cable reaches."""

import socket
from ipaddress import IPv4Address, IPv6Address, ip_address

from django.conf import settings

from yoke_server.bench.address import is_line
from yoke_server.bench.drivers.base import DriverError


def require_elsewhere(host: str) -> None:
    """Raises DriverError for an address of this computer, a link-local or a group's one.

    A name that leads to several is refused for any of them; one that leads nowhere is left to the
    driver to complain of.
    """
    if settings.LOCAL_DEVICES or is_line(host):
        return
    try:
        found = socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)
    except OSError:
        return
    for *_, where in found:
        if _is_no_device(ip_address(str(where[0]).partition("%")[0])):
            raise DriverError(
                f"{host} is this computer, or no address of a device. Give the device's address; "
                "YOKE_LOCAL_DEVICES=1 allows those of this computer."
            )


def _is_no_device(address: IPv4Address | IPv6Address) -> bool:
    plain = getattr(address, "ipv4_mapped", None) or address
    never = plain.is_loopback or plain.is_link_local or plain.is_multicast or plain.is_unspecified
    return never or _is_own(plain)


def _is_own(address: IPv4Address | IPv6Address) -> bool:
    """Whether an address belongs to this computer: only those can be bound."""
    family = socket.AF_INET if address.version == 4 else socket.AF_INET6
    with socket.socket(family, socket.SOCK_DGRAM) as probe:
        try:
            probe.bind((str(address), 0))
        except OSError:
            return False
    return True
