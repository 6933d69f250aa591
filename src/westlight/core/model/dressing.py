"""Curtains and blinds before an opening, and its glass: what an artist hangs up or changes for one look.

Each stands in the axes of its opening: x along its width, y into the room, z up along its height, its middle at the origin,
metres. What is drawn open or shut keeps its mesh and is squeezed along x or z, so that it follows a hand.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from .additions import blind
from .edit import MaterialChange, changed
from .material import Material
from .parts import Mesh, Part, place

Array = npt.NDArray[np.float64]
#: Width and depth of a fold of cloth, and of a slat.
FOLD_M, DEEP_M, SLAT_M = 0.14, 0.035, 0.05
#: Share of its width that a curtain takes when it is drawn back, and of its height that a blind does.
GATHERED, ROLLED = 0.13, 0.03
#: How far a curtain hangs over the sides and the top of its opening, and a roller blind over its sides.
OVER_M, ROLLER_OVER_M = 0.1, 0.02
#: Glass belongs to an opening that lies so near to its plane, in metres.
NEAR_M = 0.5
#: Rows of points down a curtain, and points across a fold.
_ROWS, _ACROSS = 7, 10


@dataclass(frozen=True)
class Frame:
    """An opening: its middle, unit axes (3, 3) along its width, into the room and along its height, and its size in metres."""

    middle: tuple[float, float, float]
    axes: Array
    width: float
    height: float

    def matrix(self, off_m: float, along: float = 0.0, up: float = 0.0) -> Array:
        """To the building's axes, so far into the room and aside."""
        m = np.eye(4)
        m[:3, :3] = self.axes.T
        m[:3, 3] = np.asarray(self.middle, float) + self.axes.T @ [along, off_m, up]
        return m


def hung(
    name: str, kind: str, frame: Frame, material: Material, drawn: float, off_m: float,
    below_m: float, tilt_deg: float = 0.0,
) -> list[Part]:  # fmt: skip
    """What hangs before an opening: a ``kind`` of curtain, roller or slats. ``drawn`` 0…1 is the share it covers: a curtain from both sides, a blind from above.

    ``off_m`` is how far before the opening, ``below_m`` how far below its lower edge it ends; ``tilt_deg`` turns slats.
    """
    if kind == "curtain":
        wide, high = frame.width / 2 + OVER_M, frame.height + OVER_M + below_m
        mesh = _cloth(name, wide, high, material)
        share = GATHERED + (1 - GATHERED) * drawn
        parts = []
        for side in (-1.0, 1.0):
            # Hung up at its outer edge, its top above the opening.
            m = frame.matrix(off_m, side * wide, frame.height / 2 + OVER_M)
            parts.append(_part(name, mesh, m @ np.diag([-side * share, 1.0, 1.0, 1.0])))
        return parts
    wide, high = frame.width + 2 * ROLLER_OVER_M, frame.height + below_m
    m = frame.matrix(off_m, 0.0, frame.height / 2)
    share = ROLLED + (1 - ROLLED) * drawn
    if kind == "roller":
        x = wide / 2
        corners = [[-x, 0, -high], [x, 0, -high], [x, 0, 0], [-x, 0, 0]]
        mesh = Mesh.single(name, corners, [[0, 1, 2], [0, 2, 3]], material)
        return [_part(name, mesh, m @ np.diag([1.0, 1.0, share, 1.0]))]
    tall = max(high * share, SLAT_M)
    down = np.eye(4)
    down[2, 3] = -tall
    return [_part(name, blind(name, wide, SLAT_M, tall, tilt_deg, material), m @ down)]


def _part(name: str, mesh: Mesh, matrix: Array) -> Part:
    return Part(name, mesh, matrix, ("Openings", name), movable=True)


def _cloth(name: str, width: float, height: float, material: Material) -> Mesh:
    """Cloth that hangs from y = z = 0 down and to x = width in folds, deeper and less even below."""
    count = max(round(width / FOLD_M), 1)
    x = np.linspace(0.0, width, count * _ACROSS + 1)
    down = np.linspace(0.0, 1.0, _ROWS)
    turn = 2 * math.pi * count * x / width
    deep = DEEP_M * (0.55 + 0.45 * down)[:, None]
    # Folds wander a little on their way down, each its own.
    wander = 0.5 * np.sin(2.3 * x / FOLD_M)[None, :] * down[:, None]
    y = deep * np.sin(turn[None, :] + wander)
    slope = deep * np.cos(turn[None, :] + wander) * (2 * math.pi * count / width)
    points = np.stack(
        [np.broadcast_to(x, y.shape), y, np.broadcast_to(-height * down[:, None], y.shape)], axis=-1
    )
    normals = np.stack([-slope, np.ones_like(slope), np.zeros_like(slope)], axis=-1)
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    i, j = np.meshgrid(np.arange(_ROWS - 1), np.arange(len(x) - 1), indexing="ij")
    a = (i * len(x) + j).ravel()
    faces = np.concatenate(
        [np.stack([a, a + 1, a + len(x)], 1), np.stack([a + 1, a + len(x) + 1, a + len(x)], 1)]
    )
    return Mesh.single(name, points.reshape(-1, 3), faces, material, normals=normals.reshape(-1, 3))


def panes_of(parts: Sequence[Part], frame: Frame) -> list[str]:
    """Names of the parts whose glass lies in an opening, in their order."""
    found: list[str] = []
    for part in parts:
        rows = [n for n, m in enumerate(part.mesh.materials) if m.is_pane]
        if not rows or part.name in found:
            continue
        corners = part.mesh.faces[np.isin(part.mesh.face_material, rows)]
        middles = place(part.matrix, part.mesh.vertices[corners].mean(axis=1))
        u, n, v = ((middles - np.asarray(frame.middle)) @ frame.axes.T).T
        inside = (
            (np.abs(u) < frame.width / 2) & (np.abs(v) < frame.height / 2) & (np.abs(n) < NEAR_M)
        )
        if inside.any():
            found.append(part.name)
    return found


def with_glass(part: Part, change: MaterialChange) -> Part:
    """A part with other glass; what of it is no glass stays."""
    mesh = part.mesh
    materials = [replace(changed(m, change), name=f"{m.name} ({part.name})") if m.is_pane else m
                 for m in mesh.materials]  # fmt: skip
    return replace(part, mesh=replace(mesh, materials=materials))


def tinted(colour: tuple[float, float, float], through: float) -> MaterialChange:
    """Glass that lets a share of the light through, in a colour."""
    return MaterialChange(reflectance=through, colour=colour)


def frosted(colour: tuple[float, float, float], through: float) -> MaterialChange:
    """Glass that scatters all it lets through, like etched or opal glass."""
    return MaterialChange(glass=False, reflectance=min(through + 0.08, 0.98), translucency=through / min(through + 0.08, 0.98),
                          colour=colour, through=colour, roughness=0.5)  # fmt: skip
