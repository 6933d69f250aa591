"""A whole project: copied, carried to another machine as one file, removed and brought back; a stranger's file is refused."""

from __future__ import annotations

import json
import re
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from westlight.cli.postgres import Cluster
from westlight.core.errors import WestlightError
from westlight.core.files import write_exr
from westlight.engine import project_file
from westlight.engine.project_file import FORMAT, ProjectFileError
from westlight.engine.readers import READERS
from westlight.store import Model, Store
from westlight.studio import whole
from westlight.studio.errors import NotFound
from westlight.studio.studio import Studio

from ..conftest import own_database
from ..core.test_luminaires import lm63
from ..core.test_models import glb
from .test_proofs import picture


@pytest.fixture(scope="module")
def other_store(cluster: Cluster) -> Iterator[Store]:
    """The database of another machine."""
    made = Store(own_database(cluster.url, "elsewhere"))
    yield made
    made.close()


@pytest.fixture(scope="module")
def studio(store: Store, tmp_path_factory: pytest.TempPathFactory) -> Studio:
    """A studio with a folder of its own."""
    return Studio(store, tmp_path_factory.mktemp("here"))


@pytest.fixture(scope="module")
def elsewhere(other_store: Store, tmp_path_factory: pytest.TempPathFactory) -> Studio:
    """Another machine: neither rows nor files of the first."""
    return Studio(other_store, tmp_path_factory.mktemp("there"))


@pytest.fixture(scope="module")
def first(studio: Studio, tmp_path_factory: pytest.TempPathFactory) -> str:
    """A project that uses every kind of file there is."""
    tmp_path = tmp_path_factory.mktemp("files")
    pid = studio.projects.create("House", latitude_deg=51.0, time_zone="Etc/GMT-1")
    studio.buildings.bring(pid, glb(tmp_path / "h.glb"), "h.glb")
    rng = np.random.default_rng(5)
    write_exr(tmp_path / "sky.exr", rng.random((32, 64, 3), np.float32) * 900 + 20, {})
    sky = studio.shelves.skies.add(tmp_path / "sky.exr", "Quay sky.exr")["asset"]
    Image.new("RGB", (48, 32), (40, 90, 160)).save(tmp_path / "hills.png")
    backdrop = studio.shelves.backdrops.add(tmp_path / "hills.png", "Hills.png")["id"]
    reference = studio.shelves.references.add(tmp_path / "hills.png", "Hills at dusk.png")["id"]
    spot = studio.shelves.photometry.put(
        lm63([0, 30, 60, 90], [0], [[900, 700, 100, 0]]), "spot.ies"
    )["asset"]
    rows = "\n".join(
        f"{b / 2} {g / 2} {r / 2}" for r in range(3) for g in range(3) for b in range(3)
    )
    table = studio.shelves.tables.put(f"LUT_3D_SIZE 3\n{rows}\n".encode(), "film.cube")["id"]
    lamp = studio.fixtures.place(pid, "photometric", (0, 0, 2), (0, 0, -1), photometry=spot)
    look = studio.projects.overview(pid)["looks"][0]["id"]
    studio.history.change(pid, "look", look, {"settings": {
        "mix": {lamp: {"level": -1.5}}, "sky": {"model": "hdri", "hdri": {"asset": sky}},
        "finish": {"grade": {"table": table}, "backdrop": {"asset": backdrop}},
        "reference": reference}})  # fmt: skip
    studio.history.add(pid, "scene", "Dinner", {"levels": {lamp: {"level": -2.0}}})
    studio.looks.keep_version(pid, look, "Before lunch")
    view = studio.projects.overview(pid)["views"][0]["id"]
    studio.proofs.keep(pid, look, view, picture())
    studio.last_pictures.keep(pid, look, view, picture()["jpeg"])
    return pid


@pytest.fixture
def project(studio: Studio, first: str) -> Iterator[str]:
    """It, as it was made at the beginning of each test."""
    steps = len(studio.history.steps(first))
    yield first
    for _ in range(len(studio.history.steps(first)) - steps):
        studio.history.undo(first)


