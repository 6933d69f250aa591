"""Damaged, huge and cunning files, by the door the application uses."""

from __future__ import annotations

import json
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pillow_heif
import pytest
from PIL import Image
from starlette.testclient import TestClient

from westlight.core.colour.profile import screen_profile
from westlight.core.errors import ModelError, PictureFileError, WestlightError
from westlight.core.files import write_exr
from westlight.core.model import ModelCamera, ModelLight
from westlight.core.model.usd import write_usd
from westlight.engine import readers
from westlight.engine.reading import read_in_child

from ..core import test_other_models, test_other_tables, test_usd_building
from ..core.test_gltf_features import packed_glb
from ..core.test_luminaires import eulumdat, lm63
from ..core.test_meshopt import meshopt_glb
from ..core.test_models import glb
from ..core.test_tm33 import tm33
from . import FACTOR

TRIED = 60


def samples(kind: str, folder: Path) -> list[Path]:
    """Good files of a kind, in its formats."""
    if kind == "model":
        for name, write in test_other_models.WRITERS.items():
            write(folder / name)
        others = [folder / name for name in test_other_models.WRITERS]
        made = test_usd_building.stage(folder / "a.usda")
        paint = test_usd_building.material(made, "/M", diffuseColor=(0.5, 0.1, 0.1))
        test_usd_building.bind(test_usd_building.square(made, "/Wall"), paint)
        made.Save()
        others.append(folder / "a.usda")
        packed = [packed_glb(folder / "packed.glb"), meshopt_glb(folder / "views.glb")]
        return [glb(folder / "a.glb"), *packed, _obj(folder), *others]
    if kind == "lights":
        lamp = ModelLight("Lamp", "point", (0, 0, 2), (0, 0, -1), 100.0, (1, 1, 1))
        write_usd(folder / "a.usda", [lamp], [ModelCamera("Eye", (0, 0, 1), (1, 0, 1), 40.0)])
        return [folder / "a.usda"]
    if kind == "reference":
        noise = np.random.default_rng(1).integers(0, 255, (64, 64, 3)).astype(np.uint8)
        pillow_heif.register_heif_opener()
        for name in ("a.jpg", "a.png", "a.tif", "a.webp", "a.heic"):
            Image.fromarray(noise).save(folder / name, icc_profile=screen_profile("Display P3"))
        return [folder / n for n in ("a.jpg", "a.png", "a.tif", "a.webp", "a.heic")]
    if kind in ("sky", "backdrop"):
        sky = np.random.default_rng(1).random((16, 32, 3)).astype(np.float32)
        write_exr(folder / "a.exr", sky, {}, dated=False)
        out = oiio.ImageOutput.create(str(folder / "a.hdr"))
        out.open(str(folder / "a.hdr"), oiio.ImageSpec(32, 16, 3, oiio.FLOAT))
        out.write_image(sky)
        out.close()
        return [folder / "a.exr", folder / "a.hdr"]
    if kind == "table":
        lines = [f"{r / 2} {g / 2} {b / 2}" for b in range(3) for g in range(3) for r in range(3)]
        (folder / "a.cube").write_text("LUT_3D_SIZE 3\n" + "\n".join(lines))
        for name in ("curve.cube", "a.3dl", "a.spi1d", "a.csp", "a.clf"):
            test_other_tables.WRITERS[name](folder / name)
        return [
            folder / "a.cube",
            *(folder / n for n in ("curve.cube", "a.3dl", "a.spi1d", "a.csp", "a.clf")),
        ]
    (folder / "a.ies").write_bytes(lm63([0, 45, 90], [0, 90], [[900, 700, 10], [900, 600, 5]]))
    (folder / "a.ldt").write_bytes(eulumdat(4, [0, 90, 180, 270], 4))
    (folder / "a.xml").write_bytes(tm33())
    return [folder / "a.ies", folder / "a.ldt", folder / "a.xml"]


def _obj(folder: Path) -> Path:
    file = folder / "a.obj"
    file.write_text(
        "mtllib a.mtl\no quad\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nusemtl m\nf 1 2 3 4\n"
    )
    return file


@pytest.mark.parametrize("kind", list(readers.READERS))
def test_damaged_files_are_read_or_refused(kind: str, tmp_path: Path) -> None:
    """In a process with the limits of a reader: words, never an error that nobody expected."""
    files = [str(f) for f in samples(kind, tmp_path)]
    command = [sys.executable, "-m", "tests.hostile.mutate", kind, str(TRIED * FACTOR), "1", *files]
    done = subprocess.run(command, capture_output=True, text=True, timeout=3600)
    assert done.returncode == 0, f"the reader died: {done.returncode} {done.stderr[-800:]}"
    told = json.loads(done.stdout.splitlines()[-1])
    assert not told["faults"], f"{len(told['faults'])}:\n" + "\n".join(told["faults"][:3])
    assert told["refused"] > 0
    # A library that crashes, or reads for ever, ends with the reader, which is told in words: seldom, all the same.
    assert told["crashed"] <= 0.02 * TRIED * FACTOR, told
    assert told["hung"] <= 0.04 * TRIED * FACTOR, told


def exr(file: Path, width: int, height: int, channels: int) -> Path:
    """An EXR that is small on disk and large in memory."""
    spec = oiio.ImageSpec(width, height, channels, oiio.HALF)
    spec.attribute("compression", "zip")
    out = oiio.ImageOutput.create(str(file))
    assert out.open(str(file), spec)
    rows = np.zeros((64, width, channels), np.float32)
    for y in range(0, height, 64):
        assert out.write_scanlines(y, y + 64, 0, rows), out.geterror()
    out.close()
    return file


