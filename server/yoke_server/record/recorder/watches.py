"""What ends a run by itself: looked for in samples as they arrive, before anything is stored."""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from yoke_core.block import BlockDigest
from yoke_core.chain import ChainBank
from yoke_core.tension.stop import ForceDropWatch

from yoke_server.calibrate.scaling import chain_of
from yoke_server.wire.document import FrozenSetup

TAIL = 0.5  # s kept after the condition was met


class Watch(Protocol):
    """One condition, seen in the blocks of one device."""

    device: str
    words: str

    def met(self, digest: BlockDigest) -> bool: ...


@dataclass(slots=True)
class ForceDrop:
    """The force has fallen by a share of its highest."""

    device: str
    words: str
    _row: int
    _scaling: ChainBank
    _watch: ForceDropWatch

    def met(self, digest: BlockDigest) -> bool:
        """Whether this block, the newest that arrived, holds the drop."""
        row = [self._row]
        ends = self._scaling.apply(digest.shown[row])
        if self._watch.quiet(
            float(np.fmin.reduce(ends, axis=None)), float(np.fmax.reduce(ends, axis=None))
        ):
            return False
        force = self._scaling.apply(digest.ratios[row].astype(float))[0]
        return self._watch.push(force) is not None


def watches_of(setup: FrozenSetup) -> list[Watch]:
    """The conditions that a setup asks for."""
    force = setup.channel("force")
    if force is None:
        return []
    return [
        ForceDrop(
            force.device_label,
            f"The force fell by {setup.force_drop * 100:g} %",
            force.input_number - 1,
            ChainBank([chain_of(force)]),
            ForceDropWatch(setup.arm_force_n, setup.force_drop),
        )
    ]
