"""Mattes with names in an EXR: ranked ids and coverages, by the open Cryptomatte specification 1.2.

A name is hashed to 32 bits (MurmurHash3), which stand as a float in the file; each pixel lists its ids by
falling coverage, two in the four channels of a layer. A manifest in the header gives the names.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

F4 = npt.NDArray[np.float32]
_MASK = 0xFFFFFFFF


@dataclass(frozen=True)
class IdMatte:
    """Which things cover each pixel: ``ranks`` (h, w, n, 2) are row + 1 in ``names`` (0 for nothing) and
    coverage 0…1, largest first."""

    name: str
    names: Sequence[str]
    ranks: F4


def name_hash(name: str, seed: int = 0) -> int:
    """MurmurHash3 (x86, 32 bits) of a name in UTF-8 (Appleby, public domain).

    >>> hex(name_hash("hello"))
    '0x248bfa47'
    """
    data = name.encode()
    h = seed
    whole = len(data) // 4 * 4
    for i in range(0, whole, 4):
        h ^= _mixed(int.from_bytes(data[i : i + 4], "little"))
        h = ((h << 13) | (h >> 19)) & _MASK
        h = (h * 5 + 0xE6546B64) & _MASK
    if whole < len(data):
        h ^= _mixed(int.from_bytes(data[whole:], "little"))
    h ^= len(data)
    h = ((h ^ (h >> 16)) * 0x85EBCA6B) & _MASK
    h = ((h ^ (h >> 13)) * 0xC2B2AE35) & _MASK
    return h ^ (h >> 16)


def _mixed(k: int) -> int:
    k = (k * 0xCC9E2D51) & _MASK
    k = ((k << 15) | (k >> 17)) & _MASK
    return (k * 0x1B873593) & _MASK


def name_id(name: str) -> int:
    """Hash of a name as it stands in a file: never the bits of a float that is zero, infinite or no number."""
    h = name_hash(name)
    return h ^ (1 << 23) if (h >> 23) & 255 in (0, 255) else h


def channels_of(matte: IdMatte) -> tuple[list[str], list[F4]]:
    """Names of the channels of a matte and its planes (h, w), 32-bit floats all."""
    ids = np.array([0, *(name_id(n) for n in matte.names)], np.uint32).view(np.float32)
    height, width, ranks, _ = matte.ranks.shape
    names, planes = [], []
    for rank in range(0, ranks + ranks % 2, 2):
        for k, pair in enumerate(("RG", "BA")):
            there = rank + k < ranks
            row = matte.ranks[:, :, rank + k, 0].astype(np.int64) if there else None
            cover = matte.ranks[:, :, rank + k, 1] if there else None
            none = np.zeros((height, width), np.float32)
            names += [f"{matte.name}{rank // 2:02d}.{c}" for c in pair]
            planes += [none if row is None else ids[row], none if cover is None else cover]
    return names, planes


def header_of(matte: IdMatte) -> dict[str, str]:
    """What the header of a file says of a matte."""
    key = f"cryptomatte/{name_hash(matte.name):08x}"[: len("cryptomatte/") + 7]
    manifest = {name: f"{name_id(name):08x}" for name in dict.fromkeys(matte.names)}
    return {
        f"{key}/name": matte.name,
        f"{key}/hash": "MurmurHash3_32",
        f"{key}/conversion": "uint32_to_float32",
        f"{key}/manifest": json.dumps(manifest, ensure_ascii=False),
    }
