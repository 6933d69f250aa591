"""IFC models, written for the test through the library that reads them."""

from __future__ import annotations

import zipfile
from pathlib import Path

import ifcopenshell
import ifcopenshell.api.aggregate
import ifcopenshell.api.context
import ifcopenshell.api.geometry
import ifcopenshell.api.project
import ifcopenshell.api.root
import ifcopenshell.api.spatial
import ifcopenshell.api.style
import ifcopenshell.api.unit
import numpy as np
import pytest

from westlight import core
from westlight.core.errors import ModelError
from westlight.engine import readers
from westlight.studio.studio import Studio

api = ifcopenshell.api


@pytest.fixture
def house(tmp_path: Path) -> Path:
    """A storey with a wall 4 m long, turned and moved, and a pane; lengths in millimetres."""
    file = api.project.create_file()
    project = api.root.create_entity(file, ifc_class="IfcProject", name="Boat house")
    api.unit.assign_unit(file)
    model = api.context.add_context(file, context_type="Model")
    body = api.context.add_context(file, context_type="Model", context_identifier="Body",
                                   target_view="MODEL_VIEW", parent=model)  # fmt: skip
    storey = api.root.create_entity(file, ifc_class="IfcBuildingStorey", name="Ground floor")
    api.aggregate.assign_object(file, products=[storey], relating_object=project)
    for name, kind, length, height, thick, colour, clear in (
        ("South wall", "IfcWall", 4.0, 3.0, 0.3, (0.8, 0.2, 0.1), 0.0),
        ("Pane", "IfcWindow", 1.5, 1.2, 0.02, (0.7, 0.9, 0.8), 0.7),
    ):
        product = api.root.create_entity(file, ifc_class=kind, name=name)
        shape = api.geometry.add_wall_representation(
            file, context=body, length=length, height=height, thickness=thick
        )
        api.geometry.assign_representation(file, product=product, representation=shape)
        api.spatial.assign_container(file, products=[product], relating_structure=storey)
        look = api.style.add_style(file, name=f"{name} finish")
        red, green, blue = colour
        api.style.add_surface_style(
            file, style=look, ifc_class="IfcSurfaceStyleShading",
            attributes={"SurfaceColour": {"Name": None, "Red": red, "Green": green, "Blue": blue},
                        "Transparency": clear},
        )  # fmt: skip
        api.style.assign_representation_styles(file, shape_representation=shape, styles=[look])
        if kind == "IfcWall":
            turned = np.array([[0, -1, 0, 10], [1, 0, 0, 2], [0, 0, 1, 0.5], [0, 0, 0, 1.0]])
            api.geometry.edit_object_placement(file, product=product, matrix=turned)
    target = tmp_path / "house.ifc"
    file.write(str(target))
    return target


def test_a_storey_comes_in_at_its_size_and_place(house: Path) -> None:
    """Millimetres become metres, placements are kept, styles are materials, a clear one is glass."""
    model = core.read_model(house)
    parts = {p.name: p for p in model.parts}
    assert set(parts) == {"South wall", "Pane"}
    assert parts["South wall"].path == ("Ground floor", "South wall")
    low, high = (np.asarray(v) for v in core.model.parts.part_bounds(parts["South wall"]))
    assert high - low == pytest.approx([0.3, 4.0, 3.0], abs=1e-3)
    assert low == pytest.approx([9.7, 2.0, 0.5], abs=1e-3)
    paint, glass = (parts[n].mesh.materials[0] for n in ("South wall", "Pane"))
    assert paint.name == "South wall finish"
    assert paint.rgb[0] > 3 * paint.rgb[1]
    assert (paint.is_pane, glass.is_pane) == (False, True)


def test_a_damaged_file_is_refused_in_words(tmp_path: Path) -> None:
    broken = tmp_path / "broken.ifc"
    broken.write_text("ISO-10303-21;\nHEADER;\nnothing else")
    with pytest.raises(ModelError, match=r"ends too early"):
        core.read_model(broken)


def test_drawn_glass_hardly_dyes_a_room(house: Path) -> None:
    """Through both faces of a pane drawn in strong green a tenth of the hue is left, and most of the light."""
    text = house.read_text().replace("IFCCOLOURRGB($,0.7,0.9,0.8)", "IFCCOLOURRGB($,0.1,0.9,0.2)")
    green = house.with_name("green.ifc")
    green.write_text(text)
    pane = next(p for p in core.read_model(green).parts if p.name == "Pane").mesh.materials[0]
    through = np.asarray(pane.rgb) ** 2
    assert through.min() / through.max() == pytest.approx(0.92, abs=0.03)
    assert through.max() > 0.8


@pytest.mark.parametrize("left", [0.5, 0.98])
def test_half_a_file_is_refused(house: Path, left: float) -> None:
    content = house.read_bytes()
    house.write_bytes(content[: int(left * len(content))])
    with pytest.raises(ModelError, match="ends too early"):
        core.read_model(house)


def test_a_packed_file_is_read(house: Path, tmp_path: Path) -> None:
    packed = tmp_path / "house.ifczip"
    with zipfile.ZipFile(packed, "w") as made:
        made.write(house, "house.ifc")
    out = tmp_path / "out"
    out.mkdir()
    assert readers.model(packed, "House.IFCZIP", out)["parts"] == 2


def test_it_is_imported_like_any_building(studio: Studio, house: Path) -> None:
    """Through the reading process, as one asset; parts can be found by name."""
    project = studio.projects.create("Boat house")
    report = studio.buildings.bring(project, house, "house.ifc")
    assert report["parts"] == 2
    assert {p["name"] for p in studio.buildings.parts(project)["parts"]} == {"South wall", "Pane"}
