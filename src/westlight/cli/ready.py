"""Make what tests and server share: ``demo`` the demo building, ``kernels`` all machine code."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from .main import ensure_demo, ensure_kernels


def compile_everything() -> None:
    """The tracer in clear air and in haze, by two processes at once."""
    from westlight.core.compiled import keep_kernels, merge_kernels
    from westlight.core.warm import hazy_kernel_is_cached

    whole = keep_kernels()
    if hazy_kernel_is_cached():
        ensure_kernels()
        return
    with tempfile.TemporaryDirectory(prefix="wl-kernels-") as apart:
        # At the same time, and as eagerly: nobody looks at a picture meanwhile.
        work = "from westlight.core.warm import compile_hazy_kernel; compile_hazy_kernel()"
        hazy = subprocess.Popen(
            [sys.executable, "-c", work], env={**os.environ, "WESTLIGHT_KERNELS": apart}
        )
        ensure_kernels()
        if hazy.wait() != 0:
            raise SystemExit("The kernels for haze could not be compiled; see above.")
        merge_kernels(Path(apart) / whole.name, whole)
    (whole / "hazy").touch()


if __name__ == "__main__":
    if "demo" in sys.argv:
        ensure_demo()
    if "kernels" in sys.argv:
        compile_everything()
