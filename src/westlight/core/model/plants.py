"""A shelf of made-up plants, grown by rule: trees, bushes, grass, a climber, a plant in a pot.

Each stands on its own origin, z up, its foot at z = 0, lengths in metres; a climber hangs before a wall at y = 0 that looks
along +y, its middle at z = 0. Leaves are cut out of pictures drawn here, and let light through. A plant of one kind, detail
and number is always the same one.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from .leaf_pictures import sprig
from .material import Material
from .parts import Mesh

Array = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Detail = Literal["near", "usual", "far"]
DETAILS: tuple[Detail, ...] = ("near", "usual", "far")
#: Different plants of a kind; what is scattered takes them in turn.
VARIANTS = 3
#: How many leaves a detail keeps, and how much larger each is: what they cover stays alike.
_KEPT = {"near": 1.0, "usual": 0.45, "far": 0.15}
_SIDES = {"near": 7, "usual": 5, "far": 3}
#: The angle between one branch and the next around a stem that leaves no gaps.
_GOLDEN = math.pi * (3 - math.sqrt(5))


class Plant(NamedTuple):
    """A kind of the shelf: what it is called and is for, and as it is usual: number for each m² under a brush, distance in a row,
    reach of its brush and how far it keeps off walls and paths in metres, how differently its plants are turned and how large
    they are (0…1), how far they lean with the ground (0…1), whether it grows on walls, and how it is mostly set."""

    label: str
    hint: str
    per_m2: float
    apart_m: float
    brush_m: float
    keep_off_m: float
    turn_spread: float = 1.0
    size_spread: float = 0.25
    slope: float = 0.0
    on_walls: bool = False
    by: Literal["brush", "row", "one"] = "brush"


PLANTS: dict[str, Plant] = {
    "grass": Plant("Grass", "Tufts of a meadow or rough lawn", 60.0, 0.15, 1.0, 0.05, size_spread=0.4, slope=0.5),
    "reeds": Plant("Reeds", "Tall stems at the water", 7.0, 0.3, 0.8, 0.1),
    "bush": Plant("Bush", "Round and loose", 0.8, 1.1, 1.5, 0.6, size_spread=0.35),
    "hedge": Plant("Hedge", "Clipped; in a row it closes", 1.0, 0.9, 1.0, 0.3, 0.01, 0.04, by="row"),
    "climber": Plant("Climber", "Leaves on a wall", 7.0, 0.4, 0.7, 0.0, turn_spread=0.3, on_walls=True),
    "potted": Plant("Potted plant", "A pot with long leaves", 0.5, 1.0, 0.8, 0.3, size_spread=0.15, by="one"),
    "broad tree": Plant("Broad tree", "A wide crown, in leaf", 0.02, 7.0, 8.0, 2.0, by="one"),
    "tall tree": Plant("Tall tree", "Slim and upright, in leaf", 0.06, 3.0, 5.0, 1.0, by="one"),
    "light tree": Plant("Light tree", "Thin crown, hanging ends, in leaf", 0.03, 4.5, 6.0, 1.5, by="one"),
    "bare tree": Plant("Bare tree", "Branches in winter", 0.02, 7.0, 8.0, 1.5, by="one"),
}  # fmt: skip


class _Shape(NamedTuple):
    """Points (n, 3), faces (m, 3), texture coordinates (n, 2) and the number of the material."""

    points: Array
    faces: Ints
    uvs: Array
    material: int


class _Limbs(NamedTuple):
    """Branches of one order: nodes (n, k, 3) along each, and radii there (n, k)."""

    nodes: Array
    radii: Array


class _Order(NamedTuple):
    """How branches of an order leave those they grow on: number on each, from where on (0…1), length as a share of the parent's, angle in
    degrees, pull upwards at every node (downwards if negative), nodes."""

    number: int
    start: float
    length: float
    angle_deg: float
    up: float
    nodes: int = 4


@lru_cache(maxsize=96)
def plant(kind: str, detail: Detail = "usual", number: int = 0) -> Mesh:
    """A plant of the shelf in its usual size; ``number`` chooses one of `VARIANTS`. Raises ``KeyError`` for an unknown kind.

    >>> float(plant("grass").vertices[:, 2].max()) < 0.3
    True
    """
    rng = np.random.default_rng([sum(ord(c) for c in kind), number])
    shapes, materials = _GROWN[kind](rng, detail)
    points, faces, uvs, of = [], [], [], []
    first = 0
    for s in shapes:
        points.append(s.points)
        faces.append(s.faces + first)
        uvs.append(s.uvs)
        of.append(np.full(len(s.faces), s.material, np.int32))
        first += len(s.points)
    return Mesh(
        f"{kind} {number + 1}", np.concatenate(points).astype(np.float32), np.concatenate(faces).astype(np.int32),
        list(materials), np.concatenate(of), uvs=np.concatenate(uvs).astype(np.float32),
    )  # fmt: skip


@lru_cache
def _leaf(hue: str) -> Material:
    """Leaves cut out of a picture: what they do not take, they send back and let through in nearly equal parts."""
    made = {"broad": (0.34, 0.14, 9), "slim": (0.3, 0.07, 11), "round": (0.24, 0.17, 9), "ivy": (0.36, 0.24, 5)}  # fmt: skip
    length, width, count = made[hue]
    return Material(
        (0.95, 0.95, 0.95), roughness=0.6, name=f"Leaves, {hue}", base_texture=sprig(hue, length, width, count),
        cutout=0.5, translucency=0.42, through=(0.95, 1.0, 0.4),
    )  # fmt: skip


@lru_cache
def _plain(name: str, r: float, g: float, b: float, through: float = 0.0) -> Material:
    return Material((r, g, b), roughness=0.8, name=name, translucency=through,
                    through=(min(1.2 * r, 1.0), min(1.25 * g, 1.0), 0.5 * b))  # fmt: skip


def _bark(pale: bool = False) -> Material:
    return _plain("Pale bark", 0.28, 0.25, 0.21) if pale else _plain("Bark", 0.12, 0.09, 0.068)


def _unit(v: Array) -> Array:
    return np.asarray(v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-9))


def _across(d: Array, turn: Array) -> Array:
    """Unit vectors across directions (n, 3), turned about them by angles (n,)."""
    helper = np.where(np.abs(d[:, 2:3]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]])
    a = _unit(np.cross(d, helper))
    return a * np.cos(turn)[:, None] + np.cross(d, a) * np.sin(turn)[:, None]


def _stem(rng: np.random.Generator, start: Array, towards: Array, length: Array, radius: Array,
          up: float, nodes: int, wild: float = 0.12, thin: float = 0.35) -> _Limbs:  # fmt: skip
    """Branches from points (n, 3) in directions (n, 3): each node leans on from the one before."""
    d, at = _unit(towards), start
    out = [at]
    step = (length / (nodes - 1))[:, None]
    for _ in range(nodes - 1):
        d = _unit(d + rng.normal(size=d.shape) * wild + [0.0, 0.0, up])
        at = at + d * step
        out.append(at)
    share = np.linspace(1.0, thin, nodes)
    return _Limbs(np.stack(out, axis=1), radius[:, None] * share)


def _offshoots(rng: np.random.Generator, of: _Limbs, order: _Order) -> _Limbs:
    """Branches of the next order, spread along and around those they grow on."""
    n, k = of.radii.shape
    parent = np.repeat(np.arange(n), order.number)
    i = np.tile(np.arange(order.number), n)
    t = order.start + (1 - order.start) * (i + rng.uniform(0.1, 0.9, len(i))) / order.number
    at = t * (k - 1)
    low = np.minimum(at.astype(int), k - 2)
    f = (at - low)[:, None]
    a, b = of.nodes[parent, low], of.nodes[parent, low + 1]
    along = _unit(b - a)
    size = np.linalg.norm(np.diff(of.nodes, axis=1), axis=2).sum(axis=1)[parent]
    angle = np.radians(order.angle_deg + rng.normal(size=len(i)) * 8)[:, None]
    side = _across(along, _GOLDEN * i + rng.uniform(0, 1.0, len(i)) + parent)
    radius = of.radii[parent, low] * (1 - f[:, 0]) + of.radii[parent, low + 1] * f[:, 0]
    length = size * order.length * (1.15 - 0.55 * t) * rng.uniform(0.8, 1.2, len(i))
    return _stem(rng, a + (b - a) * f, along * np.cos(angle) + side * np.sin(angle), length,
                 radius * 0.62, order.up, order.nodes)  # fmt: skip


def _wood(limbs: _Limbs, sides: int, material: int) -> _Shape:
    """Branches as tubes open at their ends."""
    n, k, _ = limbs.nodes.shape
    along = _unit(np.gradient(limbs.nodes, axis=1))
    a = np.arange(sides) * 2 * math.pi / sides
    flat = along.reshape(-1, 3)
    x = _across(flat, np.zeros(len(flat))).reshape(n, k, 1, 3)
    y = np.cross(along[:, :, None, :], x)
    ring = (x * np.cos(a)[:, None] + y * np.sin(a)[:, None]) * limbs.radii[:, :, None, None]
    points = limbs.nodes[:, :, None, :] + ring
    number = np.arange(n * k * sides).reshape(n, k, sides)
    here, there = number[:, :-1], number[:, 1:]
    after, beyond = np.roll(here, -1, axis=2), np.roll(there, -1, axis=2)
    faces = np.stack([np.stack([here, after, beyond], -1), np.stack([here, beyond, there], -1)], -2)
    return _Shape(points.reshape(-1, 3), faces.reshape(-1, 3), np.zeros((n * k * sides, 2)), material)  # fmt: skip


def _cards(at: Array, along: Array, side: Array, length: Array, width: Array,
           material: int) -> _Shape:  # fmt: skip
    """Sheets that carry a picture of leaves, from their foot along a direction."""
    a, s = along * length[:, None], side * width[:, None] / 2
    points = np.stack([at - s, at + s, at + a + s, at + a - s], axis=1)
    faces = np.array([[0, 1, 2], [0, 2, 3]])[None] + 4 * np.arange(len(at))[:, None, None]
    uvs = np.tile([[0.0, 1.0], [1.0, 1.0], [1.0, 0.0], [0.0, 0.0]], (len(at), 1))
    return _Shape(points.reshape(-1, 3), faces.reshape(-1, 3), uvs, material)


def _leaves_on(rng: np.random.Generator, limbs: _Limbs, each: int, length: float, detail: Detail,
               material: int, droop: float = 0.0) -> _Shape:  # fmt: skip
    """Sprigs along branches, any way but rather level; a coarser detail has fewer and larger ones."""
    n, k = limbs.radii.shape
    wanted = max(int(round(n * each * _KEPT[detail])), 1)
    parent = rng.permutation(np.resize(np.arange(n), wanted))
    at = rng.uniform(0.25, 1.0, wanted) * (k - 1)
    low = np.minimum(at.astype(int), k - 2)
    f = (at - low)[:, None]
    a, b = limbs.nodes[parent, low], limbs.nodes[parent, low + 1]
    d = _unit(b - a)
    out = _across(d, rng.uniform(0, 2 * math.pi, wanted))
    along = _unit(d * 0.5 + out + [0.0, 0.0, 0.1 - droop])
    side = _unit(np.cross(along, rng.normal(size=(wanted, 3)) * 0.5 + [0.0, 0.0, 1.0]))
    size = length / math.sqrt(_KEPT[detail]) * rng.uniform(0.75, 1.2, wanted)
    return _cards(a + (b - a) * f, along, side, size, size, material)


def _tree(height: float, trunk: float, orders: Sequence[_Order], leaves: int, sprig_m: float,
          hue: str, droop: float = 0.0, pale: bool = False) -> Callable[..., _Grown]:  # fmt: skip
    """A grower of trees; ``trunk`` is the radius at the foot in metres, ``leaves`` sprigs for each twig."""

    def grow(rng: np.random.Generator, detail: Detail) -> _Grown:
        one = np.ones(1)
        lean = np.array([[rng.normal() * 0.03, rng.normal() * 0.03, 1.0]])
        limbs = _stem(rng, np.zeros((1, 3)), lean, one * height * 0.92, one * trunk, 0.25, 8,
                      wild=0.05, thin=0.12)  # fmt: skip
        shapes = [_wood(limbs, _SIDES[detail] + 3, 0)]
        for n, order in enumerate(orders):
            limbs = _offshoots(rng, limbs, order)
            # Twigs under leaves are not seen from far.
            if detail != "far" or n < len(orders) - 1:
                shapes.append(_wood(limbs, max(_SIDES[detail] - n, 3), 0))
        if leaves:
            shapes.append(_leaves_on(rng, limbs, leaves, sprig_m, detail, 1, droop))
        return shapes, [_bark(pale), _leaf(hue)] if leaves else [_bark()]

    return grow


def _bush(rng: np.random.Generator, detail: Detail) -> _Grown:
    n = 9
    turn = np.arange(n) * _GOLDEN + rng.uniform(0, 6)
    lean = rng.uniform(0.35, 1.1, n)
    towards = np.stack([np.cos(turn) * lean, np.sin(turn) * lean, np.ones(n)], axis=1)
    start = towards * [0.04, 0.04, 0.0]
    stems = _stem(rng, start, towards, rng.uniform(0.75, 1.0, n), np.full(n, 0.012), 0.05, 5)
    twigs = _offshoots(rng, stems, _Order(8, 0.15, 0.42, 45, 0.05))
    shapes = [_wood(stems, _SIDES[detail], 0)]
    if detail != "far":
        shapes.append(_wood(twigs, 3, 0))
    shapes.append(_leaves_on(rng, twigs, 30, 0.135, detail, 1))
    return shapes, [_bark(), _leaf("round")]


def _hedge(rng: np.random.Generator, detail: Detail) -> _Grown:
    """A clipped piece: leaves near the faces of a box, and a dark heart that nothing shines through."""
    size = np.array([1.0, 0.55, 1.2])
    count = int(5200 * _KEPT[detail])
    at = rng.uniform(-0.5, 0.5, (count, 3))
    # Each leaf goes to a long face or the top, or an end, as large as it is.
    face = rng.choice(3, count, p=[0.2, 0.52, 0.28])
    sign = np.where(face == 2, 1.0, rng.choice([-1.0, 1.0], count))
    at[np.arange(count), face] = 0.5 * sign * (1 - np.abs(rng.normal(size=count)) * 0.09)
    out = np.zeros((count, 3))
    out[np.arange(count), face] = sign
    along = _unit(out * 0.7 + rng.normal(size=(count, 3)) * 0.7)
    side = _unit(np.cross(along, rng.normal(size=(count, 3))))
    length = 0.1 / math.sqrt(_KEPT[detail]) * rng.uniform(0.7, 1.2, count)
    leaves = _cards((at + np.array([0.0, 0.0, 0.5])) * size - along * length[:, None] * 0.6, along, side, length, length, 1)  # fmt: skip
    c = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (0, 1)], float)
    heart = c * [0.5, 0.19, 1.04] + [0.0, 0.0, 0.02]
    faces = np.array([[0, 2, 3], [0, 3, 1], [4, 5, 7], [4, 7, 6], [0, 1, 5], [0, 5, 4], [2, 6, 7], [2, 7, 3],
                      [0, 4, 6], [0, 6, 2], [1, 3, 7], [1, 7, 5]])  # fmt: skip
    return [_Shape(heart, faces, np.zeros((8, 2)), 0), leaves], [_plain("Hedge, inside", 0.02, 0.022, 0.012), _leaf("round")]  # fmt: skip


def _blades(rng: np.random.Generator, at: Array, turn: Array, height: Array, width: float, lean: Array, pieces: int,
            material: int) -> _Shape:  # fmt: skip
    """Blades that bend over: strips of ``pieces`` quads that end in a point."""
    n = len(at)
    out = np.stack([np.cos(turn), np.sin(turn), np.zeros(n)], axis=1)
    side = np.stack([-np.sin(turn), np.cos(turn), np.zeros(n)], axis=1)
    t = np.linspace(0.0, 1.0, pieces + 1)
    bend = lean[:, None] * t**2
    up = t * np.sqrt(np.maximum(1 - 0.5 * bend**2, 0.05))
    middle = at[:, None] + (out[:, None] * bend[..., None] + np.array([0.0, 0.0, 1.0]) * up[..., None]) * height[:, None, None]  # fmt: skip
    wide = side[:, None] * (width / 2 * (1 - t) ** 0.6)[None, :, None] * rng.uniform(0.7, 1.2, (n, 1, 1))  # fmt: skip
    points = np.stack([middle - wide, middle + wide], axis=2)
    rows = 2 * (pieces + 1)
    strips = [[2 * i, 2 * i + 1, 2 * i + 3] for i in range(pieces)]
    strips += [[2 * i, 2 * i + 3, 2 * i + 2] for i in range(pieces - 1)]
    faces = np.array(strips)[None] + rows * np.arange(n)[:, None, None]
    return _Shape(points.reshape(-1, 3), faces.reshape(-1, 3), np.zeros((n * rows, 2)), material)


def _grass(rng: np.random.Generator, detail: Detail) -> _Grown:
    count = {"near": 70, "usual": 32, "far": 12}[detail]
    shapes = []
    for material, share in ((0, 0.78), (1, 0.22)):
        n = max(int(count * share), 1)
        turn = rng.uniform(0, 2 * math.pi, n)
        r = 0.05 * np.sqrt(rng.uniform(0, 1, n))
        spot = rng.uniform(0, 2 * math.pi, n)
        at = np.stack([r * np.cos(spot), r * np.sin(spot), np.zeros(n)], axis=1)
        height = rng.uniform(0.07, 0.17, n) * (1.0 if material == 0 else 1.15)
        shapes.append(_blades(rng, at, turn, height, 0.0045 / math.sqrt(count / 70), rng.uniform(0.2, 0.9, n),
                              {"near": 4, "usual": 2, "far": 1}[detail], material))  # fmt: skip
    return shapes, [_plain("Grass", 0.085, 0.14, 0.035, 0.4), _plain("Dry grass", 0.26, 0.22, 0.1, 0.35)]  # fmt: skip


def _reeds(rng: np.random.Generator, detail: Detail) -> _Grown:
    n = {"near": 26, "usual": 18, "far": 10}[detail]
    pieces = {"near": 6, "usual": 4, "far": 2}[detail]
    spot, r = rng.uniform(0, 2 * math.pi, n), 0.16 * np.sqrt(rng.uniform(0, 1, n))
    at = np.stack([r * np.cos(spot), r * np.sin(spot), np.zeros(n)], axis=1)
    height = rng.uniform(1.0, 1.75, n)
    wide = 0.016 * math.sqrt(26 / n)
    leaves = _blades(rng, at, rng.uniform(0, 2 * math.pi, n), height, wide, rng.uniform(0.08, 0.5, n), pieces, 0)  # fmt: skip
    heads = 5
    lean = np.concatenate([rng.normal(size=(heads, 2)) * 0.06, np.ones((heads, 1))], axis=1)
    tall = rng.uniform(1.45, 1.75, heads)
    stems = _stem(rng, at[:heads], lean, tall, np.full(heads, 0.004), 0.05, 4, 0.02, 0.8)
    end = stems.nodes[:, -1]
    tips = _stem(rng, end, lean, np.full(heads, 0.16), np.full(heads, 0.013), 0.0, 3, 0.0, 0.7)
    return ([leaves, _wood(stems, 3, 0), _wood(tips, _SIDES[detail], 1)],
            [_plain("Reed", 0.13, 0.16, 0.055, 0.3), _plain("Reed head", 0.12, 0.07, 0.04)])  # fmt: skip


def _climber(rng: np.random.Generator, detail: Detail) -> _Grown:
    """A patch of leaves that lie before a wall like tiles, their tips down."""
    count = int(150 * _KEPT[detail])
    r, turn = 0.42 * np.sqrt(rng.uniform(0, 1, count)), rng.uniform(0, 2 * math.pi, count)
    off = 0.015 + 0.11 * rng.uniform(0, 1, count) * (1 - r / 0.5)
    at = np.stack([r * np.cos(turn), off, r * np.sin(turn)], axis=1)
    along = _unit(np.stack([rng.normal(size=count) * 0.6, rng.uniform(0.1, 0.6, count), -np.ones(count)], axis=1))  # fmt: skip
    side = _unit(np.cross(along, rng.normal(size=(count, 3)) * 0.25 + [0.0, 1.0, 0.0]))
    length = 0.17 / math.sqrt(_KEPT[detail]) * rng.uniform(0.7, 1.2, count)
    leaves = _cards(at, along, side, length, length, 1)
    # None grows into the wall.
    leaves.points[:, 1] = np.maximum(leaves.points[:, 1], 0.008)
    n = 5
    start = np.stack([rng.uniform(-0.3, 0.3, n), np.full(n, 0.012), np.full(n, -0.4)], axis=1)
    towards = np.stack([rng.normal(size=n) * 0.5, np.zeros(n), np.ones(n)], axis=1)
    stems = _stem(rng, start, towards, np.full(n, 0.8), np.full(n, 0.006), 0.1, 5, 0.1, 0.6)
    stems.nodes[..., 1] = 0.012
    return [_wood(stems, 3, 0), leaves], [_bark(), _leaf("ivy")]


def _potted(rng: np.random.Generator, detail: Detail) -> _Grown:
    profile = np.array([[0.0, 0.0], [0.13, 0.0], [0.17, 0.3], [0.185, 0.3], [0.185, 0.34], [0.16, 0.34], [0.155, 0.3], [0.0, 0.3]])  # fmt: skip
    sides = {"near": 40, "usual": 24, "far": 12}[detail]
    a = np.arange(sides) * 2 * math.pi / sides
    rings = np.stack([profile[:, :1] * np.cos(a), profile[:, :1] * np.sin(a), np.repeat(profile[:, 1:], sides, 1)], axis=2)  # fmt: skip
    number = np.arange(len(profile) * sides).reshape(len(profile), sides)
    here, there = number[:-1], number[1:]
    after, beyond = np.roll(here, -1, axis=1), np.roll(there, -1, axis=1)
    faces = np.stack([np.stack([here, after, beyond], -1), np.stack([here, beyond, there], -1)], -2)
    flat = np.zeros((len(profile) * sides, 2))
    pot = _Shape(rings.reshape(-1, 3), faces[:-1].reshape(-1, 3), flat, 0)
    soil = _Shape(rings.reshape(-1, 3), faces[-1:].reshape(-1, 3), flat, 1)
    n = 26
    turn = np.arange(n, dtype=np.float64) * _GOLDEN
    at = np.stack([0.02 * np.cos(turn), 0.02 * np.sin(turn), np.full(n, 0.29)], axis=1)
    height = np.linspace(0.75, 0.35, n) * rng.uniform(0.85, 1.1, n)
    pieces = {"near": 9, "usual": 5, "far": 3}[detail]
    leaves = _blades(rng, at, turn, height, 0.085, np.linspace(0.25, 1.15, n), pieces, 2)
    made = [_plain("Pot, fired clay", 0.36, 0.17, 0.1), _plain("Soil", 0.035, 0.026, 0.02), _green()]  # fmt: skip
    return [pot, soil, leaves], made


@lru_cache
def _green() -> Material:
    return Material((0.07, 0.12, 0.04), roughness=0.35, name="Long leaves", base_texture=None, translucency=0.3,
                    through=(0.1, 0.2, 0.02))  # fmt: skip


_Grown = tuple[list[_Shape], list[Material]]
_BROAD = (_Order(13, 0.26, 0.52, 62, 0.09, 6), _Order(7, 0.25, 0.5, 48, 0.06, 5), _Order(6, 0.2, 0.42, 45, 0.03))  # fmt: skip
_TALL = (_Order(44, 0.08, 0.27, 40, 0.3, 5), _Order(7, 0.2, 0.42, 42, 0.12, 4))
_LIGHT = (_Order(17, 0.24, 0.4, 55, 0.06, 6), _Order(8, 0.25, 0.5, 45, -0.08, 5), _Order(3, 0.3, 0.55, 40, -0.22, 4))  # fmt: skip
_BARE = (*_BROAD, _Order(4, 0.2, 0.5, 40, 0.05, 3))
_GROWN: dict[str, Callable[[np.random.Generator, Detail], _Grown]] = {
    "grass": _grass,
    "reeds": _reeds,
    "bush": _bush,
    "hedge": _hedge,
    "climber": _climber,
    "potted": _potted,
    "broad tree": _tree(8.0, 0.2, _BROAD, 13, 0.42, "broad"),
    "tall tree": _tree(11.0, 0.2, _TALL, 17, 0.46, "round"),
    "light tree": _tree(7.0, 0.11, _LIGHT, 9, 0.34, "slim", droop=0.5, pale=True),
    "bare tree": _tree(8.0, 0.2, _BARE, 0, 0.0, ""),
}
