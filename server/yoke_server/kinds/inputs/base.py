"""The protocols of wirings and sensors, which every kind of input implements."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, ClassVar, NamedTuple

from yoke_core.bridge.heating import Substrate
from yoke_core.wiring.probe import Probe
from yoke_core.wiring.samples import SampleFacts

from yoke_server.bench.drivers.base import InputSettings
from yoke_server.kinds.scalings.base import Scaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import Field
from yoke_server.kinds.union import kind_of

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step
    from yoke_core.wiring.causes import Sensor as CheckedSensor
    from yoke_core.wiring.check import Verdict

    from yoke_server.kinds.inputs.conditioning import Conditioning
    from yoke_server.kinds.measured import MeasuredChannel

FULL_VOLTAGE = 10.0  # V


class HeatedGrid(NamedTuple):
    """A grid that its excitation warms, and what it is bonded to where that is known."""

    resistance_ohm: float
    area_m2: float
    substrate: Substrate | None


class Measured(NamedTuple):
    """What was measured of an input to check its wiring.

    at_rest : signal (SI) that the sensor is known to give without load
    """

    samples: SampleFacts
    probe: Probe | None
    at_rest: float | None


class Wiring(Spec):
    """How a sensor is connected to its input."""

    signal: ClassVar[str]  # what the input must give (bench.SignalKind)
    scalings: ClassVar[tuple[type[Scaling], ...]]  # that make sense of it
    # Whether its zero is a signal, taken off before the scaling; else what the sensor reads at
    # rest is taken off, since no signal stands for nothing there.
    zeroes_signal: ClassVar[bool] = False
    has_shunt: ClassVar[bool] = False  # whether the amplifier's resistor can check it
    is_probed: ClassVar[bool] = False  # whether the amplifier reads its pins to check it

    @classmethod
    def scaling_kinds(cls) -> tuple[str, ...]:
        return tuple(kind_of(s) for s in cls.scalings)

    @classmethod
    def scalings_of(cls, quantity: str) -> list[str]:
        """The kinds of scaling that are offered for a channel of that quantity."""
        return [kind_of(s) for s in cls.scalings if s.gives(quantity)]

    # Signal and reading

    def signal_steps(self) -> "list[Step]":
        """Steps from what the input gives to what a scaling takes."""
        return []

    def rest_signal(self, channel: "MeasuredChannel") -> float:
        """About where the signal lies at rest, SI."""
        return channel.scaling.rest_signal or channel.zero or 0.0

    def signal_range(self, channel: "MeasuredChannel") -> tuple[float, float]:
        """From where to where the signal counts, SI."""
        reach = channel.scaling.reach(channel.conditioning.reach)
        return -reach, reach

    def steady(self, conditioning: "Conditioning") -> float | None:
        """How far the signal (SI) may move at rest: a hundredth of the input's span.

        None where the signal itself has no span.
        """
        return conditioning.steady

    # The amplifier

    def settings(self, number: int, conditioning: "Conditioning") -> InputSettings | None:
        """What the device sets an input to for it; None where there is nothing to set."""
        return None

    @property
    def completes_arm_2(self) -> bool:
        """Whether arm 2 of a bridge is a resistor in the amplifier."""
        return False

    def shunt_sensor(self, conditioning: "Conditioning") -> "CheckedSensor | None":
        """As a shunt check takes it; None where no shunt can check it."""
        return None

    # Wiring

    @property
    def connection(self) -> str:
        """How the sensor is connected, as a person says it."""
        return self.words

    @property
    def connection_short(self) -> str:
        """The same for where room is short."""
        return self.connection

    @property
    def active_arms(self) -> list[int]:
        """Arms of a bridge that are strained."""
        return []

    @property
    def completion(self) -> float | None:
        """What the amplifier completes a bridge with, ohm."""
        return None

    @property
    def heated_grid(self) -> HeatedGrid | None:
        """The grid that warms itself, where its area is known."""
        return None

    @property
    def turning_pins(self) -> tuple[int, ...]:
        """The two pins whose cores turn the sign when they change places; none where none do."""
        return ()

    def check(self, channel: Any, measured: Measured) -> "Verdict":
        """What is wrong with it, by what was measured."""
        from yoke_core.wiring.other_signals import check_voltage

        return check_voltage(measured.samples, FULL_VOLTAGE)

    def facts(self, conditioning: "Conditioning") -> list[tuple[str, str]]:
        """What a wiring sheet says of it, name and value."""
        return [("Connection", self.connection)]


class Sensor(Spec):
    """What the library knows of a sensor, and the channel that comes of it.

    ``pins`` says what each pin of its plug is for.
    """

    wiring: ClassVar[type[Wiring]]
    connection: ClassVar[str]  # as the library calls it
    text_fields: ClassVar[tuple[Field, ...]]
    serves: ClassVar[tuple[str, ...]]  # names in SENSOR_TYPES that may be connected so
    usual_colours: ClassVar[dict[int, str]] = {
        1: "brown",
        2: "yellow",
        3: "white",
        4: "green",
        5: "grey",
        6: "blue",
    }

    def channel(self) -> dict[str, Spec]:
        """Wiring, conditioning and scaling that its channel begins with."""
        raise NotImplementedError

    @property
    def pins(self) -> dict[int, str]:
        raise NotImplementedError

    @property
    def grid_angles(self) -> list[float]:
        """Angles (rad) of a rosette's grids, each of which takes an input; none of others."""
        return []

    @property
    def colours(self) -> dict[int, str]:
        """What colour the core of each pin usually has."""
        return self.usual_colours

    @property
    def gain_tolerance(self) -> float | None:
        """Limits within which its sensitivity lies by its data sheet, relative; None where that
        states none."""
        return None

    def output_at_capacity(self, slope: float) -> float | None:
        """Its signal at its capacity, where so much of the quantity comes on one of the signal;
        None of what is not rated so."""
        return None

    def with_rated_output(self, rated_output: float) -> "Sensor | None":
        """The sensor as a certificate finds it (V/V); None where it has no rated output."""
        return None


@dataclass(frozen=True, slots=True)
class SensorType:
    """What people call a sensor: what it measures, and the connection that is usual."""

    quantity: str
    usual: str


@dataclass(frozen=True, slots=True)
class InputKind:
    """A kind of input: its wiring, scalings that only fit it, sensors that are wired so.

    sensor_types : names for sensors that no other kind of input has
    """

    wiring: type[Wiring]
    sensors: tuple[type[Sensor], ...]
    scalings: tuple[type[Scaling], ...] = ()
    sensor_types: dict[str, SensorType] = field(default_factory=dict)
