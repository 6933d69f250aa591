"""Embree: geometry and scenes built from arrays, intersections callable inside compiled kernels.

The shared library ships inside the `embreex` wheel; it is loaded here by ctypes for building and
registered with LLVM so that `rtcIntersect1` and `rtcOccluded1` are plain calls in a kernel.
"""

from __future__ import annotations

import ctypes
import importlib.util
from pathlib import Path
from typing import Any

import llvmlite.binding as llvm
import numpy as np
import numpy.typing as npt
from numba import types

_TRIANGLE, _CONE, _SPHERE, _DISC, _INSTANCE, _INSTANCE_ARRAY = 0, 15, 50, 52, 121, 122
_FORMAT_UINT, _FORMAT_UINT3, _FORMAT_FLOAT3, _FORMAT_FLOAT4 = 0x5001, 0x5003, 0x9003, 0x9004
_FORMAT_3X4_COLUMN_MAJOR = 0x9234
_QUALITY_LOW, _QUALITY_MEDIUM, _QUALITY_HIGH = 0, 1, 2
_DYNAMIC = 1
_BUFFER_INDEX, _BUFFER_VERTEX, _BUFFER_NORMAL, _BUFFER_TRANSFORM = 0, 1, 3, 23

#: Ray masks: what a ray may meet.
MASK_SOLID, MASK_PANE = 1, 2
#: Blockers are met by shadow rays and by light scattered from matte surfaces only.
MASK_BLOCKER = 4
#: Emitters carry a bit for each way they can be met: by the camera and by reflections, both
#: directly and through glass; and one if they stop light.
MASK_CAMERA, MASK_MIRROR, MASK_CAMERA_GLASS, MASK_MIRROR_GLASS, MASK_SHADOW = 8, 16, 32, 64, 128
BLOCKING = MASK_SOLID | MASK_BLOCKER | MASK_SHADOW
MASK_ALL = 0xFFFFFFFF


def _library_path() -> Path:
    spec = importlib.util.find_spec("embreex")
    if spec is None or spec.origin is None:
        raise RuntimeError("The package embreex is missing; run ./westlight start again.")
    folder = Path(spec.origin).parent.parent / "embreex.libs"
    for path in sorted(folder.glob("libtbb*")):
        ctypes.CDLL(str(path), mode=ctypes.RTLD_GLOBAL)
    return next(iter(sorted(folder.glob("libembree4*"))))


_lib = ctypes.CDLL(str(_library_path()), mode=ctypes.RTLD_GLOBAL)


def _declare(name: str, result: Any, *arguments: Any) -> Any:
    function = getattr(_lib, name)
    function.restype, function.argtypes = result, list(arguments)
    return function


_p, _u, _z = ctypes.c_void_p, ctypes.c_uint, ctypes.c_size_t
_new_device = _declare("rtcNewDevice", _p, ctypes.c_char_p)
_new_scene = _declare("rtcNewScene", _p, _p)
_set_quality = _declare("rtcSetSceneBuildQuality", None, _p, ctypes.c_int)
_set_flags = _declare("rtcSetSceneFlags", None, _p, ctypes.c_int)
_release_scene = _declare("rtcReleaseScene", None, _p)
_commit_scene = _declare("rtcCommitScene", None, _p)
_new_geometry = _declare("rtcNewGeometry", _p, _p, ctypes.c_int)
_release_geometry = _declare("rtcReleaseGeometry", None, _p)
_commit_geometry = _declare("rtcCommitGeometry", None, _p)
_attach = _declare("rtcAttachGeometryByID", None, _p, _p, _u)
_get_geometry = _declare("rtcGetGeometry", _p, _p, _u)
_set_mask = _declare("rtcSetGeometryMask", None, _p, _u)
_set_buffer = _declare(
    "rtcSetSharedGeometryBuffer", None, _p, ctypes.c_int, _u, ctypes.c_int, _p, _z, _z, _z
)
_update_buffer = _declare("rtcUpdateGeometryBuffer", None, _p, ctypes.c_int, _u)
_set_instanced = _declare("rtcSetGeometryInstancedScene", None, _p, _p)
_set_transform = _declare("rtcSetGeometryTransform", None, _p, _u, ctypes.c_int, _p)
_set_user_data = _declare("rtcSetGeometryUserData", None, _p, _p)
_set_intersect_filter = _declare("rtcSetGeometryIntersectFilterFunction", None, _p, _p)
_set_occluded_filter = _declare("rtcSetGeometryOccludedFilterFunction", None, _p, _p)
_device_error = _declare("rtcGetDeviceError", ctypes.c_int, _p)

for _name in ("rtcIntersect1", "rtcOccluded1"):
    llvm.add_symbol(_name, ctypes.cast(getattr(_lib, _name), ctypes.c_void_p).value)

_signature = types.void(types.uintp, types.uintp, types.uintp)
#: Closest hit and any hit for one ray: (scene, ray address, 0).
intersect1 = types.ExternalFunction("rtcIntersect1", _signature)
occluded1 = types.ExternalFunction("rtcOccluded1", _signature)

_device = _new_device(b"threads=2")


