"""The server as a whole: routes, the socket, stills, and being killed."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import struct
from pathlib import Path
from typing import Any

import httpx
import numpy as np
import pytest
import websockets

from westlight.core.files import read_layers
from westlight.studio.demo import NAME

from ..conftest import Server, wait_for

#: Only a hang takes longer than this, on however slow a machine.
PATIENCE_S = 420


@pytest.fixture
def client(server: Server) -> httpx.Client:
    """Requests to the running server."""
    return httpx.Client(base_url=f"{server.address}/api", timeout=120)


def demo(client: httpx.Client) -> dict[str, Any]:
    """The demo project as the server tells it."""
    project = next(p for p in client.get("/projects").json() if p["name"] == NAME)
    return client.get(f"/projects/{project['id']}").json()


def unpack(message: bytes) -> tuple[dict[str, Any], bytes]:
    """Head and file of a message of the picture's socket."""
    (length,) = struct.unpack_from("<I", message)
    return json.loads(message[4 : 4 + length]), message[4 + length :]


async def frames(
    server: Server, project: dict[str, Any], until: Any, **extra: Any
) -> dict[str, Any]:
    """Show the first look and view, and wait for a frame that satisfies ``until``."""
    show = {"kind": "show", "project": project["id"], "look": project["looks"][0]["id"],
            "view": project["views"][0]["id"], "width": 320, **extra}  # fmt: skip
    address = f"ws://127.0.0.1:{server.port}/api/picture"
    async with websockets.connect(address, max_size=None) as socket:
        await socket.send(json.dumps(show))
        while True:
            message = await asyncio.wait_for(socket.recv(), PATIENCE_S)
            assert isinstance(message, bytes)
            head, file = unpack(message)
            if head["kind"] == "frame":
                await socket.send('{"kind": "drawn"}')
                if until(head):
                    return {**head, "file": file}


def test_refusals_have_words(client: httpx.Client) -> None:
    """Unknown things and impossible values answer with a sentence."""
    project = demo(client)
    answer = client.get("/projects/none")
    assert answer.status_code == 404
    assert "no longer there" in answer.json()["detail"]
    look = project["looks"][0]["id"]
    path = f"/projects/{project['id']}/rows/look/{look}"
    answer = client.patch(path, json={"patch": {"settings": {"sky": {"haze": 99}}}})
    assert answer.status_code == 422
    assert "haze" in answer.json()["detail"]


def test_daylight_and_plan(client: httpx.Client) -> None:
    """The sheet's data: paths, band, facts, walls."""
    project = demo(client)
    look = project["looks"][0]["id"]
    light = client.get(f"/projects/{project['id']}/looks/{look}/daylight").json()
    assert len(light["chart"]["band"]) == len(light["chart"]["day"]) == 145
    assert light["facts"]["azimuth_deg"] == pytest.approx(241, abs=2)
    assert light["chart"]["sunrise"] < 720 < light["chart"]["sunset"]
    plan = client.get(f"/projects/{project['id']}/plan").json()
    assert plan["filled"]
    assert plan["open"]
    assert plan["height_m"] == plan["usual_m"] == 1.2
    above = client.get(
        f"/projects/{project['id']}/plan", params={"eye_x": 1, "eye_y": 1, "eye_z": 4.4}
    ).json()
    assert above["height_m"] == above["usual_m"] == 4.0
    assert above["shown"]["span"] > 1


def test_picture_refines_and_settles_in_light(server: Server, client: httpx.Client) -> None:
    """Frames come, passes grow, and the picture is not black."""
    project = demo(client)
    frame = asyncio.run(frames(server, project, lambda h: h["passes"] >= 2))
    assert frame["format"] == "png"
    assert frame["file"][:4] == b"\x89PNG"
    assert frame["black"] < 0.5
    assert sum(frame["histogram"]) == frame["width"] * frame["height"]


def test_a_killed_engine_comes_back(server: Server, client: httpx.Client) -> None:
    """Killed by hand, the engine is another process soon and the picture goes on by itself."""
    project = demo(client)
    asyncio.run(frames(server, project, lambda h: h["passes"] >= 1))
    before = client.get("/health").json()["engine_pid"]

    async def kill_and_watch() -> dict[str, Any]:
        show = {"kind": "show", "project": project["id"], "look": project["looks"][1]["id"],
                "view": project["views"][0]["id"], "width": 320}  # fmt: skip
        address = f"ws://127.0.0.1:{server.port}/api/picture"
        async with websockets.connect(address, max_size=None) as socket:
            await socket.send(json.dumps(show))
            killed = False
            while True:
                head, _ = unpack(await asyncio.wait_for(socket.recv(), PATIENCE_S))  # type: ignore[arg-type]
                if head["kind"] != "frame":
                    continue
                await socket.send('{"kind": "drawn"}')
                if not killed:
                    os.kill(before, signal.SIGKILL)
                    killed = True
                elif client.get("/health").json()["engine_pid"] != before and head["passes"] >= 1:
                    return head

    assert asyncio.run(kill_and_watch())["passes"] >= 1


