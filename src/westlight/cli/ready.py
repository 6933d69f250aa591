"""Make what tests and server share: ``demo`` the demo building, ``kernels`` all machine code."""

from __future__ import annotations

import sys

from .main import demo_ready, ensure_kernels

if __name__ == "__main__":
    if "demo" in sys.argv:
        demo_ready()
    if "kernels" in sys.argv:
        ensure_kernels()
