"""What the live picture shows and answers: finish, readings, find, patterns, aims, proofs."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.core.finish import legend
from westlight.engine.keys import keys_of
from westlight.engine.sessions import Engine
from westlight.engine.spec import (
    FinishSettings,
    GradeSettings,
    LensSettings,
    MaterialEdit,
    ModelEdits,
    OcclusionSettings,
    PictureSpec,
)
from westlight.engine.translate import finish_of

from .stage import Bench, spec


def with_(base: PictureSpec, **fields: Any) -> PictureSpec:
    """A spec with fields replaced."""
    return base.model_copy(update=fields)


def test_a_grade_changes_the_picture_and_traces_nothing(room: Path) -> None:
    bench = Bench()
    base = spec(room)
    bench.show(base)
    passes = bench.passes()
    colour = bench.pixels()
    grey = FinishSettings(grade=GradeSettings(saturation=0.0))
    bench.show(with_(base, finish=grey))
    assert bench.passes() == passes
    assert np.ptp(bench.pixels(), axis=2).max() <= 6
    assert np.ptp(colour, axis=2).max() > 10
    dark = FinishSettings(lens=LensSettings(vignette=2.0))
    bench.show(with_(base, finish=dark))
    corner, middle = bench.pixels()[:4, :4].mean(), bench.pixels()[40:50, 70:90].mean()
    assert corner < colour[:4, :4].mean() - 40
    assert middle / colour[40:50, 70:90].mean() > 0.9
    assert keys_of(base).picture == keys_of(with_(base, finish=dark)).picture


def test_occlusion_is_made_when_it_is_asked_for(room: Path) -> None:
    bench = Bench()
    base = spec(room)
    bench.show(base)
    assert bench.live.surveyed.of(bench.live.prepared) == {}
    before = bench.pixels()
    o = FinishSettings(occlusion=OcclusionSettings(amount=1.0, radius_m=1.5))
    bench.show(with_(base, finish=o))
    openness = bench.live.surveyed.of(bench.live.prepared)["occlusion"]
    assert 0.0 <= openness.min() < 0.6 < openness.max() <= 1.0
    assert bench.pixels().mean() < before.mean() - 5


def test_finish_settings_reach_the_core_whole() -> None:
    """Every number of the settings has its place in the core's finish."""
    s = FinishSettings(grade=GradeSettings(contrast=1.3, curve=[(0.2, 0.1)], toe=0.7))
    made = finish_of(s, "film")
    assert made.tone == "film"
    assert made.grade.contrast == 1.3
    assert made.grade.curve.points == ((0.2, 0.1),)
    for part in ("glare", "occlusion", "haze", "lens"):
        assert vars(getattr(made, part)) == getattr(s, part).model_dump()


def test_false_colour_and_stripes(room: Path) -> None:
    bench = Bench()
    base = spec(room)
    bench.show(with_(base, reading="luminance"))
    head = bench.frames()[-1]
    colours = {b["colour"] for b in head["legend"]}
    assert len(colours) == len(legend(head["ev"]))
    shown = {"rgb({:.0f} {:.0f} {:.0f})".format(*c) for c in bench.pixels().reshape(-1, 3)}
    assert shown <= colours
    assert len(shown) > 3
    bright = base.model_copy(deep=True)
    bright.exposure.shutter_s = 2.0
    bench.show(bright)
    plain = bench.pixels()
    bench.show(with_(bright, reading="burnt"))
    burnt = plain.max(axis=2) >= 250
    changed = (bench.pixels() != plain).any(axis=2)
    assert burnt.mean() > 0.1
    assert changed[burnt].mean() > 0.25
    assert bench.frames()[-1]["legend"] == []


def test_find_shows_one_source_and_its_reach(room: Path) -> None:
    bench = Bench()
    base = spec(room)
    bench.show(base)
    whole = bench.pixels()
    bench.show(with_(base, find="lamp"))
    alone = bench.pixels()
    assert np.abs(alone - whole).mean() > 10
    bench.show(with_(base, find="nobody"))
    assert bench.pixels().max() < 40


