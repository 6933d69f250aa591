"""Building models: materials, meshes and their placement, and readers of open formats."""

from .alike import alike
from .edit import MaterialChange, doubts, edited, mean_reflectance
from .lights import write_lights
from .material import Material, Texture
from .parts import Mesh, Model, ModelCamera, ModelLight, Part, near_origin, scaled, up_towards
from .read import read_model

__all__ = [
    "Material", "MaterialChange", "Mesh", "Model", "ModelCamera", "ModelLight", "Part", "Texture", "alike", "doubts",
    "edited", "mean_reflectance", "near_origin", "read_model", "scaled", "up_towards", "write_lights",
]  # fmt: skip
