"""Reading files from outside in a process with limits: `python -m westlight.engine.reading KIND FILE NAME FOLDER [UP]`.

The child may take only so much memory, time and disk, has no network where the kernel allows that, and dies with its
parent. It prints one JSON object: the report of its reader, or what is wrong in words.
"""

from __future__ import annotations

import ctypes
import itertools
import json
import os
import resource
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import structlog

from westlight.core.errors import Cancelled, WestlightError

log = structlog.get_logger()
#: Seconds between two looks at whether it was stopped.
LOOK_S = 0.2
#: Times a reader's seconds that are waited: its time on the processor is bounded by itself, and others may have the processor.
PATIENCE = 4.0
_PR_SET_PDEATHSIG, _CLONE_NEWUSER, _CLONE_NEWNET = 1, 0x10000000, 0x40000000
_faults = itertools.count(1)


def read_in_child(
    kind: str, file: Path, name: str, folder: Path, up: str = "y",
    stopped: Callable[[], bool] = lambda: False, wanted: str = "",
) -> dict[str, Any]:  # fmt: skip
    """What a reader of `READERS` says of a file, read in a child; what is kept of it lies in ``folder``.

    Raises the kind's error in the artist's words, and `Cancelled` soon after ``stopped`` turns true.
    """
    from .readers import READERS

    reader = READERS[kind]
    wrong, remedy = reader.wrong, reader.remedy
    seconds = PATIENCE * reader.seconds
    command = [sys.executable, "-m", "westlight.engine.reading", kind, str(file.absolute()), name,
               str(folder.absolute()), up, wanted]  # fmt: skip
    # Each thread of a linear algebra library would take address space.
    plain = {
        **os.environ,
        "OPENBLAS_NUM_THREADS": "1",
        "OMP_NUM_THREADS": "1",
        "TMPDIR": str(folder),
    }
    begun = time.monotonic()
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, cwd=folder,
                          env=plain) as child:  # fmt: skip
        while True:
            try:
                told, said = child.communicate(timeout=LOOK_S)
                break
            except subprocess.TimeoutExpired:
                if stopped():
                    child.kill()
                    raise Cancelled("The import was stopped; the project is as it was.") from None
                if time.monotonic() - begun > seconds:
                    child.kill()
                    raise wrong(
                        f"“{name}” took longer than {seconds:.0f} s to read. {remedy}"
                    ) from None
    try:
        answer: dict[str, Any] = json.loads(told.decode().splitlines()[-1])
    except (ValueError, IndexError):
        number = f"file {next(_faults)}"
        log.error("file not read", fault=number, kind=kind, code=child.returncode,
                  said=said.decode(errors="replace")[-4000:])  # fmt: skip
        raise wrong(
            f"“{name}” is damaged or too large to be read here (fault {number}). {remedy}"
        ) from None
    if "problem" in answer:
        raise wrong(answer["problem"])
    return answer


def confine(kind: str, for_one: bool = True) -> None:
    """Take from this process what a reader does not need; its time only where it reads one file."""
    from .readers import READERS

    libc = ctypes.CDLL(None, use_errno=True)
    libc.prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    # Not everywhere allowed; the reader itself asks for no network.
    libc.unshare(_CLONE_NEWUSER | _CLONE_NEWNET)
    reader = READERS[kind]
    for what, most in (
        (resource.RLIMIT_AS, reader.memory_gb * 2**30),
        (resource.RLIMIT_CPU, 2 * reader.seconds if for_one else resource.RLIM_INFINITY),
        (resource.RLIMIT_FSIZE, reader.file_gb * 2**30), (resource.RLIMIT_CORE, 0),
    ):  # fmt: skip
        resource.setrlimit(what, (int(most), int(most)))


def main(kind: str, file: str, name: str, folder: str, up: str = "y", wanted: str = "") -> None:
    """Read one file and print the report."""
    from .readers import READERS

    confine(kind)
    more = {"up": up, "wanted": wanted} if kind == "model" else {}
    try:
        print(json.dumps(READERS[kind].read(Path(file), name, Path(folder), **more)))
    except WestlightError as problem:
        print(json.dumps({"problem": str(problem)}))
    except MemoryError:
        remedy = READERS[kind].remedy
        print(json.dumps({"problem": f"“{name}” is too large for this machine's memory. {remedy}"}))


if __name__ == "__main__":
    main(*sys.argv[1:])
