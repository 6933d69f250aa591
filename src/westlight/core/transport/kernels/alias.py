"""Walker's alias table (Vose 1991), compiled because skies have half a million pixels."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def build_alias(scaled, accept, alias):
    """Fill ``accept`` and ``alias`` from probabilities times their count, ``scaled`` (n,)."""
    n = scaled.shape[0]
    rest = scaled.copy()
    small, large = np.empty(n, np.int64), np.empty(n, np.int64)
    ns = nl = 0
    for i in range(n):
        if rest[i] < 1.0:
            small[ns] = i
            ns += 1
        else:
            large[nl] = i
            nl += 1
    while ns > 0 and nl > 0:
        ns -= 1
        s, g = small[ns], large[nl - 1]
        accept[s], alias[s] = rest[s], g
        rest[g] -= 1.0 - rest[s]
        if rest[g] < 1.0:
            nl -= 1
            small[ns] = g
            ns += 1
    for i in range(nl):
        accept[large[i]] = 1.0
    for i in range(ns):
        accept[small[i]] = 1.0
