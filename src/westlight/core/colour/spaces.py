"""RGB spaces: ACEScg (AP1) as working space, sRGB at the edges, and the matrices between them.

Primaries from Academy S-2014-004 (ACEScg) and IEC 61966-2-1 (sRGB). Lights keep their absolute
chromaticity (XYZ to AP1 without adaptation); reflectances from sRGB textures are adapted from
D65 to the working white with the Bradford transform, so that white paint stays white.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

AP1_PRIMARIES_XY = np.array([[0.713, 0.293], [0.165, 0.830], [0.128, 0.044]])
AP1_WHITE_XY = np.array([0.32168, 0.33767])
SRGB_PRIMARIES_XY = np.array([[0.64, 0.33], [0.30, 0.60], [0.15, 0.06]])
D65_XY = np.array([0.3127, 0.3290])

#: Bradford cone responses (Lam 1985), rows LMS.
BRADFORD = np.array(
    [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]
)


def xy_to_xyz(xy: npt.ArrayLike) -> Array:
    """XYZ with Y = 1 of a chromaticity ``xy``, shape (2,) → (3,)."""
    x, y = np.asarray(xy, dtype=np.float64)
    return np.array([x / y, 1.0, (1.0 - x - y) / y])


def rgb_to_xyz_matrix(primaries_xy: Array, white_xy: Array) -> Array:
    """3×3 matrix from linear RGB to XYZ, from chromaticities (SMPTE RP 177)."""
    columns = np.stack([xy_to_xyz(p) for p in primaries_xy], axis=1)
    return columns * np.linalg.solve(columns, xy_to_xyz(white_xy))


def adaptation_matrix(from_xy: npt.ArrayLike, to_xy: npt.ArrayLike) -> Array:
    """3×3 Bradford adaptation in XYZ that carries white ``from_xy`` to white ``to_xy``."""
    source, target = BRADFORD @ xy_to_xyz(from_xy), BRADFORD @ xy_to_xyz(to_xy)
    return np.linalg.inv(BRADFORD) @ np.diag(target / source) @ BRADFORD


AP1_TO_XYZ: Array = rgb_to_xyz_matrix(AP1_PRIMARIES_XY, AP1_WHITE_XY)
XYZ_TO_AP1: Array = np.linalg.inv(AP1_TO_XYZ).astype(np.float64)
_SRGB_TO_XYZ: Array = rgb_to_xyz_matrix(SRGB_PRIMARIES_XY, D65_XY)
SRGB_TO_AP1: Array = XYZ_TO_AP1 @ adaptation_matrix(D65_XY, AP1_WHITE_XY) @ _SRGB_TO_XYZ
AP1_TO_SRGB: Array = np.linalg.inv(SRGB_TO_AP1).astype(np.float64)
_P3_TO_XYZ: Array = rgb_to_xyz_matrix(
    np.array([[0.680, 0.320], [0.265, 0.690], [0.150, 0.060]]), D65_XY
)
#: Linear Display P3 to linear sRGB; both have the white of D65.
SRGB_FROM_P3: Array = np.linalg.inv(_SRGB_TO_XYZ) @ _P3_TO_XYZ
#: Working space to linear Display P3 (SMPTE EG 432-1 primaries, D65).
P3_FROM_AP1: Array = np.linalg.inv(
    XYZ_TO_AP1 @ adaptation_matrix(D65_XY, AP1_WHITE_XY) @ _P3_TO_XYZ
).astype(np.float64)
#: Weights of luminance Y in the working space.
AP1_LUMINANCE: Array = AP1_TO_XYZ[1]


def luminance(rgb: npt.ArrayLike) -> Array:
    """Luminance Y of working-space RGB, shape (..., 3) → (...), in the unit of ``rgb``.

    >>> float(round(float(luminance([1.0, 1.0, 1.0])), 6))
    1.0
    """
    return np.asarray(rgb, dtype=np.float64) @ AP1_LUMINANCE


def srgb_decode(encoded: npt.ArrayLike) -> Array:
    """Linear light of sRGB-encoded values in 0…1 (IEC 61966-2-1)."""
    e = np.asarray(encoded, dtype=np.float64)
    return np.where(e <= 0.04045, e / 12.92, ((e + 0.055) / 1.055) ** 2.4)


def srgb_encode(linear: npt.ArrayLike) -> Array:
    """sRGB encoding of linear light in 0…1 (IEC 61966-2-1)."""
    v = np.clip(np.asarray(linear, dtype=np.float64), 0.0, 1.0)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)


def swatch(rgb: npt.ArrayLike) -> str:
    """A light's working-space colour as a CSS colour at full brightness; grey without light.

    >>> swatch([2.0, 2.0, 2.0])
    'rgb(255 255 255)'
    """
    light = np.asarray(rgb, dtype=np.float64)
    if float(light.max()) <= 0:
        return "rgb(90 90 90)"
    shown = srgb_encode(AP1_TO_SRGB @ (light / light.max()))
    return "rgb(" + " ".join(str(round(float(v) * 255)) for v in shown) + ")"


def srgb_to_working(encoded: npt.ArrayLike) -> Array:
    """Working-space reflectance of an sRGB-encoded colour, shape (..., 3)."""
    return srgb_decode(encoded) @ SRGB_TO_AP1.T
