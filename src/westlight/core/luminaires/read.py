"""Reading a photometric file of any format, by what is in it."""

from __future__ import annotations

from pathlib import Path

from ..errors import PhotometricError
from .distribution import IntensityDistribution
from .eulumdat import parse_eulumdat
from .lm63 import parse_lm63
from .tm33 import is_tm33, parse_tm33

#: Real files hold tens of kilobytes; far beyond that something else was chosen.
MAX_BYTES = 8_000_000


def read_photometric(path_or_bytes: str | Path | bytes) -> IntensityDistribution:
    """Intensity distribution of an IES LM-63, EULUMDAT or TM-33 file, by path or content.

    Candela over C–γ angles. Raises `PhotometricError` with what to do about it.

    >>> text = b"IESNA:LM-63-2002\\nTILT=NONE\\n1 -1 1 2 1 1 2 0 0 0\\n1 1 10\\n0 180\\n0\\n100 100\\n"
    >>> round(read_photometric(text).flux_lm)
    1257
    """
    name = ""
    if isinstance(path_or_bytes, bytes):
        raw = path_or_bytes
    else:
        path = Path(path_or_bytes)
        name = path.stem
        try:
            raw = path.read_bytes()
        except OSError as error:
            raise PhotometricError(f"“{path.name}” cannot be opened: {error.strerror}.") from error
    if len(raw) > MAX_BYTES:
        raise PhotometricError("This file is far too large for a photometric file.")
    if b"\0" in raw[:4096]:
        raise PhotometricError("This is not a text file; ask for an .ies or .ldt file.")
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    if not text.strip():
        raise PhotometricError("The photometric file is empty.")
    if is_tm33(text):
        return parse_tm33(text, name)
    if "TILT" in text[:20000].upper():
        return parse_lm63(text, name)
    return parse_eulumdat(text, name)
