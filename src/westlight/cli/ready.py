"""Make what tests and server share: ``demo`` the demo building, ``kernels`` all machine code."""

import sys

from .main import ensure_demo, ensure_kernels

if __name__ == "__main__":
    if "demo" in sys.argv:
        ensure_demo()
    if "kernels" in sys.argv:
        ensure_kernels()
        from westlight.core.warm import compile_hazy_kernel, hazy_kernel_is_cached

        if not hazy_kernel_is_cached():
            compile_hazy_kernel()
