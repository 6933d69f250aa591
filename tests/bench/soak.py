"""Use a running application for a while and watch what it takes: `./westlight soak [MINUTES]`.

Two pages show pictures, drag the sun, edit and undo; memory of server and engine is printed twice a minute. Fails when
either grows by more than a fifth between the end of the first quarter and the end.
"""

from __future__ import annotations

import asyncio
import json
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx
import psutil
import websockets

sys.path.insert(0, str(Path(__file__).parents[2]))
from tests.conftest import Server

from westlight.cli.main import ensure_demo
from westlight.cli.postgres import Cluster
from westlight.studio.demo import NAME

TELL_S = 30.0
MOST_GROWTH = 1.2


def megabytes(pid: int) -> float:
    """Resident memory of a process."""
    return psutil.Process(pid).memory_info().rss / 1e6


async def page(server: Server, project: dict[str, Any], n: int, until: float) -> int:
    """One page: it drags, edits, undoes, asks and looks elsewhere; returns the frames it drew."""
    frames = 0
    address = f"ws://127.0.0.1:{server.port}/api/picture"
    looks, views = project["looks"], project["views"]
    async with (
        websockets.connect(address, max_size=None) as socket,
        httpx.AsyncClient(base_url=f"{server.address}/api", timeout=120) as client,
    ):

        async def read() -> None:
            nonlocal frames
            async for message in socket:
                assert isinstance(message, bytes)
                length = int.from_bytes(message[:4], "little")
                if json.loads(message[4 : 4 + length])["kind"] == "frame":
                    frames += 1
                    await socket.send('{"kind": "drawn"}')

        reading = asyncio.create_task(read())
        step = 0
        while time.monotonic() < until:
            step += 1
            look, view = looks[(step // 8 + n) % len(looks)], views[(step // 5) % len(views)]
            show = {"kind": "show", "project": project["id"], "look": look["id"], "view": view["id"],
                    "width": (320, 480, 640)[step % 3]}  # fmt: skip
            for turn in range(10):
                sun = {"mode": "free", "azimuth_deg": 120 + 5 * turn, "elevation_deg": 20}
                await socket.send(
                    json.dumps({**show, "held": {"look": {"sun": sun}}, "moving": True})
                )
                await asyncio.sleep(0.1)
            await socket.send(json.dumps(show))
            path = f"/projects/{project['id']}/rows/look/{look['id']}"
            await client.patch(path, json={"patch": {"settings": {"sky": {"haze": 2 + step % 5}}}})
            await client.post(f"/projects/{project['id']}/undo")
            await asyncio.sleep(3)
        reading.cancel()
    return frames


async def soak(server: Server, minutes: float) -> int:
    """Use it and tell; returns the exit code."""
    with httpx.Client(base_url=f"{server.address}/api", timeout=300) as client:
        known = next(p for p in client.get("/projects").json() if p["name"] == NAME)
        project = client.get(f"/projects/{known['id']}").json()
        begun = time.monotonic()
        pages = [
            asyncio.create_task(page(server, project, n, begun + 60 * minutes)) for n in range(2)
        ]
        kept: list[tuple[float, float]] = []
        while not all(p.done() for p in pages):
            await asyncio.sleep(TELL_S)
            assert server.process is not None
            engine = (await asyncio.to_thread(client.get, "/health")).json()["engine_pid"]
            kept.append((megabytes(server.process.pid), megabytes(engine)))
            at = (time.monotonic() - begun) / 60
            print(
                f"  {at:5.1f} min  server {kept[-1][0]:6.0f} MB  engine {kept[-1][1]:6.0f} MB",
                flush=True,
            )
        print(f"  frames drawn: {[await p for p in pages]}")
    early, late = kept[len(kept) // 4], kept[-1]
    grown = [b / a for a, b in zip(early, late, strict=True)]
    print(f"  growth since the first quarter: server ×{grown[0]:.2f}, engine ×{grown[1]:.2f}")
    return int(max(grown) > MOST_GROWTH)


def main() -> int:
    """Start everything in a folder of its own, use it, end it."""
    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 10.0
    with tempfile.TemporaryDirectory(prefix="wl-soak-") as name:
        folder = Path(name)
        folder.chmod(0o755)
        cluster = Cluster(folder)
        cluster.start()
        data = folder / "data"
        data.mkdir()
        server = Server(cluster.url, data, ensure_demo(), Path("web/dist"))
        try:
            server.start()
            return asyncio.run(soak(server, minutes))
        finally:
            server.stop()
            cluster.stop()


if __name__ == "__main__":
    sys.exit(main())
