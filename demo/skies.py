"""Made-up sky pictures: the computed clear sky with procedural clouds in front of it, in cd/m²."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy.ndimage import map_coordinates

from westlight import core
from westlight.core.files import write_exr
from westlight.core.sky.hdri import directions
from westlight.core.sun import direction

F = npt.NDArray[np.float64]
WIDTH = 4096
#: The full moon gives about this share of the sun's light.
MOON = 1 / 400_000


@dataclass(frozen=True)
class Kind:
    """One sky: where the sun (or moon) stands, the air, and its clouds."""

    elevation: float
    azimuth: float
    haze: float
    cover: float
    softness: float
    size: float
    depth: float
    seed: int
    stretch: float = 1.0
    disc: bool = False
    scale: float = 1.0


KINDS = {
    "Broken cumulus noon": Kind(46, 200, 2.2, 0.44, 0.3, 0.7, 5.0, 3, disc=True),
    "High cirrus evening": Kind(12, 250, 2.6, 0.62, 0.5, 1.6, 0.5, 8, stretch=5.0, disc=True),
    "Overcast quay": Kind(30, 190, 3.0, 1.35, 0.8, 0.7, 9.0, 21),
    "Red dusk": Kind(-1.2, 262, 4.0, 0.55, 0.35, 1.2, 1.5, 13, stretch=2.5),
    "Moonlit": Kind(38, 150, 2.0, 0.42, 0.3, 1.1, 1.2, 34, disc=True, scale=MOON),
}


def noise(seed: int, size: int = 1024, slope: float = 1.55) -> F:
    """Tileable noise whose spectrum falls with a power of frequency, spread evenly over 0…1."""
    rng = np.random.default_rng(seed)
    f = np.hypot(np.fft.fftfreq(size)[:, None], np.fft.rfftfreq(size)[None, :])
    f[0, 0] = 1.0
    spectrum = np.fft.rfft2(rng.standard_normal((size, size))) / f**slope
    spectrum[0, 0] = 0
    field = np.fft.irfft2(spectrum, (size, size))
    ranks = np.empty(field.size)
    ranks[np.argsort(field, axis=None)] = np.linspace(0, 1, field.size)
    return ranks.reshape(size, size)


def clouds(kind: Kind, d: F) -> F:
    """Optical depth of the clouds towards directions (h, w, 3)."""
    up = np.maximum(d[..., 2], 0.0)
    # A layer on a curved earth: near the horizon the way through it stays finite.
    reach = 1.0 / (up + 0.06)
    texture = noise(kind.seed)
    size = texture.shape[0]
    x = d[..., 0] * reach / kind.size * 90
    y = d[..., 1] * reach / kind.size / kind.stretch * 90
    density = map_coordinates(texture, np.stack([y % size, x % size]), order=1, mode="grid-wrap")
    thick = np.clip((density - (1 - kind.cover)) / kind.softness, 0, 1.5)
    fade = np.clip(d[..., 2] / 0.03, 0, 1)
    return np.asarray(kind.depth * thick**1.5 * fade)


def picture(kind: Kind, width: int = WIDTH) -> npt.NDArray[np.float32]:
    """Latitude–longitude picture in cd/m², middle column north, (width / 2, width, 3)."""
    height = width // 2
    sky = core.sky.clear_sky(kind.elevation, kind.azimuth, kind.haze)
    d = directions(height, width)
    light = sky.rgb(d.reshape(-1, 3)).reshape(height, width, 3)
    sun = direction(kind.azimuth, kind.elevation)
    sun_rgb = core.sky.sun_irradiance(max(round(kind.elevation, 2), -0.5), kind.haze)
    cosine = np.clip(d @ sun, -1, 1)
    tau = clouds(kind, d)
    through = np.exp(-tau)[..., None]
    # Light scattered in the cloud: forward towards the sun, and the sky's own from all around.
    g = 0.75
    forward = (1 - g * g) / (1 + g * g - 2 * g * cosine) ** 1.5 / (4 * math.pi)
    up = max(math.sin(math.radians(max(kind.elevation, 3.0))), 0.05)
    around = (sky.horizontal_rgb() + sun_rgb * up) / math.pi
    # Many times scattered light has lost most of its hue, and reaches us most from overhead.
    around = 0.35 * around + 0.65 * float(around @ core.colour.AP1_LUMINANCE)
    lit = sun_rgb * (forward * np.exp(-0.5 * tau) * (1 - np.exp(-1.2 * tau)))[..., None]
    overhead = np.where(tau > 6, (1 + 2 * np.maximum(d[..., 2], 0)) / 2.2, 1.0)
    body = (0.38 + 0.75 * np.exp(-tau / 3.5)) * overhead
    veil = around * (body * (1 - np.exp(-tau)))[..., None]
    below = (d[..., 2] < 0)[..., None]
    out = np.where(below, light, light * through + lit + veil)
    if kind.disc:
        radius = math.radians(0.2665)
        edge = max(2 * math.pi / width * 0.75, radius)
        inside = np.arccos(cosine) < edge
        # However few pixels the disc covers, its light is right.
        weight = np.cos((0.5 - (np.arange(height) + 0.5) / height) * math.pi)[:, None]
        omega = float((inside * weight).sum()) * (2 * math.pi / width) * (math.pi / height)
        out = out + inside[..., None] * sun_rgb / max(omega, 1e-9) * through
    return np.roll(out * kind.scale, width // 2, axis=1).astype(np.float32)


def write_skies(folder: Path) -> None:
    """Write all skies as EXR."""
    folder.mkdir(parents=True, exist_ok=True)

    def write(name: str) -> None:
        made = picture(KINDS[name])
        # Half floats end at 65504; a sun in the picture needs more. It keeps their ten bits of
        # precision, so that it packs as well.
        bits = made.view(np.uint32)
        bits += 1 << 12
        bits &= np.uint32(0xFFFFE000)
        write_exr(folder / f"{name}.exr", made, {}, half=float(made.max()) < 65_000)

    with ThreadPoolExecutor(2) as pool:
        list(pool.map(write, KINDS))
