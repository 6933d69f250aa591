"""Reading pictures from anywhere as light: colour by the names of channels, primaries by what the file says, upright.

Radiance files (Ward 1991) are read by OpenImageIO as far as it goes; what their header says of exposure, primaries and
orientation is applied here, and old run lengths and XYZ pixels are decoded here.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio

from ..colour.spaces import (
    AP1_PRIMARIES_XY,
    AP1_WHITE_XY,
    SRGB_TO_AP1,
    XYZ_TO_AP1,
    adaptation_matrix,
    rgb_to_xyz_matrix,
    srgb_decode,
)
from ..errors import PictureFileError

F4 = npt.NDArray[np.float32]
Array = npt.NDArray[np.float64]
#: Largest picture that is read, in pixels.
_MOST_PIXELS = 16384 * 8192
#: Chromaticities nearer than this are the same primaries.
_SAME = 2e-3
#: Chromaticities further from 0 are those of no colours.
_FARTHEST = 10.0
#: Bytes that the header of a Radiance file lies in.
_HEADER = 8192
#: Pixels of a Radiance file with old run lengths that are decoded: byte by byte that takes time.
_MOST_OLD = 4_000_000


class _Header(NamedTuple):
    """What the header of a Radiance file says beside its size."""

    scale: Array
    primaries: Array | None
    xyz: bool
    size: tuple[str, int, str, int]
    data_at: int


def read_linear(path: Path, max_width: int | None = None) -> F4:
    """A picture file as working-space RGB (h, w, 3); encoded pictures (PNG, JPEG) are linearised.

    Primaries are taken from the file where it names them, else sRGB; what lies outside its frame is cut, what is missing
    in it is black. Wider pictures than ``max_width`` are reduced. Raises `PictureFileError` with what to do.
    """
    header = _radiance_header(path)
    opened = oiio.ImageInput.open(str(path))
    if opened is None:
        reason_of(oiio)
        if header is not None:
            return _old_radiance(path, header, max_width)
        raise PictureFileError(
            f"“{path.name}” cannot be read as a picture; save it again as EXR or Radiance HDR."
        )
    try:
        spec, channels = _colour_part(opened, path)
        if spec.width * spec.height > _MOST_PIXELS or spec.nchannels < 1:
            raise PictureFileError(f"“{path.name}” is larger than 16384 × 8192; reduce it first.")
        step = -(-max(spec.full_width, spec.width) // max_width) if max_width else 1
        # A damaged frame may be so wide that nothing of the picture is left when it is reduced.
        if step > min(spec.width, spec.height):
            raise _damaged(path)
        pixels = _read_blocks(opened, spec, step, channels)
        reason = reason_of(opened)
    finally:
        opened.close()
    if pixels is None or reason:
        if header is not None:
            return _old_radiance(path, header, max_width)
        raise _damaged(path, reason)
    pixels = _framed(pixels, spec, step)
    if path.suffix.lower() == ".pfm":
        # Rows of a PFM run from the bottom up.
        pixels = pixels[::-1]
    pixels = _upright(pixels, int(spec.get_int_attribute("Orientation", 1)))
    return _to_working(pixels, spec, header)


def _damaged(path: Path, reason: str = "") -> PictureFileError:
    return PictureFileError(
        f"“{path.name}” is cut short or damaged; save or copy it again. {reason}".strip()
    )


def reason_of(asked: Any) -> str:
    """What a reader or writer, or the library itself, says is wrong, also where it quotes bytes of the file that are no text.

    What is asked about is forgotten by the library: the next file is not blamed for it.
    """
    try:
        return str(asked.geterror())
    except UnicodeDecodeError:
        return "Its header is damaged."


def _colour_part(opened: oiio.ImageInput, path: Path) -> tuple[oiio.ImageSpec, tuple[int, ...]]:
    """The first part that holds colour, and its channels of red, green and blue (or one of grey).

    The main layer counts before others.
    """
    grey: tuple[int, tuple[int, ...]] | None = None
    part = 0
    while opened.seek_subimage(part, 0):
        spec = opened.spec()
        layers: dict[str, dict[str, int]] = {}
        for i, name in enumerate(spec.channelnames):
            layer, _, component = name.rpartition(".")
            layers.setdefault(layer, {})[component.upper()] = i
        if any({"RY", "BY"} & set(found) for found in layers.values()):
            raise PictureFileError(
                f"“{path.name}” holds luminance and chroma instead of red, green and blue; save it again as RGB."
            )
        for _, found in sorted(layers.items(), key=lambda known: known[0] != ""):
            if set("RGB") <= set(found):
                return spec, tuple(found[c] for c in "RGB")
        if grey is None:
            names = list(spec.channelnames)
            usable = [i for i, n in enumerate(names) if n.upper() not in ("A", "Z")]
            if not names:
                usable = list(range(spec.nchannels))
            if usable and (len(usable) == 1 or part == 0):
                grey = part, tuple(usable[:3] if len(usable) >= 3 else usable[:1])
        part += 1
    if grey is None:
        raise PictureFileError(f"“{path.name}” holds no colour; save it again as RGB.")
    opened.seek_subimage(grey[0], 0)
    return opened.spec(), grey[1]


def _read_blocks(
    opened: oiio.ImageInput, spec: oiio.ImageSpec, step: int, channels: tuple[int, ...]
) -> F4 | None:
    """Colour of a picture, ``step`` × ``step`` pixels as one; None where it cannot be read.

    Rows come in blocks and other channels not at all, so that memory goes with what is kept.
    """
    first, last = min(channels), max(channels) + 1
    pick = [c - first for c in channels]
    height, width = spec.height // step, spec.width // step
    # Whole tiles at a time: smaller pieces would unpack each of them again.
    block = spec.tile_height or 64
    block = -(-block // step) * step
    part = opened.current_subimage()
    rows = []
    for y in range(0, height * step, block):
        end = min(y + block, height * step)
        if spec.tile_width:
            end = min(-(-end // spec.tile_height) * spec.tile_height, spec.height)
            raw = opened.read_tiles(
                part, 0, spec.x, spec.x + spec.width,
                spec.y + y // spec.tile_height * spec.tile_height, spec.y + end, 0, 1, first, last,
                oiio.FLOAT,
            )  # fmt: skip
        else:
            raw = opened.read_scanlines(
                part, 0, spec.y + y, spec.y + end, 0, first, last, oiio.FLOAT
            )
        if raw is None:
            return None
        read = np.asarray(raw, np.float32).reshape(-1, spec.width, last - first)[..., pick]
        if step > 1:
            h = len(read) // step * step
            read = (
                read[:h, : width * step]
                .reshape(h // step, step, width, step, len(pick))
                .mean(axis=(1, 3))
            )
        rows.append(read if len(pick) == 3 else np.repeat(read[..., :1], 3, axis=2))
    return np.concatenate(rows)


def _framed(pixels: F4, spec: oiio.ImageSpec, step: int) -> F4:
    """The picture in its frame: what is stored may be a part of it, or more."""
    full = (spec.full_height or spec.height), (spec.full_width or spec.width)
    left, top = spec.x - spec.full_x, spec.y - spec.full_y
    if full == (spec.height, spec.width) and not (left or top):
        return pixels
    if full[0] * full[1] > _MOST_PIXELS:
        return pixels
    height, width = max(full[0] // step, 1), max(full[1] // step, 1)
    out = np.zeros((height, width, 3), np.float32)
    y, x = round(top / step), round(left / step)
    h, w = pixels.shape[:2]
    y0, y1, x0, x1 = max(y, 0), min(y + h, height), max(x, 0), min(x + w, width)
    if y1 > y0 and x1 > x0:
        out[y0:y1, x0:x1] = pixels[y0 - y : y1 - y, x0 - x : x1 - x]
    return out


def _upright(pixels: F4, orientation: int) -> F4:
    """A picture as it is meant to be seen, by its Exif orientation 1…8."""
    if orientation in (5, 6, 7, 8):
        pixels = pixels.swapaxes(0, 1)
        # Then: as 1, mirrored, turned half, flipped.
        orientation = {5: 1, 6: 2, 7: 3, 8: 4}[orientation]
    if orientation in (2, 3):
        pixels = pixels[:, ::-1]
    if orientation in (3, 4):
        pixels = pixels[::-1]
    return pixels


def _to_working(pixels: F4, spec: oiio.ImageSpec | None, header: _Header | None) -> F4:
    """Linear light in the working space; whites of other spaces become its white."""
    if spec is not None and spec.format.basetype in (oiio.UINT8, oiio.UINT16) and header is None:
        pixels = np.asarray(srgb_decode(pixels), np.float32)
    if header is not None:
        pixels = np.asarray(pixels / header.scale.astype(np.float32), np.float32)
    matrix: Array | None = SRGB_TO_AP1
    named = None if spec is None else spec.getattribute("chromaticities")
    if header is not None and header.xyz:
        matrix = XYZ_TO_AP1
    elif header is not None and header.primaries is not None:
        matrix = from_primaries(header.primaries)
    elif named is not None:
        matrix = from_primaries(_chromaticities(named))
    elif spec is not None and re.search(
        r"acescg|ap1", str(spec.getattribute("oiio:ColorSpace") or ""), re.IGNORECASE
    ):
        matrix = None
    if matrix is None:
        return np.ascontiguousarray(pixels, np.float32)
    bad = ~np.isfinite(pixels).all(axis=2)
    out = np.asarray(pixels @ matrix.T.astype(np.float32), np.float32)
    # A matrix would spread one bad channel over all; leave such pixels for the reader to judge.
    out[bad] = pixels[bad]
    return np.ascontiguousarray(out, np.float32)


def _chromaticities(named: Any) -> Array:
    """What a file tells as its primaries and white (4, 2); no numbers where it is damaged."""
    try:
        return np.asarray(named, float).reshape(4, 2)
    except (TypeError, ValueError):
        return np.full((4, 2), np.nan)


def from_primaries(chromaticities: Array) -> Array | None:
    """Matrix to the working space from chromaticities (4, 2) of red, green, blue and white; None if they are its own.

    Chromaticities that span no colours are those of sRGB.

    >>> from_primaries(np.array([[0.64, 0.33], [0.3, 0.6], [0.15, 0.06], [0.3127, 0.329]])).round(2).tolist()
    [[0.61, 0.34, 0.05], [0.07, 0.92, 0.01], [0.02, 0.11, 0.87]]
    """
    own = np.vstack([AP1_PRIMARIES_XY, AP1_WHITE_XY])
    if np.allclose(chromaticities, own, atol=_SAME):
        return None
    sides = chromaticities[1:3] - chromaticities[0]
    possible = (
        np.abs(chromaticities).max() < _FARTHEST and np.abs(chromaticities[:, 1]).min() > 1e-6
    )
    if not possible or abs(float(np.linalg.det(sides))) < 1e-4:
        return SRGB_TO_AP1
    to_xyz = rgb_to_xyz_matrix(chromaticities[:3], chromaticities[3])
    made: Array = XYZ_TO_AP1 @ adaptation_matrix(chromaticities[3], AP1_WHITE_XY) @ to_xyz
    return made if np.isfinite(made).all() else SRGB_TO_AP1


def _radiance_header(path: Path) -> _Header | None:
    """The header of a Radiance file; None for any other."""
    with path.open("rb") as opened:
        start = opened.read(_HEADER)
    if not start.startswith(b"#?"):
        return None
    end = start.find(b"\n\n")
    line_end = start.find(b"\n", end + 2)
    found = (
        re.fullmatch(rb"([+-][XY])\s+(\d+)\s+([+-][XY])\s+(\d+)\s*", start[end + 2 : line_end])
        if end > 0 and line_end > 0
        else None
    )
    if found is None:
        return None
    scale, primaries, xyz = np.ones(3), None, False
    for line in start[:end].decode("latin-1").splitlines():
        key, _, value = line.partition("=")
        numbers = _numbers(value)
        if key == "EXPOSURE" and len(numbers) == 1 and numbers[0] > 0:
            scale = scale * numbers[0]
        elif key == "COLORCORR" and len(numbers) == 3 and min(numbers) > 0:
            scale = scale * np.array(numbers)
        elif key == "PRIMARIES" and len(numbers) == 8:
            primaries = np.array(numbers).reshape(4, 2)
        elif key == "FORMAT":
            xyz = "xyze" in value
    size = found[1].decode(), int(found[2]), found[3].decode(), int(found[4])
    return _Header(scale, primaries, xyz, size, line_end + 1)


def _numbers(text: str) -> list[float]:
    try:
        return [float(v) for v in text.split()]
    except ValueError:
        return []


def _old_radiance(path: Path, header: _Header, max_width: int | None) -> F4:
    """A Radiance picture that the library does not read: XYZ pixels, or run lengths of the first years."""
    _, rows, _, columns = header.size
    if rows * columns > _MOST_OLD:
        raise PictureFileError(
            f"“{path.name}” is packed in a way of the first years and too large; save it again as Radiance HDR."
        )
    data = path.read_bytes()[header.data_at :]
    words = np.zeros((rows, columns, 4), np.uint8)
    at = 0
    for y in range(rows):
        new = columns in range(8, 32768) and data[at : at + 3] == bytes([2, 2, columns >> 8])
        if new and len(data) > at + 3 and data[at + 3] == columns & 255:
            at = _new_runs(data, at + 4, words[y], path)
        else:
            at = _old_runs(data, at, words[y], path)
    scale = np.ldexp(1.0, words[..., 3].astype(np.int32) - 136).astype(np.float32)
    light = words[..., :3].astype(np.float32) * scale[..., None]
    light[words[..., 3] == 0] = 0.0
    light = _upright(light, _orientation(header.size))
    step = -(-light.shape[1] // max_width) if max_width else 1
    if step > 1:
        h, w = light.shape[0] // step, light.shape[1] // step
        light = light[: h * step, : w * step].reshape(h, step, w, step, 3).mean(axis=(1, 3))
    return _to_working(light, None, header)


def _orientation(size: tuple[str, int, str, int]) -> int:
    """Exif orientation of a resolution line of a Radiance file: "-Y 4 +X 8" is upright."""
    known = {("-Y", "+X"): 1, ("-Y", "-X"): 2, ("+Y", "-X"): 3, ("+Y", "+X"): 4,
             ("+X", "-Y"): 5, ("-X", "-Y"): 6, ("-X", "+Y"): 7, ("+X", "+Y"): 8}  # fmt: skip
    return known.get((size[0], size[2]), 1)


def _new_runs(data: bytes, at: int, row: npt.NDArray[np.uint8], path: Path) -> int:
    """One row of run lengths by channel; returns where the next begins."""
    for channel in range(4):
        x = 0
        while x < len(row):
            if at + 1 >= len(data):
                raise _damaged(path)
            count = data[at]
            if count > 128:
                count -= 128
                row[x : x + count, channel] = data[at + 1]
                at += 2
            else:
                piece = data[at + 1 : at + 1 + count]
                if not count or len(piece) < count or x + count > len(row):
                    raise _damaged(path)
                row[x : x + count, channel] = np.frombuffer(piece, np.uint8)
                at += 1 + count
            x += count
    return at


def _old_runs(data: bytes, at: int, row: npt.NDArray[np.uint8], path: Path) -> int:
    """One row of pixels in which (1, 1, 1, n) repeats the one before n times, the next such 256 · n times."""
    x, shift = 0, 0
    while x < len(row):
        pixel = data[at : at + 4]
        if len(pixel) < 4:
            raise _damaged(path)
        at += 4
        if pixel[:3] == b"\x01\x01\x01" and x > 0:
            count = pixel[3] << shift
            row[x : x + count] = row[x - 1]
            x, shift = x + count, shift + 8
        else:
            row[x] = np.frombuffer(pixel, np.uint8)
            x, shift = x + 1, 0
    return at
