"""Towards a reference: steps found in the live picture do what they say, and change nothing by themselves."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.core.errors import WestlightError
from westlight.engine.files import look_in, place
from westlight.engine.spec import PictureSpec
from westlight.studio.edits import merged

from .stage import Bench, spec


def kept(folder: Path, pixels: np.ndarray, asset: str = "a" * 64) -> str:
    """A reference where files are looked for."""
    look_in(folder)
    file = place(folder, asset, ".png")
    file.parent.mkdir(parents=True, exist_ok=True)
    Image.fromarray(pixels.astype(np.uint8)).save(file)
    return asset


def other(wanted: PictureSpec, **exposure: Any) -> PictureSpec:
    """The same light under another exposure."""
    return wanted.model_copy(update={"exposure": wanted.exposure.model_copy(update=exposure)})


def without_sun(wanted: PictureSpec) -> PictureSpec:
    """The room by its sky and its lamp."""
    sources = [s.model_copy(update={"counts": s.counts and s.id != "sun"}) for s in wanted.sources]
    return wanted.model_copy(update={"sources": sources})


def test_a_step_does_what_it_says(room: Path, tmp_path: Path) -> None:
    """The picture at another exposure and white is the reference: taking the first step brings it as near as was told."""
    bench = Bench()
    wanted = spec(room, most=3)
    bench.show(other(wanted, shutter_s=1 / 200, kelvin=3600.0))
    asset = kept(tmp_path, bench.pixels(), "b" * 64)
    bench.show(wanted)
    made = bench.ask("nearer", asset=asset)
    assert made["found"], "nothing is proposed"
    assert [f["apart"] for f in made["found"]] == sorted(f["apart"] for f in made["found"])
    read = bench.ask("beside", asset=asset)
    assert made["apart"] == pytest.approx(read["apart"], rel=0.15)
    step = next(f for f in made["found"] if f["kind"] == "exposure")
    assert step["title"] == "Exposure −1.7 EV" or step["title"] == "Exposure −1.8 EV"
    head, _, code = step["print"].partition(",")
    assert head == "data:image/jpeg;base64"
    assert code
    before = wanted.model_dump(mode="json")["exposure"]
    exposure = merged(before, step["look"]["exposure"])
    bench.show(other(wanted, shutter_s=exposure["shutter_s"]))
    assert bench.ask("beside", asset=asset)["apart"] == pytest.approx(step["apart"], abs=0.4)
    white = next(f for f in bench.ask("nearer", asset=asset)["found"] if f["kind"] == "white")
    assert white["look"]["exposure"]["kelvin"] == pytest.approx(3600.0, rel=0.06)


def test_levels_go_by_the_sources_that_count(room: Path, tmp_path: Path) -> None:
    """Levels are told by the ids of sources, from where they stand; an automatic exposure is moved by its compensation."""
    bench = Bench()
    bright = {"most": 3, "lumen": 100_000.0, "shutter": 1 / 250}
    wanted = without_sun(spec(room, **bright))
    bench.show(without_sun(spec(room, **bright, level=-4.0)))
    asset = kept(tmp_path, bench.pixels(), "c" * 64)
    bench.show(wanted)
    found = {f["kind"]: f for f in bench.ask("nearer", asset=asset)["found"]}
    levels = found["levels"]["look"]["mix"]
    assert set(levels) <= {"sky", "lamp"}
    assert levels["lamp"]["level"] < -2.0
    assert found["levels"]["title"].startswith("Levels: Lamp −")
    bench.show(other(wanted, automatic="whole"))
    brighter = np.clip(bench.pixels() * 1.6, 0, 255)
    kept(tmp_path, brighter, "1" * 64)
    moved = {f["kind"]: f for f in bench.ask("nearer", asset="1" * 64)["found"]}
    assert moved["exposure"]["look"]["exposure"]["compensation"] > 0.3


def test_key_and_fill_and_a_lost_file(room: Path, tmp_path: Path) -> None:
    bench = Bench()
    bench.show(spec(room, most=2))
    pixels = np.full((40, 80, 3), 118)
    pixels[:, 40:] = 61
    asset = kept(tmp_path, pixels, "d" * 64)
    areas = [(0.0, 0.0, 0.4, 1.0), (0.6, 0.0, 1.0, 1.0)]
    read = bench.ask("beside", asset=asset, its_areas=areas)
    assert read["reference"]["ratio"] == pytest.approx(2.0, abs=0.05)
    assert read["picture"]["ratio"] is None
    height = bench.ask("shadow", asset=asset, points=[(0.5, 0.9), (0.5, 0.1), (0.9, 0.9)])
    # Half as high as wide: 32 pixels up, 32 along.
    assert height["elevation_deg"] == pytest.approx(45.0, abs=0.1)
    with pytest.raises(WestlightError, match="edge"):
        bench.ask("shadow", asset=asset, points=[(0.5, 0.9), (0.5, 0.9), (0.9, 0.9)])
    with pytest.raises(WestlightError, match="no longer on the shelf"):
        bench.ask("beside", asset="e" * 64)


def test_prints_are_small_pictures(room: Path, tmp_path: Path) -> None:
    import base64

    bench = Bench()
    bench.show(spec(room, most=2))
    asset = kept(tmp_path, np.full((30, 30, 3), 20), "f" * 64)
    for step in bench.ask("nearer", asset=asset)["found"]:
        data = base64.b64decode(step["print"].partition(",")[2])
        with Image.open(io.BytesIO(data)) as picture:
            assert 60 < picture.width <= 224
