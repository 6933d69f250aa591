"""Bringing a building in: unpacking, packing into one asset, a first view of it."""

from __future__ import annotations

import zipfile
from pathlib import Path
from typing import Any

from westlight import core
from westlight.core.errors import ModelError
from westlight.core.model import Model
from westlight.core.model.write import write_glb
from westlight.engine.spec import ViewSettings

from .settings import ModelState


def unpacked(file: Path, folder: Path) -> Path:
    """The model inside a zip, unpacked with what belongs to it; raises `ModelError`."""
    try:
        with zipfile.ZipFile(file) as opened:
            entries = [e for e in opened.infolist() if not e.is_dir()]
            if sum(e.file_size for e in entries) > 4_000_000_000 or len(entries) > 20_000:
                raise ModelError("The zip unpacks to more than 4 GB; leave the surroundings out.")
            for entry in entries:
                # extract() keeps names inside the folder, whatever they say.
                opened.extract(entry, folder)
    except zipfile.BadZipFile as error:
        raise ModelError(
            f"“{file.name}” is not a zip file or is damaged; pack it again."
        ) from error
    for suffix in ("*.glb", "*.gltf", "*.obj", "*.ifc"):
        found = sorted(p for p in folder.rglob(suffix) if not p.name.startswith("."))
        if found:
            return found[0]
    raise ModelError("The zip holds no GLB, glTF, OBJ or IFC file.")


def packed(file: Path, up: str) -> Path:
    """A model of several files as one GLB, so that it is one asset."""
    target = file.with_suffix(".glb")
    write_glb(core.read_model(file, up), target)
    return target


def framing(report: dict[str, Any]) -> dict[str, Any]:
    """A view from the south-west that takes in a whole building, or the model's first camera."""
    low, high = report["low"], report["high"]
    middle = [(a + b) / 2 for a, b in zip(low, high, strict=True)]
    size = max(high[0] - low[0], high[1] - low[1], high[2] - low[2], 0.1)
    view = ViewSettings(
        position=(middle[0] - 0.9 * size, middle[1] - 1.1 * size, low[2] + max(1.6, 0.35 * size)),
        target=(middle[0], middle[1], middle[2]),
        focal_length_mm=28, upright=True,
    )  # fmt: skip
    if report["cameras"]:
        camera = report["cameras"][0]
        view = ViewSettings(position=camera["position"], target=camera["target"],
                            focal_length_mm=28, upright=False)  # fmt: skip
    return view.model_dump(mode="json")


def carried_over(old: ModelState, new: ModelState, building: Model) -> ModelState:
    """Settings of a building that replaces another: edits kept by name, the rest told in remarks."""
    parts = {p.name for p in building.parts}
    materials = {m.name for m in building.materials}
    edits = old.edits
    lost = [f"“{n}” was hidden; the new building has no such part." for n in edits.hidden
            if n not in parts]  # fmt: skip
    lost += [f"“{n}” was changed; the new building has no such material."
             for n in [*edits.materials, *edits.not_clay] if n not in materials]  # fmt: skip
    kept = edits.model_copy(update={
        "hidden": [n for n in edits.hidden if n in parts],
        "materials": {n: m for n, m in edits.materials.items() if n in materials},
        **{key: {n: v for n, v in getattr(edits, key).items() if n in parts}
           for key in ("own_materials", "names", "tags")},
        "not_clay": [n for n in edits.not_clay if n in materials],
    })  # fmt: skip
    return new.model_copy(
        update={"edits": kept, "scale": old.scale, "remarks": [*lost, *new.remarks][:40]}
    )