def test_a_blank_page_gets_what_there_is(room: Path) -> None:
    """Told once more what is shown nothing is sent; to a page that has lost its picture, picture and prints are."""
    sent: list[tuple[str, dict[str, Any]]] = []
    engine = Engine(lambda name, head, body: sent.append((name, head)))
    base = spec(room, most=1)

    def told(blank: bool) -> dict[str, int]:
        sent.clear()
        engine.show("tab", base, blank=blank)
        while engine.work():
            pass
        kinds = [head["kind"] for _, head in sent]
        return {kind: kinds.count(kind) for kind in ("frame", "contribution")}

    assert told(blank=True)["frame"] > 0
    assert told(blank=False) == {"frame": 0, "contribution": 0}
    again = told(blank=True)
    assert again["frame"] > 0
    assert again["contribution"] == len(base.sources)
    assert sent[-1][1].get("settled", True)
    assert told(blank=False) == {"frame": 0, "contribution": 0}


def test_pattern_aim_neutral_and_proof(room: Path) -> None:
    bench = Bench()
    base = spec(room)
    assert bench.ask("pattern", step_deg=10.0) == {"map": None}
    assert bench.ask("proof") == {"jpeg": None, "linear": None, "described": ""}
    bench.show(base)
    scored = bench.ask("pattern", step_deg=15.0, picked=[(0.5, 0.8)])["map"]
    sizes = {len(v) for name, v in scored.items() if name != "real"}
    assert len(sizes) == 1
    assert sizes.pop() > 60
    assert 0 < max(scored["share"]) <= 1
    assert max(scored["spot"]) > 0
    aimed = bench.ask("aim", x=0.5, y=0.85)
    assert len(aimed["open"]) > 0
    assert "no glazed opening" in bench.ask("aim", x=0.5, y=0.85, through=(0.5, 0.4))["problem"]
    white = bench.ask("neutral", x=0.5, y=0.85)
    assert 1000 <= white["kelvin"] <= 25_000
    proof = bench.ask("proof")
    with Image.open(io.BytesIO(proof["jpeg"])) as kept:
        assert kept.size == (160, 88)
    assert proof["linear"].dtype == np.float16
    assert proof["linear"].max() > 0


def test_parts_and_materials_can_be_changed(room: Path) -> None:
    """A hidden beam is gone from rays and names; black walls make a dark picture."""
    bench = Bench()
    base = spec(room)
    bench.show(base)
    before = bench.pixels()
    names = {bench.ask("pick", x=x, y=y)["part"] for x in (0.2, 0.5, 0.8) for y in (0.05, 0.5, 0.9)}
    assert "room" in names
    assert base.model is not None
    hidden = base.model.model_copy(update={"edits": ModelEdits(hidden=["beam"])})
    bench.show(with_(base, model=hidden))
    assert "beam" not in {p.name for p in bench.live.prepared.scene.parts}
    materials = {m.name for m in bench.live.prepared.scene.build.materials}
    edits = ModelEdits(materials={m: MaterialEdit(reflectance=0.05) for m in materials})
    bench.show(with_(base, model=base.model.model_copy(update={"edits": edits})))
    assert bench.pixels().mean() < before.mean() * 0.8


def test_headroom_says_where_a_source_burns(room: Path) -> None:
    """Raised by its headroom a lamp just burns; a stop below it does not."""
    bench = Bench()
    base = spec(room, lumen=5000.0)
    bench.show(base)
    head = next(h for h, _ in reversed(bench.messages)
                if h["kind"] == "contribution" and h["source"] == "lamp")  # fmt: skip
    room_left = head["headroom"]
    burnt = []
    for more in (-1.5, 0.7):
        bench.show(spec(room, lumen=5000.0, level=room_left + more))
        shown = next(h for h, _ in reversed(bench.messages)
                     if h["kind"] == "contribution" and h["source"] == "lamp")  # fmt: skip
        burnt.append(shown["burnt"])
        assert shown["just_below"] == pytest.approx(-more - 0.1, abs=0.15)
        assert shown["burns"] == (more > 0 and shown["burnt"] >= 0.01)
    # The lamp itself, a pixel or two, is always burnt.
    assert burnt[0] <= 0.001
    assert burnt[1] > burnt[0] + 0.001


