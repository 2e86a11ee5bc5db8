"""What a snapshot of a channel comes to: well, doubtful, or not to be recorded."""

from dataclasses import dataclass
from typing import Literal

from yoke_core.snapshot.facts import Snapshot

HUM_SHARE = 0.3  # of the noise's power, from which hum is what to mend
HUM_OVER_COUNTS = 2.0  # hum's amplitude in counts of the converter; less is no fault
NOISIER = 2.0  # times the last time, where nothing else says why
DRIFT_OVER_NOISE = 3.0  # what the line gains while it was looked at
ALIKE = 0.9  # correlation

Kind = Literal["clipped", "flat", "hum", "noisier", "drifts", "alike"]
BLOCKING: frozenset[Kind] = frozenset({"clipped", "flat"})


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing that is wrong with a signal; ``size`` in what its kind counts: clipped samples,
    amplitude of the hum at ``at_hz``, times the noise of last time, drift a second."""

    kind: Kind
    size: float
    at_hz: float = 0.0

    @property
    def blocks(self) -> bool:
        """Nothing that is recorded of such a signal is of use."""
        return self.kind in BLOCKING


def findings_of(
    found: Snapshot, count: float | None, noise_before: float | None = None
) -> list[Finding]:
    """What is wrong with a signal, the worst first; nothing: it is well.

    Parameters
    ----------
    found : Snapshot
    count : float or None
        The signal of one count of the converter.
    noise_before : float or None
        Deviation when it was looked at last.

    Returns
    -------
    list of Finding

    Examples
    --------
    >>> import numpy as np
    >>> from yoke_core.snapshot.facts import snapshot_of
    >>> at_rest = snapshot_of(np.zeros(100), 1000.0, 50.0, None)
    >>> [f.kind for f in findings_of(at_rest, None)]
    ['flat']
    """
    if found.clipped:
        return [Finding("clipped", found.clipped)]
    if found.flat:
        return [Finding("flat", found.samples)]
    wrong = []
    if found.hum:
        frequency, amplitude = max(found.hum, key=lambda line: line[1])
        counts = amplitude / count if count else HUM_OVER_COUNTS
        if found.hum_share >= HUM_SHARE and counts >= HUM_OVER_COUNTS:
            wrong.append(Finding("hum", amplitude, frequency))
    gained = abs(found.drift) * found.samples / found.rate_hz
    if gained > DRIFT_OVER_NOISE * found.noise:
        wrong.append(Finding("drifts", found.drift))
    if noise_before and not wrong and found.noise >= NOISIER * noise_before:
        wrong.append(Finding("noisier", found.noise / noise_before))
    return wrong
