"""The live engine: a process of its own that keeps the picture up to date, and its host."""
