"""Stills: interrupted ones go on to the same bits, files are what they say, passes add up."""

from __future__ import annotations

import io
import json
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import OpenImageIO as oiio
import pytest
from PIL import Image, ImageCms

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.files import read_layers, write_exr
from westlight.engine.spec import (
    FinishSettings,
    FixtureSettings,
    OcclusionSettings,
    PictureSpec,
    Place,
    SkySettings,
    SourceSpec,
    ViewSettings,
)
from westlight.engine.still import (
    FIRST_PASSES,
    SEEN_PASSES,
    USUAL_FALL,
    StillOrder,
    StillRun,
    falling,
)

from .. import stored
from ..core.test_models import glb


def order(folder: Path, **changes: Any) -> StillOrder:
    """A small still of two triangles under a sky and a lamp."""
    model = glb(folder / "scene.glb")
    spec = PictureSpec(
        model=stored.model(model, up="y"), width_px=64, denoise=False, bounces=2,
        view=ViewSettings(position=(16.0, -1.0, 2.0), target=(10.5, 1.0, 1.2), aspect=1.0),
        sources=[
            SourceSpec(id="sky", name="Sky", settings=SkySettings(elevation_deg=40)),
            SourceSpec(id="a", name="Lamp", settings=FixtureSettings(
                shape="sphere", places=[Place(position=(12.0, 0.5, 1.5))])),
            SourceSpec(id="b", name="Lamp", settings=FixtureSettings(
                shape="disc", places=[Place(position=(12.0, 0.2, 1.0))])),
        ],
        finish=FinishSettings(occlusion=OcclusionSettings(amount=0.5)),
    )  # fmt: skip
    return StillOrder(spec=spec, folder=str(folder), noise=1e-6, samples=6, **changes)


def quiet(_: dict[str, Any]) -> None:
    """Nobody listens."""


def test_a_stopped_still_goes_on_to_the_same_bits(tmp_path: Path) -> None:
    whole, broken = tmp_path / "whole", tmp_path / "broken"
    for folder in (whole, broken):
        folder.mkdir()
    first = StillRun(order(whole, half=False), quiet)
    assert first.render() is not None

    run = StillRun(order(broken, half=False), quiet)

    def stop_soon(message: dict[str, Any]) -> None:
        if message.get("passes", 0) >= 2:
            run.stop()

    run.report = stop_soon
    assert run.render() is None
    assert run.film.accumulators["Sky"].samples < 6
    again = StillRun(order(broken, half=False), quiet)
    assert again.render() is not None
    a, b = (read_layers(f / "still.exr") for f in (whole, broken))
    assert a.keys() == b.keys()
    for name in a:
        assert np.array_equal(a[name], b[name]), name
    assert not (broken / "gathered.npz").exists()


def test_a_terminated_process_keeps_what_it_has(tmp_path: Path) -> None:
    """Ended by the system in the middle, a render leaves its films beside the order."""
    long = order(tmp_path).model_copy(update={"samples": 60_000})
    long.spec.width_px = 256
    file = tmp_path / "order.json"
    file.write_text(long.model_dump_json())
    process = subprocess.Popen([sys.executable, "-m", "westlight.engine.still", str(file)],
                               stdout=subprocess.PIPE, text=True)  # fmt: skip
    assert process.stdout is not None
    for line in process.stdout:
        if json.loads(line).get("passes", 0) >= 3:
            process.send_signal(signal.SIGTERM)
            break
    rest = process.stdout.read().splitlines()
    assert process.wait(60) == 0
    assert json.loads(rest[-1])["kind"] == "stopped"
    taken_up = StillRun(long, quiet)
    assert taken_up.film.accumulators["Sky"].samples >= 2
    assert taken_up.seconds > 0


