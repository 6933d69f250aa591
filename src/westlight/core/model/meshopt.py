"""Buffers of glTF packed by `EXT_meshopt_compression` and `KHR_meshopt_compression`, unpacked.

Follows the bit streams that the extensions describe: attributes (both versions), triangles and sequences of
indices, and the filters of directions, rotations, exponents and colours. Whatever a stream says, no byte outside
it is read; one that does not come out even is refused.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt
from numba import njit

Bytes = npt.NDArray[np.uint8]

#: A block holds at most this many bytes of elements, and at most `_MOST` elements, in groups of sixteen.
_BLOCK_BYTES, _MOST, _GROUP = 8192, 256, 16
#: First bytes of the streams; the low half is their version.
_ATTRIBUTES, _TRIANGLES, _INDICES = 0xA0, 0xE0, 0xD0
#: Bytes at the end of a stream of triangles (a table) and of indices.
_TABLE, _END = 16, 4
#: Largest buffer that is unpacked, in bytes.
LARGEST = 1_500_000_000
#: Errors are found by Python's own bounds.
_CHECKED = {"cache": True, "boundscheck": True, "nogil": True}


class DamagedError(ValueError):
    """A packed buffer that does not come out as it tells."""


def unpacked(packed: bytes, told: dict[str, Any]) -> bytes:
    """Content of a buffer view that an extension packed; raises `DamagedError`.

    ``told`` is the extension's entry: ``count`` elements of ``byteStride`` bytes, in ``mode``, through ``filter``.
    """
    count, stride = told.get("count"), told.get("byteStride")
    if not (isinstance(count, int) and isinstance(stride, int) and 0 < stride <= 256):
        raise DamagedError("sizes")
    if not 0 <= count * stride <= LARGEST or len(packed) < 2:
        raise DamagedError("sizes")
    data, mode = np.frombuffer(packed, np.uint8), told.get("mode")
    try:
        if mode == "ATTRIBUTES":
            return _filtered(_attributes(data, count, stride), told.get("filter") or "NONE")
        if stride not in (2, 4):
            raise DamagedError("sizes")
        out = np.zeros(count, np.uint32)
        if mode == "TRIANGLES" and data[0] & 0xF0 == _TRIANGLES and count % 3 == 0:
            _triangles(data, out, data[0] & 15)
        elif mode == "INDICES" and data[0] & 0xF0 == _INDICES:
            _indices(data, out)
        else:
            raise DamagedError("mode")
    except IndexError as error:
        raise DamagedError("it ends too early") from error
    return out.astype("<u2" if stride == 2 else "<u4").tobytes()


def _attributes(data: Bytes, count: int, stride: int) -> Bytes:
    version = int(data[0]) & 15
    if data[0] & 0xF0 != _ATTRIBUTES or version > 1 or stride % 4:
        raise DamagedError("mode")
    out = np.zeros((count, stride), np.uint8)
    _blocks(data, out, version)
    return out


@njit(**_CHECKED)
def _blocks(data, out, version):  # type: ignore[no-untyped-def]
    """Elements of all blocks, each told by what changes since the one before."""
    count, stride = out.shape
    tail = stride + (stride // 4 if version else 0)
    end = len(data) - tail
    before = data[end : end + stride].copy()
    channels = data[end + stride :]
    most = min((_BLOCK_BYTES // stride) & ~(_GROUP - 1), _MOST)
    values = np.zeros((4, most), np.uint8)
    at, first = 1, 0
    while first < count:
        size = min(most, count - first)
        control = at
        if version:
            at += stride // 4
        for k in range(0, stride, 4):
            for j in range(4):
                kind = (np.int64(data[control + k // 4]) >> (2 * j)) & 3 if version else 0
                if kind == 3:
                    for i in range(size):
                        values[j, i] = data[at + i]
                    at += size
                elif kind == 2:
                    values[j] = 0
                else:
                    at = _plane(data, at, values[j], size, version, kind)
            _summed(
                values, out, before, first, size, k, np.int64(channels[k // 4]) if version else 0
            )
        first += size


@njit(**_CHECKED)
def _plane(data, at, values, size, version, kind):  # type: ignore[no-untyped-def]
    """One byte of each element of a block, in groups of sixteen with as few bits as they need; where reading goes on."""
    groups = (size + _GROUP - 1) // _GROUP
    header = at
    at += (groups + 3) // 4
    for g in range(groups):
        code = (np.int64(data[header + g // 4]) >> (2 * (g % 4))) & 3
        # 0, 2, 4, 8 bits in the first version, then 0, 1, 2, 4 or 1, 2, 4, 8.
        power = code + kind if version else (code + 1 if code else 0)
        first = g * _GROUP
        if power == 0:
            values[first : first + _GROUP] = 0
            continue
        bits = 1 << (power - 1)
        if bits == 8:
            for i in range(_GROUP):
                values[first + i] = data[at + i]
            at += _GROUP
            continue
        more = at + 2 * bits
        every = (1 << bits) - 1
        for i in range(_GROUP):
            place = i * bits
            # Single bits stand from the low end of a byte, wider ones from its high end.
            shift = place % 8 if bits == 1 else 8 - bits - place % 8
            value = (np.int64(data[at + place // 8]) >> shift) & every
            if value == every:
                value = np.int64(data[more])
                more += 1
            values[first + i] = value
        at = more
    return at


@njit(**_CHECKED)
def _joined(values, j, wide, i):  # type: ignore[no-untyped-def]
    """A number of as many bytes, low ones first, from planes of bytes."""
    value = np.int64(0)
    for n in range(wide):
        value |= np.int64(values[j + n, i]) << (8 * n)
    return value


@njit(**_CHECKED)
def _summed(values, out, before, first, size, k, channel):  # type: ignore[no-untyped-def]
    """Changes of four bytes of each element added up: as bytes, as numbers of two bytes, or as bits of four that turn."""
    kind, turn = channel & 3, np.int64(channel) >> 4
    wide = 1 if kind == 0 else 2 if kind == 1 else 4
    every = (np.int64(1) << (8 * wide)) - 1
    for j in range(0, 4, wide):
        last = np.int64(0)
        for n in range(wide):
            last |= np.int64(before[k + j + n]) << (8 * n)
        for i in range(size):
            v = _joined(values, j, wide, i)
            if wide < 4:
                last = (last + _step(v)) & every
            else:
                last ^= ((v << turn) | (v >> (32 - turn))) & every
            for n in range(wide):
                out[first + i, k + j + n] = (last >> (8 * n)) & 255
        for n in range(wide):
            before[k + j + n] = (last >> (8 * n)) & 255


@njit(**_CHECKED)
def _number(data, at):  # type: ignore[no-untyped-def]
    """A number of seven bits a byte, low ones first, and where reading goes on."""
    value, shift = np.int64(0), 0
    for _ in range(5):
        byte = np.int64(data[at])
        at += 1
        value |= (byte & 127) << shift
        shift += 7
        if byte < 128:
            break
    return value, at


@njit(**_CHECKED)
def _step(value):  # type: ignore[no-untyped-def]
    """A difference with its sign in the lowest bit."""
    return (value >> 1) ^ -(value & 1)


@njit(**_CHECKED)
def _indices(data, out):  # type: ignore[no-untyped-def]
    """Indices told by their difference to the last one of either of two lines."""
    last = np.zeros(2, np.int64)
    at, end = 1, len(data) - _END
    for i in range(len(out)):
        if at >= end:
            raise IndexError
        value, at = _number(data, at)
        line = value & 1
        last[line] += _step(value >> 1)
        out[i] = last[line] & 0xFFFFFFFF


@njit(**_CHECKED)
def _triangles(data, out, version):  # type: ignore[no-untyped-def]
    """Triangles told by edges and corners that were met lately."""
    edges, corners = np.zeros((16, 2), np.int64), np.zeros(16, np.int64)
    edge = corner = 0
    new = last = np.int64(0)
    wide = 13 if version >= 1 else 15
    end = len(data) - _TABLE
    at = 1 + len(out) // 3
    if at > end:
        raise IndexError
    for i in range(0, len(out), 3):
        code = np.int64(data[1 + i // 3])
        if code < 0xF0:
            a, b = edges[(edge - 1 - (code >> 4)) & 15]
            kind = code & 15
            fresh = True
            if kind == 0:
                c = new
                new += 1
            elif kind < wide:
                c = corners[(corner - 1 - kind) & 15]
                fresh = False
            elif kind == 15:
                value, at = _number(data, at)
                last = c = last + _step(value)
            else:
                # One before or one after the last that was told.
                last = c = last + (kind - (kind ^ 3))
            if fresh:
                corners[corner & 15] = c
                corner += 1
        else:
            aux = np.int64(data[end + (code & 15)]) if code < 0xFE else np.int64(data[at])
            if code >= 0xFE:
                at += 1
                if aux == 0:
                    new = np.int64(0)
            kinds = (0 if code < 0xFF else 15, aux >> 4, aux & 15)
            told = code >= 0xFE
            found = np.zeros(3, np.int64)
            # New corners and those met lately come first, those told outright after them.
            for n in range(3):
                if kinds[n] == 0:
                    found[n] = new
                    new += 1
                elif not (told and kinds[n] == 15):
                    found[n] = corners[(corner - kinds[n]) & 15]
            for n in range(3):
                if told and kinds[n] == 15:
                    value, at = _number(data, at)
                    last = last + _step(value)
                    found[n] = last
            a, b, c = found[0], found[1], found[2]
            for n in range(3):
                if kinds[n] == 0 or (told and kinds[n] == 15):
                    corners[corner & 15] = found[n]
                    corner += 1
            edges[edge & 15, 0], edges[edge & 15, 1] = b, a
            edge += 1
        if at > end:
            raise IndexError
        edges[edge & 15, 0], edges[edge & 15, 1] = c, b
        edges[(edge + 1) & 15, 0], edges[(edge + 1) & 15, 1] = a, c
        edge += 2
        out[i], out[i + 1], out[i + 2] = a & 0xFFFFFFFF, b & 0xFFFFFFFF, c & 0xFFFFFFFF


def _filtered(values: Bytes, name: str) -> bytes:
    """Elements after the filter that made them easy to pack."""
    stride = values.shape[1]
    if name == "NONE":
        return values.tobytes()
    if name == "EXPONENTIAL":
        # A signed number of 24 bits and a power of two of 8.
        whole = values.view("<i4")
        mantissa = (whole << 8) >> 8
        return np.ldexp(mantissa.astype(np.float32), whole >> 24).astype("<f4").tobytes()
    if name in ("OCTAHEDRAL", "COLOR") and stride in (4, 8):
        kind = np.dtype("<i1" if stride == 4 else "<i2")
        made = _directions(values.view(kind)) if name == "OCTAHEDRAL" else _colours(values)
        return made.tobytes()
    if name == "QUATERNION" and stride == 8:
        return _rotations(values.view("<i2")).tobytes()
    raise DamagedError("filter")


def _rounded(values: npt.NDArray[Any], kind: np.dtype[Any]) -> npt.NDArray[Any]:
    """Whole numbers next to values, halves away from zero."""
    return np.trunc(values + np.copysign(np.float32(0.5), values)).astype(kind)


def _directions(values: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """Unit vectors from the face of an octahedron: x, y of it, then what stands for one; the fourth stays."""
    out = values.copy()
    x, y, one = (values[:, i].astype(np.float32) for i in range(3))
    z = one - np.abs(x) - np.abs(y)
    fold = np.minimum(z, 0.0)
    x = x + np.where(x >= 0, fold, -fold)
    y = y + np.where(y >= 0, fold, -fold)
    length = np.sqrt(x * x + y * y + z * z)
    scale = np.float32(np.iinfo(values.dtype).max) / np.where(length > 0, length, 1.0)
    for i, part in enumerate((x, y, z)):
        out[:, i] = _rounded(part * scale, values.dtype)
    return out


def _rotations(values: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """Unit quaternions from three parts; the fourth, largest one follows, and tells its own place and the scale."""
    last = values[:, 3].astype(np.int32)
    scale = np.float32(1 / np.sqrt(2)) / (last | 3).astype(np.float32)
    x, y, z = (values[:, i].astype(np.float32) * scale for i in range(3))
    w = np.sqrt(np.maximum(1 - x * x - y * y - z * z, 0))
    out = np.empty_like(values)
    rows = np.arange(len(values))
    for step, part in enumerate((w, x, y, z)):
        out[rows, (last + step) & 3] = _rounded(part * np.float32(32767), values.dtype)
    return out


def _colours(values: Bytes) -> npt.NDArray[Any]:
    """Red, green, blue and alpha from brightness and two differences; the highest bit of alpha tells the scale."""
    wide = values.shape[1] == 8
    plain, signed = (
        (np.dtype("<u2"), np.dtype("<i2")) if wide else (np.dtype("<u1"), np.dtype("<i1"))
    )
    y, alpha = (values.view(plain)[:, i].astype(np.int64) for i in (0, 3))
    co, cg = (values.view(signed)[:, i].astype(np.int64) for i in (1, 2))
    every = alpha.copy()
    for shift in (1, 2, 4, 8):
        every |= every >> shift
    full = np.float32(np.iinfo(plain).max) / np.maximum(every, 1).astype(np.float32)
    # Alpha has one bit less than the others: its highest tells the scale.
    alpha = ((alpha << 1) & every) | (alpha & 1)
    parts = (y + co - cg, y + cg, y - co - cg, alpha)
    made = [np.floor(p.astype(np.float32) * full + np.float32(0.5)) for p in parts]
    return np.clip(np.stack(made, axis=1), 0, np.iinfo(plain).max).astype(plain)
