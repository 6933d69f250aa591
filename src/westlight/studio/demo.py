"""Saltmarsh Pottery as a project: views, fixtures and four looks; and how an example becomes a project."""

from __future__ import annotations

import contextlib
import json
import shutil
import tempfile
from collections.abc import Callable, Mapping, Sequence
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import westlight
from westlight.engine.readers import READERS
from westlight.engine.spec import (
    ExposureSettings,
    FinishSettings,
    FixtureSettings,
    GlareSettings,
    GlowSettings,
    GradeSettings,
    OcclusionSettings,
    Place,
    ViewSettings,
)
from westlight.store import Look, Model, Project, Source, View
from westlight.store.rows import new_id

from . import lantern_row
from .settings import LookState, Mix, SkyState, SunState

if TYPE_CHECKING:
    from .studio import Studio

NAME = "Saltmarsh Pottery"
PLACE = {"latitude_deg": 43.6, "longitude_deg": -9.1, "time_zone": "Etc/GMT-1", "north_deg": 12.0}
#: Views and looks of the gallery.
GALLERY = [("Wheel room", "Late sun"), ("From the quay", "Blue hour"), ("Wheel room", "Kiln night"),
           ("Gallery", "Blue hour"), ("Kiln yard", "Kiln night")]  # fmt: skip
#: Files of the demo for the shelves: their folders by reader.
SHELVED = {"photometry": "photometry", "sky": "skies", "backdrop": "backdrops", "table": "tables"}
#: Finishes on the shelf from the start, by a name that says what they do.
FINISHES: dict[str, dict[str, Any]] = {
    "Soft daylight, open shadows": {
        "grade": {"contrast": 0.92, "shadows": 0.45, "compression": 0.5, "vibrance": 0.1},
        "glare": {"glow": 0.02},
    },
    "Crisp noon": {
        "grade": {"contrast": 1.12, "saturation": 1.04}, "lens": {"sharpen": 0.25},
    },
    "Warm lamps, cool dusk": {
        "grade": {"warm_lights": 0.25, "warm_shadows": -0.3, "shadows": 0.15},
        "glare": {"glow": 0.06, "star": 0.01, "blades": 7}, "lens": {"vignette": 0.3},
    },
    "Quiet grey": {
        "grade": {"saturation": 0.55, "contrast": 0.96, "compression": 0.4},
        "lens": {"grain": 0.02},
    },
}  # fmt: skip
#: Sources that glow by their material.
GLOWS = {"Kiln fire": "kiln fire", "Desk screen": "screen", "Neighbours' windows": "lit house pane"}
#: Fixtures that are balanced together.
GROUPS = {
    "Workshop": ("Bench pendants", "Shelf lights", "Desk lamp"),
    "Quay": ("Quay lanterns", "South bulkheads", "Lamp posts", "Wall washers outside"),
    "Yard": ("Kiln yard floodlight", "Kiln roof lamps"),
}
#: Off as long as there is day.
NIGHT_ONLY = ("Quay lanterns", "South bulkheads", "Lamp posts", "Wall washers outside",
              "Kiln yard floodlight", "Kiln roof lamps", "Neighbours' windows")  # fmt: skip


def views() -> list[tuple[str, ViewSettings]]:
    """The wheel room, the gallery, pots on a bench with a shallow focus, the quay, the kiln yard."""
    return [
        ("Wheel room", ViewSettings(position=(5.55, -2.45, 1.55), target=(-4.6, 1.3, 1.42),
                                    focal_length_mm=21, upright=True)),
        ("Gallery", ViewSettings(position=(11.95, -3.2, 1.5), target=(7.6, 2.6, 1.42),
                                 focal_length_mm=24, upright=True)),
        ("Bench", ViewSettings(position=(3.35, -2.9, 1.36), target=(0.75, -0.6, 0.92),
                               focal_length_mm=85, depth_of_field=True, focus_m=3.25, blades=7)),
        ("From the quay", ViewSettings(position=(-26.5, -16.3, 1.35), target=(-4.4, 0.2, 1.75),
                                       focal_length_mm=35, upright=True)),
        ("Kiln yard", ViewSettings(position=(13.8, -8.4, 1.55), target=(18.2, 3.4, 1.7),
                                   focal_length_mm=28, upright=True)),
    ]  # fmt: skip