def test_layers_and_passes(tmp_path: Path) -> None:
    """Sources add up to the beauty, direct and bounced do, two lamps of a name are two layers."""
    made = StillRun(order(tmp_path, passes=["direct", "bounced", "depth", "alpha", "normal",
                                            "occlusion", "position", "albedo", "speckle", "denoised"],
                          half=False), quiet).render()  # fmt: skip
    assert made is not None
    layers = read_layers(Path(made["exr"]))
    sources = ["Sky", "Lamp", "Lamp (2)"]
    assert np.allclose(sum(layers[s] for s in sources), layers[""], atol=1e-4 * layers[""].max())
    assert np.allclose(layers["direct"] + layers["bounced"], layers[""], atol=1e-3)
    for name in ("depth", "alpha", "occlusion", "speckle"):
        assert layers[name].shape == (64, 64)
    hit = layers["alpha"] > 0.999
    assert hit.any()
    assert 1.0 < layers["depth"][hit].mean() < 8.0
    assert np.abs(np.linalg.norm(layers["normal"][hit], axis=1) - 1).max() < 0.02
    assert layers["occlusion"].max() <= 1.0
    nothing = layers["alpha"] == 0
    assert nothing.any()
    assert np.isinf(layers["depth"][nothing]).all()
    # Denoised beside as it was traced: the same light, and calmer.
    raw, clean = layers[""] @ AP1_LUMINANCE, layers["denoised"] @ AP1_LUMINANCE
    assert clean.mean() == pytest.approx(raw.mean(), rel=0.05)
    assert not np.allclose(raw, clean)
    recipe = oiio.ImageInput.open(made["exr"]).spec().getattribute("westlight:recipe")
    assert PictureSpec.model_validate_json(recipe).width_px == 64


def test_half_floats_only_where_they_reach(tmp_path: Path) -> None:
    """Lengths and what is brighter than half floats go are written in full, everything else in half the space."""
    rng = np.random.default_rng(4)
    dim, bright = rng.random((8, 8, 3), np.float32), np.full((8, 8, 3), 2e6, np.float32)
    depth = rng.random((8, 8)).astype(np.float32) * 900
    write_exr(tmp_path / "a.exr", dim, {"Sun": bright, "depth": depth, "Sky": dim}, half=True)
    spec = oiio.ImageInput.open(str(tmp_path / "a.exr")).spec()
    kinds = {n: str(spec.channelformat(i)) for i, n in enumerate(spec.channelnames)}
    assert {kinds[n] for n in ("R", "Sky.G")} == {"half"}
    assert {kinds[n] for n in ("Sun.R", "depth.Z")} == {"float"}
    layers = read_layers(tmp_path / "a.exr")
    assert (layers["Sun"] == 2e6).all()
    assert (layers["depth"] == depth).all()


def test_cut_speckles_are_told_and_kept_apart(tmp_path: Path) -> None:
    """With the same numbers: the picture and what was cut is the picture left alone, sample by sample."""
    layers = {}
    for speckles in ("left", "cut"):
        folder = tmp_path / speckles
        folder.mkdir()
        asked = order(folder, passes=["speckle"], half=False)
        lamp = asked.spec.sources[1].settings.model_copy(update={
            "places": [Place(position=(12.0, 0.5, 0.05))]})  # fmt: skip
        sources = [asked.spec.sources[1].model_copy(update={"settings": lamp})]
        spec = asked.spec.model_copy(update={"speckles": speckles, "sources": sources})
        run = StillRun(asked.model_copy(update={"spec": spec}), quiet)
        made = run.render()
        assert made is not None
        layers[speckles] = read_layers(Path(made["exr"]))
        assert len(run.remarks()) == (1 if speckles == "cut" else 0)
    cut = layers["cut"]["speckle"]
    lost = (layers["left"][""] - layers["cut"][""]) @ AP1_LUMINANCE
    assert (layers["left"]["speckle"] == 0).all()
    assert cut.max() > 0
    np.testing.assert_allclose(lost, cut, atol=1e-4 * layers["left"][""].max())
    assert cut.mean() < 0.005 * (layers["left"][""] @ AP1_LUMINANCE).mean()


