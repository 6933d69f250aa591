"""Picture files: scene-linear EXR with one layer per source, and display PNG."""

from .pictures import (
    read_layers,
    read_linear,
    read_recipe,
    write_exr,
    write_jpeg,
    write_picture,
)

__all__ = [
    "read_layers",
    "read_linear",
    "read_recipe",
    "write_exr",
    "write_jpeg",
    "write_picture",
]
