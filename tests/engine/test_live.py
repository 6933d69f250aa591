"""The live picture, driven step by step without a process around it."""

from __future__ import annotations

import io
import threading
from concurrent.futures import Future
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.engine.live import session, tracing
from westlight.engine.live.denoising import quality_of
from westlight.engine.live.prepared import Prepared
from westlight.engine.spec import PictureSpec
from westlight.engine.translate import seen_softly

from .stage import Bench, spec


def test_settles_as_png_with_every_source_at_full_size(room: Path) -> None:
    """From first light to rest: small first, full size last, a lossless picture at the end."""
    bench = Bench()
    bench.show(spec(room))
    heads = bench.frames()
    assert heads[-1]["settled"]
    # What somebody looks at has no blocks of a JPEG on its walls; what is soon replaced is quick.
    assert {h["format"] for h in heads if h["scale"] == 1} == {"png"}
    assert {h["format"] for h in heads if h["scale"] > 1} == {"jpeg"}
    assert heads[-1]["scale"] == 1
    scales = [h["scale"] for h in heads]
    assert scales == sorted(scales, reverse=True)
    assert set(scales) == {4, 2, 1}
    assert bench.passes() == {"sun": 6, "sky": 6, "lamp": 6}
    prints = {h["source"] for h, _ in bench.messages if h["kind"] == "contribution"}
    assert prints == {"sun", "sky", "lamp"}


