"""The building as the Site stage lists it: parts in groups, materials with what they do to light."""

from __future__ import annotations

from collections import Counter
from typing import Any

from westlight.core.model import MaterialChange, Model, doubts, mean_reflectance
from westlight.core.model.edit import changed

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
    for part in model.parts:
        count = len(part.mesh.faces)
        triangles[part.name] += count
        seen[part.name] += 1
        for material in part.mesh.materials:
            users.setdefault(material.name, set()).add(part.name)
    for name, copies in seen.items():
        parts.append({"name": name, "group": group_of(name), "copies": copies,
                      "triangles": triangles[name], "hidden": name in hidden})  # fmt: skip
    materials = []
    for material in model.materials:
        edit = state.edits.materials.get(material.name)
        now = changed(material, MaterialChange(**edit.model_dump())) if edit else material
        materials.append({
            "name": material.name, "changed": edit is not None,
            "reflectance": round(mean_reflectance(now), 4), "roughness": now.roughness,
            "metallic": now.metallic, "glass": now.is_pane, "clear_path": now.clear_path,
            "emission_cd_m2": round(max(now.emission_rgb), 2),
            "textured": now.base_texture is not None,
            "parts": len(users[material.name]), "doubts": doubts(now),
            "not_clay": material.name in state.edits.not_clay,
        })  # fmt: skip
    return {"parts": sorted(parts, key=lambda p: (str(p["group"]), str(p["name"]))),
            "materials": sorted(materials, key=lambda m: str(m["name"]).lower())}  # fmt: skip


def group_of(name: str) -> str:
    """What a part belongs to, from its name.

    >>> group_of("Pot 12"), group_of("shelf_a.003"), group_of("Roof")
    ('Pot', 'shelf_a', 'Roof')
    """
    return name.rstrip("0123456789").rstrip(" ._-#") or name
