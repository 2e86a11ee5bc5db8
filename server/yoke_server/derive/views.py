"""A kept curve as plots show it, in bytes."""

import numpy as np
from numpy.typing import NDArray
from yoke_core.thin import thin_curve

from yoke_server.common.columns import pack_columns
from yoke_server.derive.models import Derivation
from yoke_server.derive.services import curve_kept

NEAR_OFFSETS = 5  # the detailed plot reaches this many offsets far

Array = NDArray[np.float64]


def encoded_curve(kept: Derivation, offset: float, width: int, height: int) -> bytes:
    """The whole curve up to its end, and its elastic part in detail (see the API)."""
    values = kept.values or {}
    strain, stress = curve_kept(kept)
    strain = strain - values["modulus"]["origin"]
    beyond = np.flatnonzero(strain > NEAR_OFFSETS * offset)
    end = int(beyond[0]) + 1 if beyond.size else len(strain)
    fracture = values["fracture"]
    last = len(strain) if fracture is None else _last_before(strain, stress, fracture)
    whole = _thin(strain[:last], stress[:last], width, height)
    near = _thin(strain[:end], stress[:end], width, height)
    return pack_columns({"whole": len(whole[0]), "near": len(near[0])}, [*whole, *near])


def _last_before(strain: Array, stress: Array, fracture: dict[str, float]) -> int:
    """How many points of a thinned curve reach to the break, which is one of them."""
    off = np.abs(strain - fracture["strain"]) / max(abs(fracture["strain"]), 1e-6)
    off += np.abs(stress - fracture["stress"]) / max(abs(fracture["stress"]), 1.0)
    return int(np.argmin(off)) + 1


def _thin(x: Array, y: Array, width: int, height: int) -> tuple[Array, Array]:
    keep = thin_curve(x, y, width, height)
    return x[keep], y[keep]
