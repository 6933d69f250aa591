"""Photographs as they are shown: turned upright, their colours brought to sRGB."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from ..errors import PictureFileError

#: What is read; EXR and HDR hold light and have to be exposed first.
PHOTOGRAPHS = (".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp", ".heic", ".heif", ".avif")
#: Largest side in pixels, and how many pixels may be unpacked.
LARGEST_SIDE, MOST_PIXELS = 1600, 200_000_000


def read_photograph(file: Path, name: str = "") -> npt.NDArray[np.uint8]:
    """A picture made for screens, as sRGB pixels (h, w, 3), at most `LARGEST_SIDE` large.

    It is turned as the camera was held, its colour profile is applied, what is transparent lies on white.
    Raises `PictureFileError`.
    """
    # Who only asks which kinds there are needs no decoder.
    import pillow_heif

    pillow_heif.register_heif_opener()
    said = name or file.name
    try:
        with Image.open(file) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise PictureFileError(f"“{said}” has too many pixels; save it smaller.")
            opened.draft("RGB", (LARGEST_SIDE, LARGEST_SIDE))
            upright = ImageOps.exif_transpose(opened)
            profile = opened.info.get("icc_profile")
            picture = _plain(_in_srgb(upright, profile))
            picture.thumbnail((LARGEST_SIDE, LARGEST_SIDE), Image.Resampling.LANCZOS)
            return np.asarray(picture, np.uint8).copy()
    except UnidentifiedImageError as error:
        raise PictureFileError(
            f"“{said}” is no picture that can be read; save it as JPEG or PNG."
        ) from error
    except (OSError, ValueError, SyntaxError, EOFError, MemoryError, OverflowError) as error:
        raise PictureFileError(f"“{said}” is damaged; save it again.") from error
    except Image.DecompressionBombError as error:
        raise PictureFileError(f"“{said}” has too many pixels; save it smaller.") from error


def _in_srgb(picture: Image.Image, profile: bytes | None) -> Image.Image:
    """With its profile applied; one that is damaged, or of other channels than the picture, counts as none."""
    if not profile or picture.mode not in ("RGB", "RGBA", "L", "CMYK"):
        return picture
    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        alpha = picture.getchannel("A") if picture.mode == "RGBA" else None
        colour = picture.convert("RGB") if alpha is not None else picture
        made = ImageCms.profileToProfile(
            colour, own, ImageCms.createProfile("sRGB"), outputMode="RGB"
        )
        if made is None:
            return picture
        if alpha is not None:
            made.putalpha(alpha)
        return made
    except (ImageCms.PyCMSError, OSError, ValueError):
        return picture


def _plain(picture: Image.Image) -> Image.Image:
    if picture.mode in ("I", "I;16", "I;16B", "I;16L", "F"):
        # Sixteen bits: brought to eight, the largest value white.
        values = np.asarray(picture, np.float32)
        top = 65535.0 if float(values.max(initial=0.0)) > 255 else 255.0
        return Image.fromarray(
            (np.clip(values / top, 0, 1) * 255).round().astype(np.uint8)
        ).convert("RGB")
    if "transparency" in picture.info or picture.mode in ("RGBA", "LA", "PA"):
        clear = picture.convert("RGBA")
        ground = Image.new("RGBA", clear.size, (255, 255, 255, 255))
        return Image.alpha_composite(ground, clear).convert("RGB")
    return picture.convert("RGB")
