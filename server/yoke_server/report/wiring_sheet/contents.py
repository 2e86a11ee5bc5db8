"""What stands on a wiring sheet, input by input."""

from collections.abc import Sequence
from typing import Any

from yoke_server.wire.freezing import channel_rows, newest
from yoke_server.wire.library.kinds import COLOURS
from yoke_server.wire.models import Channel, Setup, WiringCheck
from yoke_server.wire.specs.conditioning import BridgeConditioning
from yoke_server.wire.specs.wiring import BridgeWiring

AT_ONCE = 4  # devices of which the sheet is laid out together


def contents(setup: Setup, only: str = "") -> list[dict[str, Any]]:
    """Devices in order, each with its wired inputs; of one channel, if its key is given.

    In parts of some devices, each with its words for the foot of its pages; at least one part.
    """
    checks = newest(WiringCheck, setup.pk)
    devices: dict[str, list[dict[str, Any]]] = {}
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


def _input(channel: Channel, check: WiringCheck | None) -> dict[str, Any]:
    cores = [
        {**core, "fill": COLOURS.get(core["colour"], COLOURS["grey"])}
        for core in channel.sensor.cores
    ]
    return {
        "place": f"{channel.input.device.label}.{channel.input.number}",
        "name": channel.name, "sensor": channel.sensor.name, "serial": channel.sensor.serial,
        "cores": cores, "facts": [*_bridge(channel), *_check(check)],
        "polarity": channel.polarity,
    }  # fmt: skip


def _bridge(channel: Channel) -> list[tuple[str, str]]:
    wiring, conditioning = channel.wiring, channel.conditioning
    if not isinstance(wiring, BridgeWiring):
        return [("Connection", wiring.words)]
    whole = wiring.circuit.startswith("full")  # nothing is left for the amplifier to complete
    completed = "" if whole else f", completed with {wiring.completion_ohm:g} Ω"
    facts = [
        ("Circuit", f"{wiring.circuit.replace('_', ' ')}, {wiring.wires} cores"),
        ("Resistance", f"{wiring.resistance_ohm:g} Ω{completed}"),
        ("Lead", f"{wiring.lead_length_m:g} m, {wiring.lead_ohm:.2f} Ω a core, "
                 f"{wiring.lead_ohm / wiring.resistance_ohm:.2%} of the resistance"),
    ]  # fmt: skip
    if wiring.ground:
        facts.append(("Bonded to", wiring.ground.value))
    if isinstance(conditioning, BridgeConditioning):
        said = f"{conditioning.excitation_v:g} V, range ±{conditioning.range_mv_v:g} mV/V"
        facts.append(("Excitation", said))
    return facts


def _check(check: WiringCheck | None) -> list[tuple[str, str]]:
    if check is None:
        return [("Wiring check", "not checked yet")]
    return [("Wiring check", f"{check.found['title']}, {check.at:%Y-%m-%d %H:%M} UTC")]
