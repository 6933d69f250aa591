"""Questions about light: readings, balance, the sun's patterns and aims, lamps spread over a room."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Any

import numpy as np
from PIL import Image
from pydantic import Field

from westlight.core.analysis import (
    PLANE_M,
    USUAL_UTILISATION,
    Brushed,
    Room,
    Screen,
    columns_and_rows,
    count_for,
    opening_under,
    pattern_map,
    read_spot,
    room_around,
    suggested_balance,
    sun_grid,
)
from westlight.core.analysis import PatternMap as Found
from westlight.core.analysis import aim as aimed_at
from westlight.core.colour import AP1_LUMINANCE, white_of
from westlight.core.errors import WestlightError
from westlight.core.finish.grade import MIDDLE_GREY
from westlight.core.finish.response import BRIGHTEST, DARKEST, response
from westlight.core.photometry import saturation_luminance
from westlight.core.transport.render import irradiance_at
from westlight.core.view import View

from ..live.prepared import Prepared
from ..spec import FixtureSettings, Place, Settings, Share, SkySettings, SourceSpec, SunSettings
from ..spec.base import dial
from ..translate import ev_of, finish_of, gain_of, source_of, view_of
from .asked import Answer, Asked, At, Point
from .building import Below, Picked, pick, under

#: Width of the picture that patterns are scored on.
PATTERN_WIDTH = 112
#: Paths the meter sends from a surface to read its illuminance.
METER_SAMPLES = 256
#: Copies of a fixture that are spread at most.
MOST_SPREAD = 400
Track = list[tuple[float, float]]


class White(Answer):
    """White point that makes a picked place neutral; nothing where there is no light."""

    kelvin: float | None = None
    tint: float | None = None


class Painted(Settings):
    """A stroke in the picture where sunlight is wanted, or where none is; see `core.analysis.Brushed`."""

    points: Annotated[list[tuple[Share, Share]], Field(min_length=1, max_length=400)]
    radius: float = dial(0.06, 0, 1, "Reach", 0.005, "%", shown=(0.01, 0.3), above=True)
    wanted: bool


class Patterns(Settings):
    """Sun positions about so far apart, scored for up to two picked points as well."""

    step_deg: Annotated[float, Field(ge=1, le=45)]
    picked: Annotated[list[tuple[float, float]], Field(max_length=2)] = []
    strokes: Annotated[list[Painted], Field(max_length=100)] = []


class Pattern(Answer):
    """Sun positions scored for a view; see `core.analysis.PatternMap`. Arrays go together."""

    azimuth_deg: list[float]
    elevation_deg: list[float]
    share: list[float]
    contrast: list[float]
    pattern: list[float]
    spot: list[float]
    faces: list[float]
    shadows: list[float]
    raking: list[float]
    middle: list[float]
    ahead: list[float]
    seen: list[float]
    wanted: list[float]
    #: Whether the sun ever stands there at this site; told by the studio, who knows the site.
    real: list[bool] = []


class PatternMap(Answer):
    """A pattern map; none without a building."""

    map: Pattern | None = None

    def as_found(self) -> Found | None:
        """As `core.analysis` has it."""
        if self.map is None:
            return None
        rows = self.map.model_dump(exclude={"real"})
        return Found(**{name: np.asarray(values, float) for name, values in rows.items()})


class Aiming(Settings):
    """A patch at a point of the picture, lit through the opening at another or any way.

    ``below``: the patch lies under a place in metres instead, clicked on the plan.
    """

    x: float
    y: float
    through: tuple[float, float] | None = None
    below: Point | None = None


class Season(Answer):
    """Days on which the sun does it, at about the same clock time (minutes), and one to take."""

    first: str
    last: str
    begins: int
    ends: int
    day: str
    minutes: int


class Match(Answer):
    """A day and clock time at which the real sun stands near a place, and how near."""

    day: str
    minutes: int
    apart_deg: float


class Aim(Answer):
    """Where the sun must stand to light a patch, and when it does (told by the studio); or what was wrong."""

    problem: str | None = None
    open: Track = []
    blocked: Track = []
    spacing_deg: float = 1.0
    opening: str = ""
    seasons: list[Season] = []
    nearest: Match | None = None


class Spreading(Settings):
    """A fixture by id, and the average illuminance its room shall have."""

    source: str
    lux: float = dial(
        300, 0, 1_000_000, "Lux wanted", 10, "lx", shown=(5, 3000), logarithmic=True, above=True
    )


class Spread(Answer):
    """Copies of a fixture spread over its room, and the lux they give on the working plane, traced."""

    columns: int
    rows: int
    width_m: float
    depth_m: float
    average_lx: float
    least_lx: float
    places: list[Place]


class Wishes(Settings):
    """Places of the picture (x, y), each with the stops from middle grey it shall have."""

    wishes: list[tuple[float, float, float]]


class Balance(Answer):
    """Levels that bring places to what was wished for, and the stops from grey they reach."""

    levels: dict[str, float] = {}
    reached: list[float] = []


def neutral(a: Asked, at: At) -> White:
    """White point that makes what is seen at a point neutral."""
    reading = meter(a, at)
    if reading.rgb is None or not (reading.luminance or 0) > 0:
        return White()
    kelvin, tint = white_of(reading.rgb)
    return White(kelvin=round(kelvin), tint=round(float(np.clip(tint, -50, 50)), 1))


def _lights(a: Asked) -> dict[str, Any]:
    """Picture and gain of every source that counts, by id."""
    return {
        s.id: (best.film.at(1), a.p.gains[s.id]) for s in a.p.counting
        if (best := a.best(s)) is not None
    }  # fmt: skip


def meter(a: Asked, at: At) -> Picked:
    """Reading at a point of the picture, a spot of about 1 % of its width.

    Luminance in cd/m², stops from middle grey, working-space RGB, share of each source; and on
    a surface its illuminance in lux, traced there.
    """
    p = a.p
    spot = read_spot(_lights(a), at.x, at.y, ev_of(a.exposure))
    surface = pick(a, at)
    sun, sky = (
        sum(spot.shares.get(s.id, 0.0) for s in p.spec.sources if isinstance(s.settings, kind))
        for kind in (SunSettings, SkySettings)
    )
    both = sun > 1e-4 and sky > 1e-4
    over = round(float(np.log2(sun / sky)), 2) if both else None
    lux = None
    if surface.position is not None and surface.normal is not None and p.assembled is not None:
        normal = np.array(surface.normal)
        place = np.array(surface.position) + 1e-3 * normal
        light = irradiance_at(p.assembled, [place], [normal], samples=METER_SAMPLES, seed=1,
                              bounces=2)[0]  # fmt: skip
        counted = [s.counts for s in p.spec.sources]
        gains = np.array([p.gains[s.id] for s in p.spec.sources])
        lux = float(((light * gains) @ AP1_LUMINANCE)[counted].sum())
    return Picked.model_validate(
        {**surface.model_dump(), **asdict(spot), "lux": lux, "sun_over_sky": over}
    )


def pattern(a: Asked, of: Patterns) -> PatternMap:
    """Every sun position about so many degrees apart, scored for this view."""
    spec = a.p.spec
    if a.p.assembled is None or spec.model is None:
        return PatternMap()
    width = PATTERN_WIDTH
    view = view_of(spec.view, width, max(round(width / spec.view.aspect), 16))
    positions = sun_grid(of.step_deg)
    strokes = [Brushed(tuple(s.points), s.radius, s.wanted) for s in of.strokes]
    made = pattern_map(a.p.assembled, view, positions, spec.model.north_deg, of.picked,
                       _screen(a, positions, view), strokes)  # fmt: skip
    rows = {name: values.round(4).tolist() for name, values in asdict(made).items()}
    return PatternMap(map=Pattern.model_validate(rows))


def _screen(a: Asked, positions: np.ndarray, view: View) -> Screen:
    """The present picture without its sun, and how the look shows light."""
    spec, d = a.p.spec, a.drawing(False)
    sun = next((s for s in spec.sources if isinstance(s.settings, SunSettings)), None)
    sun = sun or SourceSpec(id="sun", name="Sun", settings=SunSettings())
    lux = {e: _lux_of(sun, float(e)) for e in np.unique(positions[:, 1])}
    rest = np.zeros((view.height_px, view.width_px))
    for s in a.p.counting:
        found = None if isinstance(s.settings, SunSettings) else a.best(s)
        if found is not None and found.film.clean is not None:
            rest += _reduced(found.film.clean @ a.p.luminous_gain(s).astype(np.float32), view)
    tone = d.exposure.tone
    curve = response(tone, finish_of(spec.finish, tone).grade)
    stops = np.linspace(DARKEST, BRIGHTEST, len(curve.shown))
    grey = MIDDLE_GREY * saturation_luminance(d.ev)
    whole = _reduced(d.picture @ AP1_LUMINANCE.astype(np.float32), view)
    key = None
    if spec.exposure.automatic != "off":
        key = float(np.exp(np.log(np.maximum(whole, 1e-4)).mean()))
    return Screen(rest, np.array([lux[e] for e in positions[:, 1]]),
                  lambda y: np.interp(np.log2(np.maximum(y / grey, 1e-9)), stops, curve.shown), key)  # fmt: skip


def _lux_of(sun: SourceSpec, elevation: float) -> float:
    """Lux on a plane that faces the sun of a look, if it stood so high."""
    stood = sun.model_copy(update={"settings": sun.settings.model_copy(update={"elevation_deg": elevation})})  # fmt: skip
    return float(gain_of(stood, source_of(stood, 0.0, [])) @ AP1_LUMINANCE)


def _reduced(picture: np.ndarray, view: View) -> np.ndarray:
    """A picture (h, w) at the size of a smaller view."""
    large = Image.fromarray(np.asarray(picture, np.float32), mode="F")
    return np.asarray(large.resize((view.width_px, view.height_px), Image.Resampling.BOX), float)


def aim(a: Asked, of: Aiming) -> Aim:
    """Sun directions that light the surface at a point, through the opening at another."""
    p, model = a.p, a.p.spec.model
    patch = pick(a, At(x=of.x, y=of.y)) if of.below is None else under(a, Below(place=of.below))
    if p.assembled is None or p.scene is None or model is None:
        return Aim(problem="There is no building yet.")
    if patch.position is None or patch.normal is None:
        return Aim(problem="There is no surface at this point; click on a wall or floor.")
    opening = None
    if of.through is not None:
        x, y = of.through
        hit = pick(a, At(x=x, y=y))
        beyond = hit.distance + 0.4 if hit.distance is not None else 1e4
        opening = opening_under(p.scene.openings(model), *a.view.ray(x, y), beyond)
        if opening is None:
            return Aim(
                problem="There is no glazed opening there; click on a window, or aim any way."
            )
    made = aimed_at(p.assembled, patch.position, patch.normal, opening, model.north_deg)
    return Aim(open=made.open.round(2).tolist(), blocked=made.blocked.round(2).tolist(),
               spacing_deg=made.spacing_deg, opening="" if opening is None else opening.name)  # fmt: skip


def spread(a: Asked, of: Spreading) -> Spread:
    """Copies of a fixture that give its room an average illuminance, and what they really give.

    Counted by the lumen method, traced, and counted once more with the utilisation that was found.
    """
    p = a.p
    source = p.source_named(of.source)
    if p.scene is None or source is None or not isinstance(source.settings, FixtureSettings):
        raise WestlightError("Choose a fixture to spread first.")
    f = source.settings
    first = f.places[0]
    room = room_around(p.scene.bare(), first.position)
    lumen = f.lumen * 2.0**source.level
    utilisation, made = USUAL_UTILISATION, None
    for _ in range(2):
        count = min(count_for(of.lux, room.area_m2, lumen, utilisation), MOST_SPREAD)
        columns, rows = columns_and_rows(*room.size, count)
        places = [first.model_copy(update={"position": at})
                  for at in room.grid(columns, rows, first.position[2])]  # fmt: skip
        found = _plane_lux(p, source, f.model_copy(update={"places": places}), room)
        made = Spread(
            columns=columns, rows=rows, width_m=round(room.size[0], 2),
            depth_m=round(room.size[1], 2), average_lx=round(float(found.mean()), 1),
            least_lx=round(float(found.min()), 1), places=places,
        )  # fmt: skip
        reached = float(found.mean()) * room.area_m2 / (columns * rows * lumen)
        utilisation = min(max(reached, 0.02), 1.5)
    assert made is not None
    return made


def _plane_lux(p: Prepared, source: SourceSpec, fixture: FixtureSettings, room: Room) -> np.ndarray:
    """Lux a fixture gives over a grid on the working plane of a room, by itself."""
    assert p.scene is not None
    lamp = source.model_copy(update={"settings": fixture})
    alone = source_of(lamp, 0.0, p.scene.build.materials)
    scene = p.scene.assemble(p.spec, [alone])
    points = room.grid(6, 5, room.floor + PLANE_M)
    light = irradiance_at(scene, points, np.tile([0.0, 0.0, 1.0], (len(points), 1)),
                          samples=METER_SAMPLES, seed=1, bounces=4)[:, 0]  # fmt: skip
    return np.asarray((light * gain_of(lamp, alone)) @ AP1_LUMINANCE)


def balance(a: Asked, of: Wishes) -> Balance:
    """Levels that bring places (x, y, each with stops from middle grey) to what is wished for."""
    ev = ev_of(a.exposure)
    found = _lights(a)
    if not found or not of.wishes:
        return Balance()
    spots = [read_spot(found, x, y, ev) for x, y, _ in of.wishes]
    names = list(found)
    light = [[s.luminance * s.shares[n] for n in names] for s in spots]
    grey = MIDDLE_GREY * saturation_luminance(ev)
    made = suggested_balance(light, [grey * 2.0**stops for _, _, stops in of.wishes])
    before = {s.id: s.level for s in a.p.spec.sources}
    return Balance(
        levels={n: round(before[n] + float(np.log2(k)), 1)
                for n, k in zip(names, made.factors, strict=True)},
        reached=[round(float(np.log2(max(y, 1e-9) / grey)), 2) for y in made.reached],
    )  # fmt: skip
