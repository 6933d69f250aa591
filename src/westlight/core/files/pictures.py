"""Writing and reading pictures through OpenImageIO.

An EXR holds the beauty as R, G, B and every further layer as ``layer.R`` and so on, in ACEScg with
the chromaticities attribute of the OpenEXR specification.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio
from PIL import ExifTags, Image

from ..colour.profile import screen_profile
from ..colour.spaces import AP1_PRIMARIES_XY, AP1_WHITE_XY
from ..errors import PictureFileError
from .linear import reason_of
from .mattes import IdMatte, channels_of, header_of

F4 = npt.NDArray[np.float32]


def _write(path: Path, spec: oiio.ImageSpec, pixels: npt.NDArray[np.generic]) -> None:
    temporary = path.with_name(f"{path.stem}.part{path.suffix}")
    out = oiio.ImageOutput.create(str(temporary))
    if out is None or not out.open(str(temporary), spec):
        reason = reason_of(oiio if out is None else out)
        raise PictureFileError(f"“{path.name}” cannot be written: {reason}")
    done = out.write_image(pixels)
    reason = reason_of(out)
    out.close()
    if not done:
        temporary.unlink(missing_ok=True)
        raise PictureFileError(f"“{path.name}” cannot be written: {reason}")
    temporary.replace(path)


def layer_name(name: str) -> str:
    """A layer name for EXR channels: dots would split it."""
    return name.replace(".", "_").strip() or "layer"


#: Ways to compress an EXR without loss.
COMPRESSIONS = ("zip", "zips", "piz", "none")
#: Layers of lengths in metres, and the largest half float.
_EXACT, _HALF_MOST = ("depth", "position"), 65504.0
#: Customary channel of passes with one value; other such passes are Y.
_SINGLE = {"depth": "Z", "alpha": "A"}


def write_exr(
    path: Path,
    beauty: F4,
    layers: Mapping[str, F4],
    recipe: str = "",
    half: bool = True,
    dated: bool = True,
    mattes: Sequence[IdMatte] = (),
    compression: str = "zip",
    described: str = "",
) -> None:
    """Write a multi-layer EXR: (h, w, 3) pictures in cd/m², a recipe as text inside and what is seen in words.

    ``mattes`` are written as layers of their own in 32 bits; ``compression`` is one of `COMPRESSIONS`.
    ``dated`` False leaves the time out of the file. Layers may be (h, w) as well: one channel, named Z for "depth", A for "alpha" and Y otherwise.

    Raises `PictureFileError` when the file cannot be written.
    """
    names = ["R", "G", "B"]
    planes = [beauty]
    for name, picture in layers.items():
        flat = picture.ndim == 2
        channels = _SINGLE.get(name, "Y") if flat else "RGB"
        names += [f"{layer_name(name)}.{c}" for c in channels]
        planes.append(picture[..., None] if flat else picture)
    pixels = np.concatenate(planes, axis=2).astype(np.float32)
    height, width = beauty.shape[:2]
    spec = _layered(width, height, names, [half and _fits_half(n, pixels[..., i])
                                           for i, n in enumerate(names)], mattes)  # fmt: skip
    for matte in mattes:
        planes = channels_of(matte)[1]
        pixels = np.concatenate([pixels, np.stack(planes, axis=2)], axis=2)
        for key, value in header_of(matte).items():
            spec.attribute(key, value)
    spec.attribute("compression", compression)
    spec.attribute("oiio:ColorSpace", "ACEScg")
    spec.attribute("acesImageContainerFlag", 0)
    chromaticities = [*AP1_PRIMARIES_XY.reshape(-1), *AP1_WHITE_XY]
    spec.attribute("chromaticities", oiio.TypeDesc("float[8]"), [float(v) for v in chromaticities])
    spec.attribute("westlight:unit", "cd/m2")
    if not dated:
        # Else the library writes the time of day, and equal pictures would be different files.
        spec.attribute("DateTime", "1970:01:01 00:00:00")
    if recipe:
        spec.attribute("westlight:recipe", recipe)
    if described:
        spec.attribute("ImageDescription", described)
    _write(path, spec, pixels)


def _layered(
    width: int, height: int, names: list[str], half: list[bool], mattes: Sequence[IdMatte]
) -> oiio.ImageSpec:
    """A file of some channels, each in half floats or not, and of mattes, whose ids need all 32 bits."""
    ids = [name for matte in mattes for name in channels_of(matte)[0]]
    kinds = [oiio.HALF if h else oiio.FLOAT for h in half] + [oiio.FLOAT] * len(ids)
    spec = oiio.ImageSpec(width, height, len(kinds), kinds[0])
    spec.channelnames = tuple(names + ids)
    if len(set(kinds)) > 1:
        spec.channelformats = tuple(oiio.TypeDesc(k) for k in kinds)
    return spec


def _fits_half(name: str, channel: F4) -> bool:
    """Whether half floats hold a channel: lengths need more digits, and the sun's disc is brighter than they reach."""
    if name.split(".")[0] in _EXACT:
        return False
    return bool(np.abs(channel).max(initial=0.0) <= _HALF_MOST)