def plain(studio: Studio, project: str) -> Any:
    """What an artist has in a project, without ids of rows."""
    seen = studio.projects.overview(project)
    for key in ("id", "undo", "redo", "undo_by", "redo_by", "stills"):
        seen.pop(key)
    ids = [
        r["id"]
        for kind in ("models", "views", "looks", "sources", "scenes")
        for r in seen[f"{kind}"]
    ]
    text = json.dumps(seen)
    for n, i in enumerate(ids):
        text = text.replace(i, f"row {n}")
    for version in re.findall(r'"versions": \[\{"id": "([0-9a-f]{32})"', text):
        text = text.replace(version, "version")
    text = re.sub(r'"(created_at|at)": "[^"]*"', "", text)
    return text


def exported(studio: Studio, project: str, folder: Path) -> Path:
    file = folder / "House.westlight.zip"
    assert studio.projects.export(project, file) == "House"
    return file


def test_it_opens_on_another_machine_as_it_was(
    studio: Studio, elsewhere: Studio, project: str, tmp_path: Path
) -> None:
    """Rows, shelves and proofs are equal, every file is read by its reader again, and the spec of the picture is the same."""
    file = exported(studio, project, tmp_path)
    made = elsewhere.projects.bring(file, file.name)
    assert made != project
    assert plain(elsewhere, made) == plain(studio, project)
    assert [s["name"] for s in elsewhere.shelves.skies.cards()] == ["Quay sky"]
    assert [b["name"] for b in elsewhere.shelves.backdrops.cards()] == ["Hills"]
    assert [r["name"] for r in elsewhere.shelves.references.cards()] == ["Hills at dusk"]
    (proof,) = elsewhere.proofs.all(made)
    with Image.open(elsewhere.shelves.any_file(proof["shown"])[0]) as shown:
        assert shown.size == (64, 36)
    rows = {s.store: s.projects.overview(p) for s, p in ((studio, project), (elsewhere, made))}
    specs = []
    for s, p in ((studio, project), (elsewhere, made)):
        seen = rows[s.store]
        spec = s.scenes.picture(p, seen["looks"][0]["id"], seen["views"][0]["id"], {}, 640)
        for source in spec.sources:
            source.id = source.name
        specs.append(spec)
    assert specs[0] == specs[1]
    # A proof leads back to rows of this project, not to those of the first.
    assert (
        elsewhere.proofs.restore(made, proof["id"])["look"]
        == rows[elsewhere.store]["looks"][0]["id"]
    )
    look, view = (rows[elsewhere.store][k][0]["id"] for k in ("looks", "views"))
    assert elsewhere.last_pictures.find(made, look, view).is_file()


def test_a_copy_is_its_own(studio: Studio, project: str) -> None:
    """Same light, other rows: an edit of one leaves the other alone."""
    copy = studio.projects.duplicate(project)
    seen, mine = studio.projects.overview(copy), studio.projects.overview(project)
    assert seen["name"] == "House copy"
    lamp, own = (next(s["id"] for s in p["sources"] if s["settings"].get("photometry"))
                 for p in (seen, mine))  # fmt: skip
    assert lamp != own
    assert seen["looks"][0]["settings"]["mix"] == {
        lamp: {"level": -1.5, "muted": False, "solo": False}
    }
    studio.history.change(copy, "look", seen["looks"][0]["id"], {"settings": {"minutes": 60.0}})
    assert studio.projects.overview(project)["looks"] == mine["looks"]
    assert studio.history.undo(copy) is not None


def test_removed_it_can_come_back_until_its_space_is_freed(studio: Studio, project: str) -> None:
    before = studio.projects.overview(project)
    studio.projects.put_aside(project)
    assert project not in {p["id"] for p in studio.projects.all()}
    with pytest.raises(NotFound):
        studio.projects.overview(project)
    studio.projects.put_back(project)
    assert studio.projects.overview(project) == before
    copy = studio.projects.duplicate(project)
    studio.projects.put_aside(copy)
    studio.projects.sweep()
    with studio.store.session() as session:
        assert not session.query(Model).where(Model.project_id == copy).count()
    with pytest.raises(NotFound, match="freed"):
        studio.projects.put_back(copy)
    assert studio.projects.overview(project) == before


