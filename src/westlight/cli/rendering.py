"""Stills from the command line: of a project, or by a recipe."""

from __future__ import annotations

import glob
import json
from collections.abc import Sequence
from pathlib import Path

from pydantic import ValidationError
from rich.console import Console

from westlight.core.files import read_recipe
from westlight.engine.spec import PictureSpec
from westlight.engine.still import StillOrder, StillRun
from westlight.engine.still_files import Kind
from westlight.studio.studio import Studio

from .postgres import GroundError


def spec_of(studio: Studio, project: str, look: str, view: str, width_px: int) -> PictureSpec:
    """Spec of a look and a view by name, the first of each by default; raises `GroundError`."""
    found = {p["name"]: p["id"] for p in studio.projects.all()}
    if project not in found:
        raise GroundError(f"There is no project “{project}”; there are: {', '.join(found)}.")
    rows = studio.projects.overview(found[project])
    looks = {r["name"]: r["id"] for r in rows["looks"]}
    views = {r["name"]: r["id"] for r in rows["views"]}
    look, view = look or next(iter(looks)), view or next(iter(views))
    if look not in looks or view not in views:
        raise GroundError(f"Looks: {', '.join(looks)}. Views: {', '.join(views)}.")
    return studio.scenes.picture(found[project], looks[look], views[view], width_px=width_px)


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

    return list((StillRun(order, report).render() or {}).values())


def gallery_page(name: str, shots: Sequence[tuple[str, str]]) -> str:
    """The page that shows the finals of the demo."""
    lines = [
        f"# {name}",
        "",
        "Stills of the demo project, as `./westlight gallery` renders them.",
        "",
    ]
    for view, look in shots:
        stem = f"{view}-{look}".lower().replace(" ", "-")
        lines += [f"**{view}, {look}**", "", f"![{view}, {look}](gallery/{stem}.jpg)", ""]
    return "\n".join(lines)
