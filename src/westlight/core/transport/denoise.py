"""Denoising of scene-linear pictures with Open Image Denoise, guided by albedo and normals."""

from __future__ import annotations

import threading
from typing import Any

import numpy as np
import numpy.typing as npt
import pyoidn

F4 = npt.NDArray[np.float32]
_QUALITY = {
    "fast": pyoidn.OIDN_QUALITY_FAST,
    "balanced": pyoidn.OIDN_QUALITY_BALANCED,
    "high": pyoidn.OIDN_QUALITY_HIGH,
}


#: Most pixels that noise is measured on; of larger pictures the middle stands for the rest.
_MEASURED = (1200, 1600)
#: Standard deviation of a normal error over its mean size: √(π/2).
_SIGMA_OF_MEAN = 1.2533141


def noise_left(denoise: Denoiser, halves: tuple[F4, F4], albedo: F4, normal: F4) -> float:
    """Noise that denoising leaves, relative to the mean of the picture; 0 for a dark one.

    Both halves (h, w) of the passes are denoised by themselves: what then still differs between them
    is noise. What denoising smears alike in both does not show in this.
    """
    window = tuple(
        slice(max(0, (n - most) // 2), max(0, (n - most) // 2) + min(n, most))
        for n, most in zip(albedo.shape[:2], _MEASURED, strict=True)
    )
    albedo, normal = albedo[window], normal[window]
    mean = float(np.mean([h[window].mean() for h in halves]))
    if mean <= 0:
        return 0.0
    grey = [np.repeat(h[window][..., None] / np.float32(mean), 3, axis=2) for h in halves]
    a, b = (denoise(g, albedo, normal)[..., 0] for g in grey)
    return _SIGMA_OF_MEAN * float(np.abs(a - b).mean()) / 2


class Denoiser:
    """Keeps one prepared filter per picture size, because preparing costs more than filtering."""

    def __init__(self) -> None:
        self._device = pyoidn.Device()
        self._device.commit()
        self._lock = threading.Lock()
        self._filters: dict[tuple[int, int, str], tuple[Any, dict[str, F4]]] = {}

    def _filter(self, height: int, width: int, quality: str) -> tuple[Any, dict[str, F4]]:
        key = (height, width, quality)
        if key not in self._filters:
            if len(self._filters) > 6:
                self._filters.pop(next(iter(self._filters)))[0].release()
            images = {
                name: np.zeros((height, width, 3), np.float32)
                for name in ("color", "albedo", "normal", "output")
            }
            made = pyoidn.Filter(self._device, "RT")
            for name, image in images.items():
                made.set_image(name, image, pyoidn.OIDN_FORMAT_FLOAT3)
            made.set_bool("hdr", True)
            made.set_quality(_QUALITY[quality])
            made.commit()
            self._filters[key] = (made, images)
        return self._filters[key]

    def __call__(self, picture: F4, albedo: F4, normal: F4, quality: str = "fast") -> F4:
        """A denoised copy of a scene-linear picture (h, w, 3); quality fast, balanced or high."""
        height, width = picture.shape[:2]
        with self._lock:
            made, images = self._filter(height, width, quality)
            images["color"][:], images["albedo"][:], images["normal"][:] = picture, albedo, normal
            made.execute()
            error = self._device.get_error()
            if error:
                raise RuntimeError(f"Denoising failed: {error}")
            return images["output"].copy()
