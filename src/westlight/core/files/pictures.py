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
from PIL import Image

from ..colour.profile import screen_profile
from ..colour.spaces import AP1_PRIMARIES_XY, AP1_WHITE_XY, SRGB_TO_AP1, srgb_decode
from ..errors import PictureFileError
from .mattes import IdMatte, channels_of, header_of

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


#: Ways to compress an EXR without loss.
COMPRESSIONS = ("zip", "zips", "piz", "none")
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
) -> None:
    """Write a multi-layer EXR: (h, w, 3) pictures in cd/m², a recipe as text inside.

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
    if half:
        # Half floats end at 65504; the sun's disc lies far beyond and would become infinite.
        pixels = np.clip(pixels, -65504.0, 65504.0)
    height, width = beauty.shape[:2]
    spec = _layered(width, height, names, half, mattes)
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
    _write(path, spec, pixels)


def _layered(
    width: int, height: int, names: list[str], half: bool, mattes: Sequence[IdMatte]
) -> oiio.ImageSpec:
    """A file of some channels, in half floats or not, and of mattes, whose ids need all 32 bits."""
    kind = oiio.HALF if half else oiio.FLOAT
    ids = [name for matte in mattes for name in channels_of(matte)[0]]
    spec = oiio.ImageSpec(width, height, len(names) + len(ids), kind)
    spec.channelnames = tuple(names + ids)
    if ids and half:
        spec.channelformats = tuple(
            [oiio.TypeDesc(oiio.HALF)] * len(names) + [oiio.TypeDesc(oiio.FLOAT)] * len(ids)
        )
    return spec


#: How OpenImageIO calls the colour spaces of screens, so that files are tagged.
_TAGS = {"sRGB": "sRGB", "Display P3": "srgb_p3d65_display", "Rec.709": "Rec709"}


def write_picture(
    path: Path,
    pixels: npt.NDArray[np.uint8] | npt.NDArray[np.uint16],
    screen: str = "sRGB",
    dpi: float | None = None,
) -> None:
    """Write encoded values (h, w, 3) of 8 or 16 bits as PNG or TIFF, tagged with their screen.

    ``dpi``, pixels per inch, tells printers how large it is meant.

    Raises `PictureFileError` when the file cannot be written.
    """
    kind = oiio.UINT8 if pixels.dtype == np.uint8 else oiio.UINT16
    spec = oiio.ImageSpec(pixels.shape[1], pixels.shape[0], 3, kind)
    spec.attribute("oiio:ColorSpace", _TAGS[screen])
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
    _write(path, spec, np.ascontiguousarray(pixels))


def write_jpeg(
    path: Path, pixels: npt.NDArray[np.uint8], screen: str = "sRGB", dpi: float | None = None
) -> None:
    """Write 8-bit encoded values (h, w, 3) as JPEG of high quality, with its screen's profile.

    ``dpi`` as in `write_picture`.
    """
    temporary = path.with_name(f"{path.stem}.part.jpg")
    size: dict[str, Any] = {} if dpi is None else {"dpi": (dpi, dpi)}
    Image.fromarray(pixels).save(temporary, quality=95, subsampling=0,
                                 icc_profile=screen_profile(screen), **size)  # fmt: skip
    temporary.replace(path)


def read_layers(path: Path) -> dict[str, F4]:
    """Layers of an EXR by name, (h, w, 3) or (h, w); the beauty under "".

    Raises `PictureFileError`.
    """
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
        raise PictureFileError(f"“{path.name}” cannot be read: {oiio.geterror()}")
    recipe = str(opened.spec().get_string_attribute("westlight:recipe"))
    opened.close()
    return recipe


def read_linear(path: Path, max_width: int | None = None) -> F4:
    """A picture file as working-space RGB (h, w, 3); encoded pictures (PNG, JPEG) are linearised.

    Primaries are taken from the file where it names them, else sRGB. Wider pictures than
    ``max_width`` are reduced. Raises `PictureFileError` with what to do.
    """
    opened = oiio.ImageInput.open(str(path))
    if opened is None:
        oiio.geterror()
        raise PictureFileError(
            f"“{path.name}” cannot be read as a picture; save it again as EXR or Radiance HDR."
        )
    spec = opened.spec()
    if spec.width * spec.height > 16384 * 8192 or spec.nchannels < 1:
        opened.close()
        raise PictureFileError(f"“{path.name}” is larger than 16384 × 8192; reduce it first.")
    step = -(-spec.width // max_width) if max_width else 1
    pixels = _read_blocks(opened, spec, step)
    reason = _reason(opened)
    opened.close()
    if pixels is None or reason:
        raise PictureFileError(
            f"“{path.name}” is cut short or damaged; save or copy it again. {reason}".strip()
        )
    return _to_working(pixels, spec)


def _reason(opened: oiio.ImageInput) -> str:
    """What the reader says is wrong; nothing where it quotes bytes of the file that are no text."""
    try:
        return str(opened.geterror())
    except UnicodeDecodeError:
        return "Its header is damaged."


def _read_blocks(opened: oiio.ImageInput, spec: oiio.ImageSpec, step: int) -> F4 | None:
    """Colour of a picture, ``step`` × ``step`` pixels as one; None where it cannot be read.

    Rows come in blocks and other channels not at all, so that memory goes with what is kept.
    """
    colours = 3 if spec.nchannels >= 3 else 1
    height, width = spec.height // step, spec.width // step
    # Whole tiles at a time: smaller pieces would unpack each of them again.
    block = spec.tile_height or 64
    block = -(-block // step) * step
    rows = []
    for y in range(0, height * step, block):
        end = min(y + block, height * step)
        if spec.tile_width:
            end = min(-(-end // spec.tile_height) * spec.tile_height, spec.height)
            raw = opened.read_tiles(
                spec.x, spec.x + spec.width, spec.y + y // spec.tile_height * spec.tile_height, spec.y + end,
                0, 1, 0, colours, oiio.FLOAT,
            )  # fmt: skip
        else:
            raw = opened.read_scanlines(spec.y + y, spec.y + end, 0, 0, colours, oiio.FLOAT)
        if raw is None:
            return None
        read = np.asarray(raw, np.float32).reshape(-1, spec.width, colours)
        if step > 1:
            h = len(read) // step * step
            read = (
                read[:h, : width * step]
                .reshape(h // step, step, width, step, colours)
                .mean(axis=(1, 3))
            )
        rows.append(read if colours == 3 else np.repeat(read, 3, axis=2))
    return np.concatenate(rows)


def _to_working(pixels: F4, spec: oiio.ImageSpec) -> F4:
    if spec.format.basetype in (oiio.UINT8, oiio.UINT16):
        pixels = np.asarray(srgb_decode(pixels), np.float32)
    named = spec.getattribute("chromaticities")
    if named is not None and np.allclose(named[:6], AP1_PRIMARIES_XY.reshape(-1), atol=2e-3):
        return np.ascontiguousarray(pixels)
    if "acescg" in str(spec.getattribute("oiio:ColorSpace") or "").lower():
        return np.ascontiguousarray(pixels)
    bad = ~np.isfinite(pixels).all(axis=2)
    out = pixels @ SRGB_TO_AP1.T.astype(np.float32)
    # A matrix would spread one bad channel over all; leave such pixels for the reader to judge.
    out[bad] = pixels[bad]
    return np.ascontiguousarray(out, np.float32)
