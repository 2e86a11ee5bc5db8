"""The figures behind a verdict as people read them."""

from collections.abc import Callable

from yoke_core.wiring.findings import Finding, What

from yoke_server.common.units import factor

NAMES = {
    What.BRIDGE: "Bridge",
    What.COMPLETION: "Completion",
    What.INSULATION: "Insulation",
    What.REST: "Reads",
    What.NOISE: "Noise, rms",
    What.HUM: "Mains hum",
    What.DRIFT: "Drift",
}
CONTINUITY = {True: "continuous", False: "open", None: "not to be told yet"}


def ohms(value: float) -> str:
    """With as many figures as say something: 0.77 Ω, 350.7 Ω, 21 kΩ, 6.1 GΩ."""
    for least, size, unit in ((1e9, 1e9, "GΩ"), (1e6, 1e6, "MΩ"), (1e4, 1e3, "kΩ")):
        if abs(value) >= least:
            return f"{value / size:.3g}\u2009{unit}"
    return f"{value:.2f}\u2009Ω" if abs(value) < 10 else f"{value:.1f}\u2009Ω"


def in_unit(value: float, unit: str) -> str:
    """A signal (SI) in the unit in which people speak of it."""
    return f"{value / factor(unit):.3g}\u2009{unit}".replace("-", "−")


def capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def figure(f: Finding, core: Callable[[int], str], quarter: bool, unit: str) -> dict[str, object]:
    """One figure with its name; ``core`` says what the core on a pin is called."""
    return {
        "name": _name(f, core, quarter),
        "passed": f.passed,
        "value": _value(f, unit),
        "due": f"due {ohms(f.due)}" if f.due is not None and f.passed is False else "",
        "pins": list(f.pins),
        "arms": list(f.arms),
    }


def _name(f: Finding, core: Callable[[int], str], quarter: bool) -> str:
    if f.what is What.CORE:
        return f"{capital(core(f.pins[0]))}, pin {f.pins[0]}"
    if f.what is What.ARM:
        return f"Grid and {core(1)}" if quarter else f"Arm {f.arms[0]}"
    return NAMES[f.what]


def _value(f: Finding, unit: str) -> str:
    if f.value is None:
        if f.what is What.INSULATION:
            return "over 90\u2009GΩ"
        return CONTINUITY[f.passed] if f.what is What.CORE else CONTINUITY[None]
    if f.what in (What.REST, What.NOISE):
        return in_unit(f.value, unit)
    if f.what is What.HUM:
        return in_unit(f.value, unit) if f.value else "none"
    if f.what is What.DRIFT:
        return f"{in_unit(f.value * 60, unit)} a minute" if f.value else "none"
    return ohms(f.value)
