"""Denoising of scene-linear pictures with Open Image Denoise, guided by albedo and normals."""

from __future__ import annotations

import threading
from typing import Any

import numpy as np
import numpy.typing as npt
import pyoidn
from scipy.ndimage import maximum_filter

from ..channels import largest, smallest
from .film import SIGMA_OF_MEAN

F4 = npt.NDArray[np.float32]
_QUALITY = {
    "fast": pyoidn.OIDN_QUALITY_FAST,
    "balanced": pyoidn.OIDN_QUALITY_BALANCED,
    "high": pyoidn.OIDN_QUALITY_HIGH,
}


#: Most pixels that noise is measured on; of larger pictures the middle stands for the rest.
_MEASURED = (1200, 1600)


#: Filters kept: one takes 0.3 GB at 1280×720, and making it anew a fifth of the time of using it.
MOST_FILTERS = 1
#: Memory of a filter, in MB, as far as it can be had in tiles: seen to take no more time, and 0.2 GB less.
_MEMORY_MB = 200
#: Power of time by which the noise of a denoised interior was seen to fall.
USUAL_FALL = 0.28


def noise_left(denoise: Denoiser, halves: tuple[F4, F4], seen: F4, albedo: F4, normal: F4) -> float:
    """Noise that denoising leaves, relative to the mean of the picture; 0 for a dark one.

    Both halves (h, w) of the passes, less what is ``seen`` in both (h, w), are denoised by themselves: what then still differs
    between them is noise. What denoising smears alike in both does not show in this.
    """
    window = tuple(
        slice(max(0, (n - most) // 2), max(0, (n - most) // 2) + min(n, most))
        for n, most in zip(albedo.shape[:2], _MEASURED, strict=True)
    )
    albedo, normal = albedo[window], normal[window]
    mean = float(np.mean([h[window].mean() for h in halves]))
    if mean <= 0:
        return 0.0
    rest = [np.maximum(h[window] - seen[window], 0) / np.float32(mean) for h in halves]
    grey = [np.repeat(h[..., None], 3, axis=2) for h in rest]
    a, b = (denoise(g, albedo, normal)[..., 0] for g in grey)
    return SIGMA_OF_MEAN * float(np.abs(a - b).mean()) / 2


#: Light this many times the usual is held back from the filter. Measured on a white disc: up to
#: here its colour is kept within 2 %; a thousand times brighter the darks gain half as much again.
_HELD = np.float32(24.0)
#: Albedo of lamps that are seen; no surface has as much.
_WHITE = 0.999


class Denoiser:
    """Keeps a prepared filter for pictures of one size."""

    def __init__(self) -> None:
        self._device = pyoidn.Device()
        self._device.commit()
        self._lock = threading.Lock()
        self._filters: dict[tuple[object, ...], tuple[Any, dict[str, F4]]] = {}

    def _run(self, quality: str, hdr: bool, clean: bool, inputs: dict[str, F4]) -> F4:
        """A copy of the first of some pictures (h, w, 3) denoised, the others its guides.

        ``clean``: the guides are free of noise.
        """
        shape = next(iter(inputs.values())).shape
        key = (shape, quality, hdr, clean, *inputs)
        if key not in self._filters:
            while len(self._filters) >= MOST_FILTERS:
                self._filters.pop(next(iter(self._filters)))[0].release()
            images = {name: np.zeros(shape, np.float32) for name in (*inputs, "output")}
            made = pyoidn.Filter(self._device, "RT")
            for name, image in images.items():
                made.set_image(name, image, pyoidn.OIDN_FORMAT_FLOAT3)
            made.set_bool("hdr", hdr)
            made.set_bool("cleanAux", clean)
            made.set_quality(_QUALITY[quality])
            made.set_int("maxMemoryMB", _MEMORY_MB)
            made.commit()
            self._filters[key] = (made, images)
        made, images = self._filters[key]
        for name, picture in inputs.items():
            images[name][:] = picture
        made.execute()
        error = self._device.get_error()
        if error:
            raise RuntimeError(f"Denoising failed: {error}")
        return images["output"].copy()

    def rest(self) -> None:
        """Let go of what the next picture can be prepared with anew, in a fraction of its time; nothing while one is at work."""
        if not self._lock.acquire(blocking=False):
            return
        try:
            while self._filters:
                self._filters.popitem()[1][0].release()
        finally:
            self._lock.release()

    def __call__(
        self,
        picture: F4,
        albedo: F4,
        normal: F4,
        quality: str = "high",
        seen: F4 | None = None,
        soft: bool = False,
    ) -> F4:
        """A denoised copy of a scene-linear picture (h, w, 3); quality fast, balanced, high or best.

        ``seen`` (h, w, 3), or one black pixel, the part of it that is seen itself and all but free of noise, keeps out of it:
        beside window frames and edges of the sun the noise of the rest would blur it. With ``soft`` edges it has noise of its
        own and is denoised by itself, but for lamps (guides all white). At best the guides are denoised before: that takes
        five times as long as high, and leaves a tenth less error. Fast takes half as long as high, and leaves dots where
        little light comes by rare ways, as in a gloss: for what is hardly seen.
        """
        lamps = smallest(albedo) > _WHITE
        if seen is None:
            out = self._cleaned(picture, albedo, normal, quality)
            out[lamps] = picture[lamps]
            return out
        rest = picture - seen
        np.maximum(rest, 0, out=rest)
        out = self._cleaned(rest, albedo, normal, quality) if rest.any() else rest
        if not soft:
            out += seen
        elif seen.any():
            clear = self._cleaned(seen, albedo, normal, quality)
            clear[lamps] = seen[lamps]
            out += clear
        return out

    def _cleaned(self, picture: F4, albedo: F4, normal: F4, quality: str) -> F4:
        """A picture denoised as one.

        Light far above the rest is held back: the filter would tint it and lift the darks around it.
        """
        scale = _common_light(picture)
        held = picture / scale
        _hold(held)
        with self._lock:
            best, guides = quality == "best", {"albedo": albedo, "normal": normal}
            if best:
                quality = "high"
                guides = {n: self._run(quality, False, False, {n: g}) for n, g in guides.items()}
            out = self._run(quality, True, best, {"color": held, **guides})
        _release(out, picture / scale)
        out *= scale
        return out


def _common_light(picture: F4) -> np.float32:
    """Mean of a picture without its brightest hundredth, or with it where all else is dark."""
    top = largest(picture[::4, ::4])
    usual = float(np.minimum(top, np.quantile(top, 0.99)).mean())
    return np.float32(usual or float(picture.mean()) or 1.0)


def _hold(picture: F4) -> None:
    """Bend what lies above `_HELD` to its logarithm, in place; hues stay."""
    top = largest(picture)
    bright = top > _HELD
    t = top[bright]
    picture[bright] *= (_HELD * (1 + np.log(t / _HELD)) / t)[:, None]


def _release(picture: F4, noisy: F4) -> None:
    """Undo `_hold`, in place; nothing becomes brighter than the brightest of its neighbours was.

    Without that bound a small error of the logarithm would be a large one of the light.
    """
    top = largest(picture)
    bright = top > _HELD
    if not bright.any():
        return
    t = top[bright]
    most = maximum_filter(largest(noisy), 3)[bright]
    light = np.minimum(_HELD * np.exp(np.minimum(t / _HELD - 1, 60)), most)
    picture[bright] *= (light / t)[:, None]