def test_what_the_first_page_shows(studio: Studio, project: str) -> None:
    card = next(p for p in studio.projects.all() if p["id"] == project)
    seen = studio.projects.overview(project)
    assert card["looks"] == ["Day"]
    assert card["picture"] == (seen["looks"][0]["id"], seen["views"][0]["id"])
    studio.history.change(project, "project", project, {"name": "Barn"})
    after = next(p for p in studio.projects.all() if p["id"] == project)
    assert after["name"] == "Barn"
    assert after["changed_at"] > card["changed_at"]


def _again(file: Path, change: Callable[[dict[str, bytes]], None]) -> Path:
    """A project file with something changed in it."""
    with zipfile.ZipFile(file) as opened:
        held = {n: opened.read(n) for n in opened.namelist()}
    change(held)
    out = file.with_name("changed.zip")
    with zipfile.ZipFile(out, "w") as made:
        for name, content in held.items():
            made.writestr(name, content)
    return out


def _data(change: Callable[[Any], None]) -> Callable[[dict[str, bytes]], None]:
    def apply(held: dict[str, bytes]) -> None:
        data = json.loads(held["project.json"])
        change(data)
        held["project.json"] = json.dumps(data).encode()

    return apply


def _asset(held: dict[str, bytes], suffix: str) -> str:
    return next(n for n in held if n.endswith(suffix) and n.startswith("assets/"))


CHANGES: dict[str, tuple[Callable[[dict[str, bytes]], None], str]] = {
    "newer": (_data(lambda d: d.update(westlight_project=FORMAT + 1)), "newer version"),
    "no number": (_data(lambda d: d.update(westlight_project="1")), "not a project file"),
    "no data": (lambda held: held.pop("project.json") and None, "not a project file"),
    "a way out": (lambda held: held.update({"../out.txt": b"x"}), "not a project file"),
    "another content": (lambda held: held.update({_asset(held, ".glb"): b"glTF"}), "not a project file"),
    "a file missing": (_data(lambda d: d["files"][0].update(id="0" * 64)), "lacks"),
    "an odd setting": (_data(lambda d: d["looks"][0]["settings"].update(minutes=-5)), "minutes"),
    "an odd place": (_data(lambda d: d["project"].update(latitude_deg=1e9)), "latitude"),
    "an odd zone": (_data(lambda d: d["project"].update(time_zone="Mars/Base")), "zone"),
    "two buildings' worth": (_data(lambda d: d.update(models=d["models"] * 9)), "models"),
    "an odd id": (_data(lambda d: d["views"][0].update(id="../x")), "views"),
    "NUL in a name": (_data(lambda d: d["project"].update(name="a\x00b")), "signs"),
}  # fmt: skip


@pytest.mark.parametrize("what", sorted(CHANGES))
def test_a_strangers_file_is_refused_in_words(
    studio: Studio, elsewhere: Studio, project: str, tmp_path: Path, what: str,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    """Nothing of it stays: neither rows nor a file outside the store."""
    # The child with its limits is another test's matter: each would take seconds to start.
    monkeypatch.setattr(whole, "read_in_child", lambda kind, *of: READERS[kind].read(*of))
    change, words = CHANGES[what]
    file = _again(exported(studio, project, tmp_path), change)
    known = elsewhere.projects.all()
    with pytest.raises(WestlightError, match=words):
        elsewhere.projects.bring(file, "their project.zip")
    assert elsewhere.projects.all() == known
    assert not list(tmp_path.rglob("out.txt"))


def test_anything_else_is_no_project(tmp_path: Path) -> None:
    file = tmp_path / "x.zip"
    for content in (b"", b"PK\x03\x04 nonsense", b"\x00" * 5000):
        file.write_bytes(content)
        with pytest.raises(ProjectFileError, match="not a project file"):
            project_file.read(file, "x.zip", tmp_path)
