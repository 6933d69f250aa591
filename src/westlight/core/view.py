"""Cameras: where a picture is taken from and what the lens takes in."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from .transport import layout as L

#: Width of the reference film in mm; focal lengths are quoted against it.
FILM_WIDTH_MM = 36.0

Point = tuple[float, float, float]
#: Blur on the 36 mm film that still reads as sharp, in mm.
SHARP_MM = 0.03


def sharp_zone(
    focal_length_mm: float, f_number: float, focus_m: float
) -> tuple[float, float | None]:
    """Nearest and farthest distance in metres that look sharp; None: to infinity.

    From the hyperfocal distance H = f²/(N·c) + f with the circle of confusion c of `SHARP_MM`
    (Ray, Applied Photographic Optics, 2002).

    >>> near, far = sharp_zone(50, 8, 5.0)
    >>> round(near, 2), round(far, 2)
    (3.39, 9.49)
    """
    f = focal_length_mm / 1000.0
    hyperfocal = f * f / (f_number * SHARP_MM / 1000.0) + f
    near = hyperfocal * focus_m / (hyperfocal + focus_m - f)
    if focus_m >= hyperfocal:
        return near, None
    return near, hyperfocal * focus_m / (hyperfocal - focus_m + f)


@dataclass(frozen=True)
class View:
    """A camera. Positions in metres, z up; lens in mm against a 36 mm wide film.

    With ``upright`` the film stays vertical and the target is reached by shifting the lens, so
    that verticals stay vertical; ``shift`` moves the lens further, right and up, in shares of the
    picture's width. ``f_number`` gives depth of field around ``focus_m`` when both are set, with a
    round aperture or one of at least three ``blades``; without them everything is sharp.
    ``roll_deg`` turns the camera about its axis, its right side down. What lies nearer than
    ``near_m`` along the axis is cut away for the camera, so that one can stand behind a wall; it
    still casts shadows and is seen in mirrors. Depth is counted from there.
    """

    position: Point
    target: Point
    focal_length_mm: float = 28.0
    width_px: int = 1280
    height_px: int = 720
    upright: bool = False
    f_number: float | None = None
    focus_m: float | None = None
    blades: int = 0
    shift: tuple[float, float] = (0.0, 0.0)
    roll_deg: float = 0.0
    near_m: float = 0.0

    def __post_init__(self) -> None:
        """Raise ``ValueError`` for a camera that cannot take a picture."""
        if self.focal_length_mm <= 0:
            raise ValueError("The lens needs a focal length greater than zero.")
        if self.width_px < 1 or self.height_px < 1:
            raise ValueError("A picture needs at least one pixel each way.")
        if self.near_m < 0:
            raise ValueError("What is cut away must lie in front of the camera.")
        if math.dist(self.position, self.target) < 1e-6:
            raise ValueError("Camera and target are at the same place; move one of them.")

    def resized(self, width_px: int, height_px: int) -> View:
        """The same view at another size in pixels."""
        return replace(self, width_px=width_px, height_px=height_px)

    def axes(self) -> tuple[npt.NDArray[np.float64], ...]:
        """Unit vectors right, down and forward of the film, and the shift (right, down) at 1 m."""
        way = np.asarray(self.target, float) - np.asarray(self.position, float)
        forward = way / np.linalg.norm(way)
        wide = FILM_WIDTH_MM / self.focal_length_mm
        shift = np.array([self.shift[0] * wide, -self.shift[1] * wide])
        level = np.array([forward[0], forward[1], 0.0])
        if self.upright and np.linalg.norm(level) > 0.2:
            level /= np.linalg.norm(level)
            shift[1] -= forward[2] / float(forward @ level)
            forward = level
        up = np.array([0.0, 0.0, 1.0]) if abs(forward[2]) < 0.9999 else np.array([0.0, 1.0, 0.0])
        right = np.cross(forward, up)
        right /= np.linalg.norm(right)
        down = np.cross(forward, right)
        c, s = math.cos(math.radians(self.roll_deg)), math.sin(math.radians(self.roll_deg))
        if self.upright:
            # The shift that keeps verticals upright belongs to the building, not to the film.
            shift = np.array([c * shift[0] + s * shift[1], c * shift[1] - s * shift[0]])
        return c * right + s * down, c * down - s * right, forward, shift

    def camera_array(self) -> npt.NDArray[np.float32]:
        """Columns of `layout.C_*` for the kernels; directions reach a plane 1 m ahead."""
        return self._camera.copy()

    @cached_property
    def _camera(self) -> npt.NDArray[np.float32]:
        right, down, forward, shift = self.axes()
        step = FILM_WIDTH_MM / self.focal_length_mm / self.width_px
        out = np.zeros(L.CAMERA_FLOATS)
        out[0:3] = self.position
        out[3:6] = (
            forward
            + right * (shift[0] - 0.5 * step * self.width_px)
            + down * (shift[1] - 0.5 * step * self.height_px)
        )
        out[6:9], out[9:12] = right * step, down * step
        if self.f_number and self.focus_m:
            out[12:15], out[15:18] = right, down
            out[18] = self.focal_length_mm / self.f_number / 2000.0
            out[19] = self.focus_m
            out[L.C_BLADES] = self.blades
        out[L.C_NEAR] = self.near_m
        return out.astype(np.float32)

    def horizon(self) -> float:
        """Height of the horizon in the middle of the picture, from its top, in picture heights."""
        c = self._camera.astype(np.float64)
        down = c[11] * self.height_px
        if abs(down) < 1e-9:
            return 0.5
        return float(-(c[5] + c[8] * self.width_px / 2) / down)

    def place_of(self, point: npt.ArrayLike) -> tuple[float, float] | None:
        """Where a point in metres lies in the picture, from its top left in shares of it.

        It may lie outside 0…1; None for a point that is not before the camera. The inverse of
        `ray`, whatever stands between.

        >>> view = View((0, 0, 1), (0, 5, 1), 35, 160, 90)
        >>> view.place_of((0, 9, 1)), view.place_of((0, -1, 1))
        ((0.5, 0.5), None)
        """
        (x, y), depth = self.places_of(point)
        if depth <= 1e-6:
            return None
        return round(float(x / self.width_px), 6), round(float(y / self.height_px), 6)

    def places_of(
        self, points: npt.ArrayLike
    ) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        """Columns and rows (…, 2) that points (…, 3) in metres are seen at, in pixels from the top left, and how many
        metres before the camera they lie (…), below 0 behind it, where their place means nothing.

        >>> View((0, 0, 1), (0, 5, 1), 35, 160, 90).places_of([[0, 9, 1], [0, -1, 1]])[1].round(6).tolist()
        [9.0, -1.0]
        """
        c = self._camera.astype(np.float64)
        to = np.asarray(points, np.float64) - np.asarray(self.position)
        along = to @ np.linalg.inv(np.stack([c[6:9], c[9:12], c[3:6]]))
        depth = along[..., 2]
        return along[..., :2] / np.where(np.abs(depth) < 1e-9, 1e-9, depth)[..., None], depth

    def ray(self, x: float, y: float) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        """Origin and unit direction through a point of the picture, x and y in 0…1 from top left."""
        c = self._camera.astype(np.float64)
        d = c[3:6] + c[6:9] * x * self.width_px + c[9:12] * y * self.height_px
        return np.asarray(self.position, float) + d * self.near_m, d / np.linalg.norm(d)
