"""The shelf of photometric files, fixtures made from it, and rows kept for a dragging hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.core.errors import PhotometricError
from westlight.core.luminaires import IntensityDistribution
from westlight.core.luminaires.distribution import narrowed
from westlight.engine.spec import SourceSpec
from westlight.engine.translate import gain_of, source_of
from westlight.studio.errors import BadEdit, NotFound
from westlight.studio.studio import Studio

from ..core.test_luminaires import eulumdat, lm63


def test_files_come_to_the_shelf(studio: Studio) -> None:
    """Both formats, described with flux, angles, cone and curve; the same file only once."""
    v = [0.0, 30.0, 60.0, 90.0]
    card = studio.shelves.photometry.put(lm63(v, [0], [[900, 700, 100, 0]]), "down.ies")
    again = studio.shelves.photometry.put(lm63(v, [0], [[900, 700, 100, 0]]), "down.ies")
    planes = [float(c) for c in range(0, 360, 30)]
    studio.shelves.photometry.put(eulumdat(4, planes, 4), "wing.ldt")
    assert again["asset"] == card["asset"]
    shelf = studio.shelves.photometry.cards()
    assert len({c["asset"] for c in shelf}) == len(shelf)
    assert {"Test", "Batwing"} <= {c["name"] for c in shelf}
    assert card["cone"][1] == {
        "distance_m": 2.0,
        "lux": 225.0,
        "diameter_m": card["cone"][1]["diameter_m"],
    }
    assert max(card["curve"]["0"]) == 1.0
    assert card["efficacy"] == pytest.approx(card["flux_lm"] / 30, abs=0.1)


def test_other_lamps_of_a_file_stand_on_the_shelf(studio: Studio) -> None:
    """A luminaire that is sold with two sets of lamps is two files, each with its own light and watts."""
    lines = eulumdat(4, [float(c) for c in range(0, 360, 30)], 4).decode("latin-1").splitlines()
    at = lines.index("LED") - 1
    other = ["2", "HALOGEN", "800", *lines[at + 3 : at + 5], "60"]
    two = [*lines[: at - 1], "2", *lines[at : at + 6], *other, *lines[at + 6 :]]
    card = studio.shelves.photometry.put("\n".join(two).encode("latin-1"), "two.ldt")
    assert any("stands on the shelf" in r for r in card["remarks"])
    (halogen,) = [c for c in studio.shelves.photometry.cards() if "HALOGEN" in c["name"]]
    assert halogen["name"] == f"{card['name']} · HALOGEN, 800 lm, 60 W"
    assert halogen["flux_lm"] == pytest.approx(card["flux_lm"] * 0.4, rel=1e-3)
    assert (halogen["watts"], card["watts"]) == (60, 20)


def test_a_bad_file_is_refused_and_the_shelf_stays(studio: Studio) -> None:
    """The reader's sentence comes through; nothing is kept."""
    before = studio.shelves.photometry.cards()
    with pytest.raises(PhotometricError, match="ends too early"):
        studio.shelves.photometry.put(lm63([0, 90], [0], [[5, 5]])[:-8], "cut.ies")
    assert studio.shelves.photometry.cards() == before


def test_photometric_fixture_takes_flux_and_name(studio: Studio) -> None:
    """Placed from the shelf it has the file's lumen, and the core gets its distribution."""
    card = studio.shelves.photometry.put(lm63([0, 45, 90], [0], [[900, 700, 0]]), "down.ies")
    pid = studio.projects.create("House")
    with pytest.raises(BadEdit, match="shelf"):
        studio.fixtures.place(pid, "photometric", (0, 0, 3), (0, 0, -1))
    row = studio.fixtures.place(pid, "photometric", (0, 0, 3), (0, 0, -1), card["asset"])
    source = next(s for s in studio.projects.overview(pid)["sources"] if s["id"] == row)
    assert source["settings"]["lumen"] == card["flux_lm"]
    spec = SourceSpec(id="a", name="a", settings=source["settings"])
    made = source_of(spec, 0.0, [])
    assert made.emitters[0].distribution.flux_lm == pytest.approx(card["flux_lm"], rel=1e-3)
    assert gain_of(spec, made).max() > 0


@pytest.mark.parametrize("shape", ["tube", "spot", "disc"])
def test_every_shape_can_be_placed(studio: Studio, shape: str) -> None:
    """Each gets a name of its own, stands off the surface, and becomes a source with light."""
    pid = studio.projects.create("House")
    row = studio.fixtures.place(pid, shape, (1, 1, 3), (0, 0, -1))
    source = studio.projects.overview(pid)["sources"][0]
    assert source["id"] == row
    assert source["settings"]["places"][0]["position"][2] < 3
    spec = SourceSpec(id="a", name="a", settings=source["settings"])
    assert gain_of(spec, source_of(spec, 0.0, [])).max() > 0


