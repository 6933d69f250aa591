"""Pictures as a file of a building has them: unpacked when somebody asks for their pixels."""

from __future__ import annotations

import io
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from PIL import Image

from ..errors import ModelError
from ..remembered import key_of, remembered
from .material import Texture, Wrap

U1 = npt.NDArray[np.uint8]
MAX_TEXTURE_PX = 4096
#: Larger pictures are left out; the reading library would take them for an attack.
LARGEST_TEXTURE_PX = 16_384
Image.MAX_IMAGE_PIXELS = LARGEST_TEXTURE_PX**2


class Unpacked(NamedTuple):
    """Pixels (h, w, 4) of a picture, and its longer side before it was reduced."""

    pixels: U1
    whole_px: int


def unpacked(packed: bytes) -> Unpacked:
    """The pixels of a picture file, at most `MAX_TEXTURE_PX` a side.

    Raises `ModelError` for one that is far too large, ``OSError`` or ``ValueError`` for one that is damaged.
    """
    with Image.open(io.BytesIO(packed)) as opened:
        if max(opened.size) > LARGEST_TEXTURE_PX:
            raise ModelError(f"it is larger than {LARGEST_TEXTURE_PX} pixels.")
        # Reduced before it is given four channels: one of 16k would take a gigabyte.
        whole_px = max(opened.size)
        opened.thumbnail((MAX_TEXTURE_PX, MAX_TEXTURE_PX))
        return Unpacked(np.asarray(opened.convert("RGBA")), whole_px)


class PackedTexture(Texture):
    """A texture of a file that was read before: its pixels are unpacked whenever they are asked for, until somebody lends them.

    Raises as `unpacked` does when it is made and is not known to be sound.
    """

    _size: tuple[int, int]
    _lent: U1 | None
    _packed: bytes

    def __init__(self, name: str, packed: bytes, srgb: bool, wrap: tuple[Wrap, Wrap]) -> None:
        content = key_of(MAX_TEXTURE_PX, np.frombuffer(packed, np.uint8))
        self.__dict__.update(
            name=name, srgb=srgb, wrap=wrap, content=content, _packed=packed, _lent=None
        )
        found = remembered("picture", content, lambda: {"size": np.array(self.pixels.shape[:2])})
        height, width = found["size"].tolist()
        self.__dict__["_size"] = height, width

    @property
    def size(self) -> tuple[int, int]:
        """Height and width in pixels."""
        return self._size

    @property
    def pixels(self) -> U1:
        """The pixels (h, w, 4)."""
        # In this order: somebody may lend them meanwhile, and the file is gone only after that.
        packed, lent = self._packed, self._lent
        return unpacked(packed).pixels if lent is None else lent

    def lend(self, pixels: U1) -> None:
        """See `Texture.lend`; the file is not needed any more."""
        self.__dict__.update(_lent=pixels, _packed=b"")
