"""Contact pictures: many small pictures of one building, one after another, in a process of its own.

`python -m westlight.engine.contact ORDER.json` reads the order and prints a JSON object per picture
as soon as its file is written. It can simply be killed.
"""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any

from PIL import Image
from pydantic import Field

from westlight.core.errors import WestlightError
from westlight.core.finish import develop, metered_ev
from westlight.core.transport.denoise import Denoiser
from westlight.core.transport.film import Accumulator, Film, GuideFilm
from westlight.core.transport.render import PassRun

from .orphans import die_with_parent
from .scenery import scenery_of
from .spec import PictureSpec, Settings
from .translate import CALM, ev_of, exposed, finish_of, seen_softly, view_of

#: Bounces of a small picture: enough to judge light by.
BOUNCES = 4


class ContactOrder(Settings):
    """Small pictures to make: specs of one building, where their files go, passes of each.

    With ``metered`` each is exposed by itself, so that dawn and noon can both be judged.
    """

    specs: Annotated[list[PictureSpec], Field(min_length=1, max_length=200)]
    folder: str
    samples: Annotated[int, Field(ge=1, le=256)] = 5
    metered: bool = False


def render_contacts(order: ContactOrder, done: Callable[[int, Path], None]) -> None:
    """Render all pictures of an order; ``done`` is told of each file as it is there."""
    scenery, denoiser = scenery_of(order.specs[0]), Denoiser()
    for n, spec in enumerate(order.specs):
        lit = scenery.lit(spec)
        rows, gains = lit.shining, lit.gains
        size = (spec.height_px, spec.width_px)
        view = view_of(spec.view, spec.width_px, spec.height_px)
        films = [Accumulator.empty(*size, split=False) for _ in rows]
        guide = GuideFilm.empty(*size)
        PassRun(lit.assembled, view, rows, films, guide,
                upto=order.samples, bounces=min(spec.bounces, BOUNCES), calm=CALM).advance()  # fmt: skip
        names = [str(i) for i in rows]
        film = Film(dict(zip(names, films, strict=True)), {str(i): gains[i] for i in rows}, guide)
        albedo, normal = film.output_pass("albedo"), film.output_pass("normal")
        picture = denoiser(film.beauty, albedo, normal, "high", film.seen, seen_softly(spec))
        e = exposed(spec.exposure, picture)
        ev = (metered_ev(picture) if order.metered else None) or ev_of(e)
        passes = {name: film.output_pass(name) for name in ("depth", "alpha", "outside")}
        passes |= scenery.coverage(lit.assembled, view, spec.finish.parts, 4)
        finish = finish_of(spec.finish, e.tone, view.horizon())
        shown = develop(picture, ev, e.kelvin, e.tint, finish, passes)
        file = Path(order.folder) / f"{n:03d}.jpg"
        part = file.with_suffix(".part.jpg")
        Image.fromarray(shown.pixels).save(part, quality=90)
        part.replace(file)
        done(n, file)


def main(path: str) -> int:
    """Render the order in a JSON file; returns the exit code."""
    os.nice(5)
    die_with_parent()

    def say(message: dict[str, Any]) -> None:
        print(json.dumps(message), flush=True)

    try:
        order = ContactOrder.model_validate_json(Path(path).read_text())
        render_contacts(order, lambda n, _: say({"kind": "picture", "n": n}))
    except WestlightError as error:
        say({"kind": "failed", "text": str(error)})
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
