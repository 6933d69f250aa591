"""Building the light tree: emitters halved by place and direction until each stands alone."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from . import layout as L

F4 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]


def emitter_bounds(floats: Array, ints: npt.NDArray[np.int32]) -> tuple[Array, Array]:
    """Lower and upper corners (n, 3) of emitter rows."""
    centre, u, v = floats[:, 0:3], floats[:, 3:6], floats[:, 6:9]
    kind, radius = ints[:, L.E_KIND], floats[:, L.E_RADIUS]
    reach = np.zeros_like(centre)
    box = kind == L.SHAPE_RECTANGLE
    reach[box] = (np.abs(u[box]) + np.abs(v[box])) / 2
    tube = kind == L.SHAPE_TUBE
    reach[tube] = np.abs(u[tube]) * floats[tube, L.E_LENGTH, None] / 2
    reach += radius[:, None]
    low, high = centre - reach, centre + reach
    flat = kind == L.SHAPE_TRIANGLE
    corners = np.stack([centre[flat], centre[flat] + u[flat], centre[flat] + v[flat]])
    low[flat], high[flat] = corners.min(axis=0), corners.max(axis=0)
    return low, high


def build_tree(
    floats: Array, ints: npt.NDArray[np.int32], first: int, node0: int, even: npt.NDArray[np.bool_]
) -> tuple[Array, npt.NDArray[np.int32], npt.NDArray[np.int32]]:
    """Nodes (m, TREE_FLOATS), links (m, TREE_INTS) and the leaf of each emitter (n,).

    Rows are those of one source, numbered from ``first``; nodes are numbered from ``node0``, the
    root first. ``even`` marks emitters that shine to every side.
    """
    low, high = emitter_bounds(floats, ints)
    centre = (low + high) / 2
    power = np.maximum(floats[:, L.E_WEIGHT], 1e-20)
    axis = floats[:, 9:12]
    nodes: list[Array] = []
    links: list[list[int]] = []
    leaf = np.zeros(len(floats), np.int32)
    stack: list[tuple[npt.NDArray[np.int64], int]] = [(np.arange(len(floats)), -1)]
    while stack:
        rows, parent = stack.pop()
        me = node0 + len(nodes)
        nodes.append(_node(rows, low, high, power, axis, even))
        links.append([-1, -1, parent])
        if parent >= 0:
            side = L.B_LEFT if links[parent - node0][L.B_LEFT] < 0 else L.B_RIGHT
            links[parent - node0][side] = me
        if len(rows) == 1:
            links[-1][L.B_RIGHT] = first + int(rows[0])
            leaf[rows[0]] = me
            continue
        halves = _split(rows, centre, axis, even)
        stack += [(halves[1], me), (halves[0], me)]
    return np.array(nodes), np.array(links, np.int32), leaf


def _node(
    rows: npt.NDArray[np.int64], low: Array, high: Array, power: Array, axis: Array,
    even: npt.NDArray[np.bool_],
) -> Array:  # fmt: skip
    """One node: an emitter's own size counts as that of an evenly filled box."""
    out = np.zeros(L.TREE_FLOATS)
    share = power[rows] / power[rows].sum()
    place = share @ (low[rows] + high[rows]) / 2
    off = ((low[rows] + high[rows]) / 2 - place) ** 2 + (high[rows] - low[rows]) ** 2 / 12
    mean = share @ np.where(even[rows, None], 0.0, axis[rows])
    out[L.B_PLACE : L.B_PLACE + 3] = place
    out[L.B_AXIS : L.B_AXIS + 3] = mean
    # Half: chosen by what lamps strewn above a floor, on walls and in clusters lose by the choice.
    out[L.B_SPREAD] = 0.5 * share @ off.sum(axis=1)
    reach = np.maximum(high[rows].max(axis=0) - place, place - low[rows].min(axis=0))
    out[L.B_RADIUS] = float(np.linalg.norm(reach)) * 1.001 + 1e-6
    # The mean cosine over all directions, of those that the mean axis does not stand for.
    out[L.B_EVERY] = 0.25 * max(1.0 - float(mean @ mean), 0.0)
    out[L.B_POWER] = power[rows].sum()
    return out


def _split(
    rows: npt.NDArray[np.int64], centre: Array, axis: Array, even: npt.NDArray[np.bool_]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Two halves along the longest side; by direction where all stand at one place."""
    spread = np.ptp(centre[rows], axis=0)
    key = centre[rows, int(spread.argmax())]
    if spread.max() < 1e-9 and not even[rows].all():
        turn = np.ptp(axis[rows], axis=0)
        key = axis[rows, int(turn.argmax())]
    order = np.argsort(key, kind="stable")
    middle = len(rows) // 2
    return rows[order[:middle]], rows[order[middle:]]
