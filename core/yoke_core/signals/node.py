"""The protocol of signal graph nodes: an immutable description, and the process that runs it.

A node is an immutable description; equal nodes are computed once. At work it takes block after
block and carries over what it needs, so that any division into blocks gives the same samples.

What holds for every node: NaN is a sample that is not known, an infinite one was clipped. After a
gap a node starts afresh. What a node cannot know yet (a filter that settles, a window that is not
full) is NaN.
"""

from collections.abc import Sequence
from typing import Protocol, runtime_checkable

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Process(Protocol):
    """A node at work on one signal."""

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        """Samples (n,) for the next block of each input, each (n,).

        follows : whether the block continues the one before; a gap precedes it otherwise
        """
        ...


class Node(Protocol):
    """A rule for one signal."""

    @property
    def inputs(self) -> "tuple[Node, ...]":
        """The signals it is computed from, in order."""
        ...

    def start(self, rate_hz: float) -> Process:
        """It at work at a sample rate; raises SignalError where it has no meaning at that rate."""
        ...


@runtime_checkable
class Remembering(Protocol):
    """A node whose samples depend on earlier ones of its inputs."""

    def memory_samples(self, rate_hz: float) -> float:
        """After how many samples what came before them counts no more; infinite where never."""
        ...


@runtime_checkable
class Holding(Protocol):
    """A node that holds samples of the past while it is at work."""

    def held_samples(self, rate_hz: float) -> int:
        """How many, at a sample rate."""
        ...
