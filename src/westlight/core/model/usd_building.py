"""Buildings in OpenUSD: meshes with their preview materials, copies, cameras and lamps, through its own package.

A stage that pulls in other files is refused: they would be read from wherever it says. A USDZ package is a zip of one stage with its
pictures.
"""

from __future__ import annotations

import tempfile
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from ..colour import srgb_encode, srgb_to_working
from ..errors import ModelError
from .material import Material
from .mtl import Library
from .obj import triangles
from .parts import UPRIGHT, Mesh, Model, Part
from .usd import opened_stage, sound, things_of

Array = npt.NDArray[np.float64]
KINDS = (".usda", ".usdc", ".usd", ".usdz")
#: Most copies of a scattered thing; a forest of more is left out with a remark.
MOST_COPIES = 200_000
_LARGEST_PACKAGE = 4_000_000_000
#: Inputs of a preview surface, as the words of a material library name them.
_COLOURS = {"diffuseColor": ("kd", "map_kd"), "emissiveColor": ("ke", "map_ke")}
_NUMBERS = {
    "roughness": ("pr", "map_pr"),
    "metallic": ("pm", "map_pm"),
    "ior": ("ni", ""),
    "opacity": ("d", "map_d"),
}


def read_usd_building(file: Path) -> Model:
    """Read a stage; raises `ModelError`."""
    if file.suffix.lower() != ".usdz":
        return _read(file, file.parent, file.name)
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        try:
            with zipfile.ZipFile(file) as packed:
                if sum(e.file_size for e in packed.infolist()) > _LARGEST_PACKAGE:
                    raise ModelError(
                        f"“{file.name}” unpacks to more than 4 GB; leave the surroundings out."
                    )
                names = packed.namelist()
                packed.extractall(folder)
        except (zipfile.BadZipFile, OSError, EOFError, ValueError, RuntimeError) as error:
            raise ModelError(
                f"“{file.name}” is damaged or not a USDZ file; export it again."
            ) from error
        # The first file of a package is its stage.
        stage = next((folder / n for n in names if Path(n).suffix.lower() in KINDS[:3]), None)
        if stage is None or not stage.is_file():
            raise ModelError(f"“{file.name}” holds no stage; export it again.")
        return _read(stage, folder, file.name)


def _read(file: Path, folder: Path, name: str) -> Model:
    from pxr import UsdGeom

    stage = opened_stage(file, name)
    with sound(name):
        lights, cameras = things_of(stage)
        made = _Reader(stage, folder)
        made.read()
    upright = np.eye(4)
    if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.y:
        upright[:3, :3] = UPRIGHT["y"]
    upright[:3] *= UsdGeom.GetStageMetersPerUnit(stage)
    parts = [Part(p.name, p.mesh, upright @ p.matrix, p.path) for p in made.parts]
    return Model(parts, cameras, made.remarks, lights)