def test_pictures_that_unpack_to_too_much_are_refused_by_their_header(tmp_path: Path) -> None:
    """Before a pixel of them is read."""
    file = exr(tmp_path / "bomb.exr", 20_000, 8192, 3)
    assert file.stat().st_size < 10_000_000
    out = tmp_path / "out"
    out.mkdir()
    with pytest.raises(PictureFileError, match="larger than 16384"):
        read_in_child("sky", file, "bomb.exr", out)
    assert not list(out.iterdir())


def test_layers_that_are_not_asked_for_take_no_memory(tmp_path: Path) -> None:
    """Of 64 channels three are read: 2 GB are not touched."""
    file = exr(tmp_path / "layers.exr", 4096, 2048, 64)
    code = (
        "import sys, resource; from pathlib import Path; from westlight.core.files import read_linear\n"
        "before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss\n"
        "print(read_linear(Path(sys.argv[1])).shape, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)"
    )
    done = subprocess.run([sys.executable, "-c", code, str(file)], capture_output=True, text=True)
    assert done.stdout.startswith("(2048, 4096, 3)"), done.stderr
    assert int(done.stdout.split()[-1]) < 800_000, "kilobytes"


def test_layers_with_other_files_are_refused(tmp_path: Path) -> None:
    """A stage that pulls in a file of this machine brings nothing of it in."""
    secret = tmp_path / "secret.usda"
    write_usd(secret, [ModelLight("Secret", "point", (0, 0, 2), (0, 0, -1), 1.0, (1, 1, 1))], [])
    for n, text in enumerate((
        f'#usda 1.0\n(\n    subLayers = [@{secret}@]\n)\n',
        f'#usda 1.0\ndef Xform "a" (\n    references = @{secret}@</Westlight>\n) {{}}\n',
        f'#usda 1.0\ndef Xform "a" (\n    payload = @{secret}@</Westlight>\n) {{}}\n',
    )):  # fmt: skip
        file, out = tmp_path / f"{n}.usda", tmp_path / f"out{n}"
        file.write_text(text)
        out.mkdir()
        with pytest.raises(ModelError, match="pulls in other files"):
            read_in_child("lights", file, file.name, out)


def test_pictures_of_a_model_come_from_beside_it(tmp_path: Path) -> None:
    """A material library that names pictures elsewhere on the machine gets none of them."""
    from PIL import Image

    (tmp_path / "private").mkdir()
    Image.new("RGB", (4, 4), (255, 0, 0)).save(tmp_path / "private/p.png")
    here = tmp_path / "here"
    here.mkdir()
    (here / "a.mtl").write_text(
        f"newmtl m\nmap_Kd {tmp_path}/private/p.png\nmap_Kd ../private/p.png\n"
    )
    file = here / "a.obj"
    file.write_text(
        "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nusemtl m\nf 1/1 2/2 3/3\n"
    )
    import zipfile

    with zipfile.ZipFile(tmp_path / "m.zip", "w") as packed:
        packed.write(file, "a.obj")
        packed.write(here / "a.mtl", "a.mtl")
    out = tmp_path / "out"
    out.mkdir()
    read_in_child("model", tmp_path / "m.zip", "m.zip", out)
    assert b"\x89PNG" not in (out / "model.glb").read_bytes()


def test_a_reader_that_takes_too_long_is_ended(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """With words, and nothing is left running."""
    slow = readers.READERS["table"]._replace(seconds=0.0)
    monkeypatch.setitem(readers.READERS, "table", slow)
    with pytest.raises(WestlightError, match="took longer than 0 s"):
        read_in_child("table", samples("table", tmp_path)[0], "a.cube", tmp_path)
    begun = time.monotonic()
    while (
        "westlight.engine.reading table"
        in subprocess.run(["ps", "-eo", "args"], capture_output=True, text=True).stdout
    ):
        assert time.monotonic() - begun < 60


@pytest.mark.parametrize(
    ("path", "size"), [("/api/photometry", 9_100_000), ("/api/projects", 1_100_000), ("/api/tables", 81_100_000)]
)  # fmt: skip
def test_bodies_are_counted_as_they_come(client: TestClient, path: str, size: int) -> None:
    """A length that is told, and one that is not; nothing of it is kept."""
    block = b" " * 100_000

    def parts():  # type: ignore[no-untyped-def]
        for _ in range(size // len(block) + 1):
            yield block

    kind = {
        "content-type": "multipart/form-data; boundary=x"
        if "projects" not in path
        else "application/json"
    }
    for content in (block * (size // len(block) + 1), parts()):
        answer = client.post(path, content=content, headers=kind)
        assert answer.status_code == 413, answer.text
        assert "larger than" in answer.json()["detail"]


@pytest.mark.parametrize("name", ["..", ".", "a/b\\..\\c.ies", "\x00.ies", "x" * 3000 + ".ies", ""])
def test_names_of_uploads_are_names(client: TestClient, name: str) -> None:
    content = lm63([0, 45, 90], [0], [[900, 700, 10]])
    answer = client.post("/api/photometry", files={"file": (name, content)})
    assert answer.status_code in (200, 400, 422), answer.text
    assert len(answer.text) < 20_000
