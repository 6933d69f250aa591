"""Stills from the command line: found by name, made again by their recipe, shown on a page."""

from __future__ import annotations

from pathlib import Path
from types import ModuleType

import numpy as np
import pytest
from rich.console import Console

from westlight.cli.postgres import GroundError
from westlight.cli.rendering import Shot, gallery_page, recipe_in, spec_of, still
from westlight.core.files import read_layers
from westlight.store import Store
from westlight.studio import demo, lantern_row
from westlight.studio.studio import Studio

from ..core.test_models import glb

DOCS = Path(__file__).parents[2] / "docs"


def test_a_recipe_makes_the_same_still_again(store: Store, tmp_path: Path) -> None:
    """The EXR of a still renders to the same light, bit for bit, without the project."""
    studio = Studio(store, tmp_path / "data")
    made = studio.projects.create("Again")
    studio.buildings.bring(made, glb(tmp_path / "scene.glb"), "scene.glb")
    spec = spec_of(studio, "Again", "", "", 48).model_copy(update={"denoise": False})
    quiet = Console(quiet=True)
    first, _ = still(spec, tmp_path / "a.exr", 1e-6, 0.01, ["exr", "png"], quiet)
    assert recipe_in(Path(first)) == spec
    again, _ = still(recipe_in(Path(first)), tmp_path / "b.exr", 1e-6, 0.01, ["exr", "png"], quiet)
    one, two = read_layers(Path(first)), read_layers(Path(again))
    assert one.keys() == two.keys()
    assert one[""].max() > 0
    np.testing.assert_array_equal(one[""], two[""])
    text = tmp_path / "recipe.json"
    text.write_text(spec.model_dump_json())
    assert recipe_in(text) == spec


def test_wrong_names_and_files_are_answered_in_words(store: Store, tmp_path: Path) -> None:
    """What there is instead is named."""
    studio = Studio(store, tmp_path / "data")
    studio.projects.create("Here")
    with pytest.raises(GroundError, match=r"there are: .*Here"):
        spec_of(studio, "No such project here", "", "", 64)
    with pytest.raises(GroundError, match=r"Looks: Day\. Views: View 1"):
        spec_of(studio, "Here", "Dusk", "", 64)
    with pytest.raises(GroundError, match="no file"):
        recipe_in(tmp_path / "none.exr")
    wrong = tmp_path / "wrong.json"
    wrong.write_text("[1, 2]")
    with pytest.raises(GroundError, match="holds no recipe"):
        recipe_in(wrong)


@pytest.mark.parametrize("of", [demo, lantern_row])
def test_the_gallery_shows_what_the_examples_have(of: ModuleType) -> None:
    """Every view and look of the gallery exists, and its page shows a picture of each, small enough for a page."""
    assert {view for view, _ in of.GALLERY} <= {name for name, _ in of.views()}
    assert {look for _, look in of.GALLERY} <= {name for name, _ in of.looks({})}
    page = (DOCS / "gallery.md").read_text()
    for view, look in of.GALLERY:
        shot = Shot(of.NAME, view, look, "", "")
        assert f"(gallery/{shot.stem}.jpg)" in page
        assert (DOCS / f"gallery/{shot.stem}.jpg").stat().st_size <= 450_000
    shots = [Shot(of.NAME, view, look, "Meant", "Lit") for view, look in of.GALLERY]
    assert gallery_page(shots).count(f'./westlight render "{of.NAME}"') == len(shots)
