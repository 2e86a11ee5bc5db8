"""Devices that announce themselves late, on the real network of this computer."""

import socket
import threading
import time

from yoke_server.bench.drivers.finding import LISTEN, LONGEST, find_devices
from zeroconf import IPVersion, ServiceInfo, Zeroconf

SERVICE = "_text-gauge._tcp.local."
LATE = (0.0, 0.9, 1.8)  # s after somebody began to look


def announce(network, serial, after, begun):
    time.sleep(max(0.0, begun + after - time.monotonic()))
    info = ServiceInfo(
        SERVICE, f"DG60 late {serial}.{SERVICE}", addresses=[socket.inet_aton("127.0.0.1")],
        port=9, properties={"Model": "DG60 dial gauge", "SerialNumber": serial},
    )  # fmt: skip
    network.register_service(info)


def test_who_is_late_is_found_as_long_as_others_are_heard():
    network, begun = Zeroconf(["127.0.0.1"], ip_version=IPVersion.V4Only), time.monotonic()
    speaking = [
        threading.Thread(target=announce, args=(network, f"late-{after}", after, begun))
        for after in LATE
    ]
    for one in speaking:
        one.start()
    try:
        found = find_devices()["devices"]
    finally:
        for one in speaking:
            one.join()
        network.close()
    ours = {d["serial"]: d["driver"] for d in found if d["serial"].startswith("late-")}
    assert ours == {f"late-{after}": "line gauge" for after in LATE}
    assert LISTEN < time.monotonic() - begun < LONGEST + 10
