"""The building as the Site stage lists it: parts in groups, materials with what they do to light."""

from __future__ import annotations

from collections import Counter
from typing import Any

from westlight.core.model import Material, Model, doubts, mean_reflectance
from westlight.core.model.cloths import kind_of, sent_back
from westlight.core.model.edit import changed
from westlight.core.model.parts import part_bounds
from westlight.core.model.tags import guessed_tag
from westlight.engine.spec import MaterialEdit
from westlight.engine.translate import change_of, hex_of

from .settings import ModelState


def described(model: Model, state: ModelState) -> dict[str, Any]:
    """Parts by group and materials, as the artist's edits leave them.

    A group is the part of a name before its number: “Pot 12” and “Pot 13” are pots.
    """
    hidden = set(state.edits.hidden)
    parts = []
    triangles: Counter[str] = Counter()
    seen: Counter[str] = Counter()
    users: dict[str, set[str]] = {}
    made_of: dict[str, list[Material]] = {}
    for part in model.parts:
        count = len(part.mesh.faces)
        triangles[part.name] += count
        seen[part.name] += 1
        for material in part.mesh.materials:
            users.setdefault(material.name, set()).add(part.name)
        made_of.setdefault(part.name, []).extend(part.mesh.materials)
    edits = state.edits
    taken = {*edits.moved, *(c.of for c in edits.copies)}
    for name, copies in seen.items():
        own = edits.own_materials.get(name)
        parts.append({"name": name, "called": edits.names.get(name, name), "group": group_of(name),
                      "tag": edits.tags.get(name) or guessed_tag(name, made_of[name]),
                      "copies": copies, "triangles": triangles[name], "hidden": name in hidden,
                      "box": _box(model, name) if name in taken else None,
                      "own": None if own is None else _state(made_of[name][0], own),
                      "materials": sorted({m.name for m in made_of[name]})})  # fmt: skip
    materials = []
    for material in model.materials:
        edit = state.edits.materials.get(material.name)
        now = changed(material, change_of(edit)) if edit else material
        materials.append({
            "name": material.name, "changed": edit is not None, **_state(material, edit),
            "textured": now.base_texture is not None,
            "parts": len(users[material.name]), "doubts": [d._asdict() for d in doubts(now)],
            "not_clay": material.name in state.edits.not_clay,
        })  # fmt: skip
    return {"parts": sorted(parts, key=lambda p: (str(p["group"]).lower(), str(p["name"]).lower())),
            "materials": sorted(materials, key=lambda m: str(m["name"]).lower())}  # fmt: skip


def _box(model: Model, name: str) -> tuple[list[float], list[float]] | None:
    """Lowest and highest corner, as the file has it, of the first part of a name that has faces."""
    part = next((p for p in model.parts if p.name == name and len(p.mesh.faces)), None)
    if part is None:
        return None
    low, high = (corner.round(4).tolist() for corner in part_bounds(part))
    return low, high


def _state(material: Material, edit: MaterialEdit | None = None) -> dict[str, Any]:
    """What of a material decides light, with an edit laid over it."""
    now = changed(material, change_of(edit)) if edit else material
    return {
        "cloth": kind_of(now), "sent_back": round(sent_back(now, mean_reflectance(now)), 4),
        "reflectance": round(mean_reflectance(now), 4), "colour": hex_of(now.rgb), "roughness": now.roughness,
        "metallic": now.metallic, "glass": now.is_pane, "clear_path": now.clear_path,
        "solid": now.is_pane and not now.sheet, "frost": now.frost, "coat": now.coat,
        "coat_roughness": now.coat_roughness, "translucency": now.translucency,
        "through": hex_of(now.through_rgb), "openness": now.openness, "emission_cd_m2": round(max(now.emission_rgb), 2),
        "picture": edit.picture if edit else None,
        "picture_name": edit.picture_name if edit else "",
    }  # fmt: skip


def group_of(name: str) -> str:
    """What a part belongs to, from its name.

    >>> group_of("Pot 12"), group_of("shelf_a.003"), group_of("Roof")
    ('Pot', 'shelf_a', 'Roof')
    """
    return name.rstrip("0123456789").rstrip(" ._-#") or name