#: A triangle is large whose box has this share of the surface of the whole.
_LARGE = 0.005
#: Boxes of large triangles that a ray through the whole meets in vain, in the mean, from which on they are worth splitting.
_IN_VAIN = 0.5


def sprawls(vertices: npt.NDArray[np.float32], triangles: npt.NDArray[np.int32]) -> bool:
    """Whether triangles (m, 3) over vertices (n, 3) lie askew in large boxes: long beams at an angle fill those of everything near.

    A ray meets a convex body in a box with the ratio of their surfaces as its chance, and a triangle has two sides.
    """
    if not len(triangles):
        return False
    # Axis by axis, and no reduction over three: a hundred thousand triangles take ten milliseconds.
    low, high = [], []
    for axis in np.ascontiguousarray(vertices.T):
        a, b, c = (axis[row] for row in np.ascontiguousarray(triangles.T))
        low.append(np.minimum(np.minimum(a, b), c))
        high.append(np.maximum(np.maximum(a, b), c))
    x, y, z = (h - m for m, h in zip(low, high, strict=True))
    boxes = x * y + y * z + z * x
    x, y, z = (float(h.max() - m.min()) for m, h in zip(low, high, strict=True))
    surface = x * y + y * z + z * x
    large = boxes > _LARGE * surface
    a, b, c = (vertices[row] for row in triangles[large].T)
    areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    return bool((boxes[large] - 2 * areas).sum() > _IN_VAIN * surface)


