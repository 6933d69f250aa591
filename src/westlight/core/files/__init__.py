"""Picture files: scene-linear EXR with one layer per source, and display PNG."""

from .linear import read_linear
from .mattes import IdMatte, name_hash, name_id
from .pictures import (
    COMPRESSIONS,
    read_layers,
    read_recipe,
    write_exr,
    write_jpeg,
    write_picture,
)

__all__ = [
    "COMPRESSIONS",
    "IdMatte",
    "name_hash",
    "name_id",
    "read_layers",
    "read_linear",
    "read_recipe",
    "write_exr",
    "write_jpeg",
    "write_picture",
]
