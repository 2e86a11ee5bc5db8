"""Propagation of distributions by drawing: the check on a budget."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.uncertainty.budget import COVERAGE, Component, Distribution

Array = NDArray[np.float64]
Draw = Callable[[np.random.Generator, float, float, int], Array]

DRAWS: dict[Distribution, Draw] = {
    Distribution.NORMAL: lambda r, u, _, n: r.normal(0.0, u, n),
    Distribution.STUDENT: lambda r, u, dof, n: u * r.standard_t(dof, n),
    Distribution.RECTANGULAR: lambda r, u, _, n: r.uniform(-1, 1, n) * u * np.sqrt(3),
    Distribution.TRIANGULAR: lambda r, u, _, n: r.triangular(-1, 0, 1, n) * u * np.sqrt(6),
    Distribution.ARCSINE: lambda r, u, _, n: np.sin(r.uniform(-np.pi, np.pi, n)) * u * np.sqrt(2),
}


@dataclass(frozen=True, slots=True)
class Drawn:
    """What the draws came to: mean, standard deviation, the shortest interval's ends."""

    mean: float
    standard: float
    lowest: float
    highest: float


def propagate(
    model: Callable[[Sequence[Array]], Array],
    terms: Sequence[Component],
    draws: int = 200_000,
    seed: int = 0,
    probability: float = COVERAGE,
) -> Drawn:
    """The distribution of a result by drawing its inputs.

    Parameters
    ----------
    model : callable
        Gives the result (draws,) for the deviation (draws,) of each input from its estimate, in
        the order of the terms.
    terms : sequence of Component
        Their sensitivities are not used: the model knows how inputs act. Terms of one source
        are drawn together.
    draws : int
    seed : int
        Of the generator: the same seed gives the same numbers.
    probability : float
        Of the interval.

    Returns
    -------
    Drawn

    Notes
    -----
    Source: JCGM 101:2008 (GUM Supplement 1), 7 and 5.3.4 (shortest interval).

    Examples
    --------
    >>> found = propagate(lambda x: 3.0 + x[0], [Component("a", 1.0)])
    >>> round(found.mean, 1), round(found.standard, 1), round(found.highest - found.lowest)
    (3.0, 1.0, 4)
    """
    random = np.random.default_rng(seed)
    shared: dict[str, Array] = {}
    inputs = []
    for term in terms:
        if not term.source:
            inputs.append(DRAWS[term.distribution](random, term.standard, term.dof, draws))
            continue
        if term.source not in shared:
            shared[term.source] = DRAWS[term.distribution](random, 1.0, term.dof, draws)
        inputs.append(shared[term.source] * term.standard)
    found = np.sort(model(inputs))
    within = int(np.ceil(probability * draws))
    start = int(np.argmin(found[within - 1 :] - found[: draws - within + 1]))
    return Drawn(
        float(found.mean()),
        float(found.std(ddof=1)),
        float(found[start]),
        float(found[start + within - 1]),
    )
