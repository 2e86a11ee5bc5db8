"""A graph of signals: measured channels in, computed channels out, block by block."""

import dataclasses
import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from yoke_core.errors import SignalError
from yoke_core.signals.node import Array, Holding, Node, Process, Remembering

MAX_DEPTH = 200
MAX_HELD = 1 << 21  # samples in all windows together: some 100 MB


@dataclass(frozen=True, slots=True)
class Measured:
    """A measured channel's reading, in SI."""

    key: str

    @property
    def inputs(self) -> tuple[Node, ...]:
        return ()

    def start(self, rate_hz: float) -> Process:
        raise SignalError("key", f"Channel {self.key} is measured, not computed.")


class SignalGraph:
    """Outputs by name, with all that they are computed from in an order that can be computed.

    Parameters
    ----------
    outputs : mapping of str to Node
        Equal nodes in it, and in what they are computed from, are computed once.

    Raises
    ------
    SignalError
        If signals are nested more than 200 deep.

    Examples
    --------
    >>> from yoke_core.signals.nodes.pointwise import Pointwise
    >>> twice = Pointwise("add", (Measured("F"), Measured("F")))
    >>> graph = SignalGraph({"twice": twice})
    >>> graph.start(100.0).push({"F": np.array([1.0, 2.0])}, follows=False)["twice"]
    array([2., 4.])
    """

    def __init__(self, outputs: Mapping[str, Node]) -> None:
        self.outputs = dict(outputs)
        self.order: list[Node] = []
        seen: set[Node] = set()
        for node in self.outputs.values():
            self._add(node, seen, 0)
        self.keys = frozenset(n.key for n in self.order if isinstance(n, Measured))

    def _add(self, node: Node, seen: set[Node], depth: int) -> None:
        if depth > MAX_DEPTH:
            raise SignalError(
                "outputs",
                f"Signals are nested more than {MAX_DEPTH} deep.",
                "Give parts of it names of their own.",
            )
        if node in seen:
            return
        for part in node.inputs:
            self._add(part, seen, depth + 1)
        seen.add(node)
        self.order.append(node)

    def memory_samples(self, rate_hz: float) -> float:
        """After how many samples no output depends on what came before them.

        Infinite where one always does, as an integral.

        Examples
        --------
        >>> from yoke_core.signals.nodes.change import Delay
        >>> delayed = Delay(0.2, (Delay(0.3, (Measured("F"),)),))
        >>> SignalGraph({"": delayed}).memory_samples(100.0)
        50
        """
        memory: dict[Node, float] = {}
        for node in self.order:
            own = node.memory_samples(rate_hz) if isinstance(node, Remembering) else 0
            memory[node] = own + max((memory[i] for i in node.inputs), default=0)
        return max((memory[n] for n in self.outputs.values()), default=0)

    def start(self, rate_hz: float) -> "GraphProcess":
        """The graph at work at a sample rate; raises SignalError where that cannot be."""
        self.require_memory(rate_hz)
        return GraphProcess(self, rate_hz)

    def require_memory(self, rate_hz: float) -> None:
        """Raise SignalError where its windows together hold more than 2^21 samples."""
        held = sum(n.held_samples(rate_hz) for n in self.order if isinstance(n, Holding))
        if held > MAX_HELD:
            raise SignalError(
                "seconds",
                f"Together the windows hold {held} samples at {rate_hz:g} Hz.",
                f"Make them shorter: {MAX_HELD / rate_hz:g} s in all.",
            )


def substituted(node: Node, signals: Mapping[str, Node]) -> Node:
    """A node with the signals of some channels in place of their measured readings.

    Parameters
    ----------
    node : Node
    signals : mapping of str to Node
        By channel key. They are taken as they are: what they name is not replaced.

    Returns
    -------
    Node

    Examples
    --------
    >>> from yoke_core.signals.nodes.pointwise import Pointwise
    >>> substituted(Pointwise("abs", (Measured("F"),)), {"F": Measured("G")})
    Pointwise(operation='abs', inputs=(Measured(key='G'),))
    """
    if isinstance(node, Measured):
        return signals.get(node.key, node)
    if not node.inputs:
        return node
    inputs = tuple(substituted(part, signals) for part in node.inputs)
    assert dataclasses.is_dataclass(node) and not isinstance(node, type)
    return dataclasses.replace(node, inputs=inputs)


class GraphProcess:
    """All nodes of a graph at work on one time base."""

    def __init__(self, graph: SignalGraph, rate_hz: float) -> None:
        place = {node: i for i, node in enumerate(graph.order)}
        self._measured = [(place[n], n.key) for n in graph.order if isinstance(n, Measured)]
        self._steps = [
            (place[n], n.start(rate_hz), [place[i] for i in n.inputs])
            for n in graph.order
            if not isinstance(n, Measured)
        ]
        self._outputs = {name: place[node] for name, node in graph.outputs.items()}
        self._size = len(graph.order)

    def push(self, readings: Mapping[str, Array], follows: bool) -> dict[str, Array]:
        """Outputs (n,) for the next block of the measured channels, each (n,) in SI.

        follows : whether the block continues the one before
        """
        values: list[Array] = [np.empty(0)] * self._size
        length = 0
        for at, key in self._measured:
            values[at] = np.asarray(readings[key], dtype=float)
            length = len(values[at])
        # Samples that are not known make NaN of any operation: no news worth a warning.
        with np.errstate(all="ignore"):
            for at, process, inputs in self._steps:
                found = process.push([values[i] for i in inputs], follows)
                values[at] = found if len(found) == length else np.full(length, found[0])
        return {name: values[at] for name, at in self._outputs.items()}


def compute(
    graph: SignalGraph, readings: Mapping[str, Array], rate_hz: float, starts: Sequence[int] = (0,)
) -> dict[str, Array]:
    """Whole signals at once.

    Parameters
    ----------
    graph : SignalGraph
    readings : mapping of str to array (n,)
        Each measured channel of the graph, in SI.
    rate_hz : float
    starts : sequence of int
        Where a segment begins: a gap precedes each.

    Returns
    -------
    dict of str to array (n,)

    Examples
    --------
    >>> from yoke_core.signals.nodes.change import Integral
    >>> graph = SignalGraph({"area": Integral((Measured("v"),))})
    >>> compute(graph, {"v": np.ones(4)}, rate_hz=2.0)["area"]
    array([0. , 0.5, 1. , 1.5])
    """
    process = graph.start(rate_hz)
    length = len(next(iter(readings.values()), np.empty(0)))
    edges = [*sorted(set(starts) | {0}), length]
    parts = [
        process.push({key: readings[key][a:b] for key in graph.keys}, follows=False)
        for a, b in itertools.pairwise(edges)
    ]
    return {name: np.concatenate([p[name] for p in parts]) for name in graph.outputs}
