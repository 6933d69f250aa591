"""Writing and reading pictures through OpenImageIO.

An EXR holds the beauty as R, G, B and every further layer as ``layer.R`` and so on, in ACEScg with
the chromaticities attribute of the OpenEXR specification.
"""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio

from ..colour.spaces import AP1_PRIMARIES_XY, AP1_WHITE_XY
from ..errors import PictureFileError

F4 = npt.NDArray[np.float32]


def _write(path: Path, spec: oiio.ImageSpec, pixels: npt.NDArray[np.generic]) -> None:
    temporary = path.with_name(f"{path.stem}.part{path.suffix}")
    out = oiio.ImageOutput.create(str(temporary))
    if out is None or not out.open(str(temporary), spec):
        reason = oiio.geterror() if out is None else out.geterror()
        raise PictureFileError(f"“{path.name}” cannot be written: {reason}")
    done = out.write_image(pixels)
    reason = out.geterror()
    out.close()
    if not done:
        temporary.unlink(missing_ok=True)
        raise PictureFileError(f"“{path.name}” cannot be written: {reason}")
    temporary.replace(path)


def layer_name(name: str) -> str:
    """A layer name for EXR channels: dots would split it."""
    return name.replace(".", "_").strip() or "layer"


def write_exr(
    path: Path, beauty: F4, layers: Mapping[str, F4], recipe: str = "", half: bool = True
) -> None:
    """Write a multi-layer EXR: (h, w, 3) pictures in cd/m², a recipe as text inside.

    Raises `PictureFileError` when the file cannot be written.
    """
    names = ["R", "G", "B"]
    planes = [beauty]
    for name, picture in layers.items():
        names += [f"{layer_name(name)}.{c}" for c in "RGB"]
        planes.append(picture)
    pixels = np.concatenate(planes, axis=2).astype(np.float32)
    if half:
        # Half floats end at 65504; the sun's disc lies far beyond and would become infinite.
        pixels = np.clip(pixels, -65504.0, 65504.0)
    height, width = beauty.shape[:2]
    spec = oiio.ImageSpec(width, height, len(names), oiio.HALF if half else oiio.FLOAT)
    spec.channelnames = tuple(names)
    spec.attribute("compression", "zip")
    spec.attribute("oiio:ColorSpace", "ACEScg")
    spec.attribute("acesImageContainerFlag", 0)
    chromaticities = [*AP1_PRIMARIES_XY.reshape(-1), *AP1_WHITE_XY]
    spec.attribute("chromaticities", oiio.TypeDesc("float[8]"), [float(v) for v in chromaticities])
    spec.attribute("westlight:unit", "cd/m2")
    if recipe:
        spec.attribute("westlight:recipe", recipe)
    _write(path, spec, pixels)


def write_png(path: Path, pixels: npt.NDArray[np.uint8]) -> None:
    """Write an 8-bit sRGB PNG of (h, w, 3)."""
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], 3, oiio.UINT8)
    spec.attribute("oiio:ColorSpace", "sRGB")
    _write(path, spec, np.ascontiguousarray(pixels))


def read_layers(path: Path) -> dict[str, F4]:
    """Layers of an EXR by name; the beauty under "". Raises `PictureFileError`."""
    opened = oiio.ImageInput.open(str(path))
    if opened is None:
        raise PictureFileError(f"“{path.name}” cannot be read: {oiio.geterror()}")
    spec = opened.spec()
    pixels = np.asarray(opened.read_image(oiio.FLOAT))
    opened.close()
    groups: dict[str, dict[str, int]] = {}
    for i, channel in enumerate(spec.channelnames):
        layer, _, component = channel.rpartition(".")
        groups.setdefault(layer, {})[component] = i
    return {
        layer: np.ascontiguousarray(pixels[..., [found[c] for c in "RGB"]])
        for layer, found in groups.items() if set("RGB") <= set(found)
    }  # fmt: skip
