"""Reading IFC building models (ISO 16739) through ifcopenshell."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from ..colour import srgb_to_working
from ..errors import ModelError
from .material import Material
from .parts import Mesh, Model, Part

#: Rooms and holes are no surfaces; notes are no building.
_LEFT_OUT = ("IfcSpace", "IfcOpeningElement", "IfcAnnotation", "IfcGrid")
#: From this transparency on a surface is glass; part of the drawing colour that it keeps.
_GLASS, _HUE_KEPT = 0.3, 0.1
#: A file is whole when it ends with this (ISO 10303-21); looked for in so many bytes at its end.
_END, _TAIL = b"END-ISO-10303-21", 4096
#: Products that could not be read and are named.
_NAMED = 4


def _products(file: Any) -> list[Any]:
    """Everything that should have a shape."""
    return [p for p in file.by_type("IfcProduct") if p.Representation is not None
            and not any(p.is_a(k) for k in _LEFT_OUT)]  # fmt: skip


def _shapes(file: Any, products: list[Any]) -> Iterator[Any]:
    """Every product with a shape, triangulated in metres about its own origin."""
    from ifcopenshell import geom

    settings = geom.settings()
    settings.set("use-world-coords", False)
    settings.set("weld-vertices", True)
    if not products:
        return
    walk = geom.iterator(settings, file, 1, include=products)
    more = walk.initialize()
    while more:
        yield walk.get()
        more = walk.next()


def _name(file: Any, style: Any) -> str:
    """What the model's author called a surface; the geometry knows only its shading."""
    try:
        written = file.by_id(style.instance_id())
    except RuntimeError:
        written = None
    return str(getattr(written, "Name", None) or style.name or "plain")


def _material(file: Any, style: Any, known: dict[Any, Material]) -> Material:
    name = _name(file, style)
    diffuse = style.diffuse
    rgb = [float(f()) if callable(f := getattr(diffuse, c)) else float(f) for c in "rgb"]
    clear = float(style.transparency) if style.has_transparency() else 0.0
    key = name, tuple(rgb), clear
    if key not in known:
        glass = clear >= _GLASS
        working = np.clip(srgb_to_working(np.clip(rgb, 0, 1)), 0.0, 0.9)
        if glass:
            # What is written is how it is drawn, not how it filters: a tenth of the hue is kept, half of it at each face,
            # and a pane lets most of the light through.
            hue = working / max(float(working.max()), 1e-3)
            working = np.sqrt((1 - _HUE_KEPT) + _HUE_KEPT * hue) * 0.95
        red, green, blue = (float(v) for v in working)
        # Panes of building models are solid boxes of glass.
        known[key] = Material((red, green, blue), roughness=0.0 if glass else 0.9, name=name,
                              transmission=0.95 if glass else 0.0, sheet=False)  # fmt: skip
    return known[key]


def read_ifc(path: Path) -> Model:
    """Read an IFC file: products as parts under their storey, styles as materials; z is up.

    Lengths in the file's own unit are turned into metres. Raises `ModelError`.
    """
    import ifcopenshell
    from ifcopenshell.util import element

    with path.open("rb") as opened:
        opened.seek(max(path.stat().st_size - _TAIL, 0))
        whole = _END in opened.read()
    if not whole:
        raise ModelError(f"“{path.name}” ends too early; copy or export it again.")
    try:
        file = ifcopenshell.open(str(path))
    except Exception as error:
        raise ModelError(
            f"“{path.name}” is damaged or not an IFC file; export it again."
        ) from error
    known: dict[Any, Material] = {}
    meshes: dict[str, Mesh] = {}
    parts: list[Part] = []
    failed = 0
    plain = Material(0.5, name="plain")
    products = _products(file)
    missing = {p.GlobalId: p for p in products}
    for shape in _shapes(file, products):
        g = shape.geometry
        product = file.by_guid(shape.guid)
        missing.pop(shape.guid, None)
        name = str(product.Name or product.is_a().removeprefix("Ifc"))
        if not len(g.faces):
            failed += 1
            continue
        if g.id not in meshes:
            rows = np.asarray(g.material_ids, np.int32)
            materials = [_material(file, m, known) for m in g.materials] or [plain]
            if len(g.materials) and (rows < 0).any():
                materials.append(plain)
                rows = np.where(rows < 0, len(materials) - 1, rows)
            made = Mesh.single(name, g.verts, g.faces, plain)
            made.materials = materials
            made.face_material = np.maximum(rows, 0).astype(np.int32)
            meshes[g.id] = made
        storey = element.get_container(product)
        folder = str(storey.Name or storey.is_a()) if storey is not None else "Site"
        matrix = np.asarray(shape.transformation.matrix, float).reshape(4, 4, order="F")
        parts.append(Part(name, meshes[g.id], matrix, path=(folder, name)))
    remarks = [f"{failed} parts have no faces and were left out."] if failed else []
    if missing:
        names = [str(p.Name or p.is_a().removeprefix("Ifc")) for p in missing.values()]
        more = f" and {len(names) - _NAMED} more" if len(names) > _NAMED else ""
        remarks.append(
            f"{len(names)} parts have a shape that cannot be read: {', '.join(names[:_NAMED])}{more}."
        )
    return Model(parts, remarks=remarks)
