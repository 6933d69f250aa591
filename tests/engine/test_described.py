"""The light of a picture in words."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from PIL import Image

from westlight.core.files import write_exr, write_jpeg, write_picture
from westlight.engine.described import described, described_plainly, described_source
from westlight.engine.spec import (
    Dress,
    ExposureSettings,
    FixtureSettings,
    GlowSettings,
    HazeSettings,
    ModelSpec,
    MoonSettings,
    PictureSpec,
    Place,
    SkySettings,
    SourceSpec,
    SunSettings,
)


def lamp(name: str, level: float = 0.0, counts: bool = True, group: str = "") -> SourceSpec:
    settings = FixtureSettings(group=group)
    return SourceSpec(id=name, name=name, settings=settings, level=level, counts=counts)


def picture(
    *lamps: SourceSpec, azimuth: float = 229.0, elevation: float = 17.7, **more: object
) -> PictureSpec:
    sun = SunSettings(azimuth_deg=azimuth, elevation_deg=elevation)
    sky = SkySettings()
    sources = [
        SourceSpec(id="sun", name="Sun", settings=sun),
        SourceSpec(id="sky", name="Sky", settings=sky),
        *lamps,
    ]
    exposure = ExposureSettings(f_number=5.6, shutter_s=1 / 25, iso=200, kelvin=5900)
    return PictureSpec(sources=sources, exposure=exposure).model_copy(update=more)


def test_a_late_sun_with_lamps() -> None:
    shop = [lamp(name, -2.04, group="Workshop") for name in ("A", "B")]
    quay = [lamp("Q", 0.5, group="Quay"), lamp("R", group="Quay")]
    assert described(picture(*shop, *quay, lamp("Kiln fire", 1.0))) == (
        "Low sun from the south-west, 18° high; clear sky; "
        "lamps Kiln fire (+1.0 EV), Quay and Workshop (−2.0 EV); "
        "f/5.6, 1/25 s, ISO 200 (EV 8.6), 5900 K."
    )


@pytest.mark.parametrize(
    ("elevation", "told"),
    [
        (62, "High sun from the north, 62° high"),
        (35, "Sun from the north, 35° high"),
        (-0.5, "Low sun from the north, 0° high"),
        (-3, "Civil twilight"),
        (-8, "Nautical twilight"),
        (-15, "Astronomical twilight"),
        (-30, "Night"),
    ],
)
def test_where_the_sun_stands(elevation: float, told: str) -> None:
    assert described(picture(azimuth=359.0, elevation=elevation)).split(";")[0] == told


def test_what_does_not_count_is_not_told_of() -> None:
    said = described(picture(lamp("Desk", counts=False)))
    assert "Desk" not in said
    assert "no lamps" in said
    dark = picture()
    dark.sources[0].counts = dark.sources[1].counts = False
    assert described(dark).startswith("No sun; no lamps; f/5.6")


def test_many_lamps_are_counted() -> None:
    said = described(picture(*[lamp(f"L{n}", -float(n)) for n in range(6)]))
    assert "lamps L0, L1 (−1.0 EV), L2 (−2.0 EV) and 3 more;" in said
    assert "L3 (−3.0 EV);" in described(picture(*[lamp(f"L{n}", -float(n)) for n in range(4)]))


def test_skies_haze_and_clay() -> None:
    p = picture(air=[HazeSettings(visibility_m=60)], clay=0.5)
    p.sources[1].settings = SkySettings(model="cie", cie_type=1)
    p.sources[1].level = -1.0
    said = described(p)
    assert (
        "overcast sky (−1.0 EV); no lamps; haze with 60 m visibility; everything but glass" in said
    )


def test_what_hangs_before_openings_is_told() -> None:
    """Counted, however far it is drawn; an opening with its own glass and nothing before it is not told of."""
    at = {"position": (0, 0, 1), "inward": (1, 0, 0), "width": 1, "height": 1}
    hung = [Dress.model_validate({"opening": f"Opening {n}", **at, **more}) for n, more in enumerate((
        {"hangs": "curtain"}, {"hangs": "curtain", "glass": "frosted"}, {"hangs": "slats"}, {}))]  # fmt: skip
    model = ModelSpec(asset="0" * 64, dress=hung)
    told = described(picture(lamp("A")).model_copy(update={"model": model}))
    assert "; 2 curtains, a blind, a frosted pane; " in told
    assert described(
        picture().model_copy(update={"model": ModelSpec(asset="0" * 64)})
    ) == described(picture())


def test_an_exposure_that_follows_the_picture_is_not_told_before_there_is_one() -> None:
    p = picture()
    p.exposure.automatic, p.exposure.compensation = "whole", -0.5
    assert described(p).endswith("; exposed by the meter (−0.5 EV), 5900 K.")


def test_each_source_has_a_phrase_of_its_own() -> None:
    p = picture()
    assert described_source(p.sources[0]) == "Low sun from the south-west, 18° high"
    p.sources[0].counts = False
    assert described_source(p.sources[0]) == "Sun from the south-west, off"
    assert described_source(p.sources[1]) == "Clear sky"
    places = [Place(position=(n, 0, 2)) for n in range(4)]
    of = FixtureSettings(shape="disc", lumen=1200, kelvin=2700, places=places)
    four = SourceSpec(id="d", name="Discs", settings=of, level=-1.2)
    assert described_source(four) == "4 disc fixtures, 1,200 lm each, 2700 K (−1.2 EV)"
    one = FixtureSettings(shape="disc", colour="#ff0000", places=places[:1])
    alone = SourceSpec(id="d", name="Disc", settings=one, counts=False)
    assert described_source(alone) == "Disc fixture, 1,000 lm, coloured, off"
    glow = SourceSpec(id="g", name="Embers", settings=GlowSettings(material="Embers"))
    assert described_source(glow) == "Surfaces of Embers that shine"
    moon = MoonSettings(azimuth_deg=10, elevation_deg=20, haze=2, lux=0.1)
    assert described_source(SourceSpec(id="m", name="Moon", settings=moon)) == "Moon"


def test_an_exposure_that_was_metered_is_the_one_told() -> None:
    metered = ExposureSettings(f_number=8, shutter_s=2.5, iso=100)
    assert "f/8, 2.5 s, ISO 100 (EV 4.7)" in described(picture(), metered)


def test_files_say_it_to_other_readers(tmp_path: Path) -> None:
    told = described_plainly(picture(lamp("Bäckerei", -1.0)))
    assert "Backerei (-1.0 EV)" in told
    assert "18 degrees high" in told
    assert told.isascii()
    pixels = np.full((4, 6, 3), 128, np.uint8)
    write_picture(tmp_path / "a.png", pixels, described=told)
    write_jpeg(tmp_path / "a.jpg", pixels, described=told)
    write_exr(tmp_path / "a.exr", np.ones((4, 6, 3), np.float32), {}, described=told)
    with Image.open(tmp_path / "a.png") as png, Image.open(tmp_path / "a.jpg") as jpeg:
        assert told in png.info.values()
        assert jpeg.getexif()[270] == told
    opened = oiio.ImageInput.open(str(tmp_path / "a.exr"))
    assert opened.spec().getattribute("ImageDescription") == told
    opened.close()
