"""Contributions to results that only a computation as a whole gives, by its differences."""

import math
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from yoke_core.uncertainty.budget import Budget, Component

Array = NDArray[np.float64]


def numeric_contributions(count: int, evaluate: Callable[[int, float], Array]) -> Array:
    """What each of some inputs contributes to each of some results.

    Parameters
    ----------
    count : int
        Of inputs.
    evaluate : callable
        Of an input's place and +1 or -1: the results (n,) with that input so many standard
        uncertainties higher; NaN where there is none.

    Returns
    -------
    array (count, n)
        In the results' units, with the sign of the sensitivity; NaN where a result is not known
        with the input higher or lower.

    Notes
    -----
    Half the difference between the results. Source: JCGM 100:2008 (GUM), 5.1.3, note 2.

    Examples
    --------
    The area of 2 m by 3 m, each within 0.1 m.

    >>> sides, standard = np.array([2.0, 3.0]), np.array([0.1, 0.1])
    >>> def area(place, by):
    ...     changed = sides + by * standard * (np.arange(2) == place)
    ...     return np.array([changed.prod()])
    >>> numeric_contributions(2, area).round(6).tolist()
    [[0.3], [0.2]]
    """
    rows = [(evaluate(place, 1.0) - evaluate(place, -1.0)) / 2 for place in range(count)]
    return np.array(rows, dtype=float)


def budget_of_contributions(inputs: Sequence[Component], contributions: Array) -> Budget:
    """The budget of one result.

    Parameters
    ----------
    inputs : sequence of Component
        Their names, degrees of freedom, distributions and sources count.
    contributions : array (len(inputs),)
        As `numeric_contributions` gives them for the result.

    Returns
    -------
    Budget
        In the result's unit.

    Raises
    ------
    UncertaintyError
        If a contribution is not known.

    Examples
    --------
    >>> one = [Component("load cell", 0.01), Component("gauge", 0.02)]
    >>> budget_of_contributions(one, np.array([3.0, -4.0])).combined
    5.0
    """
    pairs = zip(inputs, contributions.tolist(), strict=True)
    return Budget(
        [replace(of, standard=abs(c), sensitivity=math.copysign(1.0, c)) for of, c in pairs]
    )
