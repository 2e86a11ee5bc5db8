"""The measuring module: voltages (loops across a precision resistor) and resistances, slowly."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from yoke_rig.amplifier import Amplifier, InputSettings
from yoke_rig.room import room_celsius
from yoke_rig.state import State

Array = NDArray[np.float64]

FASTEST = 1000.0  # Hz
VOLTS, OHMS = 10.0, 400.0  # full scales
RESISTOR = 50.0  # ohm, across inputs 1 and 2
PT100_A, PT100_B = 3.9083e-3, -5.775e-7  # IEC 60751, above 0 degC


def loop_volts(share: Array) -> Array:
    """Across the resistor, from a transmitter at a share of its span; it saturates beyond."""
    return np.asarray(RESISTOR * (4e-3 + 16e-3 * np.clip(share, -0.0125, 1.03125)))


def pt100_ohm(celsius: Array) -> Array:
    return np.asarray(100 * (1 + PT100_A * celsius + PT100_B * celsius**2))


def _crosshead_transmitter(state: State) -> Array:
    """Displacement from -50 to +50 mm."""
    return loop_volts((state.position + 50e-3) / 100e-3)


def _pressure_transmitter(state: State) -> Array:
    """0 to 250 bar: the pump idles at 20 bar and rises with the force."""
    return loop_volts((20 + np.abs(state.force) / 150) / 250)


def _pump_transmitter(state: State) -> Array:
    """0 to 250 bar: the servo pump holds 140 bar, a little less while it works."""
    return loop_volts((140 - np.abs(state.force) / 600) / 250)


def _force_output(state: State) -> Array:
    """The load frame's own force output, 10 V at 25 kN."""
    return np.asarray(state.force / 25e3 * VOLTS)


def _crown(state: State) -> Array:
    """A thermometer in the room."""
    return pt100_ohm(room_celsius(state.seconds))


def _open_volts(state: State) -> Array:
    return np.zeros(state.force.size)


def _open_ohms(state: State) -> Array:
    return np.full(state.force.size, 1e6)  # far over full scale: at the rail


def _crown_at_work(state: State) -> Array:
    """A thermometer at the fork's crown, in the same room."""
    return pt100_ohm(room_celsius(state.seconds) + 1.4)


SOURCES: tuple[Callable[[State], Array], ...] = (
    _crosshead_transmitter,
    _pressure_transmitter,
    _force_output,
    _open_volts,
    _crown,
    _open_ohms,
    _open_ohms,
    _open_ohms,
)


FORK_SOURCES: tuple[Callable[[State], Array], ...] = (
    _crosshead_transmitter,
    _pump_transmitter,
    _open_volts,
    _open_volts,
    _crown_at_work,
    _open_ohms,
    _open_ohms,
    _open_ohms,
)


HERTZ = 10e3  # full scale
TEETH = 60


def _cadence(state: State) -> Array:
    """Pulses of a toothed wheel at about 70 turns a minute, uneven as a rider is."""
    return np.asarray(TEETH * 70 / 60 * (1 + 0.03 * np.sin(2 * np.pi * 7 / 3 * state.seconds)))


def _no_pulses(state: State) -> Array:
    return np.zeros(state.force.size)


PULSE_SOURCES: tuple[Callable[[State], Array], ...] = (_cadence, _no_pulses)


@dataclass(slots=True)
class Module(Amplifier):
    """Four voltage inputs, then four resistance inputs with three wires each."""

    model: str = "MM8 measuring module"
    sets_bridges: bool = False
    highest_rate: float = FASTEST
    sources: tuple[Callable[[State], Array], ...] = SOURCES
    scales: Array = field(default_factory=lambda: np.array([VOLTS] * 4 + [OHMS] * 4))

    def signals(self, state: State) -> Array:
        """As shares of full scale: noise and filter act alike on volts and ohms."""
        return np.stack([source(state) for source in self.sources]) / self.scales[:, None]

    def full_scale(self) -> Array:
        """What the counts' full scale stands for, V or ohm."""
        return self.scales

    def rails(self) -> Array:
        return np.ones(len(self.scales))


def pulse_module(serial: str, drift_ppm: float, seed: int, acquisition: int) -> Module:
    """Two inputs that measure how often pulses come, Hz."""
    return Module(
        serial,
        drift_ppm,
        seed=seed,
        rate=100.0,
        acquisition=acquisition,
        model="PM2 pulse module",
        inputs=[InputSettings() for _ in PULSE_SOURCES],
        sources=PULSE_SOURCES,
        scales=np.full(len(PULSE_SOURCES), HERTZ),
    )
