"""Compiling every kernel once, on a scene of two triangles, so that the first picture is quick."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from . import Material, Scene, View, irradiance, render, sky, sources
from .analysis import sun_on
from .compiled import keep_kernels
from .finish import block_mean, mix, show
from .finish.enlarge import darkened, laid_over
from .remembered import nothing_remembered
from .transport.cache import LightCache
from .transport.render import first_surfaces
from .transport.smooth import smooth
from .transport.surfaces import surface_under, surfaces_along
from .transport.thin_lamps import thin_lamps


def kernels_are_cached() -> bool:
    """Whether kernels for these sources have been compiled completely before."""
    return (keep_kernels() / "complete").exists()


def compile_kernels() -> None:
    """Run every kernel on next to nothing; Numba keeps the machine code on disk."""
    compile_tracer()
    compile_beside_tracer()
    note_complete()


def note_complete() -> None:
    """Note that all kernels for these sources are on disk."""
    (keep_kernels() / "complete").touch()


def compile_tracer() -> None:
    """The kernel that follows paths, by far the longest, and those that need it."""
    scene = _scene(sky.cie_sky(5, 40.0))
    view = _view()
    film = render(scene, view, samples=1, bounces=1, passes=["occlusion"])
    irradiance(scene, [[0, 0, 0]], [[0, 0, 1]], samples=1, bounces=0)
    LightCache(2, cells=8).read(scene.assembled(), view, [0, 1], ["a", "b"], bounces=1, paths=64)
    mix([film.contribution("sun"), film.contribution("sky")], [np.ones(3)] * 2, np.empty((16, 16, 3), np.float32))  # fmt: skip


def compile_beside_tracer() -> None:
    """All kernels that trace no paths: another process may compile them meanwhile."""
    with nothing_remembered():
        # What was found about these two triangles before would leave its kernels out.
        assembled = _scene(sky.clear_sky(40.0)).assembled()
    view = _view()
    sun_on(assembled, first_surfaces(assembled, view), [[0.0, 0.0, 1.0]], view.position)
    surface_under(assembled, *view.ray(0.5, 0.5))
    surfaces_along(assembled, [[0, 0, 1]], [[0, 0, -1]])
    lamp = Scene()
    lamp.add_source(sources.Sphere("lamp", (0, 0, 0), 0.1, luminance_cd_m2=1.0))
    thin_lamps(lamp.assembled(), view)
    out = np.zeros((16, 16, 3), np.float32)
    show(mix([out, out], [np.ones(3)] * 2, out.copy()), 10.0)
    block_mean(out, 4)
    laid_over(darkened(out, out[..., 0], 1.0, 1.0, None), 1.0, out[:8, :8])
    smooth(out, out, out)
    # The two triangles have no room around them: one cell behind a pane stands for it.
    pane = replace(assembled.portals, boxes=np.ones((1, 4), np.float32), bits=np.zeros((1, 1), np.uint16))  # fmt: skip
    pane.weighed(np.ones((8, 16), np.float32))


def _scene(dome: sky.Sky) -> Scene:
    """Two triangles below a sun and a sky."""
    scene = Scene()
    scene.add_mesh([[-1, -1, 0], [1, -1, 0], [1, 1, 0]], [[0, 1, 2]], Material(0.5))
    scene.add_source(sources.Sun("sun", 180.0, 40.0))
    scene.add_source(sources.SkySource("sky", dome))
    scene.add_portal((0, 1, 1), (0, -1, 0), 1, 1)
    return scene


def _view() -> View:
    return View((0, -3, 1), (0, 0, 0), width_px=16, height_px=16)