def fixtures(
    file: Path, shelf: Mapping[str, str], groups: Mapping[str, Sequence[str]] = GROUPS,
    glows: Mapping[str, str] = GLOWS,
) -> list[tuple[str, FixtureSettings | GlowSettings]]:  # fmt: skip
    """The lamps of a building, as its generator placed them, and what glows in it.

    ``shelf`` gives the asset of a photometric file by its name.
    """
    out: list[tuple[str, FixtureSettings | GlowSettings]] = []
    for entry in json.loads(file.read_text())["fixtures"]:
        group = next((g for g, names in groups.items() if entry["name"] in names), "")
        sizes: dict[str, Any] = {k: entry[k] for k in ("width", "height", "radius") if k in entry}
        if "file" in entry:
            sizes |= {"photometry": shelf[entry["file"]], "photometry_name": entry["file"],
                      "radius": 0.03}  # fmt: skip
        out.append((entry["name"], FixtureSettings(
            shape=entry["shape"], group=group, lumen=entry["lumen"], kelvin=entry["kelvin"],
            places=[Place(**p) for p in entry["places"]], **sizes)))  # fmt: skip
    return [*out, *((name, GlowSettings(material=m)) for name, m in glows.items())]


def looks(ids: dict[str, str]) -> list[tuple[str, LookState]]:
    """Late sun, blue hour, kiln night, and overcast noon as a neutral reference; ``ids`` names the sources."""

    def mix(levels: dict[str, float | None]) -> dict[str, Mix]:
        """Level per source; None mutes it."""
        return {
            ids.get(name, name): Mix(muted=True) if level is None else Mix(level=level)
            for name, level in levels.items()
        }

    def exposure(**values: Any) -> ExposureSettings:
        return ExposureSettings(**values)

    def finish(glow: float, star: float = 0.0, **grade: float) -> FinishSettings:
        return FinishSettings(
            grade=GradeSettings(**grade),
            glare=GlareSettings(glow=glow, star=star, blades=7),
            occlusion=OcclusionSettings(amount=0.25),
        )

    day = date(2026, 10, 11)
    return [
        ("Late sun", LookState(
            note="The sun comes in by the doors and lies along the floor; the shelves answer it.",
            day=day, minutes=17 * 60 + 12, sky=SkyState(haze=2.6, ground=0.2), sun=SunState(),
            exposure=exposure(f_number=5.6, shutter_s=1 / 25, iso=200, kelvin=5900),
            finish=finish(0.012, contrast=1.06, warm_lights=0.1),
            mix=mix({"Bench pendants": None, "Shelf lights": -1.0, "Desk lamp": None,
                     **dict.fromkeys(NIGHT_ONLY)}))),
        ("Blue hour", LookState(
            note="The building is a lamp at the water: warm inside, blue outside, the doors open.",
            day=day, minutes=19 * 60 + 22, sky=SkyState(haze=2.2), sun=SunState(),
            exposure=exposure(f_number=4.0, shutter_s=0.4, iso=200, kelvin=4400),
            finish=finish(0.06, 0.01, warm_lights=0.1, warm_shadows=-0.2),
            mix=mix({"Bench pendants": 0.0}))),
        ("Kiln night", LookState(
            note="Work goes on under two shades and the fire; all else is left to the dark.",
            day=day, minutes=19 * 60 + 36, sky=SkyState(haze=2.0, town_cd_m2=0.08), sun=SunState(),
            exposure=exposure(f_number=4.0, shutter_s=0.8, iso=200, kelvin=3500),
            finish=finish(0.08, 0.015, warm_shadows=-0.25, shadows=0.15),
            mix=mix({"Bench pendants": -1.2, "Shelf lights": -0.3, "Kiln fire": 0.6,
                     "Quay lanterns": 0.5, "Lamp posts": 1.3, "Kiln roof lamps": 1.0,
                     "Kiln yard floodlight": 0.6, "Wall washers outside": 0.3,
                     "Neighbours' windows": -1.5}))),
        ("Overcast noon", LookState(
            note="Even light without a lamp: the reference that the others are judged against.",
            day=day, minutes=13 * 60, sky=SkyState(model="cie", cie_type=1), sun=SunState(),
            exposure=exposure(f_number=5.6, shutter_s=1 / 20, iso=200, kelvin=6300,
                              automatic="whole", compensation=0.5),
            mix=mix({"sun": None, "Bench pendants": None, "Shelf lights": None, "Kiln fire": None,
                     "Gallery spots": None, "Desk lamp": None, "Desk screen": None,
                     **dict.fromkeys(NIGHT_ONLY)}))),
    ]  # fmt: skip


