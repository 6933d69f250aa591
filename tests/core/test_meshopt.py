"""Packed buffers of glTF against the library that defines them: what it packs comes out bit for bit as it unpacks it."""

from __future__ import annotations

import base64
import json
import random
import subprocess
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from westlight import core
from westlight.core.errors import ModelError
from westlight.core.model.gltf import is_packed
from westlight.core.model.meshopt import DamagedError, unpacked
from westlight.engine.readers import READERS

from .test_gltf_features import Document

WEB = Path(__file__).parents[2] / "web"


def packed(jobs: list[dict[str, Any]]) -> list[tuple[bytes, bytes]]:
    """Streams of the library, and what it reads in them."""
    script = (Path(__file__).parent / "packing.mjs").read_text()
    told = [{"version": 0, "filter": "NONE", **job} for job in jobs]
    for job in told:
        if isinstance(job["values"], bytes):
            job["values"] = base64.b64encode(job["values"]).decode()
    done = subprocess.run(["node", "--input-type=module", "-e", script], cwd=WEB, text=True,
                          input=json.dumps(told), capture_output=True)  # fmt: skip
    assert done.returncode == 0, done.stderr
    return [
        (base64.b64decode(o["packed"]), base64.b64decode(o["plain"]))
        for o in json.loads(done.stdout)
    ]


def entry(job: dict[str, Any]) -> dict[str, Any]:
    """What the extension tells of a stream."""
    return {"mode": job["mode"], "count": job["count"], "byteStride": job["stride"],
            "filter": job.get("filter", "NONE")}  # fmt: skip


