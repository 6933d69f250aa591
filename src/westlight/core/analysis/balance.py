"""Suggesting a balance: levels that bring chosen places to the brightness one wishes for."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.optimize import lsq_linear

Array = npt.NDArray[np.float64]
#: How strongly a level is held where it stands, against a wish that is missed by its whole amount.
PULL = 0.06
#: No level is moved by more stops than this at once.
FARTHEST = 5.0


#: Usual differences between two places of a picture, in stops: what they are, from and to. Guides of
#: the trade, not rules.
USUAL_RATIOS: tuple[tuple[str, float, float], ...] = (
    ("two faces of a volume", 0.7, 1.7),
    ("an accent and its surround", 1.7, 2.7),
    ("a window wall and the dark side", 2.7, 4.3),
)


@dataclass(frozen=True)
class Balance:
    """Factors for the sources (m,), and the luminance (n,) they give at the places, in cd/m²."""

    factors: Array
    reached: Array


def suggested_balance(light: npt.ArrayLike, wanted: npt.ArrayLike) -> Balance:
    """Factors that bring luminances near those wanted, changing levels as little as may be.

    ``light`` (n, m) is the luminance in cd/m² each of m sources gives now at each of n places,
    ``wanted`` (n,) what is wished for there. Solves least squares of the relative misses, bounded
    to `FARTHEST` stops either way. Raises ``ValueError`` for wishes that are not above zero.

    >>> b = suggested_balance([[1.0, 1.0]], [4.0])
    >>> bool(3.7 < b.reached[0] < 4.01)
    True
    """
    now = np.atleast_2d(np.asarray(light, float))
    aims = np.asarray(wanted, float)
    if now.shape[0] != len(aims) or not (aims > 0).all():
        raise ValueError("Every wish needs a place and a brightness above zero.")
    count = now.shape[1]
    a = np.concatenate([now / aims[:, None], PULL * np.eye(count)])
    b = np.concatenate([np.ones(len(aims)), np.full(count, PULL)])
    found = lsq_linear(a, b, bounds=(2.0**-FARTHEST, 2.0**FARTHEST))
    factors = np.asarray(found.x, float)
    # A source that no wish sees stays exactly as it is.
    factors[now.max(axis=0) <= 1e-6 * aims.max()] = 1.0
    return Balance(factors, now @ factors)
