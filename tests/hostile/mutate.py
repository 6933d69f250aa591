"""Damaged files through a reader, in a process confined as the application's are: `python -m tests.hostile.mutate
KIND COUNT SEED FILE…`. Prints how many were read, refused, and ended in an error nobody expected."""

from __future__ import annotations

import json
import random
import shutil
import sys
import tempfile
import traceback
from pathlib import Path

from westlight.core.errors import WestlightError
from westlight.engine.readers import READERS
from westlight.engine.reading import confine

_ODD = [
    b"",
    b"\x00" * 8,
    b"\xff" * 8,
    b"-1",
    b"nan",
    b"1e999",
    b"99999999999",
    b"\n\n",
    b'"',
    b"[[[[",
    b"/../../",
]


def mutated(content: bytes, chance: random.Random) -> bytes:
    """A file with some of it cut, doubled, flipped or replaced."""
    made = bytearray(content)
    for _ in range(chance.choice([1, 1, 2, 4, 16])):
        at = chance.randrange(len(made) or 1)
        # Headers say how the rest is read.
        if chance.random() < 0.5:
            at = min(at, chance.randrange(1, 600))
        kind = chance.randrange(5)
        if kind == 0:
            made = made[:at]
        elif kind == 1:
            made[at : at + 1] = bytes([chance.randrange(256)])
        elif kind == 2:
            made[at : at + chance.randrange(1, 12)] = chance.choice(_ODD)
        elif kind == 3:
            made[at:at] = made[at : at + chance.randrange(1, 200)]
        else:
            del made[at : at + chance.randrange(1, 64)]
        if not made:
            return b""
    return bytes(made)


def main(kind: str, count: int, seed: int, files: list[Path]) -> None:
    """Try a reader and tell."""
    confine(kind, for_one=False)
    told = {"read": 0, "refused": 0, "faults": []}
    chance = random.Random(seed)
    for _ in range(count):
        source = chance.choice(files)
        folder = Path(tempfile.mkdtemp())
        damaged = folder / source.name
        damaged.write_bytes(mutated(source.read_bytes(), chance))
        out = folder / "out"
        out.mkdir()
        try:
            READERS[kind].read(damaged, source.name, out)
            told["read"] += 1
        except (WestlightError, MemoryError):
            told["refused"] += 1
        except Exception:
            told["faults"].append(traceback.format_exc()[-700:])
        shutil.rmtree(folder, ignore_errors=True)
    print(json.dumps(told))


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]), [Path(f) for f in sys.argv[4:]])