def test_still_with_a_layer_per_source(
    server: Server, client: httpx.Client, tmp_path: Path
) -> None:
    """A still is rendered, listed and read back: its layers add up to its beauty."""
    project = demo(client)
    pid = project["id"]
    order = {"look": project["looks"][1]["id"], "view": project["views"][0]["id"], "width_px": 160,
             "samples": 4, "noise": 0.001}  # fmt: skip
    still = client.post(f"/projects/{pid}/stills", json=order).json()["id"]

    def row() -> dict[str, Any]:
        rows = client.get(f"/projects/{pid}/stills").json()
        return next(s for s in rows if s["id"] == still)

    wait_for(lambda: row()["status"] in ("done", "failed"), 180)
    done = row()
    assert done["status"] == "done", done["problem"]
    assert done == client.get(f"/projects/{pid}").json()["stills"][0]
    files = {f["kind"]: f for f in done["files"]}
    exr = tmp_path / "s.exr"
    exr.write_bytes(client.get(f"/files/{files['exr']['asset']}").content)
    layers = read_layers(exr)
    beauty = layers.pop("")
    assert beauty.shape == (92, 160, 3) or beauty.shape == (88, 160, 3)
    assert "Bench pendants" in layers
    assert "Clear sky" in layers
    total = np.sum(list(layers.values()), axis=0)
    dim = beauty < 30_000
    assert total[dim] == pytest.approx(beauty[dim], rel=0.02, abs=0.01)
    png = client.get(f"/files/{files['png']['asset']}?show=true")
    assert png.content[:4] == b"\x89PNG"


def test_a_still_is_followed_and_cancelled(server: Server, client: httpx.Client) -> None:
    """How far a long still is comes over the socket unasked; it stops when told to, and that comes too."""
    project = demo(client)
    pid = project["id"]
    order = {"look": project["looks"][0]["id"], "view": project["views"][0]["id"],
             "width_px": 640, "samples": 4000, "noise": 1e-6}  # fmt: skip
    address = f"ws://127.0.0.1:{server.port}/api/picture"

    async def follow() -> dict[str, Any]:
        async with websockets.connect(address, max_size=None) as socket:
            await socket.send(_show(project, 0, paused=True))
            before = await _next(socket, "stills")
            assert before["project"] == pid
            still = client.post(f"/projects/{pid}/stills", json=order).json()["id"]
            assert still not in [s["id"] for s in before["stills"]]

            async def until(there: Any) -> dict[str, Any]:
                while True:
                    rows = (await _next(socket, "stills"))["stills"]
                    row = next((s for s in rows if s["id"] == still), None)
                    if row is not None and there(row):
                        return row

            far = await until(lambda s: (s["progress"] or {}).get("share", 0) > 0)
            assert far["status"] == "rendering"
            client.post(f"/projects/{pid}/stills/{still}/cancel")
            return await until(lambda s: s["status"] == "cancelled" and s["progress"] is None)

    assert asyncio.run(follow())["files"] == []


def test_a_killed_server_finds_all_edits_again(server: Server, client: httpx.Client) -> None:
    """Killed in the middle of a render, the server comes back with every edit and its undo."""
    project = demo(client)
    pid, look = project["id"], project["looks"][0]["id"]
    path = f"/projects/{pid}/rows/look/{look}"
    client.patch(path, json={"patch": {"settings": {"minutes": 1001}}, "label": "Change the time"})
    lamp = client.post(f"/projects/{pid}/rows/source",
                       json={"name": "Test lamp", "settings": {"kind": "fixture"}}).json()["id"]  # fmt: skip
    order = {"look": look, "view": project["views"][0]["id"], "width_px": 320, "samples": 8,
             "noise": 1e-6}  # fmt: skip
    still = client.post(f"/projects/{pid}/stills", json=order).json()["id"]

    def status() -> str:
        rows = client.get(f"/projects/{pid}").json()["stills"]
        return str(next(s for s in rows if s["id"] == still)["status"])

    wait_for(lambda: status() == "rendering", 60)
    server.kill()
    server.start()
    after = client.get(f"/projects/{pid}").json()
    assert after["looks"][0]["settings"]["minutes"] == 1001
    assert any(s["id"] == lamp for s in after["sources"])
    assert after["undo"] == "Add Test lamp"
    wait_for(lambda: status() == "done", 240)
    for _ in range(2):
        client.post(f"/projects/{pid}/undo")
    again = client.get(f"/projects/{pid}").json()
    assert again["looks"] == project["looks"]
    assert again["sources"] == project["sources"]


