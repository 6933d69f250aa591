"""From settings to the core's objects: sources, views, and the keys of their accumulators."""

from __future__ import annotations

import json
from collections.abc import Collection, Sequence
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from westlight import core
from westlight.core.colour import AP1_LUMINANCE, AP1_TO_SRGB, srgb_encode, srgb_to_working
from westlight.core.errors import WestlightError
from westlight.core.files import read_linear
from westlight.core.finish import (
    Backdrop,
    Curve,
    DepthHaze,
    Finish,
    Glare,
    Grade,
    Lens,
    Occlusion,
    PartGrade,
    around,
    metered_ev,
)
from westlight.core.model import Material, MaterialChange, Model, Part, Texture, scaled
from westlight.core.model.moved import Copy, Placement, with_moved
from westlight.core.photometry import ev100, shutter_for_ev
from westlight.core.sky import Hdri, Sky
from westlight.core.sources import (
    Disc,
    Emitter,
    Glow,
    Group,
    HdriSource,
    Photometric,
    Rectangle,
    SkySource,
    Source,
    Sphere,
    Spot,
    Sun,
    Tube,
)
from westlight.core.transport.film import F4

from .files import file_of
from .spec import (
    OFF_STOPS,
    ExposureSettings,
    FinishSettings,
    FixtureSettings,
    GlowSettings,
    MaterialEdit,
    ModelEdits,
    ModelSpec,
    MoonSettings,
    Moved,
    PartGradeSettings,
    PictureSpec,
    Place,
    SkySettings,
    SourceSpec,
    SunSettings,
    ViewSettings,
)

#: Roughness below which bounced light is softened, so that mirrored lamps do not speckle. More calms nothing
#: in a room, and water outside would then send too little of the sky and too much of the sun.
CALM = 0.1


#: A colour without a hue.
NEUTRAL = "#808080"


def _hue(colour: str | None, kelvin: float) -> float | tuple[float, float, float]:
    """Kelvin, or the working-space colour that stands for them, at the luminance of white."""
    return kelvin if colour is None else _tint(colour)


def sky_of(settings: SkySettings, north_deg: float) -> Sky:
    """The sky of settings, turned into the model's axes."""
    plain = _plain_sky(settings, north_deg)
    if settings.ground_colour != NEUTRAL:
        tinted = plain.ground_rgb * _tint(settings.ground_colour)
        kept = float(plain.ground_rgb @ AP1_LUMINANCE) / max(float(tinted @ AP1_LUMINANCE), 1e-12)
        plain = replace(plain, ground_rgb=tinted * kept)
    return core.sky.altered(plain, settings.horizon_deg, settings.horizon_blur_deg,
                            settings.colourful)  # fmt: skip


def _plain_sky(settings: SkySettings, north_deg: float) -> Sky:
    """The sky of settings as its model has it."""
    azimuth = settings.azimuth_deg - north_deg
    if settings.model == "cie":
        return core.sky.cie_sky(
            settings.cie_type, settings.elevation_deg, azimuth, ground_albedo=settings.ground
        )
    if settings.model == "graded":
        g = settings.graded
        return core.sky.graded_sky(
            g.lux, _hue(g.zenith_colour, g.zenith_kelvin), _hue(g.horizon_colour, g.horizon_kelvin),
            g.horizon_brightness, g.spread,
            ground_albedo=settings.ground,
        )  # fmt: skip
    # Half a hundredth of a degree cannot be seen; whole steps let the cache help while dragging.
    sky = core.sky.clear_sky(
        round(settings.elevation_deg, 2), round(azimuth, 2), settings.haze, settings.ground
    )
    sky = core.moon.with_town_glow(sky, settings.town_cd_m2)
    return core.moon.moonlit(
        sky, settings.moon_azimuth_deg - north_deg, settings.moon_elevation_deg, settings.moon_lux,
        settings.haze, settings.ground,
    )  # fmt: skip


def colour_of(text: str) -> tuple[float, float, float]:
    """Working-space RGB 0…1 of a colour written as #rrggbb."""
    encoded = np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)]) / 255.0
    r, g, b = srgb_to_working(encoded)
    return float(np.clip(r, 0, 1)), float(np.clip(g, 0, 1)), float(np.clip(b, 0, 1))


