"""Parts that are copies of one another, and how one lies upon the other.

Copies either share a mesh, or were written out one by one with their vertices in the same order.
Then the rigid motion between them is that of least squares (Kabsch 1976).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
from scipy.spatial.transform import Rotation

from .parts import Part, place

Array = npt.NDArray[np.float64]
#: Copies may differ by this much, in metres, and still be the same body.
SAME_M = 0.002
#: Two vertices that are compared before all are.
_FEW = 64


def alike(parts: Sequence[Part], one: Part) -> list[tuple[Part, Array]]:
    """Parts that are copies of ``one``, itself among them, each with the 4×4 motion that brings it there.

    Mirrored or scaled copies are other bodies. Empty for a part without faces.
    """
    if not len(one.mesh.faces):
        return []
    here = place(one.matrix, one.mesh.vertices)
    back = np.linalg.inv(one.matrix)
    out = []
    for other in parts:
        if other is one:
            out.append((other, np.eye(4)))
        elif other.mesh is one.mesh:
            motion = other.matrix @ back
            if _rigid(motion):
                out.append((other, motion))
        elif len(other.mesh.vertices) == len(here) and len(other.mesh.faces) == len(one.mesh.faces):
            fitted = _motion(here, place(other.matrix, other.mesh.vertices))
            if fitted is not None:
                out.append((other, fitted))
    return out


def _rigid(motion: Array) -> bool:
    turn = motion[:3, :3]
    return bool(np.allclose(turn @ turn.T, np.eye(3), atol=1e-3) and np.linalg.det(turn) > 0)


def _motion(here: Array, there: Array) -> Array | None:
    """The rigid motion from points to as many others, in order; None if they do not fit."""
    a, b = here - here.mean(axis=0), there - there.mean(axis=0)
    reach = np.abs(np.linalg.norm(a[:_FEW], axis=1) - np.linalg.norm(b[:_FEW], axis=1))
    if reach.max() > SAME_M:
        return None
    turn, _ = Rotation.align_vectors(b, a)
    if np.abs(turn.apply(a) - b).max() > SAME_M:
        return None
    motion = np.eye(4)
    motion[:3, :3] = turn.as_matrix()
    motion[:3, 3] = there.mean(axis=0) - motion[:3, :3] @ here.mean(axis=0)
    return motion
