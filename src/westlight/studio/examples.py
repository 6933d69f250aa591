"""Examples that are built when they are asked for, by scripts that come beside the application."""

from __future__ import annotations

import hashlib
import shutil
import subprocess
import sys
from pathlib import Path

import structlog

from .errors import BadEdit

#: Where the scripts are.
ROOT = Path(__file__).parents[3]
SCRIPTS = "demo/lantern_row"
#: Seconds after which building is given up.
PATIENCE_S = 300.0


def built(folder: Path) -> Path:
    """The folder with Lantern Row's files, built if it is not there or its scripts have changed.

    Raises `BadEdit` where it cannot be built.
    """
    scripts = sorted((ROOT / SCRIPTS).glob("*.py"))
    if not scripts:
        raise BadEdit("This installation came without its example buildings.")
    # It is put together from the same solids as the first building.
    scripts += sorted((ROOT / SCRIPTS).parent.glob("*.py"))
    digest = hashlib.sha256(b"".join(f.read_bytes() for f in scripts)).hexdigest()[:12]
    target = folder / "demo" / f"lantern-{digest}"
    if not (target / "lantern_row.json").is_file():
        made = target.with_suffix(".part")
        shutil.rmtree(made, ignore_errors=True)
        try:
            subprocess.run([sys.executable, "-m", "demo.lantern_row.build", str(made)], cwd=ROOT, check=True,
                           capture_output=True, timeout=PATIENCE_S)  # fmt: skip
        except (OSError, subprocess.SubprocessError) as error:
            said = getattr(error, "stderr", b"") or b""
            structlog.get_logger().error("example not built", error=str(error), said=said[-2000:])
            raise BadEdit("The example could not be built; the log tells why.") from error
        shutil.rmtree(target, ignore_errors=True)
        made.replace(target)
    return target
