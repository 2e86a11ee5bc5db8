"""Nodes without memory: arithmetic, comparison, functions, conditions."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from yoke_core.signals.node import Array, Node, Process


def _where(condition: Array, yes: Array, no: Array) -> Array:
    return np.where(np.isnan(condition), np.nan, np.where(condition > 0, yes, no))


def _while(value: Array, condition: Array) -> Array:
    return np.where(condition > 0, value, np.nan)


def _truth(compare: Callable[[Array, Array], Array]) -> Callable[[Array, Array], Array]:
    """Of a comparison 1 or 0, and NaN where a side is not known."""

    def compared(a: Array, b: Array) -> Array:
        return np.where(np.isnan(a) | np.isnan(b), np.nan, compare(a, b))

    return compared


# Conditions are 1 or 0. A clipped sample is above or below what lies within the range.
OPERATIONS: dict[str, Callable[..., Array]] = {
    "add": np.add,
    "subtract": np.subtract,
    "multiply": np.multiply,
    "divide": lambda a, b: np.where(b == 0, np.nan, np.divide(a, b)),
    "power": np.power,
    "negative": np.negative,
    "abs": np.abs,
    "sqrt": np.sqrt,
    "exp": np.exp,
    "log": np.log,
    "log10": np.log10,
    "sin": np.sin,
    "cos": np.cos,
    "tan": np.tan,
    "asin": np.arcsin,
    "acos": np.arccos,
    "atan": np.arctan,
    "atan2": np.arctan2,
    "min": np.minimum,
    "max": np.maximum,
    "above": _truth(np.greater),
    "below": _truth(np.less),
    "and": np.minimum,
    "or": np.maximum,
    "not": lambda a: 1.0 - a,
    "if": _where,
    "while": _while,
}


@dataclass(frozen=True, slots=True)
class Constant:
    """The same value at each instant, in SI."""

    value: float

    @property
    def inputs(self) -> tuple[Node, ...]:
        return ()

    def start(self, rate_hz: float) -> Process:
        return _Constant(np.array([self.value]))


class _Constant:
    def __init__(self, value: Array) -> None:
        self._value = value

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        return self._value  # one value: the graph gives it the block's length


@dataclass(frozen=True, slots=True)
class Pointwise:
    """One of OPERATIONS at each instant. Dividing by zero gives NaN."""

    operation: str
    inputs: tuple[Node, ...]

    def start(self, rate_hz: float) -> Process:
        return _Pointwise(OPERATIONS[self.operation])


class _Pointwise:
    def __init__(self, function: Callable[..., Array]) -> None:
        self._function = function

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        return self._function(*values)
