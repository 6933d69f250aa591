"""Luminous intensity distributions: candela by direction, with flux and angles of the beam.

Directions follow the C–γ system of CIE 121: the vertical angle γ runs from the lamp's axis (0°,
straight down for a ceiling lamp) to 180°, the horizontal angle C around the axis from 0° to 360°.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

#: Steps of the table the tracer reads: fine for lamps that are even around their axis.
_ROUND_ROWS, _ROWS, _COLUMNS = 1441, 361, 73


@dataclass(frozen=True, eq=False)
class IntensityDistribution:
    """Candela over direction.

    ``vertical_deg`` (n,) rises from 0 to 180, ``horizontal_deg`` (m,) from 0 to 360 (a single 0
    for a lamp that is even around its axis), ``table_cd`` has the shape (m, n). Between angles the
    intensity is linear; outside the vertical angles it is 0. ``width_m``, ``length_m`` and
    ``height_m`` tell the luminous opening, 0 if unknown. ``remarks`` say what is doubtful; ``others`` are
    the same luminaire with other lamps that its file lists.
    """

    vertical_deg: Array
    horizontal_deg: Array
    table_cd: Array
    name: str = ""
    stated_flux_lm: float | None = None
    watts: float | None = None
    width_m: float = 0.0
    length_m: float = 0.0
    height_m: float = 0.0
    remarks: tuple[str, ...] = ()
    keywords: dict[str, str] = field(default_factory=dict)
    others: tuple[IntensityDistribution, ...] = ()

    def candela(self, vertical_deg: npt.ArrayLike, horizontal_deg: npt.ArrayLike = 0.0) -> Array:
        """Luminous intensity in cd at angles in degrees, of the shape the angles broadcast to."""
        v, h = np.broadcast_arrays(
            np.asarray(vertical_deg, float), np.asarray(horizontal_deg, float) % 360.0
        )
        angles, table = self.vertical_deg, self.table_cd
        if len(angles) == 1:
            return np.where(v == angles[0], table[0, 0], 0.0)
        i = np.clip(np.searchsorted(angles, v, side="right") - 1, 0, len(angles) - 2)
        a = (v - angles[i]) / (angles[i + 1] - angles[i])
        inside = (v >= angles[0] - 1e-9) & (v <= angles[-1] + 1e-9)
        if len(self.horizontal_deg) == 1:
            out = table[0, i] * (1 - a) + table[0, i + 1] * a
        else:
            turns = self.horizontal_deg
            j = np.clip(np.searchsorted(turns, h, side="right") - 1, 0, len(turns) - 2)
            b = (h - turns[j]) / (turns[j + 1] - turns[j])
            low = table[j, i] * (1 - a) + table[j, i + 1] * a
            high = table[j + 1, i] * (1 - a) + table[j + 1, i + 1] * a
            out = low * (1 - b) + high * b
        return np.where(inside, np.maximum(out, 0.0), 0.0)

    @cached_property
    def flux_lm(self) -> float:
        """Luminous flux in lm: ∫ I dΩ over all directions."""
        return table_flux(self.table())

    @cached_property
    def maximum_cd(self) -> float:
        """Greatest intensity in cd."""
        return float(self.table_cd.max()) if self.table_cd.size else 0.0

    def _angle_to(self, share: float) -> float:
        """Full angle in degrees within which the mean over C stays above a share of the peak."""
        fine = np.linspace(0, 180, 1801)
        mean = np.mean([self.candela(fine, c) for c in range(0, 360, 15)], axis=0)
        peak = float(mean.max())
        if peak <= 0:
            return 0.0
        first = int(mean.argmax())
        below = np.nonzero(mean[first:] < share * peak)[0]
        return 2.0 * float(fine[first + below[0]]) if len(below) else 360.0

    @cached_property
    def beam_angle_deg(self) -> float:
        """Full angle in degrees to half of the greatest intensity (mean over C)."""
        return min(self._angle_to(0.5), 360.0)

    @cached_property
    def field_angle_deg(self) -> float:
        """Full angle in degrees to a tenth of the greatest intensity (mean over C)."""
        return min(self._angle_to(0.1), 360.0)

    @cached_property
    def flux_codes(self) -> tuple[float, float, float, float]:
        """CIE flux codes N1…N4 as shares, 0…1 (CIE 52): of the light downwards that within 41.4°,
        60° and 75.5° of the axis (π/2, π and 3π/2 sr), and of all light that downwards.

        >>> [round(n, 2) for n in narrowed(0.0).flux_codes]
        [0.44, 0.75, 0.94, 1.0]
        """
        edges = np.radians(np.linspace(0, 180, 3601))
        middles = (edges[:-1] + edges[1:]) / 2
        mean = np.mean([self.candela(np.degrees(middles), c) for c in range(0, 360, 5)], axis=0)
        rings = mean * 2 * np.pi * (np.cos(edges[:-1]) - np.cos(edges[1:]))
        total, down = float(rings.sum()), float(rings[middles < np.pi / 2].sum())
        within = [float(rings[np.cos(middles) > c].sum()) for c in (0.75, 0.5, 0.25)]
        n1, n2, n3 = (w / max(down, 1e-12) for w in within)
        return n1, n2, n3, down / max(total, 1e-12)

    @property
    def character(self) -> list[str]:
        """What kind of light it is, in words of the trade: how wide, whither, how even around.

        >>> spot(20, 40).character, narrowed(0.0).character
        (['narrow'], ['wide'])
        """
        down = self.flux_codes[3]
        beam = self.beam_angle_deg
        words = ["narrow" if beam < 30 else "medium" if beam < 70 else "wide"]
        if down < 0.95:
            words.append("up" if down < 0.2 else "up and down")
        straight = float(self.candela(0.0)) / max(self.maximum_cd, 1e-9)
        if straight < 0.7 and down > 0.2:
            words.append("batwing")
        g = np.linspace(0, 90, 91)
        sides = [float(self.candela(g, c).sum()) for c in (0, 90, 180, 270)]
        if max(abs(sides[0] - sides[2]), abs(sides[1] - sides[3])) > 0.3 * max(*sides, 1e-9):
            words.append("asymmetric")
        return words

    @property
    def is_round(self) -> bool:
        """Whether the distribution is the same at every horizontal angle."""
        return len(self.horizontal_deg) == 1

    def table(self) -> npt.NDArray[np.float32]:
        """Candela at even steps: (rows over 0…180°, columns over 0…360°), for the tracer."""
        if self.is_round:
            v = np.linspace(0, 180, _ROUND_ROWS)
            return self.candela(v)[:, None].astype(np.float32)
        v, h = np.linspace(0, 180, _ROWS), np.linspace(0, 360, _COLUMNS)
        h[-1] = 360.0 - 1e-9
        return self.candela(v[:, None], h[None, :]).astype(np.float32)

    def scaled(self, factor: float) -> IntensityDistribution:
        """The same shape with every intensity multiplied."""
        return self._with(self.table_cd * factor)

    def turned(self, degrees: float) -> IntensityDistribution:
        """The distribution turned about its axis by an angle in degrees."""
        if self.is_round:
            return self
        h = np.unique(np.concatenate([(self.horizontal_deg + degrees) % 360.0, [0.0, 360.0]]))
        table = self.candela(self.vertical_deg[None, :], (h - degrees)[:, None])
        table[-1] = table[0]
        return self._with(table, h)

    def symmetrised(self) -> IntensityDistribution:
        """The mean over all horizontal angles: even around the axis."""
        h = np.arange(0, 360, 5.0)
        mean = self.candela(self.vertical_deg[None, :], h[:, None]).mean(axis=0)
        return self._with(mean[None, :], np.zeros(1))

    def _with(self, table: Array, horizontal: Array | None = None) -> IntensityDistribution:
        return IntensityDistribution(
            self.vertical_deg, self.horizontal_deg if horizontal is None else horizontal, table,
            self.name, None, self.watts, self.width_m, self.length_m, self.height_m,
            self.remarks, dict(self.keywords),
        )  # fmt: skip


def table_flux(table: npt.NDArray[np.floating]) -> float:
    """Flux in lm of a table of candela as `IntensityDistribution.table` makes it.

    Exact for intensities linear in angle: ∫ I(γ)·sin γ dγ between two rows of the table.
    """
    rows = table.shape[0]
    ring = table[:, 0] if table.shape[1] == 1 else (table[:, :-1] + table[:, 1:]).mean(axis=1) / 2
    ring = ring.astype(np.float64)
    g = np.linspace(0, math.pi, rows)
    step = g[1]
    slope = (ring[1:] - ring[:-1]) / step
    # ∫ (I0 + s(γ−γ0)) sin γ dγ = −[I cos γ] + s·[sin γ]
    part = ring[:-1] * np.cos(g[:-1]) - ring[1:] * np.cos(g[1:])
    part += slope * (np.sin(g[1:]) - np.sin(g[:-1]))
    return float(2 * math.pi * part.sum())


def closed_turn(horizontal_deg: Array, table: Array) -> tuple[Array, Array]:
    """Planes sorted over 0…360° with the first repeated at the end; any plane may be missing."""
    h, keep = np.unique(np.round(horizontal_deg % 360.0, 6), return_index=True)
    table = table[keep]
    if h[0] > 0:
        h, table = np.insert(h, 0, h[-1] - 360), np.concatenate([table[-1:], table])
    else:
        h, table = np.append(h, 360.0), np.concatenate([table, table[:1]])
    if h[-1] < 360:
        after = 1 if h[0] < 0 else 0
        h, table = np.append(h, h[after] + 360), np.concatenate([table, table[after : after + 1]])
    return h, table


def spot(beam_deg: float, field_deg: float) -> IntensityDistribution:
    """A round beam of 1 cd on its axis, half of it at the beam angle, a tenth at the field angle.

    Full angles in degrees, 0 < beam < field ≤ 180. I(γ) = exp(−ln 2·(γ/γb)^k), k from the field
    angle: the closer the two, the harder the edge. Raises ``ValueError`` for other angles.

    >>> bool(abs(spot(30, 60).beam_angle_deg - 30) < 0.3)
    True
    """
    if not 0 < beam_deg < field_deg <= 180:
        raise ValueError("The field angle must be wider than the beam angle, and at most 180°.")
    k = math.log(math.log(10) / math.log(2)) / math.log(field_deg / beam_deg)
    v = np.unique(
        np.concatenate([np.linspace(0, min(field_deg, 90), 721), np.linspace(0, 180, 361)])
    )
    with np.errstate(over="ignore"):
        intensity = np.exp(-math.log(2) * (v / (beam_deg / 2)) ** k)
    intensity[v > 90] = 0.0
    return IntensityDistribution(v, np.zeros(1), intensity[None, :], name="spot")


def narrowed(narrowing: float) -> IntensityDistribution:
    """Intensity of a flat face of 1 lm whose light is gathered towards its axis.

    ``narrowing`` 0 is a Lambert emitter (I ∝ cos γ), 1 nearly a beam: I ∝ cos γ^(1 + n) with
    n = narrowing/(1 − narrowing)·8, the flux kept. Raises ``ValueError`` outside 0…0.99.
    """
    if not 0 <= narrowing <= 0.99:
        raise ValueError("Narrowing must lie between 0 and 0.99.")
    power = 1.0 + 8.0 * narrowing / (1.0 - narrowing)
    v = np.linspace(0, 180, 1441)
    intensity = np.where(v < 90, np.cos(np.radians(np.minimum(v, 90))) ** power, 0.0)
    shape = IntensityDistribution(v, np.zeros(1), intensity[None, :], name="narrowed")
    return shape.scaled(1.0 / shape.flux_lm)
