"""Make what tests and server share: ``demo`` the demo building, ``kernels`` all machine code."""

from __future__ import annotations

import sys

from .main import demo_ready, ensure_kernels


def compile_everything() -> None:
    """The tracer in clear air and in haze, by two processes at once."""
    from westlight.engine.haze import HazyKernel

    haze = HazyKernel()
    haze.begin()
    ensure_kernels()
    if not haze.wait():
        raise SystemExit("The kernels for haze could not be compiled; see above.")


if __name__ == "__main__":
    if "demo" in sys.argv:
        demo_ready()
    if "kernels" in sys.argv:
        compile_everything()
