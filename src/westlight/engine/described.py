"""A picture in words: what lights it and how it is exposed, for those who do not see it and for the files."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence

from westlight.core.sources import SHAPES
from westlight.core.sun import twilight, wind

from .spec import (
    Dress,
    ExposureSettings,
    FixtureSettings,
    GlowSettings,
    PictureSpec,
    SkySettings,
    SourceSpec,
    SunSettings,
)
from .spec.kinds import SKIES
from .translate import ev_of

#: Elevations in degrees below which a sun is low, and above which it is high.
_LOW, _HIGH = 20.0, 50.0
#: Lamps told of by name; the rest are counted.
_NAMED = 3
#: CIE standard skies of these types are overcast.
_OVERCAST = range(1, 7)


def described(spec: PictureSpec, exposure: ExposureSettings | None = None) -> str:
    """The light of a picture in one sentence; ``exposure`` is the one it got, where that was automatic."""
    parts = [_sun(spec.sources), _sky(spec.sources), _lamps(spec.sources)]
    if spec.model is not None:
        parts.append(_dressed(spec.model.dress))
    if any(h.on for h in spec.air):
        parts.append(f"haze with {min(h.visibility_m for h in spec.air if h.on):.0f} m visibility")
    if spec.clay is not None:
        parts.append("everything but glass in neutral grey")
    parts.append(_exposure(exposure) if exposure else _metered(spec.exposure))
    told = "; ".join(p for p in parts if p)
    return f"{told[0].upper()}{told[1:]}."


def described_plainly(spec: PictureSpec, exposure: ExposureSettings | None = None) -> str:
    """As `described`, in the letters that every picture file and reader knows."""
    text = described(spec, exposure).replace("−", "-").replace("°", " degrees")
    return unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()


def described_source(source: SourceSpec) -> str:
    """One source of the light in a phrase: what it is, its amount and colour, and how it is set here."""
    of = source.settings
    if isinstance(of, SunSettings):
        told = _sun([source]) if source.counts else f"sun from the {wind(of.azimuth_deg)}"
    elif isinstance(of, SkySettings):
        told = _sky([source]) if source.counts else "sky"
    elif isinstance(of, FixtureSettings):
        shape, count = SHAPES[of.shape].label.lower(), len(of.places)
        colour = f"{of.kelvin:.0f} K" if of.colour is None else "coloured"
        what = f"{shape} fixture" if count == 1 else f"{count} {shape} fixtures"
        each = "" if count == 1 else " each"
        told = f"{what}, {of.lumen:,.0f} lm{each}, {colour}{_stops(source)}"
    elif isinstance(of, GlowSettings):
        told = f"surfaces of {of.material} that shine{_stops(source)}"
    else:
        told = f"moon{_stops(source)}"
    off = "" if source.counts else ", off"
    return f"{told[0].upper()}{told[1:]}{off}"


def _dressed(dress: Sequence[Dress]) -> str:
    """What hangs before openings, and glass that is not their own."""
    told = []
    for of, one, many in (
        ([d for d in dress if d.hangs == "curtain"], "a curtain", "{} curtains"),
        ([d for d in dress if d.hangs in ("roller", "slats")], "a blind", "{} blinds"),
        ([d for d in dress if d.glass == "tinted"], "a tinted pane", "{} tinted panes"),
        ([d for d in dress if d.glass == "frosted"], "a frosted pane", "{} frosted panes"),
    ):
        if of:
            told.append(one if len(of) == 1 else many.format(len(of)))
    return ", ".join(told)


def _sun(sources: Sequence[SourceSpec]) -> str:
    source, sun = next(
        ((s, s.settings) for s in sources if isinstance(s.settings, SunSettings)), (None, None)
    )
    if source is None or sun is None:
        return ""
    if (below := twilight(sun.elevation_deg)) is not None:
        return below.lower()
    if not source.counts:
        return "no sun"
    height = "low " if sun.elevation_deg < _LOW else "high " if sun.elevation_deg > _HIGH else ""
    return f"{height}sun from the {wind(sun.azimuth_deg)}, {max(sun.elevation_deg, 0):.0f}° high{_stops(source)}"


def _sky(sources: Sequence[SourceSpec]) -> str:
    source, sky = next(
        ((s, s.settings) for s in sources if isinstance(s.settings, SkySettings)), (None, None)
    )
    if source is None or sky is None or not source.counts:
        return ""
    if sky.model == "cie":
        name = "overcast sky" if sky.cie_type in _OVERCAST else f"CIE sky {sky.cie_type}"
    elif sky.model == "hdri":
        name = f"sky picture {sky.hdri.name}".rstrip()
    else:
        name = SKIES[sky.model].name.lower()
    return name + _stops(source)


def _lamps(sources: Sequence[SourceSpec]) -> str:
    """Lamps that are on, a group by its name, the ones raised most first."""
    found: dict[str, list[SourceSpec]] = {}
    for s in sources:
        if s.settings.kind in ("fixture", "glow") and s.counts:
            found.setdefault(s.settings.group or s.name, []).append(s)
    if not found:
        return "no lamps"
    names = [
        # Lamps of a group that stand at levels of their own have none together.
        n + (_stops(members[0]) if len({round(m.level, 1) for m in members}) == 1 else "")
        for n, members in sorted(found.items(), key=lambda f: -max(m.level for m in f[1]))
    ]
    more = len(names) - _NAMED
    told = names if more <= 1 else [*names[:_NAMED], f"{more} more"]
    whole = told[0] if len(told) == 1 else f"{', '.join(told[:-1])} and {told[-1]}"
    return f"lamps {whole}"


def _stops(source: SourceSpec) -> str:
    """By how much a source is moved from its own amount."""
    level = round(source.level, 1)
    return f" ({'+' if level > 0 else '−'}{abs(level):.1f} EV)" if level else ""


def _metered(e: ExposureSettings) -> str:
    """The exposure as it is set; one that follows the picture is not known before there is one."""
    if e.automatic == "off":
        return _exposure(e)
    over = f" ({e.compensation:+.1f} EV)".replace("-", "−") if e.compensation else ""
    return f"exposed by the meter{over}, {e.kelvin:.0f} K"


def _exposure(e: ExposureSettings) -> str:
    shutter = f"1/{1 / e.shutter_s:.0f} s" if e.shutter_s < 0.4 else f"{e.shutter_s:.3g} s"
    return f"f/{e.f_number:.3g}, {shutter}, ISO {e.iso:.0f} (EV {ev_of(e):.1f}), {e.kelvin:.0f} K"
