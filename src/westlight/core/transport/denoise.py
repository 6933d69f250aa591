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
