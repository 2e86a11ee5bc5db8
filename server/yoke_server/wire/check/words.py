"""A verdict as people say it: what is wrong, what to do, and what would part two causes."""

from collections.abc import Callable, Sequence
from typing import Any

from yoke_core.bridge.circuit import Circuit
from yoke_core.wiring.causes import Cause, Kind
from yoke_core.wiring.check import GOOD_INSULATION, Verdict

from yoke_server.common.units import SIGNAL_UNITS
from yoke_server.kinds.inputs.bridge.wiring import CIRCUIT_WORDS, BridgeWiring
from yoke_server.kinds.inputs.completion import COMPLETIONS
from yoke_server.setups.models import Channel
from yoke_server.wire.check.figures import capital, figure, in_unit, ohms

SHORTED = 0.05  # of an arm's resistance; with less it is no grid any more
NEAR_USUAL = 0.03  # a resistance as near as this to a usual one is that one


class Words:
    """Of one channel: its cores have colours, its signal has a unit."""

    def __init__(self, channel: Channel) -> None:
        self._channel = channel
        self._colours = {c["pin"]: c["colour"] for c in channel.sensor.cores}
        self._unit = SIGNAL_UNITS[channel.input.signal]
        self._quarter = getattr(channel.wiring, "circuit", None) is Circuit.QUARTER
        self._grid = "grid" if self._quarter else "bridge"

    def verdict(self, found: Verdict) -> dict[str, Any]:
        """As the check is kept and shown."""
        causes, *others = [[self._cause(c) for c in e] for e in (found.causes, *found.others)]
        return {
            "passed": not causes,
            "title": _together(causes) or "All well",
            "short": capital(causes[0]["kind"]) if causes else "",
            "hint": causes[0]["hint"] if causes else "",
            "causes": causes,
            "others": [{"title": _together(one), "causes": one} for one in others],
            "parted_by": self._parted_by(found),
            "findings": [figure(f, self.core, self._quarter, self._unit) for f in found.findings],
        }

    def _cause(self, cause: Cause) -> dict[str, Any]:
        title, hint = SENTENCES[cause.kind](self, cause)
        return {
            "kind": cause.kind.value,
            "title": title,
            "hint": hint,
            "pins": list(cause.pins),
            "arms": list(cause.arms),
        }

    def _parted_by(self, found: Verdict) -> str:
        """The measurement that tells the causes apart that read alike."""
        if not found.others:
            return ""
        for causes in (found.causes, *found.others):
            for cause in causes:
                if cause.kind in PARTED:
                    return PARTED[cause.kind](self, cause)
        return "Measure with a meter from pin to pin, the plug pulled."

    @property
    def bridge(self) -> BridgeWiring:
        """Only asked for by causes that bridges have."""
        assert isinstance(self._channel.wiring, BridgeWiring)
        return self._channel.wiring

    def core(self, pin: int) -> str:
        return f"{self._colours[pin]} core" if pin in self._colours else f"core of pin {pin}"

    def broken(self, cause: Cause) -> tuple[str, str]:
        pin = cause.pins[0]
        title = f"{capital(self.core(pin))} is broken between pin {pin} and the {self._grid}"
        return title, f"Look at its solder joint and at pin {pin}, then check again."

    def swapped(self, cause: Cause) -> tuple[str, str]:
        one, other = cause.pins
        first, second = self.core(one), self.core(other)
        title = f"{capital(first)} and {second} are swapped, pins {one} and {other}"
        return title, f"Put the {first} on pin {one} and the {second} on pin {other}."

    def turned(self, cause: Cause) -> tuple[str, str]:
        one, other = cause.pins
        return (
            f"{capital(self.core(one))} and {self.core(other)} are swapped: it reads the wrong way",
            f"Swap pins {one} and {other}, or say in Calibrate that its cores are swapped.",
        )

    def open_arm(self, cause: Cause) -> tuple[str, str]:
        if self._quarter:
            return "The grid is open", "Look at it under a lens; a torn one is to be replaced."
        return f"Arm {cause.arms[0]} is open", "Measure across it; a torn grid is to be replaced."

    def resistance_off(self, cause: Cause) -> tuple[str, str]:
        value, due = cause.value or 0.0, self.bridge.resistance_ohm
        which = "Grid" if self._quarter else "Bridge"
        title = f"{which} reads {ohms(value)}, {ohms(due)} is set"
        usual = min(COMPLETIONS, key=lambda ohm: abs(ohm / value - 1) if value else ohm)
        if value and abs(usual / value - 1) < NEAR_USUAL and usual != due:
            return title, f"Set {usual:g} Ω and its completion, or plug in the right {self._grid}."
        return title, "Unload it and check again; a grid that stays so is damaged or another one."

    def arm_off(self, cause: Cause) -> tuple[str, str]:
        due = self.bridge.resistance_ohm
        if (cause.value or 0.0) < SHORTED * due:
            title = f"Arm {cause.arms[0]} is shorted, {ohms(cause.value or 0)}"
            return title, "Look for solder or swarf across its pads."
        title = f"Arm {cause.arms[0]} reads {ohms(cause.value or 0)}, {ohms(due)} is due"
        return title, "Unload it and check again; one that stays so was overloaded."

    def bad_core(self, cause: Cause) -> tuple[str, str]:
        pin, due = cause.pins[0], self.bridge.lead_ohm
        title = (
            f"{capital(self.core(pin))} has {ohms(due + (cause.value or 0))}, {ohms(due)} is due"
        )
        return title, f"Look at its solder joint and at pin {pin}, then check again."

    def other_cable(self, cause: Cause) -> tuple[str, str]:
        wiring, found = self.bridge, cause.value or 0.0
        title = f"Each core has {ohms(found)}, {ohms(wiring.lead_ohm)} are set"
        if not wiring.lead_ohm_per_m:
            return title, "Set the resistance of a metre of its cores."
        metres = found / wiring.lead_ohm_per_m
        return title, f"Set a lead of {metres:.3g} m in place of {wiring.lead_length_m:g} m."

    def other_circuit(self, cause: Cause) -> tuple[str, str]:
        circuit, _, wires = cause.circuit.partition("/")
        bridge, _, _ = CIRCUIT_WORDS[Circuit(circuit)].partition(",")
        return (
            f"It reads like a {bridge}, {wires}-wire",
            f"Plug in {self._channel.sensor.name}, or wire the sensor that is there.",
        )

    def shorted(self, cause: Cause) -> tuple[str, str]:
        title = f"The {self._grid} touches the part, {ohms(cause.value or 0)}"
        return title, f"Look for bare metal {self._place(cause)}."

    def poor_insulation(self, cause: Cause) -> tuple[str, str]:
        found, enough = ohms(cause.value or 0), ohms(GOOD_INSULATION)
        title = f"Insulation is poor, {found} where {enough} will do"
        return title, f"Dry and cover it anew; the leak lies {self._place(cause)}."

    def _place(self, cause: Cause) -> str:
        place = 0.5 if cause.place is None else cause.place
        if place > 0.9:
            return "at the excitation + end"
        if place < 0.1:
            return "at the excitation − end"
        if self._quarter and place > 0.6:
            return f"in the grid, {(1 - place) / 0.5:.0%} of its way from excitation +"
        return "at the signal end" if abs(place - 0.5) < 0.1 else "within the bridge"

    def clipped(self, cause: Cause) -> tuple[str, str]:
        beyond = self._channel.conditioning.range_words
        return f"The signal is beyond {beyond}", "Unload the sensor, or choose a wider range."

    def hum(self, cause: Cause) -> tuple[str, str]:
        return (
            f"Mains hum of {self._signal(cause.value)} rms",
            "Join the screen at one end only, and lead the cable away from mains.",
        )

    def drift(self, cause: Cause) -> tuple[str, str]:
        return (
            f"It drifts by {self._signal((cause.value or 0) * 60)} a minute",
            "Let it warm up; look for a damp gauge or a loose clamp.",
        )

    def no_current(self, cause: Cause) -> tuple[str, str]:
        milli = (cause.value or 0) * 1e3
        if milli > 0.5:
            return (
                f"The loop carries {milli:.2f} mA, less than any reading",
                "The transmitter tells a fault of its own: see its sheet.",
            )
        return (
            "No current flows in the loop",
            "A core is broken, its two are swapped, or the supply is off: measure it at pin 1.",
        )

    def over_current(self, cause: Cause) -> tuple[str, str]:
        much = f"{cause.value * 1e3:.1f} mA" if cause.value else "more than can be measured"
        return (
            f"The loop carries {much}",
            "The transmitter tells a fault of its own, or its cores touch.",
        )

    def _signal(self, value: float | None) -> str:
        return in_unit(value or 0.0, self._unit)