class _Reader:
    """Meshes of a stage, each made once, and the places they stand in, in the stage's own unit."""

    def __init__(self, stage: Any, folder: Path) -> None:
        self.stage = stage
        self.parts: list[Part] = []
        self.remarks: list[str] = []
        self._library = Library(folder, self.remarks)
        self._meshes: dict[str, Mesh | None] = {}
        self._told: set[str] = set()

    def read(self) -> None:
        """Go through the stage, copies included."""
        from pxr import Usd, UsdGeom

        cache = UsdGeom.XformCache()
        inside: list[Any] = []
        for prim in Usd.PrimRange.Stage(self.stage, Usd.TraverseInstanceProxies()):
            if any(prim.GetPath().HasPrefix(p) for p in inside) or not _is_shown(prim, UsdGeom):
                continue
            if prim.IsA(UsdGeom.PointInstancer):
                # Its models stand where it puts them, not where they lie.
                inside += UsdGeom.PointInstancer(prim).GetPrototypesRel().GetTargets()
                self._scatter(prim, cache)
            elif prim.IsA(UsdGeom.Mesh):
                self._place(prim, np.array(cache.GetLocalToWorldTransform(prim)).T)

    def _place(self, prim: Any, matrix: Array) -> None:
        mesh = self._mesh(prim)
        if mesh is not None and len(mesh.faces):
            path = tuple(p.name for p in prim.GetPath().GetPrefixes())
            self.parts.append(
                Part(prim.GetDisplayName() or prim.GetName(), mesh, matrix, path[:-1])
            )

    def _scatter(self, prim: Any, cache: Any) -> None:
        from pxr import Usd, UsdGeom

        made = UsdGeom.PointInstancer(prim)
        which = made.GetProtoIndicesAttr().Get() or []
        if len(which) > MOST_COPIES:
            self._tell(
                f"“{prim.GetName()}” has {len(which)} copies and was left out; export fewer than {MOST_COPIES}."
            )
            return
        places = made.ComputeInstanceTransformsAtTime(0.0, 0.0) or []
        targets = made.GetPrototypesRel().GetTargets()
        base = np.array(cache.GetLocalToWorldTransform(prim)).T
        for index, place in zip(which, places, strict=False):
            if not 0 <= index < len(targets):
                continue
            root = self.stage.GetPrimAtPath(targets[index])
            for inner in Usd.PrimRange(root, Usd.TraverseInstanceProxies()):
                if inner.IsA(UsdGeom.Mesh):
                    # The root's own transform is part of each place already.
                    own = np.array(cache.ComputeRelativeTransform(inner, root)[0]).T
                    self._place(inner, base @ np.array(place).T @ own)

    def _mesh(self, prim: Any) -> Mesh | None:
        source = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
        key = str(source.GetPath())
        if key not in self._meshes:
            self._meshes[key] = self._made(prim)
        return self._meshes[key]

    def _made(self, prim: Any) -> Mesh | None:
        from pxr import UsdGeom

        geometry = UsdGeom.Mesh(prim)
        points = np.array(geometry.GetPointsAttr().Get() or [], np.float64).reshape(-1, 3)
        sizes = np.array(geometry.GetFaceVertexCountsAttr().Get() or [], np.int64)
        corners = np.array(geometry.GetFaceVertexIndicesAttr().Get() or [], np.int64)
        if not len(points) or not len(sizes):
            return None
        if (
            sizes.min() < 3
            or sizes.sum() != len(corners)
            or corners.min() < 0
            or corners.max() >= len(points)
        ):
            self._tell(f"The mesh “{prim.GetName()}” is damaged and was left out; export it again.")
            return None
        if geometry.GetSubdivisionSchemeAttr().Get() not in ("none", "", None) and (
            geometry.GetSubdivisionSchemeAttr().HasAuthoredValue()
        ):
            self._tell(
                "Surfaces to be subdivided are read as their cage; export them as meshes to have them smooth."
            )
        # Triangles of numbers of corners, so that what belongs to corners can be kept.
        cut, of_face = triangles(sizes, np.arange(len(corners)), points[corners])
        if geometry.GetOrientationAttr().Get() == UsdGeom.Tokens.leftHanded:
            cut = cut[:, ::-1]
        face_of_corner = np.repeat(np.arange(len(sizes)), sizes)
        spread = _Spread(corners, face_of_corner, len(points), len(sizes))
        api = UsdGeom.PrimvarsAPI(prim)
        uvs = spread.of(api.FindPrimvarWithInheritance("st"), 2)
        if uvs is None:
            uvs = spread.of(api.FindPrimvarWithInheritance("UVMap"), 2)
        normals = spread.of(api.GetPrimvar("normals"), 3)
        if normals is None:
            normals = spread.values(
                geometry.GetNormalsAttr().Get(), None, str(geometry.GetNormalsInterpolation()), 3
            )
        colours = spread.of(api.FindPrimvarWithInheritance("displayColor"), 3)
        materials, rows = self._materials(prim, len(sizes), colours)
        painted = any(m.vertex_colours for m in materials)
        columns = [points[corners]] + [
            a for a in (uvs, normals, colours if painted else None) if a is not None
        ]
        used, where = np.unique(
            np.hstack([corners[:, None], *columns[1:]]), axis=0, return_inverse=True
        )
        at = np.zeros(len(used), np.int64)
        at[where.reshape(-1)] = np.arange(len(corners))
        made = Mesh(
            prim.GetName(), points[corners[at]].astype(np.float32), where.reshape(-1)[cut].astype(np.int32),
            materials, rows[of_face].astype(np.int32),
            None if normals is None else normals[at].astype(np.float32),
        )  # fmt: skip
        if uvs is not None:
            laid = uvs[at].astype(np.float32)
            # OpenUSD counts v upwards, glTF and the tracer downwards.
            laid[:, 1] = 1.0 - laid[:, 1]
            made.uvs = laid
        if painted and colours is not None:
            made.colours = _working(colours[at]).astype(np.float32)
        return made

    def _materials(
        self, prim: Any, faces: int, colours: Array | None
    ) -> tuple[list[Material], npt.NDArray[np.int64]]:
        """Materials of a mesh, and the one of each face."""
        from pxr import UsdGeom, UsdShade

        bound = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()[0]
        materials = [self._material(bound, prim, colours)]
        rows = np.zeros(faces, np.int64)
        for subset in UsdGeom.Subset.GetAllGeomSubsets(UsdGeom.Imageable(prim)):
            own = UsdShade.MaterialBindingAPI(subset.GetPrim()).ComputeBoundMaterial()[0]
            which = np.array(subset.GetIndicesAttr().Get() or [], np.int64)
            if own and len(which) and which.min() >= 0 and which.max() < faces:
                materials.append(self._material(own, prim, colours))
                rows[which] = len(materials) - 1
        return materials, rows

    def _material(self, bound: Any, prim: Any, colours: Array | None) -> Material:
        if not bound:
            return _painted(prim.GetName(), colours)
        name = bound.GetPrim().GetDisplayName() or bound.GetPrim().GetName()
        if name not in self._told:
            self._told.add(name)
            surface = bound.ComputeSurfaceSource()[0]
            if surface and surface.GetIdAttr().Get() == "UsdPreviewSurface":
                self._library.tell(name, _entry(surface))
            else:
                self._tell(f"The material “{name}” is no preview surface; it is plain grey.")
        return self._library.material(name)

    def _tell(self, remark: str) -> None:
        if remark not in self.remarks:
            self.remarks.append(remark)