def test_edges_are_smooth_at_half_the_size(room: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Where bright sky meets a beam the first half-size picture is nearer to the whole one than without glances at edges."""

    def shown(edges: int) -> np.ndarray:
        monkeypatch.setattr(tracing, "SHARP_EDGES", edges)
        bench = Bench()
        made = spec(room, width_px=320)
        up = made.view.model_copy(update={"target": (2.2, 2.2, 3.0)})
        bench.show(made.model_copy(update={"view": up}), until=lambda f: f["scale"] == wanted)
        return bench.pixels().astype(float).mean(axis=2)

    wanted = 1
    whole = shown(1)
    whole = whole.reshape(whole.shape[0] // 2, 2, whole.shape[1] // 2, 2).mean(axis=(1, 3))
    steps = np.abs(np.diff(whole, axis=1))[:-1] + np.abs(np.diff(whole, axis=0))[:, :-1]
    edges = steps > np.quantile(steps, 0.97)
    wanted = 2
    plain, smooth = (np.abs(shown(n) - whole)[:-1, :-1][edges].mean() for n in (1, 2))
    assert smooth < 0.85 * plain


def test_light_of_a_moved_sun_comes_before_little_pictures(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A hand that lets go waits for bounced light, not for the strip; that follows, every source of it."""
    monkeypatch.setattr(session, "PRINTS_EVERY_S", 0.0)
    bench = Bench()
    bench.show(spec(room))
    bench.show(spec(room, azimuth=150.0, moving=True), lambda f: f["moving"])
    bench.show(spec(room, azimuth=140.0))
    told = [(h["kind"], h.get("waiting"), h.get("source")) for h, _ in bench.messages]
    lit = next(n for n, (kind, waiting, _) in enumerate(told) if kind == "frame" and not waiting)
    assert not [kind for kind, _, _ in told[:lit] if kind == "contribution"]
    assert {source for _, _, source in told[lit:] if source} == {"sun", "sky", "lamp"}


def test_noise_that_is_seen_decides_when_to_stop(room: Path) -> None:
    """What an eye that sees little accepts needs fewer passes than one that sees much; both end by themselves."""
    passes = []
    for calm_at in (16.0, 0.5):
        bench = Bench()
        bench.show(spec(room, most=96, calm_at=calm_at))
        head = bench.frames()[-1]
        assert head["settled"]
        assert head["noise"] <= calm_at
        assert head["grain"]
        passes.append(max(bench.passes().values()))
    assert passes[0] < passes[1] < 96


def test_a_calm_source_waits_for_a_noisy_one(room: Path) -> None:
    """Passes go to those whose noise shows most."""
    bench = Bench()
    bench.show(spec(room, most=24, level=-8.0), until=lambda f: f["passes"] >= 9)
    passes = bench.passes()
    assert passes["lamp"] < max(passes.values())


def test_noise_is_told_again_for_another_exposure(room: Path) -> None:
    """A darker picture shows less of the same noise, and nothing is traced to know it."""
    bench = Bench()
    # Nothing of it is burnt: that would hide noise, too.
    bench.show(spec(room, most=2, shutter=1 / 125))
    bright, passes = bench.frames()[-1]["noise"], bench.passes()
    bench.show(spec(room, most=2, shutter=1 / 2000))
    assert bench.passes() == passes
    assert bench.frames()[-1]["noise"] < 0.9 * bright


def test_pausing_lets_the_engine_rest(room: Path) -> None:
    """A measurement that ends while the picture is paused is taken in; nothing goes on spinning."""
    bench = Bench()
    bench.show(spec(room, most=40), until=lambda f: f["passes"] >= 3)
    bench.show(spec(room, most=40, paused=True))
    assert bench.live.noise.busy is None
    assert not bench.live.work()


def test_the_picture_before_denoising(room: Path) -> None:
    """It is rougher than the denoised one, of the same light, and traces nothing."""
    bench = Bench()
    bench.show(spec(room, most=3))
    clean, passes = bench.pixels(), bench.passes()
    bench.show(spec(room, most=3, reading="raw"))
    raw = bench.pixels()
    assert bench.passes() == passes
    assert np.abs(np.diff(raw, axis=1)).mean() > 1.3 * np.abs(np.diff(clean, axis=1)).mean()
    assert raw.mean() == pytest.approx(clean.mean(), rel=0.05)


def test_light_is_kept_when_the_camera_moves_and_source_by_source(room: Path) -> None:
    """Bounced light kept for the room serves another view; a moved lamp loses only its own."""
    bench = Bench()
    bench.show(spec(room, most=3))
    cache = bench.shared.caches.of(bench.live.prepared)
    assert cache is not None
    known = dict(bench.live.prepared.keys.light)
    cells = cache.cells
    assert cells > 300
    bench.show(spec(room, most=1, lamp_y=1.5))
    assert bench.shared.caches.of(bench.live.prepared) is cache
    now = bench.live.prepared.keys.light
    # Its body is part of the scene for the others.
    assert now["lamp"] != known["lamp"]
    other = spec(room, most=1)
    other.view.position = (0.5, 3.4, 1.5)
    bench.show(other)
    assert bench.live.prepared.keys.light == known
    assert cache.rounds(known["sun"], bench.live.prepared.guide_of) > 0


def test_traced_and_kept_light_agree(room: Path) -> None:
    """Both ways show the same brightness; choosing the other starts new films."""
    bench = Bench()
    bench.show(spec(room, most=16))
    kept = bench.pixels()
    bench.show(spec(room, most=16, bounced="traced"))
    assert bench.shared.caches.of(bench.live.prepared) is None
    assert bench.pixels().mean() == pytest.approx(kept.mean(), rel=0.02)


def test_amount_level_and_exposure_keep_every_film(room: Path) -> None:
    """Nothing is traced for them, and the picture changes at once."""
    bench = Bench()
    bench.show(spec(room))
    before, dark = bench.passes(), bench.pixels()
    for change in ({"level": 3.0}, {"lumen": 160_000.0}, {"shutter": 1 / 15}):
        bench.show(spec(room, paused=True, **change))
        assert bench.passes() == before
        assert bench.pixels().mean() > dark.mean() + 2
    twice = (spec(room, paused=True, level=3.0), spec(room, paused=True, lumen=160_000.0))
    pictures = []
    for wanted in twice:
        bench.show(wanted)
        pictures.append(bench.pixels())
    assert np.array_equal(*pictures)


def test_no_light_is_traced_while_a_hand_mixes(room: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Until it rests; what moves light is traced at once."""
    monkeypatch.setattr(session, "HAND_RESTS_S", 3600.0)
    monkeypatch.setattr(session, "_BLINK_S", 0.0)
    bench = Bench()
    bench.show(spec(room, most=60), lambda f: f["passes"] >= 1)
    traced = []
    monkeypatch.setattr(bench.live._tracer, "go_on", lambda run, _: traced.append(run) or False)
    for level in (1.0, 2.0, 3.0):
        bench.messages.clear()
        bench.live.apply(spec(room, most=60, level=level))
        for _ in range(20):
            assert bench.live.work()
        assert bench.frames()
    assert not traced
    bench.live.apply(spec(room, most=60, level=3.0, azimuth=150.0))
    for _ in range(20):
        bench.live.work()
    assert traced


def test_noise_is_not_measured_while_a_hand_mixes(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Denoising both halves of the passes takes the processors from the hand; what is measured of a look that is gone is left."""
    monkeypatch.setattr(session, "HAND_RESTS_S", 3600.0)
    monkeypatch.setattr(session, "_BLINK_S", 0.0)
    bench = Bench()
    bench.show(spec(room))
    noise = bench.live.noise
    assert noise.of(bench.live.prepared) is not None
    waiting: list[tuple[Future[Any], Any]] = []

    def later(do: Any, *of: Any) -> Future[Any]:
        waiting.append((Future(), lambda: do(*of)))
        return waiting[-1][0]

    def done() -> None:
        job, do = waiting.pop(0)
        try:
            job.set_result(do())
        except Exception as error:
            job.set_exception(error)

    bench.live.apply(spec(room, level=1.0))
    for _ in range(20):
        assert bench.live.work()
    assert noise.busy is None
    # The hand rests, and comes back before the measurement is made.
    monkeypatch.setattr(bench.live.shared.workshop.pool, "submit", later)
    bench.live._mixed_until = 0.0
    bench.live.work()
    assert len(waiting) == 1
    bench.live.apply(spec(room, level=2.0))
    done()
    bench.live.work()
    bench.live._mixed_until = 0.0
    bench.live.work()
    assert noise.of(bench.live.prepared) is None
    assert len(waiting) == 1, "the look that is shown now is measured"
    done()
    monkeypatch.undo()
    bench.finish()
    assert noise.of(bench.live.prepared) is not None


def test_a_quick_hand_on_a_level_gets_half_the_size_and_sharpness_when_it_rests(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where pictures take too long for it; the first word of a hand, and all it stops at, are of full size."""
    monkeypatch.setattr(session, "HAND_RESTS_S", 3600.0)
    monkeypatch.setattr(session, "_BLINK_S", 0.0)
    monkeypatch.setattr(session, "TOO_SLOW_S", 0.0)
    bench = Bench()
    bench.show(spec(room, width_px=320))
    assert not bench.live._slow, "what is sent at rest says nothing of how quick a hand is served"

    def word(level: float) -> np.ndarray:
        bench.show(spec(room, width_px=320, level=level), lambda f: True)
        assert bench.frames()[-1]["scale"] == 1, "the status line would tell of first light"
        return bench.pixels()

    assert word(1.0).shape == (180, 320, 3)
    quick = word(2.0)
    assert quick.shape == (90, 160, 3)
    # The hand rests.
    bench.live._mixed_until = 0.0
    bench.finish()
    assert np.abs(quick - bench.pixels().reshape(90, 2, 160, 2, 3).mean(axis=(1, 3))).mean() < 2
    assert word(3.0).shape == (180, 320, 3)
    assert word(2.0).shape == (90, 160, 3)
    assert bench.live.drawing().picture.shape == (180, 320, 3), "what is kept or read is whole"
    # A paused picture comes to rest sharp as well.
    word(1.0)
    monkeypatch.setattr(session, "HAND_RESTS_S", 0.05)
    monkeypatch.setattr(session, "_BLINK_S", 0.001)
    bench.live.apply(spec(room, width_px=320, level=2.0, paused=True))
    bench.finish()
    assert bench.frames()[-1]["settled"]
    assert bench.pixels().shape == (180, 320, 3)


def test_a_slow_machine_serves_a_hand_that_holds_a_level_quickly(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where a picture takes longer than a hand pauses it is no picture at rest; once the hand lets go a sharp one comes."""
    clock = [session.time.monotonic()]
    monkeypatch.setattr(session.time, "monotonic", lambda: clock[0])
    bench = Bench()
    bench.show(spec(room, width_px=320))
    monkeypatch.setattr(session, "TOO_SLOW_S", 0.0)
    made = session.read

    def slowly(drawing: Any) -> Any:
        clock[0] += 1.0
        return made(drawing)

    monkeypatch.setattr(session, "read", slowly)
    seen = []
    for held, level in ((True, 1.0), (True, 2.0), (True, 3.0), (False, 3.0)):
        told = spec(room, width_px=320, level=level).model_copy(update={"held": held})
        bench.show(told, lambda f: True)
        seen.append((bench.frames()[-1]["format"], bench.pixels().shape[0]))
    assert seen == [("jpeg", 180), ("jpeg", 90), ("jpeg", 90), ("png", 180)]


def test_a_change_taken_back_finds_its_films(room: Path) -> None:
    """Undo of a moved sun needs no new pass."""
    bench = Bench()
    bench.show(spec(room))
    start = bench.pixels()
    bench.show(spec(room, azimuth=120.0))
    assert np.abs(bench.pixels() - start).mean() > 3
    bench.show(spec(room, paused=True))
    assert bench.passes() == {"sun": 6, "sky": 6, "lamp": 6}
    assert np.array_equal(bench.pixels(), start)


def test_only_what_moved_is_traced_again(room: Path) -> None:
    """A turned sun leaves sky and lamp alone; a moved lamp shades all."""
    bench = Bench()
    bench.show(spec(room))
    bench.show(spec(room, azimuth=150.0, paused=True))
    assert bench.passes() == {"sun": 0, "sky": 6, "lamp": 6}
    bench.show(spec(room, lamp_y=1.0, paused=True))
    assert bench.passes() == {"sun": 0, "sky": 0, "lamp": 0}


def test_under_a_moving_hand(room: Path) -> None:
    """Small pictures of direct light follow the sun, then bounced light comes back."""
    bench = Bench()
    bench.show(spec(room))
    seen = []
    for azimuth in (190.0, 160.0, 130.0):
        bench.show(spec(room, azimuth=azimuth, moving=True), lambda f: f["moving"])
        assert bench.frames()[-1]["scale"] == 2
        seen.append(bench.pixels())
    assert np.abs(seen[0] - seen[2]).mean() > 2
    assert bench.passes()["sun"] == 0
    bench.show(spec(room, azimuth=130.0))
    assert bench.frames()[-1]["settled"]
    assert bench.passes()["sun"] == 6


def test_a_sun_that_comes_back_is_shown_though_the_denoiser_is_busy(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its light is there already: the hand does not wait for what was being denoised before it took hold."""
    bench = Bench()
    bench.show(spec(room))
    for azimuth in (190.0, 160.0):
        bench.show(spec(room, azimuth=azimuth, moving=True), lambda f: f["moving"])
    monkeypatch.setattr(bench.live.shared.workshop.pool, "submit", lambda *_: Future())
    bench.live.apply(spec(room, azimuth=100.0))
    for _ in range(400):
        if not bench.live.cleaning.working:
            bench.live.work()
    assert bench.live.cleaning.working
    bench.messages.clear()
    bench.live.apply(spec(room, azimuth=190.0, moving=True))
    for _ in range(5):
        bench.live.work()
    assert [f["moving"] for f in bench.frames()] == [True]


def test_a_page_just_opened_waits_for_light_not_for_black_prints(room: Path) -> None:
    """Nothing comes before the first picture; every print that comes before the sharp one shows light."""
    bench = Bench()
    bench.show(spec(room), until=lambda f: f["scale"] == 2)
    kinds = [h["kind"] for h, _ in bench.messages if h["kind"] in ("frame", "contribution")]
    assert kinds[0] == "frame"
    small = [body for h, body in bench.messages if h["kind"] == "contribution" and h["share"]]
    assert small
    assert all(np.asarray(Image.open(io.BytesIO(b))).max() > 0 for b in small)


def test_what_is_switched_off_costs_no_full_size(room: Path) -> None:
    """A muted source has its little picture only."""
    bench = Bench()
    bench.show(spec(room, counts=False))
    assert bench.passes()["lamp"] == 0
    sizes = {h["source"]: len(b) for h, b in bench.messages if h["kind"] == "contribution"}
    assert sizes["lamp"] > 0


def test_picking_a_surface(room: Path) -> None:
    """A point of the picture gives the wall it shows, with the normal towards the viewer."""
    bench = Bench()
    bench.show(spec(room, most=1))
    hit = bench.ask("pick", x=0.5, y=0.5)
    assert hit["hit"]
    assert any(abs(hit["position"][i] - v) < 0.01 for i, v in ((0, 4), (1, 4), (2, 0)))
    towards = np.array([0.4, 0.4, 1.6]) - hit["position"]
    assert towards @ np.array(hit["normal"]) > 0


def test_memory_is_bounded(room: Path) -> None:
    """Old films go when the limit is reached; the present ones stay, even where they are more than that."""
    bench = Bench()
    bench.show(spec(room, most=1))
    store = bench.shared.store
    store.limit_bytes = 6_000_000
    for azimuth in range(100, 260, 20):
        bench.show(spec(room, azimuth=float(azimuth), most=1))
    assert store.bytes() < 9_000_000
    assert bench.passes()["sun"] == 1
    store.limit_bytes = 1
    bench.show(spec(room, azimuth=90.0, most=2))
    assert bench.passes() == {"sun": 2, "sky": 2, "lamp": 2}


def test_no_building_no_light() -> None:
    """Without a model there is an empty frame and nothing to do."""
    bench = Bench()
    bench.show(PictureSpec())
    assert bench.frames()[-1]["empty"]


def test_meter_reads_light_and_its_makers(room: Path) -> None:
    """Shares add up, follow a level, and the lux fit the luminance of a matte surface."""
    bench = Bench()
    bench.show(spec(room, most=16))
    reading = bench.ask("meter", x=0.5, y=0.85)
    assert reading["hit"]
    assert sum(reading["shares"].values()) == pytest.approx(1.0, abs=1e-6)
    assert reading["luminance"] == pytest.approx(0.6 * reading["lux"] / np.pi, rel=0.25)
    bench.live.apply(spec(room, most=16, level=3.0))
    brighter = bench.ask("meter", x=0.5, y=0.85)
    lamp = reading["shares"]["lamp"]
    assert brighter["luminance"] == pytest.approx(reading["luminance"] * (1 + 7 * lamp), rel=0.02)
    assert brighter["stops"] > reading["stops"]
    bench.live.apply(spec(room, most=16, counts=False))
    assert "lamp" not in bench.ask("meter", x=0.5, y=0.85)["shares"]


def test_noise_is_told_by_source(room: Path) -> None:
    """Each source that counts is named with its noise, worst first, direct and bounced apart."""
    bench = Bench()
    bench.show(spec(room))
    noisy = bench.frames()[-1]["noisy"]
    assert {n["source"] for n in noisy} == {"sun", "sky", "lamp"}
    amounts = [n["noise"] for n in noisy]
    assert amounts == sorted(amounts, reverse=True)
    for n in noisy:
        assert n["noise"] ** 2 == pytest.approx(
            n["direct"] ** 2 + n["bounced"] ** 2, rel=0.05, abs=1e-6
        )


def test_a_sun_dragged_from_kept_surfaces_is_the_same_picture(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The quick way under the hand gives the light of the plain way."""
    pictures = []
    for quick in (True, False):
        bench = Bench()
        bench.show(spec(room))
        with monkeypatch.context() as patched:
            if not quick:
                # What hangs in the air forbids the quick way; the scene itself has none.
                patched.setattr(Prepared, "hazy", True)
            for azimuth in (210.0, 220.0):
                bench.live.apply(spec(room, azimuth=azimuth, moving=True))
                bench.finish()
        p = bench.live.prepared
        film = bench.live.pictures.film(p, bench.source("sun"), 0, p.moving_scale)
        assert film is not None
        pictures.append(film.accumulator.mean())
    same = np.isclose(pictures[0], pictures[1], rtol=1e-3, atol=1e-4).all(axis=2)
    # The lamp's disc and the sky have no surface to keep; a few edges fall to either side.
    assert same.mean() > 0.97


def test_a_region_clears_first(room: Path) -> None:
    """Its tiles get passes the rest of the picture must wait for; without it all catch up."""
    bench = Bench()
    wide = spec(room, most=40).model_copy(update={"width_px": 256, "region": (0.0, 0.0, 0.45, 0.5)})
    bench.show(wide, until=lambda f: f["passes"] >= 1 and _ahead(bench))
    film = bench.film("sun")
    assert film is not None
    done = film.accumulator.counts.sum(axis=-1)
    assert done[0, 0] > done[-1, -1]
    assert done[0, :2].min() == done[:9, :2].max()
    bench.show(wide.model_copy(update={"region": None, "max_samples": int(done.max())}))
    after = film.accumulator.counts.sum(axis=-1)
    assert after.min() >= done.max()


def _ahead(bench: Bench) -> bool:
    film = bench.film("sun")
    return film is not None and film.most_passes > film.passes + 3


def standing(room: Path, x: float, **changes: Any) -> PictureSpec:
    """The room with a block in it."""
    block = {"id": "b", "name": "Block", "kind": "block", "position": [x, 2.0, 0.0],
             "size_m": [0.5, 0.5, 1.0]}  # fmt: skip
    made = spec(room, **changes)
    assert made.model is not None
    edits = made.model.edits.model_validate({"additions": [block]})
    return made.model_copy(update={"model": made.model.model_copy(update={"edits": edits})})


def test_what_an_addition_moves_through_is_never_dark(room: Path) -> None:
    """Under the hand the room is drafted, let go the draft stays until there is light; undo finds the films."""
    bench = Bench()
    bench.show(standing(room, 1.5))
    before = bench.pixels().mean()
    passes = bench.passes()
    for x in (1.7, 1.9):
        bench.show(standing(room, x, moving=True), lambda f: f["moving"])
        assert 0.6 * before < bench.pixels().mean() < 1.5 * before
    bench.show(standing(room, 1.9), lambda f: not f["moving"])
    assert 0.6 * before < bench.pixels().mean() < 1.5 * before
    bench.show(standing(room, 1.5), lambda f: True)
    assert bench.passes() == passes


def test_a_hand_that_takes_hold_while_the_picture_is_denoised_sees_no_darkness(
    room: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The draft does not wait for the denoiser, and what the denoiser then brings does not replace it."""
    # As in a large picture, where nothing older has the size of a draft.
    monkeypatch.setattr(Prepared, "moving_scale", 4)
    bench = Bench()
    bench.show(standing(room, 1.5, most=2))
    before = bench.pixels().mean()
    live, may_go_on = bench.live, threading.Event()
    denoise = bench.shared.workshop.denoise

    def slow(*args: Any, **kwargs: Any) -> Any:
        assert may_go_on.wait(120), "the draft waits for the denoiser"
        return denoise(*args, **kwargs)

    slow.rest = denoise.rest  # type: ignore[attr-defined]
    bench.shared.workshop.denoise = slow  # type: ignore[assignment]
    live.apply(standing(room, 1.6, most=2))
    while not live.cleaning.working:
        live.work()
    bench.messages.clear()
    # It has moved on before the first place is drafted, and is let go before the last one is.
    live.apply(standing(room, 1.7, most=2, moving=True))
    live.apply(standing(room, 1.9, most=2, moving=True))
    while not any(f["moving"] for f in bench.frames()):
        live.work()
    assert not may_go_on.is_set()
    live.apply(standing(room, 2.0, most=2, moving=True))
    live.apply(standing(room, 2.0, most=2))
    may_go_on.set()
    while live.work():
        pass
    for head, body in bench.messages:
        if head["kind"] == "frame":
            with Image.open(io.BytesIO(body)) as picture:
                assert 0.6 * before < np.asarray(picture, float).mean() < 1.5 * before


def test_what_hardly_shows_is_denoised_in_less_time(room: Path) -> None:
    """A lamp eight stops down is; the sun is not, nor a source of which nothing is known yet."""
    bench = Bench()
    bench.show(spec(room, level=-12.0, most=1))
    p, pictures = bench.live.prepared, bench.live.pictures
    qualities = {i: quality_of(p, pictures, i) for i in ("sun", "sky", "lamp", "another")}
    assert qualities["lamp"] == "fast"
    assert qualities["sun"] == qualities["another"] == "high"


def test_edges_are_soft_out_of_focus_and_under_a_large_sun(room: Path) -> None:
    sharp = spec(room)
    assert not seen_softly(sharp)
    assert seen_softly(sharp.model_copy(update={"view": sharp.view.model_copy(update={"depth_of_field": True})}))  # fmt: skip
    sun = sharp.sources[0]
    large = sun.model_copy(update={"settings": sun.settings.model_copy(update={"size": 10.0})})
    assert seen_softly(sharp.model_copy(update={"sources": [large, *sharp.sources[1:]]}))


def test_a_camera_in_a_wall_is_told(room: Path) -> None:
    """Close before a wall, or in a beam, words and a remedy come with the picture; none from the room, nor when
    what is near is cut away."""
    bench = Bench()
    free = spec(room, most=1)

    def said(position: tuple[float, float, float], near_m: float = 0.0) -> str | None:
        x, _, z = position
        changes = {
            "position": position,
            "target": (x, 9.0, z),
            "focal_length_mm": 18.0,
            "near_m": near_m,
        }
        bench.show(free.model_copy(update={"view": free.view.model_copy(update=changes)}))
        doubt = bench.frames()[-1]["doubt"]
        assert doubt is None or "cut away" in doubt
        return doubt

    assert said((2.0, 1.0, 1.5)) is None
    assert "hides 100 % of the picture" in (said((2.0, 3.9, 1.5)) or "")
    assert "in a wall or another body" in (said((2.0, 2.0, 2.85)) or "")
    assert said((2.0, 2.0, 2.85), near_m=0.3) is None
