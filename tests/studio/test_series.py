"""Series of stills: what each picture holds, how files are numbered, and what moves in the end."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from westlight.engine.spec import PictureSpec
from westlight.engine.still import StillOrder
from westlight.store import Still
from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.series import PREVIEW_PX, Series, moving, template, varied
from westlight.studio.settings import LookState, Mix
from westlight.studio.studio import Studio

from .test_handover import done, project

__all__ = ["project"]


def test_hours_are_spread_evenly_between_the_ends() -> None:
    made = varied(Series(over="hours", first=480, last=600, count=5), LookState(), [])
    assert [told for told, _ in made] == ["08:00", "08:30", "09:00", "09:30", "10:00"]
    assert [held["minutes"] for _, held in made] == [480, 510, 540, 570, 600]
    assert all(held["sun"] == {"mode": "time"} for _, held in made)
    # Backwards as well, and to the second.
    back = varied(Series(over="hours", first=601, last=600, count=3), LookState(), [])
    assert [told for told, _ in back] == ["10:01", "10:00:30", "10:00"]


def test_lamps_are_dimmed_from_where_they_stand() -> None:
    look = LookState(mix={"a": Mix(level=1.5), "sun": Mix(level=-1)})
    made = varied(Series(over="dimming", first=0, last=-6, count=3), look, ["a", "b"])
    assert [told for told, _ in made] == ["+0.00 EV", "−3.00 EV", "−6.00 EV"]
    assert [held["mix"]["a"]["level"] for _, held in made] == [1.5, -1.5, -4.5]
    assert [held["mix"]["b"]["level"] for _, held in made] == [0, -3, -6]
    assert all(set(held["mix"]) == {"a", "b"} for _, held in made)
    # No level goes beyond what a level can be.
    low = varied(Series(over="dimming", first=0, last=-1000, count=2), look, ["a"])
    LookState.model_validate({"mix": low[-1][1]["mix"]})


@pytest.mark.parametrize(
    ("of", "lamps", "words"),
    [
        ({"over": "hours", "first": 600, "last": 600}, ["a"], "two different ends"),
        ({"over": "hours", "first": -30, "last": 600}, ["a"], "between 0:00 and 24:00"),
        ({"over": "dimming", "first": 0, "last": -6}, [], "no lamps to dim"),
    ],
)
def test_what_cannot_be_is_refused_in_words(
    of: dict[str, object], lamps: list[str], words: str
) -> None:
    with pytest.raises(BadEdit, match=words):
        varied(Series.model_validate(of), LookState(), lamps)


def test_files_are_numbered_whatever_they_are_called() -> None:
    assert template("{view}-{number}") == "{view}-{number}"
    assert template("{view}") == "{view}-{number}"


def test_a_film_has_its_pictures_in_order(tmp_path: Path) -> None:
    files = []
    for n, grey in enumerate((20, 120, 220)):
        files.append(tmp_path / f"{n}.png")
        Image.new("RGB", (1920, 1080), (grey, grey, grey)).save(files[-1])
    with Image.open(io.BytesIO(moving(files))) as film:
        assert film.n_frames == 3  # type: ignore[attr-defined]
        assert film.size[0] == PREVIEW_PX
        seen = []
        for n in range(3):
            film.seek(n)
            seen.append(float(np.asarray(film.convert("L")).mean()))
    assert seen == pytest.approx([20, 120, 220], abs=4)
    with pytest.raises(BadEdit, match="No picture"):
        moving([])


def test_a_series_is_rendered_numbered_packed_and_moves(studio: Studio, project: str) -> None:
    """Three hours of a room: each a still of its own, with its own sun, in files by number."""
    rows = studio.projects.overview(project)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    made = studio.handover.order_series(
        project, look, view, Series(over="hours", first=720, last=1080, count=3),
        width_px=64, files=["png"], samples=1, seconds=600, names="{view} {look}", keep=True,
    )  # fmt: skip
    stills = sorted(studio.handover.stills(project), key=lambda s: s["series"]["number"])
    assert [s["series"]["at"] for s in stills] == ["12:00", "15:00", "18:00"]
    assert {s["series"]["id"] for s in stills} == {made}
    with studio.store.session() as session:
        orders = [session.get(Still, s["id"]).settings["order"] for s in stills]  # type: ignore[union-attr]
    assert not any(o["keep"] for o in orders)
    suns = [next(s for s in PictureSpec.model_validate(o["spec"]).sources if s.id == "sun")
            for o in orders]  # fmt: skip
    heights = [s.settings.elevation_deg for s in suns]  # type: ignore[union-attr]
    assert heights == sorted(heights, reverse=True)
    assert len({StillOrder.model_validate(o).stem for o in orders}) == 3
    with pytest.raises(BadEdit, match="No picture"):
        studio.handover.moving(project, made)
    studio.handover.queue.start()
    try:
        done(studio, project, *[s["id"] for s in stills])
    finally:
        studio.handover.queue.close()
    with Image.open(io.BytesIO(studio.handover.moving(project, made))) as film:
        assert film.n_frames == 3  # type: ignore[attr-defined]
    packed = studio.handover.stills_zip(project, (), made)
    with zipfile.ZipFile(packed) as opened:
        names = sorted(opened.namelist())
    packed.unlink()
    assert [n[-8:] for n in names] == ["-001.png", "-002.png", "-003.png"]
    studio.handover.act_on_series(project, made, "remove")
    assert {s["status"] for s in studio.handover.stills(project)} == {"removed"}
    with pytest.raises(NotFound):
        studio.handover.moving(project, "0" * 32)


def test_the_rest_of_a_series_is_cancelled_also_what_was_paused(
    studio: Studio, project: str
) -> None:
    rows = studio.projects.overview(project)
    look, view = rows["looks"][0]["id"], rows["views"][0]["id"]
    made = studio.handover.order_series(
        project, look, view, Series(over="hours", first=720, last=1080, count=4), width_px=64
    )
    ids = [s["id"] for s in studio.handover.stills(project)]
    studio.handover.queue.pause(ids[0])
    states = {s["id"]: s["status"] for s in studio.handover.stills(project)}
    assert sorted(states.values()) == ["paused", "waiting", "waiting", "waiting"]
    studio.handover.act_on_series(project, made, "cancel")
    assert {s["status"] for s in studio.handover.stills(project)} == {"cancelled"}