def hex_of(rgb: tuple[float, float, float]) -> str:
    """A colour written as #rrggbb of working-space RGB 0…1; what sRGB cannot show is held to its edge.

    >>> hex_of(colour_of("#8c4020"))
    '#8c4020'
    """
    encoded = np.asarray(srgb_encode(np.clip(np.asarray(rgb) @ AP1_TO_SRGB.T, 0, 1)))
    return "#" + "".join(f"{int(v):02x}" for v in np.round(encoded * 255))


@lru_cache(maxsize=2)
def _model(file: Path, up: str, scale: float) -> Model:
    return scaled(core.read_model(file, up, lazily=True), scale)


def model_of(spec: ModelSpec) -> Model:
    """The model of a spec as its file has it, kept between edits."""
    return _model(file_of(spec.asset, spec.suffix), spec.up, spec.scale)


def change_of(edit: MaterialEdit) -> MaterialChange:
    """The core's change of a material."""
    plain = edit.model_dump(exclude={"picture", "picture_name", "through", "colour"})
    through = None if edit.through is None else colour_of(edit.through)
    colour = None if edit.colour is None else colour_of(edit.colour)
    return MaterialChange(
        **plain, through=through, colour=colour, picture=shining_picture(edit.picture)
    )


def placed_parts(
    parts: Sequence[Part], edits: ModelEdits, hidden: Collection[str] = ()
) -> list[Part]:
    """Parts where the artist put them, and copies of them."""
    return with_moved(
        parts, {name: _placement(m) for name, m in edits.moved.items()},
        [Copy(c.name, c.of, _placement(c)) for c in edits.copies], hidden,
    )  # fmt: skip


def _placement(moved: Moved) -> Placement:
    return Placement(moved.by, moved.turn_deg, moved.size)


@lru_cache(maxsize=16)
def _shining(asset: str) -> Texture:
    picture = np.clip(read_linear(file_of(asset, ".exr")) @ AP1_TO_SRGB.T, 0, 1)
    pixels = np.full((*picture.shape[:2], 4), 255, np.uint8)
    pixels[..., :3] = np.round(np.asarray(srgb_encode(picture)) * 255)
    return Texture(asset, pixels, srgb=True)


#: Reflectance of the bodies of lamps: opal glass or white enamel.
BODY = 0.6


def shining_picture(asset: str | None) -> Texture | None:
    """A picture of the shelf as a texture of emitted light: what it burns out at is its white."""
    return None if asset is None else _shining(asset)


def emitters_of(settings: FixtureSettings, name: str) -> list[Emitter]:
    """The emitters of a fixture, one at each of its places."""
    made: list[Emitter] = []
    for place in settings.places:
        common = {
            "luminous_flux_lm": settings.lumen,
            "kelvin": settings.kelvin if settings.colour is None else None,
            "colour": None if settings.colour is None else colour_of(settings.colour),
            "visible": settings.visible,
            "in_reflections": settings.in_reflections,
            "through_glass": settings.through_glass,
            "casts_shadow": settings.casts_shadow,
            "range_m": settings.range_m,
            "reflectance": BODY,
        }
        made.append(EMITTERS[settings.shape](settings, name, place, common))
    return made


def _rectangle(s: FixtureSettings, name: str, place: Place, common: dict[str, Any]) -> Emitter:
    return Rectangle(name, place.position, place.direction, s.width, s.height, place.roll_deg,
                     s.narrowing, **common)  # fmt: skip


def _disc(s: FixtureSettings, name: str, place: Place, common: dict[str, Any]) -> Emitter:
    return Disc(name, place.position, place.direction, s.radius, s.narrowing, **common)


def _sphere(s: FixtureSettings, name: str, place: Place, common: dict[str, Any]) -> Emitter:
    return Sphere(name, place.position, s.radius, **common)


def _tube(s: FixtureSettings, name: str, place: Place, common: dict[str, Any]) -> Emitter:
    # It hangs across its direction, along the horizontal.
    along = Rectangle(name, place.position, place.direction, 1.0, 1.0, place.roll_deg).axes[0]
    return Tube(name, place.position, tuple(along), s.length, s.radius, **common)


