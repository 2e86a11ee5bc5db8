"""Wire with 64 inputs: opening it, against a bare view; the check's arithmetic, against an FFT."""

import numpy as np
from django.test import Client, override_settings
from yoke_core.bridge.circuit import Circuit
from yoke_core.wiring.causes import Sensor
from yoke_core.wiring.check import check
from yoke_core.wiring.probe import PinReadings, Probe
from yoke_core.wiring.samples import facts_of_samples
from yoke_rig.amplifier import Amplifier, InputSettings
from yoke_rig.faults import read_faults
from yoke_rig.network import Cable, Wiring
from yoke_rig.plugs import Plug
from yoke_rig.world import CouponWorld

from tests import recorded
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, interleaved

DEVICES, INPUTS = 8, 64
OPENING = 15.0
ARITHMETIC = 20.0
FAULTS = ("broken 5", "swapped 1 4", "resistance 0.343", "hum 3e-5", "leak 2e7 0.7")
RANGE, RATE, STEPS = 8e-3, 1000.0, 50
SENSOR = Sensor(Circuit.QUARTER, 3, 350.0, 0.77, 350.0, 5.0)


def measure() -> list[Row]:
    return [_opening(), _arithmetic()]


def _opening() -> Row:
    """Setup and bench as the page asks for them: server time."""
    from yoke_server.accounts.models import User

    setup = fresh_setup()
    wire_all(setup)
    recorded.record(setup, [recorded.block(0)])  # the row that the bare view reads
    with override_settings(ROOT_URLCONF="tests.benchmarks.bare"):
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(User.objects.get(username="engineer"))
        first = setup.channels.filter(pk=setup.channels.first().pk)  # type: ignore[attr-defined]
        ours, bare = interleaved(
            lambda: _asked(client, f"/api/setups/{setup.pk}"),
            lambda: _asked(client, "/bare"),
            rounds=30,
            before=lambda number: first.update(name=f"N{number}"),  # since it was opened before
        )
    return Row(
        f"Wire opens with {INPUTS} channels, server time",
        ours * 1e3,
        bare * 1e3,
        "ms",
        f"ratio at most {OPENING:g}",
        ours <= OPENING * bare,
    )


def _asked(client: Client, address: str) -> None:
    assert client.get(address).status_code == 200


def wire_all(setup: object) -> None:
    """Eight devices of eight inputs, a gauge on each that is free, named after its input."""
    from yoke_server.bench.models import Input
    from yoke_server.bench.services import add_device
    from yoke_server.setups.models import Channel, SetupDevice, new_key
    from yoke_server.setups.services import keep_revision

    for n in range(1, DEVICES + 1):
        add_device(setup.bench, f"A{n}", "bridge amplifier", host="127.0.0.1", port=1)  # type: ignore[attr-defined]
    first = Channel.objects.get(name="SG1")
    taken = set(setup.channels.values_list("input_id", flat=True))  # type: ignore[attr-defined]
    bridges = Input.objects.filter(device__bench=setup.bench, signal="bridge ratio")  # type: ignore[attr-defined]
    for plug in bridges.exclude(pk__in=taken).select_related("device"):
        SetupDevice.objects.get_or_create(setup=setup, device=plug.device)
        first.pk, first.key, first.input, first.name = None, new_key(), plug, plug.label
        first.save()
    keep_revision(None, setup, "all inputs wired")  # type: ignore[arg-type]


def _arithmetic() -> Row:
    """Facts of two seconds of samples and the verdict, for all inputs; five have a fault."""
    probes, samples = _measured()

    def ours() -> None:
        for facts, probe in zip(facts_of_samples(samples, RATE), probes, strict=True):
            check(SENSOR, probe, facts, RANGE)

    ours()  # the tables are made once
    best, floor = interleaved(ours, lambda: np.fft.rfft(samples))
    return Row(
        f"wiring check of {INPUTS} inputs, five with faults",
        best * 1e3,
        floor * 1e3,
        "ms",
        f"ratio at most {ARITHMETIC:g}",
        best <= ARITHMETIC * floor,
    )


def _measured() -> tuple[list[Probe], np.ndarray]:
    world = CouponWorld(seed=3)
    plug = Plug(Wiring.QUARTER_3, "gauge", 350.0, 1.5e-4, 2.08, Cable(0.77))
    amplifier = Amplifier(plugs=(plug,) * INPUTS, inputs=_settings())
    for number, fault in enumerate(FAULTS, start=1):
        amplifier.pretend(number, read_faults(fault))
    blocks = [amplifier.next_block(world.advance(STEPS)) for _ in range(23)][3:]
    counts = np.concatenate([b.counts for b in blocks if b is not None]).T
    ratios = counts / (2**23 - 1.0) * RANGE
    samples = np.where(np.abs(ratios) < RANGE * (1 - 1e-6), ratios, np.inf)
    probes = [
        Probe(*(PinReadings(*(float(x[0]) for x in pins)) for pins in amplifier.probe(n)))
        for n in range(1, INPUTS + 1)
    ]
    return probes, samples


def _settings() -> list[InputSettings]:
    return [InputSettings(bridge="QUARTER") for _ in range(INPUTS)]
