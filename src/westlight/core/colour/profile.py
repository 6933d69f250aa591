"""Colour profiles of screens, embedded in files: matrix profiles of ICC.1:2010 (version 4)."""

from __future__ import annotations

import struct
from functools import lru_cache

import numpy as np

from .spaces import D65_XY, SRGB_PRIMARIES_XY, adaptation_matrix, rgb_to_xyz_matrix

_P3_XY = np.array([[0.680, 0.320], [0.265, 0.690], [0.150, 0.060]])
#: Connection space of ICC profiles (7.2.16).
_D50 = (0.9642, 1.0, 0.8249)
_D50_XY = (0.9642 / 2.7891, 1.0 / 2.7891)
#: Parametric curve type 3 (10.18): ((x + b)·a)^g above d, c·x below; IEC 61966-2-1.
_SRGB_CURVE = (3, (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045))
_SCREENS = {
    "sRGB": (SRGB_PRIMARIES_XY, _SRGB_CURVE),
    "Display P3": (_P3_XY, _SRGB_CURVE),
    "Rec.709": (SRGB_PRIMARIES_XY, (0, (2.4,))),
}


def _fixed(*values: float) -> bytes:
    return struct.pack(f">{len(values)}i", *(round(v * 65536) for v in values))


def _text(words: str) -> bytes:
    coded = words.encode("utf-16-be")
    return b"mluc" + struct.pack(">IIIHHII", 0, 1, 12, 0x656E, 0x5553, len(coded), 28) + coded


@lru_cache(maxsize=8)
def screen_profile(screen: str = "sRGB") -> bytes:
    """ICC profile of a screen by name ("sRGB", "Display P3", "Rec.709"); ``KeyError`` otherwise."""
    primaries, (kind, numbers) = _SCREENS[screen]
    to_xyz = adaptation_matrix(D65_XY, _D50_XY) @ rgb_to_xyz_matrix(primaries, D65_XY)
    curve = b"para" + struct.pack(">IHH", 0, kind, 0) + _fixed(*numbers)
    tags = {
        b"desc": _text(screen), b"cprt": _text("No copyright"),
        b"wtpt": b"XYZ \0\0\0\0" + _fixed(*_D50),
        **{c + b"XYZ": b"XYZ \0\0\0\0" + _fixed(*to_xyz[:, i]) for i, c in enumerate((b"r", b"g", b"b"))},
        **{c + b"TRC": curve for c in (b"r", b"g", b"b")},
        b"chad": b"sf32\0\0\0\0" + _fixed(*adaptation_matrix(D65_XY, _D50_XY).reshape(-1)),
    }  # fmt: skip
    table, body = struct.pack(">I", len(tags)), b""
    start = 128 + 4 + 12 * len(tags)
    for name, content in tags.items():
        table += name + struct.pack(">II", start + len(body), len(content))
        body += content + b"\0" * (-len(content) % 4)
    header = struct.pack(
        ">I4sI4s4s4s6H4s4sI4s4sQI3i4s16s28s", start + len(body), b"\0" * 4, 0x04200000, b"mntr",
        b"RGB ", b"XYZ ", 2026, 1, 1, 0, 0, 0, b"acsp", b"\0" * 4, 0, b"\0" * 4, b"\0" * 4, 0, 0,
        *(round(v * 65536) for v in _D50), b"\0" * 4, b"\0" * 16, b"\0" * 28,
    )  # fmt: skip
    return header + table + body
