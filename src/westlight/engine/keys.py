"""What light depends on, in a few letters: two specs with the same key of something have the same of it.

Under a hand a spec comes many times a second and differs in one source. Its keys are taken from those of the spec before
wherever that part is the same.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from .spec import (
    FixtureSettings,
    GlowSettings,
    MoonSettings,
    PictureSpec,
    SkySettings,
    SourceSpec,
    SunSettings,
)


def _digest(*parts: object) -> str:
    text = json.dumps(parts, sort_keys=True, default=str)
    return hashlib.blake2b(text.encode(), digest_size=10).hexdigest()


def traced_settings(spec: SourceSpec) -> dict[str, object]:
    """The settings of a source that tracing depends on: not its level, amount or colour."""
    s = spec.settings
    leave_out: set[str] = set()
    if isinstance(s, SkySettings) and s.model in ("hdri", "graded"):
        # Such a sky does not follow the sun.
        leave_out = {"azimuth_deg", "elevation_deg", "moon_azimuth_deg", "moon_elevation_deg",
                     "moon_lux"}  # fmt: skip
    if isinstance(s, MoonSettings):
        leave_out = {"lux", "haze"}
    elif isinstance(s, SunSettings):
        leave_out = {"kelvin", "lux", "haze"}
    elif isinstance(s, FixtureSettings):
        leave_out = {"lumen", "kelvin", "colour", "warm_dim", "photometry_name", "efficacy", "unit",
                     "fill", "group", "circuit"}  # fmt: skip
    elif isinstance(s, GlowSettings):
        leave_out = {"group"}
    return s.model_dump(exclude=leave_out)


@dataclass(frozen=True)
class Keys:
    """The keys of a spec.

    ``scene``: geometry and the way it is traced. By id of a source, ``own``: what tracing it by itself depends on, no level,
    amount or colour; ``light``: the light it brings to the surfaces of the room, whatever the view; ``picture``: everything
    that the pixels of its films depend on but the number of bounces.
    """

    scene: str = "nothing"
    own: Mapping[str, str] = field(default_factory=dict)
    light: Mapping[str, str] = field(default_factory=dict)
    picture: Mapping[str, str] = field(default_factory=dict)

    def films(self, bounces: Iterable[int]) -> dict[tuple[str, int], str]:
        """Key of each film, by source and bounces."""
        return {(i, b): f"{key}/{b}" for i, key in self.picture.items() for b in bounces}


def keys_of(spec: PictureSpec, before: tuple[PictureSpec, Keys] | None = None) -> Keys:
    """The keys of a spec; what is as it was ``before`` is taken from there."""
    a, known = before or (PictureSpec(), Keys())
    same_scene = _scene_of(a) == _scene_of(spec)
    scene = known.scene if same_scene else _scene_key(spec)
    # A sky behind a backdrop is traced without its view.
    hidden = [s.finish.backdrop.asset is not None for s in (a, spec)]
    was = {s.id: s.settings for s in a.sources} if hidden[0] == hidden[1] else {}
    own = {
        s.id: known.own[s.id] if was.get(s.id) == s.settings and s.id in known.own
        else _digest(traced_settings(s), hidden[1] and isinstance(s.settings, SkySettings))
        for s in spec.sources
    }  # fmt: skip
    bodies = _bodies(spec, own)
    # Bodies are part of the scene for all others.
    same_scene = same_scene and bodies == _bodies(a, known.own)
    seen = (spec.view, spec.bounced, spec.speckles)
    same_view = same_scene and seen == (a.view, a.bounced, a.speckles)
    cut = ["cut"] if spec.speckles == "cut" else []
    common = _digest(scene, spec.view.model_dump(), spec.bounced, *cut)
    light, picture = {}, {}
    for i, key in own.items():
        others = [k for b, k in bodies if b != i]
        same = known.own.get(i) == key
        light[i] = known.light[i] if same and same_scene else _digest(scene, key, others)
        picture[i] = known.picture[i] if same and same_view else _digest(common, key, others)
    return Keys(scene, own, light, picture)


def _scene_of(spec: PictureSpec) -> tuple[object, ...]:
    return spec.model, spec.clay, spec.portals, spec.closed, spec.air


def _scene_key(spec: PictureSpec) -> str:
    if spec.model is None:
        return "nothing"
    # What parts are called does not change their light.
    model = spec.model.model_dump(exclude={"edits": {"names", "tags"}})
    return _digest(model, spec.clay, spec.portals, spec.closed, [h.model_dump() for h in spec.air])


def _bodies(spec: PictureSpec, own: Mapping[str, str]) -> list[tuple[str, str]]:
    """Sources with a body that is seen and shades, and their own keys."""
    return [
        (s.id, own.get(s.id, "")) for s in spec.sources
        if isinstance(s.settings, FixtureSettings) and s.settings.visible
    ]  # fmt: skip