def _show(project: dict[str, Any], look: int, **extra: Any) -> str:
    return json.dumps({"kind": "show", "project": project["id"], "look": project["looks"][look]["id"],
                       "view": project["views"][0]["id"], "width": 320, **extra})  # fmt: skip


async def _next(socket: Any, kind: str) -> dict[str, Any]:
    """The next message of a kind; frames on the way are answered for."""
    while True:
        head, _ = unpack(await asyncio.wait_for(socket.recv(), PATIENCE_S))
        if head["kind"] == "frame":
            await socket.send('{"kind": "drawn"}')
        if head["kind"] == kind:
            return head


def test_two_tabs_have_a_picture_each(server: Server, client: httpx.Client) -> None:
    """Two looks at two sizes at once: each tab is sent its own, and the one touched last does not keep the other dark."""
    project = demo(client)
    address = f"ws://127.0.0.1:{server.port}/api/picture"

    async def both() -> None:
        async with (
            websockets.connect(address, max_size=None) as a,
            websockets.connect(address, max_size=None) as b,
        ):
            assert (await _next(a, "ready"))["session"] != (await _next(b, "ready"))["session"]
            await a.send(_show(project, 0))
            await b.send(_show(project, 1, width=160, paused=False))
            for socket, width in ((a, 320), (b, 160)):
                head = await _next(socket, "frame")
                assert abs(head["width"] * head["scale"] - width) < 16

    asyncio.run(both())


def test_what_nobody_understands_does_not_deafen_the_socket(
    server: Server, client: httpx.Client
) -> None:
    """Each is answered in words, and the next good message is heard."""
    project = demo(client)
    odd = [
        "not json", "[]", "{}", '{"kind": "dance"}', '{"kind": "show"}', '{"kind": "ask", "id": "x"}',
        '{"kind": "show", "project": null, "look": 3, "view": []}', _show(project, 0, width=-5),
        _show(project, 0, region=[0, 0, "wide", 1]), _show(project, 0, reading="tea leaves"),
        _show(project, 0, held=[1, 2]), _show(project, 0, held={"look": 5}),
        _show(project, 0, held={"sources": 5}), _show(project, 0, held={"path": "/etc/passwd"}),
    ]  # fmt: skip

    async def talk() -> None:
        address = f"ws://127.0.0.1:{server.port}/api/picture"
        async with websockets.connect(address, max_size=None) as socket:
            for text in odd:
                await socket.send(text)
                assert "reload" in (await _next(socket, "problem"))["text"]
            await socket.send(_show(project, 0, held={"look": {"sun": {"kelvin": "warm"}}}))
            assert "kelvin" in (await _next(socket, "problem"))["text"]
            await socket.send(_show({**project, "looks": [{"id": "0" * 32}]}, 0))
            assert "no longer there" in (await _next(socket, "problem"))["text"]
            for what, of in (
                ("dance", {}),
                ("pick", {"x": 1}),
                ("proof", {}),
                ("pick", {"x": "a", "y": 0}),
            ):
                await socket.send(json.dumps({"kind": "ask", "id": 1, "what": what, "of": of}))
                assert "not understood" in (await _next(socket, "unanswered"))["text"]
            await socket.send(_show(project, 0))
            await socket.send(
                '{"kind": "ask", "id": 5, "what": "pick", "of": {"x": 0.5, "y": 0.9}}'
            )
            answer = await _next(socket, "answer")
            assert (answer["id"], answer["answer"]["hit"]) == (5, True)
            await _next(socket, "frame")

    asyncio.run(talk())


def test_an_edit_reaches_the_others_at_the_table(server: Server, client: httpx.Client) -> None:
    """Other tabs are told at once; the one that made it is not."""
    project = demo(client)
    path = f"/projects/{project['id']}/rows/look/{project['looks'][0]['id']}"
    address = f"ws://127.0.0.1:{server.port}/api/picture"

    async def watch() -> None:
        async with (
            websockets.connect(address, max_size=None) as mine,
            websockets.connect(address, max_size=None) as other,
        ):
            name = (await _next(mine, "ready"))["session"]
            await _next(other, "ready")

            def edit() -> None:
                body = {"patch": {"settings": {"minutes": 1003}}, "label": "Change the time"}
                client.patch(path, json=body, headers={"x-page": name}).raise_for_status()

            await asyncio.to_thread(edit)
            assert (await _next(other, "changed"))["project"] == project["id"]
            # Whatever this tab hears next, it is not its own edit.
            await mine.send("not json")
            head, _ = unpack(await asyncio.wait_for(mine.recv(), PATIENCE_S))  # type: ignore[arg-type]
            assert head["kind"] == "problem"

    asyncio.run(watch())
    client.post(f"/projects/{project['id']}/undo")
