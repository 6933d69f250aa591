"""Sources of light: sun, sky, HDRI, lamps of many shapes, alone or as a group, and glowing meshes.

Every source is traced with a *unit* amount; `gain` is what the result is multiplied by. So level,
amount and colour change a picture without tracing anything again.
"""

from .daylight import HdriSource, SkySource, Sun
from .dimming import dimmed_kelvin
from .emission import UNITS, Emission, PerLumen, axes_towards, unit_factors
from .groups import Glow, Group, MeshEmitter, Source, as_source, parts_of_light
from .lamps import Disc, Emitter, Photometric, Rectangle, Sphere, Spot, Tube
from .shapes import SHAPES

__all__ = [
    "SHAPES",
    "UNITS",
    "Disc",
    "Emission",
    "Emitter",
    "Glow",
    "Group",
    "HdriSource",
    "MeshEmitter",
    "PerLumen",
    "Photometric",
    "Rectangle",
    "SkySource",
    "Source",
    "Sphere",
    "Spot",
    "Sun",
    "Tube",
    "as_source",
    "axes_towards",
    "dimmed_kelvin",
    "parts_of_light",
    "unit_factors",
]
