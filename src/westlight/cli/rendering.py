"""Stills from the command line: of a project, or by a recipe."""

from __future__ import annotations

import gc
import glob
import json
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np
from PIL import Image
from pydantic import ValidationError
from rich.console import Console

from westlight.core.files import read_recipe, write_jpeg
from westlight.engine.described import described
from westlight.engine.spec import PictureSpec
from westlight.engine.still import StillOrder, StillRun
from westlight.engine.still_files import Kind
from westlight.studio import lantern_row
from westlight.studio.studio import Studio

from .postgres import GroundError

#: Width of the gallery's stills.
GALLERY_PX = 1920


def spec_of(studio: Studio, project: str, look: str, view: str, width_px: int) -> PictureSpec:
    """Spec of a look and a view by name, the first of each by default; raises `GroundError`."""
    found = _named(studio, project)
    rows = studio.projects.overview(found)
    looks = {r["name"]: r["id"] for r in rows["looks"]}
    views = {r["name"]: r["id"] for r in rows["views"]}
    look, view = look or next(iter(looks)), view or next(iter(views))
    if look not in looks or view not in views:
        raise GroundError(f"Looks: {', '.join(looks)}. Views: {', '.join(views)}.")
    return studio.scenes.picture(found, looks[look], views[view], width_px=width_px)


def _named(studio: Studio, project: str) -> str:
    """The id of a project by its name; the second example is built if it is asked for. Raises `GroundError`."""
    found = {p["name"]: p["id"] for p in studio.projects.all()}
    if project not in found and project == lantern_row.NAME:
        return studio.add_example()
    if project not in found:
        raise GroundError(f"There is no project “{project}”; there are: {', '.join(found)}.")
    return str(found[project])


def recipe_in(file: Path) -> PictureSpec | StillOrder:
    """The recipe in an EXR of a still, or in a JSON file: a picture, or a still with its passes.

    Raises `GroundError`.
    """
    if not file.is_file():
        raise GroundError(f"There is no file {file}.")
    text = read_recipe(file) if file.suffix == ".exr" else file.read_text(encoding="utf-8")
    try:
        if file.suffix == ".json" and "spec" in json.loads(text):
            return StillOrder.model_validate_json(text)
        return PictureSpec.model_validate_json(text)
    except (ValidationError, json.JSONDecodeError, TypeError) as error:
        raise GroundError(f"{file.name} holds no recipe of a still.") from error


def free_name(out: Path) -> Path:
    """A file that is not there yet: the name itself, or with a number."""
    made, n = out, 2
    while any(made.parent.glob(f"{glob.escape(made.stem)}.*")):
        made, n = out.with_stem(f"{out.stem}-{n}"), n + 1
    return made


def still(
    recipe: PictureSpec | StillOrder, out: Path, noise: float, seconds: float, files: list[Kind],
    console: Console,
) -> list[str]:  # fmt: skip
    """Render a recipe and return the paths of its files.

    A still with its passes is rendered as it was; a picture until it is calm or the time is over.
    """
    out.parent.mkdir(parents=True, exist_ok=True)
    where = {"folder": str(out.parent), "stem": out.stem, "keep": False}
    if isinstance(recipe, StillOrder):
        order = recipe.model_copy(update=where)
    else:
        order = StillOrder(spec=recipe, noise=noise, seconds=seconds, samples=4096, files=files,
                           **where)  # fmt: skip

    def report(message: dict[str, object]) -> None:
        if message.get("passes"):
            console.print(f"  pass {message['passes']}  noise {message['noise']}", end="\r")

    try:
        return list((StillRun(order, report).render() or {}).values())
    finally:
        # What it holds refers to itself in a circle: uncollected, it would need its room beside the next still.
        gc.collect()


class Shot(NamedTuple):
    """A still of the gallery: whose it is, what was meant by its light, and the light in plain words."""

    project: str
    view: str
    look: str
    note: str
    described: str

    @property
    def stem(self) -> str:
        """The name of its file."""
        return f"{self.project}-{self.view}-{self.look}".lower().replace(" ", "-")


def gallery_of(
    studio: Studio, project: str, shown: Sequence[tuple[str, str]]
) -> list[tuple[Shot, PictureSpec]]:
    """The stills of a project that the gallery shows, with what each is rendered from."""
    out = []
    rows = studio.projects.overview(_named(studio, project))["looks"]
    notes = {r["name"]: r["settings"]["note"] for r in rows}
    for view, look in shown:
        spec = spec_of(studio, project, look, view, GALLERY_PX)
        out.append((Shot(project, view, look, notes[look], described(spec)), spec))
    return out


def write_small_jpeg(picture: Path, target: Path, told: str, most: int = 450_000) -> None:
    """A finished picture as a JPEG of at most so many bytes, with the highest quality that keeps to them."""
    pixels = np.asarray(Image.open(picture).convert("RGB"))
    for quality in range(95, 60, -3):
        write_jpeg(target, pixels, described=told, quality=quality)
        if target.stat().st_size <= most:
            return


def gallery_page(shots: Sequence[Shot]) -> str:
    """The page that shows the stills of both buildings."""
    lines = ["# Gallery", "",
             "Stills of the two example buildings, as `./westlight gallery` renders them. Each tells what its light was meant to "
             "do and how it was lit; the command below it makes it again.", ""]  # fmt: skip
    project = ""
    for shot in shots:
        if shot.project != project:
            project = shot.project
            lines += [f"## {project}", ""]
        command = f'./westlight render "{project}" --view "{shot.view}" --look "{shot.look}" --size {GALLERY_PX} --noise 0.5 --seconds 240'
        lines += [f"### {shot.view}, {shot.look}", "", f"![{shot.view}, {shot.look}](gallery/{shot.stem}.jpg)", "",
                  f"{shot.note}  ", shot.described, "", f"`{command}`", ""]  # fmt: skip
    return "\n".join(lines)
