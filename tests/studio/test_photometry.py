"""The shelf of photometric files, fixtures made from it, and rows kept for a dragging hand."""

from __future__ import annotations

import pytest

from westlight.core.errors import PhotometricError
from westlight.engine.spec import SourceSpec
from westlight.engine.translate import gain_of, source_of
from westlight.studio.errors import BadEdit
from westlight.studio.studio import Studio

from ..core.test_luminaires import eulumdat, lm63


def test_files_come_to_the_shelf(studio: Studio) -> None:
    """Both formats, described with flux, angles, cone and curve; the same file only once."""
    v = [0.0, 30.0, 60.0, 90.0]
    card = studio.add_photometry(lm63(v, [0], [[900, 700, 100, 0]]), "down.ies")
    again = studio.add_photometry(lm63(v, [0], [[900, 700, 100, 0]]), "down.ies")
    planes = [float(c) for c in range(0, 360, 30)]
    studio.add_photometry(eulumdat(4, planes, 4), "wing.ldt")
    assert again["asset"] == card["asset"]
    shelf = studio.photometry()
    assert len({c["asset"] for c in shelf}) == len(shelf)
    assert {"Test", "Batwing"} <= {c["name"] for c in shelf}
    assert card["cone"][1] == {
        "distance_m": 2.0,
        "lux": 225.0,
        "diameter_m": card["cone"][1]["diameter_m"],
    }
    assert max(card["curve"]["0"]) == 1.0
    assert card["efficacy"] == pytest.approx(card["flux_lm"] / 30, abs=0.1)


def test_a_bad_file_is_refused_and_the_shelf_stays(studio: Studio) -> None:
    """The reader's sentence comes through; nothing is kept."""
    before = studio.photometry()
    with pytest.raises(PhotometricError, match="ends too early"):
        studio.add_photometry(lm63([0, 90], [0], [[5, 5]])[:-8], "cut.ies")
    assert studio.photometry() == before


def test_photometric_fixture_takes_flux_and_name(studio: Studio) -> None:
    """Placed from the shelf it has the file's lumen, and the core gets its distribution."""
    card = studio.add_photometry(lm63([0, 45, 90], [0], [[900, 700, 0]]), "down.ies")
    pid = studio.create_project("House")
    with pytest.raises(BadEdit, match="shelf"):
        studio.place_fixture(pid, "photometric", (0, 0, 3), (0, 0, -1))
    row = studio.place_fixture(pid, "photometric", (0, 0, 3), (0, 0, -1), card["asset"])
    source = next(s for s in studio.overview(pid)["sources"] if s["id"] == row)
    assert source["settings"]["lumen"] == card["flux_lm"]
    path = studio.assets.path(card["asset"], ".ies")
    spec = SourceSpec(
        id="a", name="a", settings={**source["settings"], "photometry_path": str(path)}
    )
    made = source_of(spec, 0.0, [])
    assert made.emitters[0].distribution.flux_lm == pytest.approx(card["flux_lm"], rel=1e-3)
    assert gain_of(spec, made).max() > 0


@pytest.mark.parametrize("shape", ["tube", "spot", "disc"])
def test_every_shape_can_be_placed(studio: Studio, shape: str) -> None:
    """Each gets a name of its own, stands off the surface, and becomes a source with light."""
    pid = studio.create_project("House")
    row = studio.place_fixture(pid, shape, (1, 1, 3), (0, 0, -1))
    source = studio.overview(pid)["sources"][0]
    assert source["id"] == row
    assert source["settings"]["places"][0]["position"][2] < 3
    spec = SourceSpec(id="a", name="a", settings=source["settings"])
    assert gain_of(spec, source_of(spec, 0.0, [])).max() > 0


def test_kept_rows_never_go_stale(studio: Studio) -> None:
    """After any edit the next picture is made from what was saved, not from what was kept."""
    pid = studio.create_project("House")
    first = studio.overview(pid)
    look, view = first["looks"][0]["id"], first["views"][0]["id"]
    assert studio.picture(pid, look, view).exposure.iso == 200
    studio.change(pid, "look", look, {"settings": {"exposure": {"iso": 800}}})
    assert studio.picture(pid, look, view).exposure.iso == 800
    held = {"look": {"exposure": {"iso": 50}}}
    assert studio.picture(pid, look, view, held).exposure.iso == 50
    assert studio.picture(pid, look, view).exposure.iso == 800
    studio.undo(pid)
    assert studio.picture(pid, look, view).exposure.iso == 200
