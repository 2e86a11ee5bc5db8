"""Giving inputs of a setup sensors: each is checked by itself, all are written at once."""

from collections.abc import Iterable

from yoke_server.bench.drivers import registry
from yoke_server.bench.models import Input
from yoke_server.common.http.fields import comparison_key
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import DECIMALS, UNITS
from yoke_server.kinds.inputs.grid import Grid
from yoke_server.sensors.models import Sensor
from yoke_server.setups.models import Channel, Setup, SetupDevice
from yoke_server.setups.naming import free_names, require_free_name
from yoke_server.setups.scalings import stored_scalings


class SensorWiring:
    """What is on the inputs of a setup, and what is to be added; the setup is locked."""

    def __init__(self, setup: Setup, sensors: Iterable[Sensor]) -> None:
        self._setup = setup
        self._names = dict(setup.channels.values_list("input_id", "name"))
        named = [*self._names.values(), *(c.name for c in setup.computed)]
        self._looks = set(map(comparison_key, named))
        self._kept = stored_scalings(setup, {s.serial for s in sensors})
        self._made: list[Channel] = []

    def give(self, plug: Input, sensor: Sensor, name: str = "") -> list[Channel]:
        """The channels of a sensor at an input, and those after it for a rosette's other grids.

        They are not saved yet. Raises a problem for what cannot be wired; nothing of it is then.
        """
        places = _places(plug, sensor, name or self._free_name(sensor))
        for place, called, _ in places:
            self._require_free(place, called)
            _require_fitting(place, sensor)
        made = [self._channel(*place, sensor) for place in places]
        self._names |= {c.input_id: c.name for c in made}
        self._looks |= {comparison_key(c.name) for c in made}
        self._made += made
        return made

    def save(self) -> list[Channel]:
        """Write down what was given; their devices belong to the setup from now on."""
        devices = {c.input.device_id: c.input.device for c in self._made}
        known = set(self._setup.devices.values_list("device_id", flat=True))
        SetupDevice.objects.bulk_create(
            SetupDevice(
                setup=self._setup, device=device, rate_hz=registry.offers(device.driver).usual_hz
            )
            for key, device in devices.items()
            if key not in known
        )
        made, self._made = self._made, []
        return Channel.objects.bulk_create(made)

    def _free_name(self, sensor: Sensor) -> str:
        computed = (c.name for c in self._setup.computed)
        return free_names([*self._names.values(), *computed])[sensor.named_as]

    def _require_free(self, plug: Input, name: str) -> None:
        if plug.pk in self._names:
            raise Problem(
                409,
                f"Input {plug.label} already has {self._names[plug.pk]}.",
                code=ProblemType.INPUT_UNFIT,
                field="input_id",
                hint="Take its sensor off first, or choose a free input.",
            )
        require_free_name(name, self._looks)

    def _channel(self, plug: Input, name: str, grid: Grid | None, sensor: Sensor) -> Channel:
        fields: dict[str, object] = sensor.spec.channel() | self._kept.get(sensor.serial, {})
        return Channel(
            setup=self._setup,
            input=plug,
            name=name,
            sensor=sensor,
            quantity=sensor.quantity,
            unit=UNITS[sensor.quantity][0],
            decimals=DECIMALS[sensor.quantity],
            grid=grid,
            **fields,
        )


def _places(plug: Input, sensor: Sensor, name: str) -> list[tuple[Input, str, Grid | None]]:
    """Which inputs a sensor takes, under which names; of a rosette one a grid, from a on."""
    angles = sensor.spec.grid_angles
    if not angles:
        return [(plug, name, None)]
    after = plug.device.inputs.select_related("device").filter(number__gte=plug.number)
    inputs = list(after.order_by("number")[: len(angles)])
    if len(inputs) < len(angles):
        raise Problem(
            409,
            f"From input {plug.label} on there are only {len(inputs)} inputs.",
            code=ProblemType.INPUT_UNFIT,
            field="input_id",
            hint=f"Begin at an input with {len(angles) - 1} more behind it.",
        )
    grids = [Grid(rosette=name, angle=angle) for angle in angles]
    return list(zip(inputs, (f"{name[:29]}{x}" for x in "abc"), grids, strict=True))


def _require_fitting(plug: Input, sensor: Sensor) -> None:
    if sensor.retired_at:
        raise Problem(
            409,
            f"{sensor.serial} is out of use.",
            code=ProblemType.OUT_OF_USE,
            field="sensor_id",
            hint="Take it into use again in the library, or choose another one.",
        )
    wanted = sensor.signal
    if plug.signal != wanted:
        raise Problem(
            409,
            f"Input {plug.label} measures a {plug.signal}, and {sensor.name} gives a {wanted}.",
            code=ProblemType.INPUT_UNFIT,
            field="input_id",
            hint=f"Choose an input that measures a {wanted}.",
        )
