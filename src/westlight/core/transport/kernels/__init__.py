"""Compiled kernels: plain arrays and scalars in, sums out. No Python objects inside."""
