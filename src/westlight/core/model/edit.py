"""Editing a model without touching its file: parts left out, materials replaced by name."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ..colour import AP1_LUMINANCE, srgb_to_working
from .material import Material, Texture
from .parts import Mesh, Model, Part

#: No real paint sends back more, and light that hardly dies makes noise.
BRIGHTEST = 0.9


@dataclass(frozen=True)
class MaterialChange:
    """What is changed of a material; None leaves a property as the file has it.

    ``reflectance`` is the mean luminance 0…1 it should have, texture and tint kept in proportion; ``colour``
    (working-space RGB) is the hue of what it sends back, or of what glass lets through, at the brightness it has;
    ``glass`` makes it a pane or takes that away; ``solid`` glass has two sides and refracts, a thin
    pane is one face, and ``frost`` is the roughness of the faces of a refracting solid; ``coat`` is a
    clear varnish; of what falls on a sheet the share ``translucency`` is scattered through in the colour
    ``through`` (working-space RGB), the rest is reflected, and ``openness`` is the share of holes between
    its threads; ``emission_cd_m2`` is its luminance, that of the white of ``picture``.
    """

    reflectance: float | None = None
    colour: tuple[float, float, float] | None = None
    roughness: float | None = None
    metallic: float | None = None
    glass: bool | None = None
    clear_path: bool | None = None
    solid: bool | None = None
    frost: float | None = None
    coat: float | None = None
    coat_roughness: float | None = None
    translucency: float | None = None
    through: tuple[float, float, float] | None = None
    openness: float | None = None
    emission_cd_m2: float | None = None
    picture: Texture | None = None


@lru_cache(maxsize=1024)
def _texture_mean(texture: Texture) -> float:
    pixels = texture.pixels[..., :3].reshape(-1, 3)
    step = max(1, len(pixels) // 20_000)
    values = pixels[::step] / 255.0
    rgb = srgb_to_working(values) if texture.srgb else values
    return float((rgb @ AP1_LUMINANCE).mean())


def mean_reflectance(material: Material) -> float:
    """Luminance reflectance of a material, its texture averaged, 0…1.

    >>> round(mean_reflectance(Material((0.4, 0.4, 0.4))), 3)
    0.4
    """
    factor = float(np.asarray(material.rgb) @ AP1_LUMINANCE)
    texture = material.base_texture
    return factor * (1.0 if texture is None else _texture_mean(texture))


def changed(material: Material, change: MaterialChange) -> Material:
    """A material with changes laid over it.

    A texture cannot be made brighter than its file allows: the result is then as bright as it gets.
    """
    fields: dict[str, object] = {}
    if change.colour is not None:
        hue = np.maximum(np.asarray(change.colour, float), 0)
        y = float(np.asarray(material.rgb) @ AP1_LUMINANCE) / max(float(hue @ AP1_LUMINANCE), 1e-6)
        r, g, b = (float(v) for v in np.clip(hue * y, 0, 1))
        fields["reflectance"] = (r, g, b)
        material = replace(material, reflectance=(r, g, b))
    if change.reflectance is not None:
        now = mean_reflectance(material)
        rgb = np.asarray(material.rgb)
        scaled = rgb * (change.reflectance / now) if now > 1e-6 else np.full(3, change.reflectance)
        fields["reflectance"] = tuple(float(v) for v in np.clip(scaled, 0, 1))
    if change.roughness is not None:
        fields |= {"roughness": change.roughness, "rough_texture": None}
    for name in (
        "metallic",
        "frost",
        "coat",
        "coat_roughness",
        "translucency",
        "through",
        "openness",
    ):
        if getattr(change, name) is not None:
            fields[name] = getattr(change, name)
    if change.glass is not None:
        fields["transmission"] = (material.transmission or 0.95) if change.glass else 0.0
    if change.translucency and material.translucency == 0 and change.through is None:
        # Cloth that nobody gave a colour of its own lets through what it is dyed in.
        fields["through"] = fields.get("reflectance", material.rgb)
    if change.solid is not None:
        fields["sheet"] = not change.solid
    if change.clear_path is not None:
        fields["clear_path"] = change.clear_path
    if change.emission_cd_m2 is not None:
        hue = np.asarray(material.emission_rgb) if material.emits else np.ones(3)
        rgb = hue / float(hue @ AP1_LUMINANCE) * change.emission_cd_m2
        fields["emission_cd_m2"] = tuple(float(v) for v in rgb)
    if change.picture is not None:
        fields["emission_texture"] = change.picture
    return replace(material, **fields)  # type: ignore[arg-type]


def edited(
    model: Model,
    hidden: Collection[str] = (),
    changes: Mapping[str, MaterialChange] | None = None,
    own: Mapping[str, MaterialChange] | None = None,
) -> list[Part]:
    """Parts of a model without the hidden ones (by name), materials changed by name.

    ``own`` are changes of single parts by their name: these get copies of their materials, called
    “material (part)”. Meshes and materials that are shared otherwise stay shared.
    """
    new: dict[Material, Material] = {}
    for material in model.materials:
        change = (changes or {}).get(material.name)
        if change is not None and change != MaterialChange():
            new[material] = changed(material, change)
    meshes: dict[Mesh, Mesh] = {}
    copies: dict[tuple[Mesh, str], Mesh] = {}
    out = []
    for part in model.parts:
        if part.name in hidden:
            continue
        if new and any(m in new for m in part.mesh.materials):
            if part.mesh not in meshes:
                swapped = [new.get(m, m) for m in part.mesh.materials]
                meshes[part.mesh] = with_picture_places(replace(part.mesh, materials=swapped))
            part = replace(part, mesh=meshes[part.mesh])
        change = (own or {}).get(part.name)
        if change is not None and change != MaterialChange():
            part = replace(part, mesh=_with_own(part, change, copies))
        out.append(part)
    return out


def own_name(material: Material, part: Part) -> str:
    """What the copy of a material is called that one part has for itself."""
    return f"{material.name} ({part.name})"


def _with_own(part: Part, change: MaterialChange, copies: dict[tuple[Mesh, str], Mesh]) -> Mesh:
    """The mesh of a part with copies of its materials; parts of one name and mesh share one."""
    key = part.mesh, part.name
    if key not in copies:
        made = [replace(changed(m, change), name=own_name(m, part)) for m in part.mesh.materials]
        copies[key] = with_picture_places(replace(part.mesh, materials=made))
    return copies[key]


def with_picture_places(mesh: Mesh) -> Mesh:
    """A mesh whose shining picture fits it once, if its file does not say how pictures lie on it.

    The picture lies flat on the two longest sides of the mesh's box, upright as far as that goes.
    """
    if mesh.uvs is not None or not any(m.emission_texture for m in mesh.materials):
        return mesh
    points = mesh.vertices.astype(np.float64)
    low, size = points.min(axis=0), np.ptp(points, axis=0)
    across, up = sorted(np.argsort(-size, kind="stable")[:2])
    uvs = (points[:, [across, up]] - low[[across, up]]) / np.maximum(size[[across, up]], 1e-9)
    # The first row of a picture is its top.
    uvs[:, 1] = 1 - uvs[:, 1]
    return replace(mesh, uvs=uvs.astype(np.float32))


class MaterialDoubt(NamedTuple):
    """What is doubtful about a material for light, in the artist's words, and what cures it.

    ``cure`` says what is done, ``change`` are the properties of `MaterialChange` that do it.
    """

    text: str
    cure: str
    change: dict[str, float | bool]


def doubts(material: Material) -> list[MaterialDoubt]:
    """What is doubtful about a material for light.

    >>> [d.cure for d in doubts(Material(0.97))]
    ['Bring it to 80 %']
    """
    out = []
    mean = mean_reflectance(material)
    if not material.is_pane and not material.emits and mean > BRIGHTEST:
        out.append(MaterialDoubt(
            f"It reflects {mean:.0%}; no real paint does. 80 % still reads as white.",
            "Bring it to 80 %", {"reflectance": 0.8}))  # fmt: skip
    if material.is_pane and float(np.asarray(material.rgb) @ AP1_LUMINANCE) < 0.2:
        out.append(MaterialDoubt(
            "This glass is nearly black: it shuts the light out.",
            "Make it clear", {"reflectance": 0.9}))  # fmt: skip
    if material.is_pane and not material.clear_path:
        out.append(MaterialDoubt(
            "Light cannot find its way through this glass; a clear path lets it.",
            "Clear its path", {"clear_path": True}))  # fmt: skip
    if material.emission_texture is not None and not material.emits:
        out.append(MaterialDoubt(
            "It has a picture for its own light, but no light: it stays dark.",
            "Give it 200 cd/m²", {"emission_cd_m2": 200.0}))  # fmt: skip
    return out
