"""A sky picture whose light, view and mirrored picture are set apart."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from westlight.core.colour import AP1_LUMINANCE
from westlight.core.files import write_exr
from westlight.core.sources import HdriSource
from westlight.engine.keys import traced_settings
from westlight.engine.spec import OFF_STOPS, GradedSky, PictureSky, SkySettings, SourceSpec
from westlight.engine.translate import sky_of, source_of

from .. import stored


def _sky(folder: Path, **hdri: object) -> SourceSpec:
    for name, value in (("sky", 100.0), ("other", 7.0)):
        write_exr(folder / f"{name}.exr", np.full((32, 64, 3), value, np.float32), {})
    if hdri.get("other") == "other":
        hdri["other"] = stored.asset(folder / "other.exr")
    p = PictureSky(asset=stored.asset(folder / "sky.exr"), lux=500.0, **hdri)  # type: ignore[arg-type]
    return SourceSpec(id="sky", name="Sky", settings=SkySettings(model="hdri", hdri=p))


def _made(spec: SourceSpec) -> HdriSource:
    made = source_of(spec, 0.0, [])
    assert isinstance(made, HdriSource)
    return made


def test_parts_are_stops_and_off_at_the_lowest(tmp_path: Path) -> None:
    made = _made(_sky(tmp_path, seen=-1.0, lighting=2.0, mirrored=OFF_STOPS))
    assert (made.seen, made.lighting, made.mirrored) == (0.5, 4.0, 0.0)
    assert made.other is None


def test_another_picture_is_mirrored_in_its_own_light(tmp_path: Path) -> None:
    made = _made(_sky(tmp_path, other="other"))
    assert made.other is not None
    assert made.other[..., 1] == pytest.approx(7.0, rel=1e-3)


def test_a_tint_colours_and_keeps_the_lux(tmp_path: Path) -> None:
    plain, warm = _made(_sky(tmp_path)).pixels(), _made(_sky(tmp_path, tint="#ffb060")).pixels()
    assert warm[0, 0] @ AP1_LUMINANCE == pytest.approx(plain[0, 0] @ AP1_LUMINANCE, rel=1e-3)
    assert warm[0, 0, 0] > 1.2 * warm[0, 0, 2]


def test_parts_are_traced_anew(tmp_path: Path) -> None:
    """What changes the light itself, not only its level, is part of the key of a film."""
    plain = traced_settings(_sky(tmp_path))
    assert traced_settings(_sky(tmp_path, mirrored=1.0)) != plain
    assert traced_settings(_sky(tmp_path, other="other")) != plain


def test_a_coloured_ground_keeps_its_amount() -> None:
    plain = sky_of(SkySettings(ground=0.3), 0.0)
    red = sky_of(SkySettings(ground=0.3, ground_colour="#a04030"), 0.0)
    down = [[0.0, 0.0, -1.0]]
    assert red.luminance(down) == pytest.approx(plain.luminance(down), rel=1e-3)
    assert red.rgb(down)[0, 0] > 2 * red.rgb(down)[0, 2]
    assert red.horizontal_illuminance() == pytest.approx(plain.horizontal_illuminance())


def test_a_sky_by_hand_takes_colours_for_kelvin() -> None:
    by_hand = GradedSky(
        lux=5000.0, zenith_colour="#2040ff", horizon_colour="#2040ff", horizon_brightness=1.0
    )
    sky = sky_of(SkySettings(model="graded", graded=by_hand), 0.0)
    above = sky.rgb([[0.0, 0.0, 1.0], [0.0, 0.98, 0.2]])
    assert sky.horizontal_illuminance() == pytest.approx(5000, rel=1e-3)
    assert above[0] == pytest.approx(above[1], rel=1e-3)
    assert above[0, 2] > 3 * above[0, 0]