class EmbreeScene:
    """One bounding hierarchy. Keeps the arrays alive that Embree reads in place."""

    def __init__(self) -> None:
        self.handle: int = _new_scene(_device)
        self._kept: list[Any] = []
        self._moving: bool | None = None
        self._sprawls = False
        #: Matrices of geometries that hold many copies.
        self._copies: dict[int, npt.NDArray[np.float32]] = {}

    def __del__(self) -> None:
        if _release_scene is not None:  # the module may be gone when the program ends
            _release_scene(self.handle)

    def _attach(self, geometry: int, geometry_id: int, mask: int) -> None:
        _set_mask(geometry, mask)
        _commit_geometry(geometry)
        _attach(self.handle, geometry, geometry_id)
        _release_geometry(geometry)

    def add_triangles(
        self,
        vertices: npt.NDArray[np.float32],
        triangles: npt.NDArray[np.int32],
        geometry_id: int = 0,
        mask: int = MASK_ALL,
        holes: tuple[int, int] | None = None,
    ) -> None:
        """Triangles over vertices in metres, (n, 3) and (m, 3).

        ``holes`` is the address of a filter function and of its data, for cut-outs.
        """
        self._sprawls |= sprawls(vertices, triangles)
        # Embree reads vertices in 16-byte loads, so the last one needs room behind it.
        padded = np.zeros((len(vertices) + 2, 3), np.float32)
        padded[: len(vertices)] = vertices
        index = np.ascontiguousarray(triangles, dtype=np.uint32)
        geometry = _new_geometry(_device, _TRIANGLE)
        _set_buffer(
            geometry, _BUFFER_VERTEX, 0, _FORMAT_FLOAT3, padded.ctypes.data, 0, 12, len(vertices)
        )
        _set_buffer(geometry, _BUFFER_INDEX, 0, _FORMAT_UINT3, index.ctypes.data, 0, 12, len(index))
        self._kept += [padded, index]
        if holes is not None:
            _set_user_data(geometry, holes[1])
            _set_intersect_filter(geometry, holes[0])
            _set_occluded_filter(geometry, holes[0])
        self._attach(geometry, geometry_id, mask)

    def add_tubes(self, ends: npt.NDArray[np.float32], geometry_id: int, mask: int) -> None:
        """Closed cylinders as (n, 2, 4): centre of each end and radius in metres."""
        kept = np.ascontiguousarray(ends, dtype=np.float32).reshape(-1, 4)
        index = np.arange(0, len(kept), 2, dtype=np.uint32)
        geometry = _new_geometry(_device, _CONE)
        _set_buffer(geometry, _BUFFER_VERTEX, 0, _FORMAT_FLOAT4, kept.ctypes.data, 0, 16, len(kept))
        _set_buffer(geometry, _BUFFER_INDEX, 0, _FORMAT_UINT, index.ctypes.data, 0, 4, len(index))
        self._kept += [kept, index]
        self._attach(geometry, geometry_id, mask)

    def add_spheres(
        self, centres_radii: npt.NDArray[np.float32], geometry_id: int, mask: int
    ) -> None:
        """Spheres as (n, 4) centre and radius in metres."""
        kept = np.ascontiguousarray(centres_radii, dtype=np.float32)
        geometry = _new_geometry(_device, _SPHERE)
        _set_buffer(geometry, _BUFFER_VERTEX, 0, _FORMAT_FLOAT4, kept.ctypes.data, 0, 16, len(kept))
        self._kept.append(kept)
        self._attach(geometry, geometry_id, mask)

    def add_discs(
        self,
        centres_radii: npt.NDArray[np.float32],
        normals: npt.NDArray[np.float32],
        geometry_id: int,
        mask: int,
    ) -> None:
        """Discs as (n, 4) centre and radius in metres, with unit normals (n, 3)."""
        kept = np.ascontiguousarray(centres_radii, dtype=np.float32)
        padded = np.zeros((len(normals) + 2, 3), np.float32)
        padded[: len(normals)] = normals
        geometry = _new_geometry(_device, _DISC)
        _set_buffer(geometry, _BUFFER_VERTEX, 0, _FORMAT_FLOAT4, kept.ctypes.data, 0, 16, len(kept))
        _set_buffer(
            geometry, _BUFFER_NORMAL, 0, _FORMAT_FLOAT3, padded.ctypes.data, 0, 12, len(normals)
        )
        self._kept += [kept, padded]
        self._attach(geometry, geometry_id, mask)

    def add_copies(
        self,
        scene: EmbreeScene,
        matrices: npt.NDArray[np.float64],
        geometry_id: int,
        mask: int,
    ) -> None:
        """A committed scene placed by each of some 4×4 object-to-world matrices (n, 4, 4)."""
        columns = np.ascontiguousarray(
            matrices[:, :3, :].transpose(0, 2, 1).reshape(-1, 12), dtype=np.float32
        )
        alone = len(matrices) == 1
        geometry = _new_geometry(_device, _INSTANCE if alone else _INSTANCE_ARRAY)
        _set_instanced(geometry, scene.handle)
        if alone:
            _set_transform(geometry, 0, _FORMAT_3X4_COLUMN_MAJOR, columns.ctypes.data)
        else:
            _set_buffer(geometry, _BUFFER_TRANSFORM, 0, _FORMAT_3X4_COLUMN_MAJOR,
                        columns.ctypes.data, 0, 48, len(matrices))  # fmt: skip
            self._copies[geometry_id] = columns
        self._kept.append(scene)
        self._attach(geometry, geometry_id, mask)

    def move_copy(self, geometry_id: int, number: int, matrix: npt.NDArray[np.float64]) -> None:
        """Place a committed copy anew by its 4×4 matrix; `commit` makes it count.

        Never while rays are traced in this scene.
        """
        column = np.ascontiguousarray(matrix[:3, :].T, dtype=np.float32)
        geometry = _get_geometry(self.handle, geometry_id)
        if geometry_id in self._copies:
            self._copies[geometry_id][number] = column.reshape(12)
            _update_buffer(geometry, _BUFFER_TRANSFORM, 0)
        else:
            _set_transform(geometry, 0, _FORMAT_3X4_COLUMN_MAJOR, column.ctypes.data)
        _commit_geometry(geometry)

    def open_share(
        self, point: npt.NDArray[np.float64], directions: npt.NDArray[np.float64]
    ) -> float:
        """Share of directions (n, 3) in which nothing solid is met from a point; for few rays."""
        ray = ray_buffer()
        words, free = ray.view(np.uint32), 0
        for d in directions:
            ray[:12] = 0.0
            ray[0:3], ray[4:7], ray[8] = point, d, 1e30
            words[9] = BLOCKING
            _occluded(self.handle, ray.ctypes.data, None)
            free += int(ray[8] >= 0)
        return free / len(directions)

    def distances(
        self, origins: npt.NDArray[np.float64], directions: npt.NDArray[np.float64]
    ) -> npt.NDArray[np.float64]:
        """Metres to the first solid thing along unit rays (n, 3), infinity where none; for few rays."""
        ray = ray_buffer()
        words = ray.view(np.uint32)
        out = np.full(len(directions), np.inf)
        for i, (o, d) in enumerate(zip(origins, directions, strict=True)):
            ray[:12] = 0.0
            ray[0:3], ray[4:7], ray[8] = o, d, 1e30
            words[9], words[17:20] = MASK_SOLID, 0xFFFFFFFF
            _intersect(self.handle, ray.ctypes.data, None)
            if words[18] != 0xFFFFFFFF:
                out[i] = ray[8]
        return out

    def commit(self, quickly: bool = False) -> EmbreeScene:
        """Build the hierarchy; ``quickly`` while something is moved: rays then take somewhat longer.

        Raises ``RuntimeError`` with Embree's error number.
        """
        if quickly != self._moving:
            # The best build splits triangles, which takes four times as long and pays only for some.
            still = _QUALITY_HIGH if self._sprawls else _QUALITY_MEDIUM
            _set_quality(self.handle, _QUALITY_LOW if quickly else still)
            _set_flags(self.handle, _DYNAMIC if quickly else 0)
            self._moving = quickly
        _commit_scene(self.handle)
        error = _device_error(_device)
        if error:
            raise RuntimeError(f"Embree refused the geometry (error {error}).")
        return self


_intersect = _declare("rtcIntersect1", None, _p, _p, _p)
_occluded = _declare("rtcOccluded1", None, _p, _p, _p)


def ray_buffer() -> npt.NDArray[np.float32]:
    """A zeroed ray-and-hit record of 32 words on a 64-byte boundary (16 would do, 4 crashes)."""
    raw = np.zeros(32 + 16, np.float32)
    skip = (-raw.ctypes.data % 64) // 4
    return raw[skip : skip + 32]
