"""Building models: materials, meshes and their placement, and readers of open formats."""

from .material import Material, Texture
from .parts import Mesh, Model, ModelCamera, Part
from .read import read_model

__all__ = ["Material", "Mesh", "Model", "ModelCamera", "Part", "Texture", "read_model"]
