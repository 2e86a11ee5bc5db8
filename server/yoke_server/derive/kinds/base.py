"""What a kind of result is: what it needs, its parameters, what it computes."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.setups.document import FrozenSetup

if TYPE_CHECKING:
    from numpy.typing import NDArray


Columns = dict[str, "NDArray[Any]"]


@dataclass(frozen=True, slots=True)
class Value:
    """One result: ``value`` in SI, shown in ``unit``; None where there is none, and why."""

    symbol: str
    name: str
    value: float | None
    unit: str
    decimals: int
    method: str
    clause: str = ""
    note: str = ""


@dataclass(frozen=True, slots=True)
class Column:
    """An array of results in SI, stored as float32."""

    name: str
    unit: str
    numbers: "NDArray[Any]"


@dataclass(frozen=True, slots=True)
class Computed:
    """What a kind gives: values for tables, columns for pictures, details of its own."""

    values: list[Value]
    details: Spec
    columns: list[Column] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


class Kind(Protocol):
    """A kind of result. Its modules import the core's heavy parts where they compute.

    engine : raised when it computes otherwise than before: kept results are stale then
    parameters : what a person sets; details : what its picture needs beside the columns
    """

    name: ClassVar[str]
    engine: ClassVar[int]
    parameters: ClassVar[type[Spec]]
    details: ClassVar[type[Spec]]

    def suggest(self, setup: FrozenSetup) -> Spec | None:
        """The recipe with which a setup begins; None where it is not made for it."""
        ...

    def check(self, parameters: Any, setup: FrozenSetup) -> None:
        """Raise a problem for parameters that can give nothing with this setup."""
        ...

    def precheck(self, columns: "Columns", details: Any, parameters: Any) -> None:
        """Raise the core's error if what is kept of a run shows that nothing would come of it."""
        ...

    def compute(self, run: Run, parameters: Any) -> Computed:
        """Raises a problem, or the core's error, that says why there is no result."""
        ...