#: How OpenImageIO calls the colour spaces of screens, so that files are tagged.
_TAGS = {"sRGB": "sRGB", "Display P3": "srgb_p3d65_display", "Rec.709": "Rec709"}


def write_picture(
    path: Path,
    pixels: npt.NDArray[np.uint8] | npt.NDArray[np.uint16],
    screen: str = "sRGB",
    dpi: float | None = None,
    described: str = "",
) -> None:
    """Write encoded values (h, w, 3) of 8 or 16 bits as PNG or TIFF, tagged with their screen.

    ``dpi``, pixels per inch, tells printers how large it is meant; ``described`` is what is seen in words.

    Raises `PictureFileError` when the file cannot be written.
    """
    kind = oiio.UINT8 if pixels.dtype == np.uint8 else oiio.UINT16
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], 3, kind)
    spec.attribute("oiio:ColorSpace", _TAGS[screen])
    if screen != "sRGB" or path.suffix != ".png":
        # A PNG says sRGB by a chunk of its own, and may not have a profile beside it.
        profile = screen_profile(screen)
        spec.attribute(
            "ICCProfile", oiio.TypeDesc(f"uint8[{len(profile)}]"), np.frombuffer(profile, np.uint8)
        )
    if dpi is not None:
        spec.attribute("XResolution", float(dpi))
        spec.attribute("YResolution", float(dpi))
        spec.attribute("ResolutionUnit", "in")
    if path.suffix == ".tiff":
        spec.attribute("compression", "zip")
    if described:
        spec.attribute("ImageDescription", described)
    _write(path, spec, np.ascontiguousarray(pixels))


def write_jpeg(
    path: Path, pixels: npt.NDArray[np.uint8], screen: str = "sRGB", dpi: float | None = None,
    described: str = "", quality: int = 95,
) -> None:  # fmt: skip
    """Write 8-bit encoded values (h, w, 3) as JPEG, with its screen's profile.

    ``dpi`` and ``described`` as in `write_picture`; ``quality`` 1…100.
    """
    temporary = path.with_name(f"{path.stem}.part.jpg")
    size: dict[str, Any] = {} if dpi is None else {"dpi": (dpi, dpi)}
    if described:
        exif = Image.Exif()
        exif[ExifTags.Base.ImageDescription] = described
        size["exif"] = exif
    Image.fromarray(pixels).save(temporary, quality=quality, subsampling=0,
                                 icc_profile=screen_profile(screen), **size)  # fmt: skip
    temporary.replace(path)


def read_layers(path: Path) -> dict[str, F4]:
    """Layers of an EXR by name, (h, w, 3) or (h, w); the beauty under "".

    Raises `PictureFileError`.
    """
    opened = oiio.ImageInput.open(str(path))
    if opened is None:
        raise PictureFileError(f"“{path.name}” cannot be read: {reason_of(oiio)}")
    spec = opened.spec()
    pixels = np.asarray(opened.read_image(oiio.FLOAT))
    opened.close()
    groups: dict[str, dict[str, int]] = {}
    for i, channel in enumerate(spec.channelnames):
        layer, _, component = channel.rpartition(".")
        groups.setdefault(layer, {})[component] = i
    out: dict[str, F4] = {}
    for layer, found in groups.items():
        if set("RGB") <= set(found):
            out[layer] = np.ascontiguousarray(pixels[..., [found[c] for c in "RGB"]])
        elif len(found) == 1:
            out[layer] = np.ascontiguousarray(pixels[..., next(iter(found.values()))])
    return out


def read_recipe(path: Path) -> str:
    """The recipe `write_exr` put into a file, empty if there is none. Raises `PictureFileError`."""
    opened = oiio.ImageInput.open(str(path))
    if opened is None:
        raise PictureFileError(f"“{path.name}” cannot be read: {reason_of(oiio)}")
    recipe = str(opened.spec().get_string_attribute("westlight:recipe"))
    opened.close()
    return recipe