def attributes(version: int) -> list[dict[str, Any]]:
    """Elements of many lengths and kinds: noise, slopes, constants, floats of a surface."""
    rng = np.random.default_rng(3)
    jobs = []
    for count in (1, 15, 16, 17, 255, 256, 257, 1000, 5000):
        for stride in (4, 8, 12, 16, 20, 64):
            slope = np.cumsum(rng.integers(-3, 4, (count, stride // 2)), axis=0).astype("<i2")
            wave = np.sin(np.arange(count)[:, None] * 0.01 + np.arange(stride // 4)).astype("<f4")
            noise = rng.integers(0, 256, (count, stride), np.uint8)
            flat = np.full((count, stride), 7, np.uint8)
            for values in (slope, wave, noise, flat):
                jobs.append({"mode": "ATTRIBUTES", "stride": stride, "count": count, "version": version,
                             "values": values.tobytes()})  # fmt: skip
    return jobs


def indices() -> list[dict[str, Any]]:
    """Triangles of a grid in order, of a grid in disorder, and of no sense; and lines."""
    rng = np.random.default_rng(4)
    at = np.arange(40 * 40).reshape(40, 40)
    a, b, c, d = at[:-1, :-1], at[:-1, 1:], at[1:, :-1], at[1:, 1:]
    grid = np.stack([a, b, c, b, d, c], axis=-1).reshape(-1, 3)
    lists = [grid, rng.permutation(grid), rng.integers(0, 60_000, (500, 3)), grid[:1]]
    jobs = []
    for stride, kind in ((2, "<u2"), (4, "<u4")):
        for triangles in lists:
            for mode in ("TRIANGLES", "INDICES"):
                jobs.append({"mode": mode, "stride": stride, "count": triangles.size,
                             "values": triangles.astype(kind).tobytes()})  # fmt: skip
    far = rng.integers(0, 2**31, 300).astype("<u4")
    return [*jobs, {"mode": "INDICES", "stride": 4, "count": 300, "values": far.tobytes()}]


def filters() -> list[dict[str, Any]]:
    rng = np.random.default_rng(5)
    n = 600
    turn = rng.normal(size=(n, 4))
    turn /= np.linalg.norm(turn, axis=1, keepdims=True)
    way = rng.normal(size=(n, 4))
    way /= np.linalg.norm(way[:, :3], axis=1, keepdims=True)
    way[:, 3] = rng.choice([-1, 1], n)
    points = rng.normal(size=(n, 3)) * 10.0 ** rng.integers(-3, 4, (n, 1))
    shades = rng.random((n, 4))
    made = [("OCTAHEDRAL", 4, 8, way), ("OCTAHEDRAL", 8, 12, way), ("OCTAHEDRAL", 8, 16, way), ("QUATERNION", 8, 12, turn),
            ("EXPONENTIAL", 12, 15, points), ("EXPONENTIAL", 12, 23, points), ("COLOR", 4, 8, shades), ("COLOR", 8, 12, shades)]  # fmt: skip
    return [{"mode": "ATTRIBUTES", "stride": s, "count": n, "filter": f, "bits": b, "version": int(f == "COLOR"),
             "values": v.reshape(-1).tolist()} for f, s, b, v in made]  # fmt: skip


@pytest.mark.parametrize(
    "jobs", [attributes(0), attributes(1), indices(), filters()],
    ids=["attributes", "attributes, second version", "indices", "filters"],
)  # fmt: skip
def test_what_is_packed_comes_out(jobs: list[dict[str, Any]]) -> None:
    for job, (stream, plain) in zip(jobs, packed(jobs), strict=True):
        found = unpacked(stream, entry(job))
        told = {k: v for k, v in job.items() if k != "values"}
        if job.get("filter") in ("OCTAHEDRAL", "QUATERNION", "COLOR"):
            # Rounded values of square roots may differ in their last bit.
            kind = ("u" if job["filter"] == "COLOR" else "i") + str(job["stride"] // 4)
            ours, theirs = (np.frombuffer(b, kind).astype(int) for b in (found, plain))
            apart = np.abs(ours - theirs)
            assert apart.max() <= 1, told
            assert (apart > 0).mean() < 0.01, told
        else:
            assert found == plain, told


def test_damaged_streams_are_refused_or_come_out_as_something() -> None:
    """Cut, flipped, with wrong sizes: an error of its own or as many bytes as told, never another one."""
    jobs = [
        j for j in (*attributes(0)[::17], *attributes(1)[::17], *indices()[:4]) if j["count"] < 2000
    ]
    chance, refused = random.Random(6), 0
    for job, (stream, _) in zip(jobs, packed(jobs), strict=True):
        for _ in range(40):
            harmed = bytearray(stream)
            for _ in range(chance.randrange(1, 4)):
                harmed[chance.randrange(len(harmed))] = chance.randrange(256)
            told = entry(job)
            if chance.random() < 0.3:
                told["count"] = chance.choice([0, 1, told["count"] * 3, 10**12, -3])
            cut = chance.randrange(len(harmed)) if chance.random() < 0.4 else len(harmed)
            try:
                found = unpacked(bytes(harmed[:cut]), told)
                assert len(found) == told["count"] * told["byteStride"]
            except DamagedError:
                refused += 1
    assert refused > 50


#: Points a side of a square of ground.
SIDE = 20


def meshopt_glb(file: Path) -> Path:
    """A square of ground: quantised points, directions through a filter, indices, each in a packed view."""
    n = SIDE
    x, y = np.meshgrid(np.arange(n), np.arange(n))
    none = np.zeros(n * n)
    points = np.stack([x.ravel(), y.ravel(), none, none], axis=1).astype("<u2")
    at = np.arange(n * n).reshape(n, n)
    faces = np.stack([at[:-1, :-1], at[:-1, 1:], at[1:, 1:]], axis=-1).astype("<u2")
    up = np.tile([0.0, 0.0, 1.0, 0.0], (n * n, 1))
    jobs = [
        {"mode": "ATTRIBUTES", "stride": 8, "count": n * n, "values": points.tobytes()},
        {"mode": "ATTRIBUTES", "stride": 4, "count": n * n, "filter": "OCTAHEDRAL", "bits": 8,
         "values": up.reshape(-1).tolist()},
        {"mode": "TRIANGLES", "stride": 2, "count": faces.size, "values": faces.tobytes()},
    ]  # fmt: skip
    made = Document()
    views = made.json["bufferViews"]
    for job, (stream, _) in zip(jobs, packed(jobs), strict=True):
        made.view(np.frombuffer(stream, np.uint8))
        where = {**views[-1], **entry(job)}
        stride = {} if job["mode"] == "TRIANGLES" else {"byteStride": job["stride"]}
        views[-1] = {"buffer": 1, "byteOffset": 0, "byteLength": job["count"] * job["stride"], **stride,
                     "extensions": {"EXT_meshopt_compression": where}}  # fmt: skip
    kinds = ({"componentType": 5123, "type": "VEC3"}, {"componentType": 5120, "normalized": True, "type": "VEC3"},
             {"componentType": 5123, "type": "SCALAR"})  # fmt: skip
    made.json["accessors"] = [
        {"bufferView": i, "count": job["count"], **kind}
        for i, (job, kind) in enumerate(zip(jobs, kinds, strict=True))
    ]
    places = {"attributes": {"POSITION": 0, "NORMAL": 1}, "indices": 2}
    made.json["meshes"] = [{"primitives": [places]}]
    made.json["extensionsUsed"] = ["EXT_meshopt_compression", "KHR_mesh_quantization"]
    made.json["extensionsRequired"] = made.json["extensionsUsed"]
    # The buffer that the views stand in is none: it is there for those who read no packed ones.
    fallback = {"byteLength": 8192, "extensions": {"EXT_meshopt_compression": {"fallback": True}}}
    return made.glb(file, fallback)


def test_a_packed_building_is_read_and_kept_unpacked(tmp_path: Path) -> None:
    """Its points, directions and faces are those that were packed; the building goes on as plain GLB."""
    glb = meshopt_glb(tmp_path / "made.glb")
    assert is_packed(glb)
    mesh = core.read_model(glb, "z").parts[0].mesh
    x, y = np.meshgrid(np.arange(SIDE), np.arange(SIDE))
    assert mesh.vertices[:, 0] == pytest.approx(x.ravel())
    assert mesh.vertices[:, 1] == pytest.approx(y.ravel())
    assert mesh.normals == pytest.approx(np.tile([0, 0, 1], (SIDE**2, 1)))
    corners = mesh.vertices[mesh.faces]
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 2] / 2
    assert area == pytest.approx(np.full((SIDE - 1) ** 2, 0.5))
    out = tmp_path / "out"
    out.mkdir()
    report = READERS["model"].read(glb, "made.glb", out, "z")
    assert not is_packed(out / report["file"])
    again = core.read_model(out / report["file"]).parts[0].mesh
    assert again.vertices == pytest.approx(mesh.vertices)


def test_a_packed_view_that_is_damaged_is_told(tmp_path: Path) -> None:
    made = Document()
    made.view(np.arange(40, dtype=np.uint8))
    made.json["bufferViews"][0]["extensions"] = {
        "EXT_meshopt_compression": {
            "buffer": 0,
            "byteLength": 40,
            "byteStride": 12,
            "count": 3,
            "mode": "ATTRIBUTES",
        }
    }
    made.json["accessors"] = [{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"}]
    made.mesh(POSITION=0)
    with pytest.raises(ModelError, match="damaged"):
        made.read(tmp_path)
