"""Make what tests and server share: kernels and the demo building."""

from .main import ensure_demo, ensure_kernels

if __name__ == "__main__":
    ensure_kernels()
    ensure_demo()
