"""What stands on a wiring sheet, input by input."""

from collections.abc import Sequence
from typing import Any

from yoke_server.sensors.cores import COLOURS
from yoke_server.setups.freezing import channel_rows, newest
from yoke_server.setups.models import Channel, Setup
from yoke_server.wire.models import WiringCheck

AT_ONCE = 4  # devices of which the sheet is laid out together


def contents(setup: Setup, only: str = "") -> list[dict[str, object]]:
    """Devices in order, each with its wired inputs; of one channel, if its key is given.

    In parts of some devices, each with its words for the foot of its pages; at least one part.
    """
    checks = newest(WiringCheck, setup.pk)
    devices: dict[str, list[dict[str, object]]] = {}
    for channel in channel_rows(setup):
        if only and channel.key != only:
            continue
        label = channel.input.device.label
        devices.setdefault(label, []).append(_input(channel, checks.get(channel.key)))
    rows = list(devices.items())
    parts = [rows[i : i + AT_ONCE] for i in range(0, len(rows), AT_ONCE)] or [[]]
    return [
        {"setup": setup, "devices": dict(part), "part": _said(part) if len(parts) > 1 else ""}
        for part in parts
    ]


def _said(part: Sequence[tuple[str, Any]]) -> str:
    first, last = part[0][0], part[-1][0]
    return f"devices {first} to {last}, " if first != last else f"device {first}, "


def _input(channel: Channel, check: WiringCheck | None) -> dict[str, object]:
    cores = [
        {**core, "fill": COLOURS.get(core["colour"], COLOURS["grey"])}
        for core in channel.sensor.cores
    ]
    return {
        "place": f"{channel.input.device.label}.{channel.input.number}",
        "name": channel.name,
        "sensor": channel.sensor.name,
        "serial": channel.sensor.serial,
        "cores": cores,
        "facts": [*channel.wiring.facts(channel.conditioning), *_check(check)],
        "polarity": channel.polarity,
    }


def _check(check: WiringCheck | None) -> list[tuple[str, str]]:
    if check is None:
        return [("Wiring check", "not checked yet")]
    return [("Wiring check", f"{check.found['title']}, {check.at:%Y-%m-%d %H:%M} UTC")]
