"""The protocol of result kinds: offers, parameters, computation, figure."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, ClassVar, NamedTuple

from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.record.queries import specimen_of
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


class Offer(NamedTuple):
    """Something that can be derived; ``suggested``: a setup without recipes begins with it."""

    title: str
    parameters: Spec
    suggested: bool = False


@dataclass(frozen=True, slots=True)
class Column:
    """An array of results in SI, stored as float32."""

    name: str
    unit: str
    numbers: "NDArray[Any]"


@dataclass(frozen=True, slots=True)
class Computed:
    """What a kind gives: values for tables, columns for figures, details of its own."""

    values: list[Value]
    details: Spec
    columns: list[Column] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


class ResultKind:
    """A kind of result. Its modules import the core's heavy parts where they compute.

    engine : raised when it computes otherwise than before: kept results are stale then
    parameters : what a person sets; details : what its figure needs beside the columns
    """

    engine: ClassVar[int]
    uses_piece: ClassVar[bool] = False  # whether the size of the test piece counts
    parameters: ClassVar[type[Spec]]
    details: ClassVar[type[Spec]]

    def offers(self, setup: FrozenSetup) -> list[Offer]:
        """What can be derived of runs with a setup; those to begin with are ``suggested``."""
        return []

    def subject(self, parameters: Any, setup: FrozenSetup) -> str:
        """What it is derived of: a rosette, a channel; empty where there is one thing only."""
        return ""

    def report_title(self, specimen: str) -> str:
        """How a report on a run with such results is called; empty where it does not say."""
        return ""

    def sources(self, run: Run) -> dict[str, object]:
        """All of a run that results come from: where any of it differs, they are stale."""
        return {"seal": run.seal, "setup": run.revision.fingerprint, "specimen": specimen_of(run)}

    def channels(self, parameters: Any, setup: FrozenSetup) -> list[str]:
        """Keys of the channels whose readings it is computed of."""
        return []

    def check(self, parameters: Any, setup: FrozenSetup) -> None:
        """Raise a problem for parameters that can give nothing with this setup."""

    def precheck(self, columns: Columns, details: Any, parameters: Any) -> None:
        """Raise the core's error if what is kept of a run shows that nothing would come of it.

        Of most kinds that depends on the samples.
        """

    def compute(self, run: Run, parameters: Any) -> Computed:
        """Raises a problem, or the core's error, that says why there is no result."""
        raise NotImplementedError

    def figure(self, columns: Columns, details: Any, parameters: Any) -> str:
        """Its figure in a report as SVG, drawn from the numbers that the screen shows."""
        raise NotImplementedError