def read_for_shelves(folder: Path) -> list[tuple[str, dict[str, Any], Path]]:
    """What readers make of the demo's files: kind, report, and the folder with what is kept.

    It stays beside the files, so that another data folder need not read them again, until the readers change.
    """
    sources = Path(westlight.__file__).parent
    changed = max(f.stat().st_mtime_ns for of in ("core", "engine") for f in (sources / of).rglob("*.py"))  # fmt: skip
    kept = folder / f"read-{changed}"
    for old in set(folder.glob("read-*")) - {kept}:
        shutil.rmtree(old, ignore_errors=True)
    out = []
    for kind, of in SHELVED.items():
        for file in sorted((folder / of).glob("*.*")):
            place = kept / file.name
            if not place.is_dir():
                kept.mkdir(exist_ok=True)
                with tempfile.TemporaryDirectory(dir=kept) as scratch:
                    made = Path(scratch) / "made"
                    made.mkdir()
                    (made / "report.json").write_text(
                        json.dumps(READERS[kind].read(file, file.name, made))
                    )
                    with contextlib.suppress(OSError):
                        # Another process may have been quicker.
                        made.replace(place)
            out.append((kind, json.loads((place / "report.json").read_text()), place))
    return out


def create(studio: Studio, folder: Path) -> str:
    """The demo project from the generator's files, unless it is there already."""
    mark = studio.folder / "demo-made"
    known = studio.projects.all()
    if known and mark.is_file():
        # Renamed or removed, it does not come again.
        return mark.read_text()
    for there in known:
        if there["name"] == NAME:
            mark.write_text(str(there["id"]))
            return str(there["id"])
    shelf = {}
    for kind, report, place in read_for_shelves(folder):
        card = studio.shelves.keep_read(kind, report, place)
        if kind == "photometry":
            shelf[card["name"]] = card["asset"]
    for title, kept in FINISHES.items():
        studio.shelves.finishes.keep(title, LookState.model_validate({"finish": kept}))
    building = _read(studio, folder / "saltmarsh.glb")
    lamps = fixtures(folder / "saltmarsh.json", shelf)
    pid = _made(studio, Example(NAME, PLACE, "saltmarsh.glb", building, lamps, views(), looks))
    mark.write_text(pid)
    return pid


def create_lantern_row(studio: Studio, folder: Path) -> str:
    """The second building as a project of its own, from its generator's files; one more each time."""
    row = lantern_row
    building = _read(studio, folder / f"{row.FILE}.glb")
    grown = {i: p.model_dump(mode="json") for i, p in row.plantings().items()}
    building["edits"] = building["edits"] | {"plantings": grown}
    lamps = fixtures(folder / f"{row.FILE}.json", {}, row.GROUPS, row.GLOWS)
    made = Example(row.NAME, row.PLACE, f"{row.FILE}.glb", building, lamps, row.views(), row.looks)
    return _made(studio, made)


class Example(NamedTuple):
    """A building with its lamps, views and looks; looks are told the ids of the sources by name."""

    name: str
    place: Mapping[str, Any]
    file: str
    building: dict[str, Any]
    lamps: Sequence[tuple[str, FixtureSettings | GlowSettings]]
    views: Sequence[tuple[str, ViewSettings]]
    looks: Callable[[dict[str, str]], list[tuple[str, LookState]]]


def _read(studio: Studio, model: Path) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as scratch:
        report = READERS["model"].read(model, model.name, Path(scratch), first=False)
        return studio.buildings.kept(Path(scratch), report)


def _made(studio: Studio, e: Example) -> str:
    """The project of an example; returns its id."""
    with studio.store.session() as session:
        project = Project(name=e.name, **e.place)
        session.add(project)
        session.flush()
        pid = project.id
        session.add(Model(project_id=pid, name=e.file, settings=e.building))
        ids = {}
        for n, (name, settings) in enumerate(e.lamps):
            ids[name] = new_id()
            session.add(Source(id=ids[name], project_id=pid, name=name, position=n,
                               settings=settings.model_dump(mode="json")))  # fmt: skip
        for n, (name, view) in enumerate(e.views):
            session.add(View(project_id=pid, name=name, position=n,
                             settings=view.model_dump(mode="json")))  # fmt: skip
        for n, (name, look) in enumerate(e.looks(ids)):
            session.add(Look(project_id=pid, name=name, position=n,
                             settings=look.model_dump(mode="json")))  # fmt: skip
    return pid