def _spot(s: FixtureSettings, name: str, place: Place, common: dict[str, Any]) -> Emitter:
    field = max(s.field_deg, s.beam_deg * 1.05)
    return Spot(name, place.position, place.direction, s.beam_deg, field, s.radius, **common)


def _photometric(s: FixtureSettings, name: str, place: Place, common: dict[str, Any]) -> Emitter:
    if s.photometry is None:
        raise WestlightError(f"“{name}” has lost its photometric file; choose one again.")
    return Photometric(name, place.position, place.direction, _distribution(s.photometry),
                       place.roll_deg, shape="sphere", radius=s.radius, **common)  # fmt: skip


#: The emitter of a fixture at a place, by its shape (`core.sources.SHAPES`).
EMITTERS = {
    "rectangle": _rectangle, "disc": _disc, "sphere": _sphere, "tube": _tube, "spot": _spot,
    "photometric": _photometric,
}  # fmt: skip


@lru_cache(maxsize=128)
def _distribution(asset: str) -> core.luminaires.IntensityDistribution:
    return core.luminaires.read_photometric(file_of(asset, ".ies"))


def source_of(
    spec: SourceSpec, north_deg: float, materials: list[Material], backdrop: bool = False
) -> Source:
    """The core's source for a spec; its level is left out, levels belong to the mix.

    Behind a ``backdrop`` the camera does not see the sky itself.
    """
    s = spec.settings
    if isinstance(s, SunSettings):
        return Sun(spec.id, s.azimuth_deg - north_deg, s.elevation_deg, s.lux, s.size, s.kelvin,
                   haze=s.haze)  # fmt: skip
    if isinstance(s, MoonSettings):
        lux = core.moon.moon_lux(s.elevation_deg, s.lux, s.haze)
        return Sun(spec.id, s.azimuth_deg - north_deg, s.elevation_deg, lux,
                   core.moon.MOON_SIZE, core.moon.MOON_KELVIN)  # fmt: skip
    if isinstance(s, SkySettings):
        if s.model == "hdri":
            sky = _picture_sky(spec.id, s, north_deg)
        else:
            sky = SkySource(spec.id, sky_of(s, north_deg))
        if backdrop:
            sky.seen = 0.0
        return sky
    if isinstance(s, FixtureSettings):
        return Group(spec.id, emitters_of(s, spec.name), diffuse=s.diffuse, glossy=s.glossy)
    for material in materials:
        if material.emits and material.name == s.material:
            return Glow(spec.id, material, material.emission_rgb)
    return Group(spec.id, [])


def _picture_sky(name: str, s: SkySettings, north_deg: float) -> SkySource:
    p = s.hdri
    if p.asset is None:
        raise WestlightError("Choose a sky picture from the shelf on the Daylight stage.")
    placed = {"rotation_deg": p.rotation_deg - north_deg, "tilt_deg": p.tilt_deg,
              "mirror": p.mirror, "horizon_deg": s.horizon_deg,
              "horizon_blur_deg": s.horizon_blur_deg}  # fmt: skip
    made = HdriSource(
        name, sky_picture(p.asset, p.without_sun), seen=_part(p.seen), lighting=_part(p.lighting),
        mirrored=_part(p.mirrored), contrast=p.contrast, saturation=p.saturation,
        tint=_tint(p.tint), horizontal_illuminance_lx=p.lux, **placed,
    )  # fmt: skip
    if p.other is not None:
        made.other = _mirrored_picture(p.other, json.dumps(placed))
    return made


def _part(stops: float) -> float:
    """Factor on a part of a sky's light."""
    return 0.0 if stops <= OFF_STOPS else float(2.0**stops)


def _tint(colour: str) -> tuple[float, float, float]:
    """Factors of a colour that leave the luminance of white as it is."""
    rgb = np.asarray(colour_of(colour))
    r, g, b = rgb / max(float(rgb @ AP1_LUMINANCE), 1e-3)
    return float(r), float(g), float(b)


@lru_cache(maxsize=2)
def _mirrored_picture(asset: str, placed: str) -> F4:
    """A picture that is mirrored in place of a sky's own, in its own cd/m²; kept while it is the same."""
    return sky_picture(asset).adjusted(**json.loads(placed))