@pytest.mark.parametrize("screen", ["sRGB", "Display P3", "Rec.709"])
def test_pictures_of_every_kind(tmp_path: Path, screen: str) -> None:
    """Eight and sixteen bits show the same picture, and each file names its screen."""
    kinds = ["png", "png16", "tiff", "jpeg"]
    made = StillRun(order(tmp_path, files=kinds, screen=screen), quiet).render()
    assert made is not None
    assert sorted(made) == sorted([*kinds, "light"])
    pixels = {}
    for kind, name in made.items():
        opened = oiio.ImageInput.open(name)
        spec = opened.spec()
        assert (spec.format.basetype == oiio.UINT16) == (kind in ("png16", "tiff"))
        pixels[kind] = np.asarray(opened.read_image(oiio.FLOAT))
        opened.close()
    for kind in kinds:
        assert np.abs(pixels[kind] - pixels["png16"]).mean() < 0.012
    # A PNG has either a profile or the chunk that says sRGB, never both.
    chunks = {c for c in (b"iCCP", b"sRGB") if c in Path(made["png"]).read_bytes()[:4096]}
    assert chunks == ({b"sRGB"} if screen == "sRGB" else {b"iCCP"})
    with Image.open(made["jpeg"]) as jpeg:
        profile = ImageCms.ImageCmsProfile(io.BytesIO(jpeg.info["icc_profile"]))
    assert screen in ImageCms.getProfileDescription(profile)


def test_how_fast_noise_falls_is_read_from_the_render_itself() -> None:
    """An even fall with the square root of time reads ½, a slower one less; else what is usual."""
    half = [(float(t), t**-0.5) for t in (1, 2, 4, 8, 16)]
    slow = [(float(t), t**-0.2) for t in (1, 2, 4, 8, 16)]
    assert falling(half) == pytest.approx(0.5)
    assert falling(slow) == pytest.approx(0.2)
    assert falling(half[:2]) == USUAL_FALL
    assert falling([(1.0, 0.1), (2.0, 0.1), (3.0, 0.1), (4.0, 0.1)]) == USUAL_FALL


def test_passes_go_where_the_noise_of_the_mix_is(tmp_path: Path) -> None:
    """A lamp twelve stops down gets the first passes only; the one that lights the picture gets all."""
    wanted = order(tmp_path, files=["exr"]).model_copy(update={"samples": 12})
    dim = wanted.spec.sources[2].model_copy(update={"level": -12.0})
    spec = wanted.spec.model_copy(update={"sources": [*wanted.spec.sources[:2], dim]})
    run = StillRun(wanted.model_copy(update={"spec": spec}), quiet)
    assert run.render() is not None
    passes = {name: f.samples for name, f in run.film.accumulators.items()}
    assert max(passes.values()) == 12
    assert passes["Lamp (2)"] == FIRST_PASSES


@pytest.mark.parametrize(("noise", "passes"), [(None, SEEN_PASSES), (0.5, FIRST_PASSES)])
def test_no_still_ends_before_its_noise_can_be_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, noise: float | None, passes: int
) -> None:
    """By the eye later than by a share: few passes may be denoised alike and wrong."""
    monkeypatch.setattr(StillRun, "_noise", lambda _: 0.0)
    wanted = order(tmp_path, half=False, files=["exr"])
    run = StillRun(wanted.model_copy(update={"noise": noise, "samples": 200}), quiet)
    run.render()
    # Rounds are taken whole.
    assert passes <= max(f.samples for f in run.film.accumulators.values()) < 2 * passes


def test_what_another_picture_left_behind_is_not_taken(tmp_path: Path) -> None:
    """A stopped still in the same folder, seen with another lens, does not get into the new one."""
    stopped = StillRun(order(tmp_path), quiet)
    for f in stopped.film.accumulators.values():
        f.light[:], f.counts[:] = 7.0, 3
    stopped._keep(5.0)
    assert StillRun(order(tmp_path), quiet).seconds == 5.0
    other = order(tmp_path)
    view = other.spec.view.model_copy(update={"focal_length_mm": 90.0})
    fresh = StillRun(other.model_copy(update={"spec": other.spec.model_copy(update={"view": view})}),
                     quiet)  # fmt: skip
    assert fresh.seconds == 0.0
    assert all(f.samples == 0 for f in fresh.film.accumulators.values())


def test_prints_know_their_size(tmp_path: Path) -> None:
    """300 dpi stands in every kind of picture, so that 64 pixels are 5.4 mm on paper."""
    made = StillRun(order(tmp_path, files=["png", "tiff", "jpeg"], dpi=300.0), quiet).render()
    assert made is not None
    for kind in ("png", "tiff", "jpeg"):
        with Image.open(made[kind]) as picture:
            assert picture.info["dpi"] == pytest.approx((300, 300), abs=0.1), kind