@pytest.mark.parametrize("size", [(64, 48), (65, 47)])
def test_contact_pictures(room: Path, tmp_path: Path, size: tuple[int, int]) -> None:
    """Every picture of an order is there before any is refined, exposed for itself when asked."""
    from westlight.engine.contact import ROUNDS, ContactOrder, render_contacts

    base = spec(room).model_copy(update={"width_px": size[0], "denoise": False})
    dim = base.model_copy(deep=True)
    dim.exposure.shutter_s = 1 / 4000
    done: list[tuple[int, int]] = []
    order = ContactOrder(specs=[base, dim], folder=str(tmp_path), metered=True)
    render_contacts(order, lambda n, number: done.append((n, number)))
    assert done == [(n, number) for number in range(1, len(ROUNDS) + 1) for n in (0, 1)]
    first, second = (
        np.asarray(Image.open(tmp_path / f"{n:03d}.jpg").convert("L"), float) for n in (0, 1)
    )
    # Live pictures have even sides.
    assert np.abs(np.subtract(first.shape, (base.height_px, size[0]))).max() <= 1
    # Metered, the same light looks the same whatever the shutter was set to.
    assert np.abs(first - second).mean() < 6


def test_a_contact_picture_alone_has_all_its_rounds(room: Path, tmp_path: Path) -> None:
    """Nothing is left of it to be refined, and it is told all the same; what does not count is not traced."""
    from westlight.engine.contact import ROUNDS, ContactOrder, render_contacts

    done: list[tuple[int, int]] = []
    dark = spec(room, width_px=64)
    for source in dark.sources:
        source.counts = source.id == "lamp"
    render_contacts(
        ContactOrder(specs=[dark], folder=str(tmp_path)), lambda *told: done.append(told)
    )
    assert done == [(0, number) for number in range(1, len(ROUNDS) + 1)]
    lit = np.asarray(Image.open(tmp_path / "000.jpg").convert("L"), float)
    for source in dark.sources:
        source.counts = False
    render_contacts(ContactOrder(specs=[dark], folder=str(tmp_path)), lambda *_: None)
    unlit = np.asarray(Image.open(tmp_path / "000.jpg").convert("L"), float)
    assert lit.mean() > unlit.mean() + 10
    assert unlit.mean() < 2


def test_raw_stands_beside_denoised_up_to_a_line(room: Path) -> None:
    """Left of the line the picture is the one before denoising, right of it the one after; noise is not measured of it."""
    bench = Bench()
    bench.show(spec(room, most=2))
    clean = bench.pixels()
    measured = bench.live.noise.of(bench.live.prepared)
    bench.show(spec(room, most=2, reading="raw"))
    raw = bench.pixels()
    assert np.abs(raw - clean).mean() > 0.5
    plain = spec(room, most=2)
    bench.show(plain.model_copy(update={"split": 0.25}))
    both = bench.pixels()
    line = clean.shape[1] // 4
    # JPEG carries a little over the line.
    assert np.abs(both[:, : line - 16] - raw[:, : line - 16]).mean() < 1
    assert np.abs(both[:, line + 16 :] - clean[:, line + 16 :]).mean() < 1
    assert np.abs(both[:, : line - 16] - clean[:, : line - 16]).mean() > 0.5
    bench.show(plain)
    assert np.abs(bench.pixels() - clean).mean() < 0.5
    assert bench.live.noise.of(bench.live.prepared) == measured


def test_a_clamp_on_speckles_tells_what_it_takes_and_is_laid_off_again(room: Path) -> None:
    """With it films are others, limited from their first pass on; without it the ones of before are there at once."""
    bench = Bench()
    plain = with_(spec(room), bounced="traced")
    bench.show(plain)
    assert bench.frames()[-1]["clamped"] is None
    before, light = bench.passes(), bench.film("lamp")
    assert light is not None
    bench.show(with_(plain, speckles="cut"))
    told = bench.frames()[-1]["clamped"]
    assert told is not None
    assert 0 <= told < 0.01
    cut = bench.film("lamp")
    assert cut is not None
    assert cut is not light
    assert 0 < cut.accumulator.clamp < 1e30
    a, b = (f.accumulator.mean().mean() for f in (light, cut))
    assert abs(b / a - 1) < 0.02
    bench.show(plain)
    assert bench.film("lamp") is light
    assert bench.passes() == before
