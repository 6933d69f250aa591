"""Reading building models by file type."""

from __future__ import annotations

from pathlib import Path

from ..errors import ModelError
from . import assimp, plain_meshes, usd_building
from .parts import UPRIGHT, Model, clean, turned

#: Largest file accepted, in bytes.
MAX_FILE_BYTES = 2_000_000_000
SUFFIXES = (
    ".glb",
    ".gltf",
    ".obj",
    ".ifc",
    *assimp.KINDS,
    *plain_meshes.KINDS,
    *usd_building.KINDS,
)
#: The same in words.
IN_WORDS = "GLB, glTF, OBJ, IFC, FBX, DAE, USD, 3DS, DXF, STL or PLY"


def read_model(path: str | Path, up: str | None = None, lazily: bool = False) -> Model:
    """Read a building model: GLB or glTF 2.0 (y up), Wavefront OBJ, IFC, FBX, Collada, OpenUSD, 3DS, DXF, STL or PLY.

    ``up`` names the axis that points up in the file, "x", "y" or "z", with a minus if it points
    down; by default y, as glTF demands and OBJ writers usually do. Lengths are taken as metres. IFC, FBX, Collada and OpenUSD tell both themselves.
    ``lazily``: pictures of glTF are unpacked when they are asked for; for files that were read before. Raises `ModelError`
    with words for the artist when a file is missing, broken, too large or of another kind.
    """
    from .gltf import read_gltf
    from .ifc import read_ifc
    from .obj import read_obj

    file = Path(path)
    if not file.is_file():
        raise ModelError(f"There is no file “{file.name}”.")
    if file.stat().st_size > MAX_FILE_BYTES:
        raise ModelError(
            f"“{file.name}” is larger than {MAX_FILE_BYTES // 10**9} GB; "
            "export the building without its surroundings."
        )
    suffix = file.suffix.lower()
    if suffix not in SUFFIXES:
        raise ModelError(f"“{file.name}” is no building that can be read; export it as {IN_WORDS}.")
    axis = up or "y"
    if axis not in UPRIGHT:
        raise ModelError("The up axis must be x, y or z, with a minus if it points down.")
    if suffix == ".ifc":
        model = read_ifc(file)
    elif suffix in usd_building.KINDS:
        model = usd_building.read_usd_building(file)
    elif suffix in assimp.KINDS:
        model = assimp.read_assimp(file)
    elif suffix in plain_meshes.KINDS:
        model = plain_meshes.read_plain_mesh(file, axis)
    else:
        known = axis if axis in ("y", "z") else "z"
        model = read_obj(file, known) if suffix == ".obj" else read_gltf(file, known, lazily)
        if known != axis:
            model = turned(model, UPRIGHT[axis])
    if not model.triangle_count:
        raise ModelError(f"“{file.name}” holds no triangles; export the building as meshes.")
    model.remarks += clean(list({id(p.mesh): p.mesh for p in model.parts}.values()))
    return model