class _Spread:
    """Values of points, faces, corners or of the whole mesh, spread to its corners."""

    def __init__(
        self, points: npt.NDArray[np.int64], faces: npt.NDArray[np.int64], count: int, many: int
    ) -> None:
        self._points, self._faces, self._count, self._many = points, faces, count, many

    def of(self, primvar: Any, width: int) -> Array | None:
        """Values of a primvar at each corner (n, width); None if it has none that fit."""
        if not primvar or not primvar.HasValue():
            return None
        return self.values(primvar.Get(), primvar.GetIndices() if primvar.IsIndexed() else None,
                           str(primvar.GetInterpolation()), width)  # fmt: skip

    def values(self, found: Any, indices: Any, spread: str, width: int) -> Array | None:
        """Values told in some way at each corner; None if they do not fit the mesh."""
        table = np.array([] if found is None else found, np.float64)
        if table.ndim != 2 or table.shape[1] != width or not np.isfinite(table).all():
            return None
        if indices is not None:
            rows = np.array(indices, np.int64)
            if not len(rows) or rows.min() < 0 or rows.max() >= len(table):
                return None
            table = table[rows]
        corners = len(self._points)
        if spread == "constant":
            return np.repeat(table[:1], corners, axis=0)
        if spread == "uniform":
            return table[self._faces] if len(table) == self._many else None
        if spread == "faceVarying":
            return table if len(table) == corners else None
        return table[self._points] if len(table) == self._count else None


def _is_shown(prim: Any, geometry: Any) -> bool:
    """Whether a thing is for pictures: not hidden, no guide and no stand-in."""
    made = geometry.Imageable(prim)
    if not made:
        return True
    shown = made.ComputeVisibility() != geometry.Tokens.invisible
    return shown and made.ComputePurpose() not in (geometry.Tokens.guide, geometry.Tokens.proxy)


def _working(linear: Array) -> Array:
    return np.clip(srgb_to_working(srgb_encode(np.clip(linear, 0, 1))), 0, 1)


def _painted(name: str, colours: Array | None) -> Material:
    """The material of a mesh that has none: its display colour, even or by its points."""
    if colours is None:
        return Material(0.5, name="plain")
    if np.ptp(colours, axis=0).max() < 1e-4:
        r, g, b = (min(float(v), 0.95) for v in _working(colours[0]))
        return Material((r, g, b), name=f"{name} paint")
    return Material(1.0, name=f"{name} paint", vertex_colours=True)


def _entry(surface: Any) -> dict[str, str]:
    """A preview surface as lines of an MTL file by their first words: its rules for glass and pictures are the same."""
    out = {"illum": "4"}
    for name, (word, picture) in {**_COLOURS, **_NUMBERS, "normal": ("", "norm")}.items():
        made = surface.GetInput(name)
        if not made:
            continue
        file = _picture_of(made)
        if file and picture:
            # A border without colour is told as none, which a drawn-out edge comes nearest to.
            out[picture] = f"-clamp on {file}" if _held(made) else file
            continue
        value = made.Get()
        if value is None or not word:
            continue
        if name in _COLOURS:
            rgb = np.asarray(value, float)
            # Its numbers are linear, those of an MTL encoded; what glows may be brighter than white.
            told = srgb_encode(np.clip(rgb, 0, 1)) if rgb.max(initial=0) <= 1 else rgb
            out[word] = " ".join(f"{v:.6g}" for v in np.asarray(told))
        else:
            out[word] = f"{float(value):.6g}"
    return out


def _held(made: Any) -> bool:
    """Whether the picture that feeds an input ends at its edges, both across and down."""
    for source in made.GetConnectedSources()[0]:
        shader = source.source.GetPrim()
        told = [shader.GetAttribute(f"inputs:wrap{way}") for way in "ST"]
        return all(a and a.Get() in ("clamp", "black") for a in told)
    return False


def _picture_of(made: Any) -> str:
    """File of the picture that feeds an input; empty for none."""
    found = made.GetConnectedSources()[0] if made.HasConnectedSource() else []
    for source in found:
        shader = source.source.GetPrim()
        attribute = shader.GetAttribute("inputs:file")
        if attribute and attribute.Get():
            return str(attribute.Get().path)
    return ""
