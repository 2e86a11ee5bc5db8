"""A cascade of second-order sections over the samples of one signal."""

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def run_filter(x, sections, steady, state, seen, settling, out):  # type: ignore[no-untyped-def]
    """Transposed direct form II; ``steady`` is the state that an input of 1 ends in.

    seen : samples since the start, on which the filter was at rest with its first input
    """
    for i in range(x.size):
        value = x[i]
        if not np.isfinite(value):
            seen = 0
            out[i] = np.nan
            continue
        if seen == 0:
            for k in range(len(sections)):
                state[k, 0] = steady[k, 0] * value
                state[k, 1] = steady[k, 1] * value
        for k in range(len(sections)):
            given = value
            value = sections[k, 0] * given + state[k, 0]
            state[k, 0] = sections[k, 1] * given - sections[k, 4] * value + state[k, 1]
            state[k, 1] = sections[k, 2] * given - sections[k, 5] * value
        seen += 1
        out[i] = value if seen > settling else np.nan
    return seen