def _fixed(title: str, hint: str) -> Callable[[Words, Cause], tuple[str, str]]:
    return lambda words, cause: (title, hint)


SENTENCES: dict[Kind, Callable[[Words, Cause], tuple[str, str]]] = {
    Kind.BROKEN_CORE: Words.broken,
    Kind.OPEN_ARM: Words.open_arm,
    Kind.SWAPPED: Words.swapped,
    Kind.TURNED: Words.turned,
    Kind.OTHER_CIRCUIT: Words.other_circuit,
    Kind.RESISTANCE_OFF: Words.resistance_off,
    Kind.ARM_OFF: Words.arm_off,
    Kind.BAD_CORE: Words.bad_core,
    Kind.CABLE_OFF: Words.other_cable,
    Kind.NOTHING: _fixed("Nothing is connected", "Plug the sensor in; is its plug elsewhere?"),
    Kind.SHORTED: Words.shorted,
    Kind.POOR_INSULATION: Words.poor_insulation,
    Kind.CLIPPED: Words.clipped,
    Kind.HUM: Words.hum,
    Kind.DRIFT: Words.drift,
    Kind.FLAT: _fixed("Every sample is the same", "Switch the device off and on."),
    Kind.NO_CURRENT: Words.no_current,
    Kind.OVER_CURRENT: Words.over_current,
    Kind.OPEN_SENSOR: _fixed("The thermometer is open", "Look at its cores and clamps."),
    Kind.SHORT_SENSOR: _fixed("The thermometer's cores touch", "Look at its cores and clamps."),
    Kind.UNKNOWN: _fixed(
        "It reads like nothing that is known", "Measure by hand, pin by pin; see the figures."
    ),
}
PARTED: dict[Kind, Callable[[Words, Cause], str]] = {
    Kind.OPEN_ARM: lambda words, c: (
        "Measure across the grid's own pads: "
        f"{ohms(words.bridge.resistance_ohm)} means that it is the core."
    ),
    Kind.BROKEN_CORE: lambda words, c: (
        f"Measure from pin {c.pins[0]} to the far end of the "
        f"{words.core(c.pins[0])}: {ohms(words.bridge.lead_ohm)} means that it is whole."
    ),
    Kind.ARM_OFF: lambda words, c: "Measure each arm with a meter, the plug pulled.",
    Kind.SWAPPED: lambda words, c: "Look at the colours on the plug's pins.",
    Kind.OTHER_CIRCUIT: lambda words, c: "Look at what is plugged in.",
}


def _together(causes: Sequence[dict[str, Any]]) -> str:
    return "; ".join(c["title"] for c in causes)


def said(channel: Channel, found: Verdict) -> dict[str, object]:
    """A verdict in words and figures, as plain data."""
    return Words(channel).verdict(found)