@lru_cache(maxsize=3)
def sky_picture(asset: str, without_sun: bool = False) -> Hdri:
    """A sky picture from the shelf, with or without its sun."""
    if not without_sun:
        return Hdri.of(file_of(asset, ".exr"))
    whole = sky_picture(asset)
    lobe = whole.brightest()
    return whole if lobe is None else whole.without(lobe)


def gain_of(spec: SourceSpec, source: Source) -> np.ndarray:
    """RGB factor from the traced to the real contribution, level included, switch not."""
    return np.asarray(source.gain * 2.0**spec.level)


def view_of(settings: ViewSettings, width_px: int, height_px: int) -> core.View:
    """The core's view of settings at a size."""
    return core.View(
        settings.position, settings.target, settings.focal_length_mm, width_px, height_px,
        settings.upright, settings.f_number,
        settings.focus_m if settings.depth_of_field else None, settings.blades, settings.shift,
        settings.roll_deg, settings.near_m,
    )  # fmt: skip


def finish_of(settings: FinishSettings, tone: str, horizon: float = 0.5) -> Finish:
    """The core's finish of settings; ``horizon`` is that of the view (see `View.horizon`)."""
    g = settings.grade
    numbers: dict[str, Any] = g.model_dump(
        exclude={"curve", "red", "green", "blue", "table", "table_name", "table_opacity"}
    )  # fmt: skip
    grade = Grade(
        **numbers, curve=Curve(tuple(g.curve)), red=Curve(tuple(g.red)),
        green=Curve(tuple(g.green)), blue=Curve(tuple(g.blue)),
        cube=_path_of(g.table, ".cube"), cube_opacity=g.table_opacity,
    )  # fmt: skip
    return Finish(
        tone, grade, Glare(**settings.glare.model_dump()),
        Occlusion(**settings.occlusion.model_dump()), DepthHaze(**settings.haze.model_dump()),
        Lens(**settings.lens.model_dump()),
        Backdrop(at=horizon, path=_path_of(settings.backdrop.asset, ".exr"),
                 **settings.backdrop.model_dump(exclude={"asset", "name"})),
        tuple(PartGrade(matte_of(p), **p.model_dump(exclude={"of", "what", "name"}))
              for p in settings.parts),
    )  # fmt: skip


#: Suns larger than this have edges so wide that they are noisy for long.
SOFT_SUN = 3.0


def seen_softly(spec: PictureSpec) -> bool:
    """Whether edges of what is seen itself are soft, and so as noisy as the rest: out of focus, or those of a large sun."""
    suns = (s.settings for s in spec.sources if isinstance(s.settings, SunSettings))
    return spec.view.depth_of_field or any(sun.size > SOFT_SUN for sun in suns)


def _path_of(asset: str | None, suffix: str) -> str | None:
    return None if asset is None else str(file_of(asset, suffix))


def matte_of(part: PartGradeSettings) -> str:
    """Name of the pass that covers what a part grade is for."""
    return f"{part.of}: {part.what}"


def ev_of(exposure: ExposureSettings) -> float:
    """EV100 of exposure settings."""
    return ev100(exposure.f_number, exposure.shutter_s, exposure.iso)


def exposed(exposure: ExposureSettings, picture: F4) -> ExposureSettings:
    """Exposure for a scene-linear picture: when it is automatic, with the shutter metered on it.

    A picture without light leaves the shutter as it is.
    """
    if exposure.automatic == "off":
        return exposure
    part = around(picture, *exposure.area) if exposure.automatic == "area" else picture
    ev = metered_ev(np.ascontiguousarray(part))
    if ev is None:
        return exposure
    shutter = shutter_for_ev(ev - exposure.compensation, exposure.f_number, exposure.iso)
    return exposure.model_copy(update={"shutter_s": min(max(shutter, 1e-6), 3600.0)})


__all__ = [
    "CALM",
    "GlowSettings",
    "ev_of",
    "exposed",
    "finish_of",
    "gain_of",
    "sky_of",
    "source_of",
    "view_of",
]  # fmt: skip
