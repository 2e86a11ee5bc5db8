"""The measured run that a file's columns are compared with."""

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from yoke_server.record.channel_of_run import channel_of_run
from yoke_server.record.models import Run, RunState
from yoke_server.record.streams import streams_of
from yoke_server.setups.models import Setup

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

COLUMNS = 100
TOO_FEW = 10  # rows a column


@dataclass(frozen=True, slots=True)
class Other:
    """A run of the setup; its channels are told by key, and read once."""

    run: Run
    name: str
    duration_s: float
    _curves: "dict[str, tuple[Array, Array] | None]" = field(default_factory=dict)

    def _curve(self, key: str) -> "tuple[Array, Array] | None":
        if key not in self._curves:
            self._curves[key] = self._read(key)
        return self._curves[key]

    def _read(self, key: str) -> "tuple[Array, Array] | None":
        """Lowest and highest of a channel in SI, in some columns."""
        import numpy as np

        from yoke_server.record.plot_data import view

        found = channel_of_run(self.run.pk, key)
        if found is None:
            return None
        parts = view(found, 0.0, self.duration_s, COLUMNS)
        if not parts:
            return None
        low = np.concatenate([p.low for p in parts])
        high = np.concatenate([p.high for p in parts])
        return found.chain.extremes(low, high)

    def peak(self, key: str) -> float:
        """The largest value that a channel reached, without sign; 0 where it is not known."""
        import numpy as np

        if (curve := self._curve(key)) is None:
            return 0.0
        both = np.concatenate(curve)
        good = both[np.isfinite(both)]
        return float(np.abs(good).max()) if good.size else 0.0

    def likeness(self, key: str, column: "Array") -> float:
        """Correlation of a channel with a column that would lie over it; 0 where none is known."""
        import numpy as np

        curve = self._curve(key)
        if curve is None or column.size < TOO_FEW * COLUMNS:
            return 0.0
        measured = 0.5 * (curve[0] + curve[1])
        starts = np.arange(measured.size) * column.size // measured.size
        means = np.add.reduceat(column, starts) / np.diff([*starts, column.size])
        good = np.isfinite(means) & np.isfinite(measured)
        if good.sum() < COLUMNS // 2 or not means[good].std() or not measured[good].std():
            return 0.0
        return float(np.corrcoef(means[good], measured[good])[0, 1])


def newest_run(setup: Setup) -> Other | None:
    """The newest measured run that was kept."""
    runs = Run.objects.filter(setup=setup, state=RunState.KEPT, document__isnull=True)
    run = runs.select_related("revision").order_by("-number").first()
    if run is None:
        return None
    duration_s = max((s.end_s for s in streams_of(run.pk)), default=0.0)
    return Other(run, run.name, duration_s) if duration_s > 0 else None
