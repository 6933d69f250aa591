"""The computation core: usable from a notebook, with no server and no database.

>>> from westlight import core
>>> scene = core.Scene()
>>> floor = scene.add_mesh([[-5, -5, 0], [5, -5, 0], [5, 5, 0], [-5, 5, 0]],
...                        [[0, 1, 2], [0, 2, 3]], core.Material(reflectance=0.3))
>>> lamp = scene.add_source(core.sources.Disc("lamp", (0, 0, 2), (0, 0, -1), 0.1,
...                                           luminous_flux_lm=1000))
>>> lux = core.irradiance(scene, [[0, 0, 0]], [[0, 0, 1]], samples=256, bounces=0)
>>> 78 < float(core.colour.luminance(lux[0])) < 81
True
"""

from .compiled import keep_kernels

KERNEL_FOLDER = keep_kernels()  # before any kernel is defined

from . import colour, errors, luminaires, moon, photometry, sky, sources, sun  # noqa: E402
from .model import Material, Model, Texture, read_model  # noqa: E402
from .scene import Scene, irradiance, render  # noqa: E402
from .transport.air import Air  # noqa: E402
from .transport.cache import LightCache  # noqa: E402
from .transport.film import Film  # noqa: E402
from .view import View  # noqa: E402

__all__ = [
    "Air",
    "Film",
    "LightCache",
    "Material",
    "Model",
    "Scene",
    "Texture",
    "View",
    "colour",
    "errors",
    "irradiance",
    "luminaires",
    "moon",
    "photometry",
    "read_model",
    "render",
    "sky",
    "sources",
    "sun",
]
