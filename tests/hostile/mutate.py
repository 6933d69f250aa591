"""Damaged files through a reader, in a process confined as the application's are: `python -m tests.hostile.mutate
KIND COUNT SEED FILE…`. Prints how many were read, refused, crashed a library, and ended in an error nobody expected."""

from __future__ import annotations

import contextlib
import importlib
import json
import os
import random
import shutil
import signal
import sys
import tempfile
import traceback
from pathlib import Path
from typing import Any

from westlight.core.errors import WestlightError
from westlight.engine.readers import READERS
from westlight.engine.reading import confine

#: Seconds of work that one small file may take, and seconds by the clock on however busy a machine.
SECONDS, BY_THE_CLOCK = 10, 300
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


def load(kind: str, good: Path) -> None:
    """Import once what a reader loads: a child tells which modules, for a library that has run does not survive a fork."""
    folder = Path(tempfile.mkdtemp())
    names = folder / "names"
    child = os.fork()
    if child == 0:
        READERS[kind].read(good, good.name, folder)
        names.write_text("\n".join(sys.modules))
        os._exit(0)
    os.waitpid(child, 0)
    for name in names.read_text().split("\n") if names.exists() else []:
        with contextlib.suppress(Exception):
            importlib.import_module(name)
    shutil.rmtree(folder)


def _tried(kind: str, damaged: Path, out: Path) -> str:
    """How one file ended, in a process of its own: a library that crashes takes only that with it."""
    said = out.parent / "said"
    child = os.fork()
    if child == 0:
        signal.setitimer(signal.ITIMER_PROF, SECONDS)
        signal.alarm(BY_THE_CLOCK)
        try:
            READERS[kind].read(damaged, damaged.name, out)
            end = "read"
        except (WestlightError, MemoryError):
            end = "refused"
        except BaseException:
            end = traceback.format_exc()[-700:]
        said.write_text(end)
        os._exit(0)
    _, status = os.waitpid(child, 0)
    if os.WIFSIGNALED(status):
        hung = os.WTERMSIG(status) in (signal.SIGALRM, signal.SIGPROF)
        return "hung" if hung else "crashed"
    return said.read_text()


def main(kind: str, count: int, seed: int, files: list[Path]) -> None:
    """Try a reader and tell."""
    confine(kind, for_one=False)
    load(kind, files[0])
    told: dict[str, Any] = {"read": 0, "refused": 0, "crashed": 0, "hung": 0, "faults": []}
    chance = random.Random(seed)
    for _ in range(count):
        source = chance.choice(files)
        folder = Path(tempfile.mkdtemp())
        damaged = folder / source.name
        damaged.write_bytes(mutated(source.read_bytes(), chance))
        out = folder / "out"
        out.mkdir()
        end = _tried(kind, damaged, out)
        if end in told:
            told[end] += 1
            if end in ("crashed", "hung"):
                told.setdefault("by", []).append(source.name)
        else:
            told["faults"].append(end)
        shutil.rmtree(folder, ignore_errors=True)
    print(json.dumps(told))


if __name__ == "__main__":
    main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]), [Path(f) for f in sys.argv[4:]])
