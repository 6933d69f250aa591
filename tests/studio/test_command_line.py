"""Stills from the command line: found by name, made again by their recipe, shown on a page."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from rich.console import Console

from westlight.cli.postgres import GroundError
from westlight.cli.rendering import gallery_page, recipe_in, spec_of, still
from westlight.core.files import read_layers
from westlight.store import Store
from westlight.studio.demo import GALLERY, NAME, looks, views
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


def test_the_gallery_shows_what_the_demo_has() -> None:
    """Every view and look of the gallery exists, and so does every picture on its page."""
    ids: dict[str, str] = {}
    assert {view for view, _ in GALLERY} <= {name for name, _ in views()}
    assert {look for _, look in GALLERY} <= {name for name, _ in looks(ids)}
    page = gallery_page(NAME, GALLERY)
    assert (DOCS / "gallery.md").read_text() == page
    for line in page.splitlines():
        if line.startswith("!["):
            assert (DOCS / line.split("(")[1].rstrip(")")).is_file()
