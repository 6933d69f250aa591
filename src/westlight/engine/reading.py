"""Reading an unknown model file in a process with limits: `python -m westlight.engine.reading`.

Prints one JSON object: what was found, or what is wrong in words.
"""

from __future__ import annotations

import json
import resource
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

from westlight import core
from westlight.core.errors import Cancelled, ModelError

MEMORY_BYTES = 12 * 2**30
SECONDS = 180
#: Seconds between two looks at whether it was stopped.
LOOK_S = 0.2
#: Lights of a file beyond this number are left out.
MOST_LIGHTS = 500


def report_of(path: Path, up: str) -> dict[str, Any]:
    """What a model file holds; raises `ModelError`."""
    model = core.read_model(path, up)
    low, high = model.bounds()
    return {
        "triangles": model.triangle_count,
        "parts": len(model.parts),
        "materials": len(model.materials),
        "size_m": [round(float(v), 2) for v in high - low],
        "low": [round(float(v), 3) for v in low],
        "high": [round(float(v), 3) for v in high],
        "remarks": model.remarks[:30],
        "glows": [m.name for m in model.materials if m.emits],
        "cameras": [
            {"name": c.name, "position": c.position, "target": c.target,
             "vertical_fov_deg": c.vertical_fov_deg}
            for c in model.cameras
        ],
        "lights": [asdict(light) for light in model.lights[:MOST_LIGHTS]],
    }  # fmt: skip


def read_safely(
    path: Path, up: str = "y", stopped: Callable[[], bool] = lambda: False
) -> dict[str, Any]:
    """As `report_of`, in a child process that cannot take the server down with it.

    Raises `Cancelled` soon after ``stopped`` turns true, and ends the child.
    """
    command = [sys.executable, "-m", "westlight.engine.reading", str(path), up]
    begun = time.monotonic()
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as child:
        while True:
            try:
                told, _ = child.communicate(timeout=LOOK_S)
                break
            except subprocess.TimeoutExpired:
                if stopped():
                    child.kill()
                    raise Cancelled("The import was stopped; the project is as it was.") from None
                if time.monotonic() - begun > SECONDS:
                    child.kill()
                    raise ModelError(
                        f"“{path.name}” took longer than {SECONDS} s to read; "
                        "export it in smaller pieces."
                    ) from None
    try:
        answer: dict[str, Any] = json.loads(told.decode().splitlines()[-1])
    except (ValueError, IndexError) as error:
        raise ModelError(
            f"“{path.name}” cannot be read here; it may be too large. Export it in smaller pieces."
        ) from error
    if "problem" in answer:
        raise ModelError(answer["problem"])
    return answer


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    try:
        print(json.dumps(report_of(Path(sys.argv[1]), sys.argv[2])))
    except ModelError as problem:
        print(json.dumps({"problem": str(problem)}))
    except MemoryError:
        print(json.dumps({"problem": "The model is too large for this machine's memory."}))
