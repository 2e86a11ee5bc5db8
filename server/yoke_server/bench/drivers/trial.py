"""Trying an address: who answers there, and what it reads, without taking control of it."""

from contextlib import closing

import numpy as np

from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import DriverError, Identity, SampleBlock


def try_address(driver: str, host: str, port: int) -> dict[str, object]:
    """The identity and present readings of a device; of an actuator, its state.

    Raises DriverError with the reason where nothing of the kind answers.
    """
    if driver in registry.MOVING:
        return _try_moving(driver, host, port)
    with closing(registry.acquiring(driver, host, port)) as device:
        identity = device.connect()
        block = next(iter(device.blocks()), None)
        if block is None:
            raise DriverError("it answers, but sends no samples.")
        signals = registry.offers(driver).signals
        if block.counts.shape[1] != len(signals):
            raise DriverError(
                f"it has {block.counts.shape[1]} inputs; a {driver} has {len(signals)}."
            )
        return {
            **_said(identity),
            "controlled_by": device.controller(),
            "rate_hz": block.rate_hz,
            "readings": [
                {"number": n, "signal": signal, "value": value}
                for n, (signal, value) in enumerate(zip(signals, _means(block), strict=True), 1)
            ],
            "stands": "",
        }


def _means(block: SampleBlock) -> list[float | None]:
    """Of each input; None where it clips."""
    counts = block.counts.astype(np.float64)
    means = counts.mean(axis=0) / block.rail * block.full_scale
    clips: list[bool] = (np.abs(counts) >= block.rail).any(axis=0).tolist()  # type: ignore[assignment]
    return [None if clipped else float(m) for m, clipped in zip(means, clips, strict=True)]


def _try_moving(driver: str, host: str, port: int) -> dict[str, object]:
    with closing(registry.moving(driver, host, port)) as device:
        identity, state = device.connect(), device.state()
        stands = f"{state.motion.lower()} at {state.position_m * 1e3:.2f} mm"
        return {
            **_said(identity),
            "controlled_by": "",
            "rate_hz": None,
            "readings": [],
            "stands": stands,
        }


def _said(identity: Identity) -> dict[str, str]:
    return {
        "model": identity.model,
        "serial": identity.serial,
        "firmware": identity.firmware,
        "self_test": identity.self_test,
    }