def test_kept_rows_never_go_stale(studio: Studio) -> None:
    """After any edit the next picture is made from what was saved, not from what was kept."""
    pid = studio.projects.create("House")
    first = studio.projects.overview(pid)
    look, view = first["looks"][0]["id"], first["views"][0]["id"]
    assert studio.scenes.picture(pid, look, view).exposure.iso == 200
    studio.history.change(pid, "look", look, {"settings": {"exposure": {"iso": 800}}})
    assert studio.scenes.picture(pid, look, view).exposure.iso == 800
    held = {"look": {"exposure": {"iso": 50}}}
    assert studio.scenes.picture(pid, look, view, held).exposure.iso == 50
    assert studio.scenes.picture(pid, look, view).exposure.iso == 800
    studio.history.undo(pid)
    assert studio.scenes.picture(pid, look, view).exposure.iso == 200


def test_an_edited_copy_keeps_its_shape_and_changes_its_light(studio: Studio) -> None:
    """Half the light, turned a quarter; made even it has no planes; the original stays."""
    v, h = [0, 45, 90], [0, 90, 180, 270, 360]
    table = [[1000, 900, 0], [1000, 100, 0], [1000, 500, 0], [1000, 100, 0], [1000, 900, 0]]
    card = studio.shelves.photometry.put(lm63(v, h, table), "lop-sided.ies")
    half = studio.shelves.photometry.copy(
        card["asset"], "Half", scale=0.5, turn_deg=90, symmetrise=False
    )
    assert half["name"] == "Half"
    assert half["flux_lm"] == pytest.approx(card["flux_lm"] / 2, rel=1e-3)
    at = 45 / half["step_deg"]
    assert half["curve"]["90"][int(at)] == pytest.approx(card["curve"]["0"][int(at)], abs=1e-3)
    even = studio.shelves.photometry.copy(
        card["asset"], "Even", scale=1.0, turn_deg=0, symmetrise=True
    )
    assert even["curve"]["0"] == even["curve"]["90"]
    assert even["flux_lm"] == pytest.approx(card["flux_lm"], rel=0.02)
    assert {c["name"] for c in studio.shelves.photometry.cards()} >= {card["name"], "Half", "Even"}
    with pytest.raises(BadEdit, match="name"):
        studio.shelves.photometry.copy(card["asset"], " ", scale=1.0, turn_deg=0, symmetrise=False)
    with pytest.raises(NotFound):
        studio.shelves.photometry.copy("0" * 64, "x", scale=1.0, turn_deg=0, symmetrise=False)


def test_a_lit_wall_shows_where_the_light_goes(studio: Studio) -> None:
    """A narrow lamp lights a strip below it, a wide one the wall's sides as well; made once."""
    spot = studio.shelves.photometry.put(
        lm63([0, 10, 20, 90], [0], [[5000, 4000, 0, 0]]), "spot.ies"
    )
    wide = studio.shelves.photometry.put(lm63([0, 60, 90], [0], [[300, 300, 250]]), "wide.ies")

    def wall(card: dict[str, Any]) -> np.ndarray:
        with Image.open(studio.shelves.photometry.wall(card["asset"])) as picture:
            return np.asarray(picture.convert("L"), float)

    narrow, even = wall(spot), wall(wide)
    assert narrow.shape == even.shape == (120, 96)
    assert narrow.max() > 200
    middle, side = slice(40, 56), slice(0, 12)
    assert narrow[60:110, middle].mean() > 4 * narrow[60:110, side].mean()
    assert even[60:110, middle].mean() < 3 * even[60:110, side].mean()
    before = studio.shelves.photometry.wall(spot["asset"]).stat().st_mtime_ns
    assert studio.shelves.photometry.wall(spot["asset"]).stat().st_mtime_ns == before


@pytest.mark.parametrize(
    ("vertical", "horizontal", "table", "words"),
    [
        ([0, 10, 20, 90], [0], [[900, 600, 0, 0]], ["narrow"]),
        ([0, 20, 45, 70, 90], [0], [[300, 500, 900, 300, 0]], ["batwing"]),
        ([90, 120, 180], [0], [[0, 400, 900]], ["up"]),
        ([0, 45, 90, 135, 180], [0], [[400, 300, 0, 300, 400]], ["up and down"]),
        ([0, 45, 90], [0, 90, 180, 270, 360],
         [[800, 900, 0], [800, 300, 0], [800, 50, 0], [800, 300, 0], [800, 900, 0]], ["asymmetric"]),
    ],
)  # fmt: skip
def test_what_kind_of_light_it_is(
    vertical: list[float], horizontal: list[float], table: list[list[float]], words: list[str]
) -> None:
    d = IntensityDistribution(
        np.array(vertical, float), np.array(horizontal, float), np.array(table, float)
    )
    assert set(words) <= set(d.character)
    assert ("asymmetric" in d.character) == (words == ["asymmetric"])


def test_flux_codes_of_known_shapes() -> None:
    """A Lambert face sends sin² of the angle within it; an even sphere half of its light up."""
    assert np.round(narrowed(0.0).flux_codes, 2).tolist() == [0.44, 0.75, 0.94, 1.0]
    v = np.linspace(0, 180, 181)
    sphere = IntensityDistribution(v, np.zeros(1), np.full((1, 181), 100.0))
    assert np.round(sphere.flux_codes, 2).tolist() == [0.25, 0.5, 0.75, 0.5]
