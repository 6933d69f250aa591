"""Server, engine and database killed at random moments: no acknowledged edit is lost, and everything goes on."""

from __future__ import annotations

import os
import random
import signal
import threading
from typing import Any

import httpx
import pytest

from westlight.cli.owner import kept_up
from westlight.cli.postgres import Cluster

from ..conftest import Server, wait_for
from . import FACTOR

#: Edits of each of eight clients.
EACH = min(30 * FACTOR, 100)


class Editor(threading.Thread):
    """Edits without pause; remembers what was acknowledged, and goes on after refusals."""

    def __init__(self, server: Server, project: str, look: str) -> None:
        super().__init__(daemon=True)
        self.path = f"{server.address}/api/projects/{project}/rows/look/{look}"
        self.last = self.sent = 0
        self.done = threading.Event()

    def run(self) -> None:
        with httpx.Client(timeout=60) as client:
            while not self.done.is_set():
                self.sent += 1
                patch = {"settings": {"note": str(self.sent)}}
                try:
                    answer = client.patch(self.path, json={"patch": patch, "label": "Note"})
                except httpx.HTTPError:
                    continue
                if answer.status_code == 200:
                    self.last = self.sent
                else:
                    assert answer.status_code == 503, answer.text


def kill(what: str, cluster: Cluster, server: Server) -> None:
    """Kill one of the processes at once, and let it come back as it does in the application."""
    if what == "server":
        server.kill()
        server.start()
    elif what == "engine":

        def ended() -> bool:
            pid = httpx.get(f"{server.address}/api/health", timeout=60).json()["engine_pid"]
            try:
                # None yet, or still the one before it, which was killed just now.
                os.kill(pid or 0x7FFFFFFE, signal.SIGKILL)
            except ProcessLookupError:
                return False
            return True

        wait_for(ended, 60, "there is no engine to kill")
    else:
        os.kill(int((cluster.data / "postmaster.pid").read_text().split()[0]), signal.SIGKILL)


@pytest.mark.parametrize("what", ["server", "engine", "database"])
def test_no_acknowledged_edit_is_lost(ground: tuple[Cluster, Server], what: str) -> None:
    cluster, server = ground
    chance = random.Random(what)
    with httpx.Client(base_url=f"{server.address}/api", timeout=120) as client, kept_up(cluster):

        def rows() -> dict[str, Any]:
            found: dict[str, Any] = client.get(f"/projects/{project}").json()
            return found

        project = client.post("/projects", json={"name": what}).json()["id"]
        look = rows()["looks"][0]["id"]
        for _ in range(2 * FACTOR):
            editor = Editor(server, project, look)
            editor.start()
            wait_for(lambda e=editor: e.last > 3, 60, "no edit gets through")  # type: ignore[misc]
            threading.Event().wait(chance.random() * 0.3)
            kill(what, cluster, server)
            before = editor.last
            wait_for(lambda e=editor, b=before: e.last > b + 3, 120, "it does not go on")  # type: ignore[misc]
            editor.done.set()
            editor.join(60)
            kept = int(rows()["looks"][0]["settings"]["note"])
            assert editor.last <= kept <= editor.sent
            # What is kept can be taken back step by step: history and rows belong together.
            client.post(f"/projects/{project}/undo").raise_for_status()
            assert int(rows()["looks"][0]["settings"]["note"] or 0) < kept


def test_edits_at_once_are_all_there(ground: tuple[Cluster, Server]) -> None:
    """Eight clients, many edits each, of different fields: all are there, and all can be taken back."""
    _, server = ground
    fields = [("sun", "azimuth_deg"), ("sun", "elevation_deg"), ("sky", "haze"), ("sky", "ground"),
              ("exposure", "iso"), ("exposure", "kelvin"), ("exposure", "shutter_s"), ("clay", "reflectance")]  # fmt: skip
    with httpx.Client(base_url=f"{server.address}/api", timeout=120) as client:
        project = client.post("/projects", json={"name": "At once"}).json()["id"]
        before = client.get(f"/projects/{project}").json()
        path = f"/projects/{project}/rows/look/{before['looks'][0]['id']}"
        lows = {"azimuth_deg": 100, "elevation_deg": 1, "haze": 1, "ground": 0, "iso": 100, "kelvin": 3000,
                "shutter_s": 0.01, "reflectance": 0.02}  # fmt: skip
        steps = {
            "haze": 0.1,
            "ground": 0.01,
            "shutter_s": 0.001,
            "reflectance": 0.009,
            "elevation_deg": 0.5,
        }

        def value(name: str, n: int) -> float:
            return round(lows[name] + (n + 1) * steps.get(name, 1), 6)

        problems: list[str] = []

        def work(part: str, name: str) -> None:
            with httpx.Client(base_url=f"{server.address}/api", timeout=300) as mine:
                for n in range(EACH):
                    patch = {"settings": {part: {name: value(name, n)}}}
                    answer = mine.patch(path, json={"patch": patch, "label": f"{name} {n}"})
                    if answer.status_code != 200:
                        problems.append(answer.text[:200])

        threads = [threading.Thread(target=work, args=f) for f in fields]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        assert not problems, problems[:3]
        settings = client.get(f"/projects/{project}").json()["looks"][0]["settings"]
        for part, name in fields:
            assert settings[part][name] == pytest.approx(value(name, EACH - 1))
        # Two at once take two steps.
        undos = [
            threading.Thread(target=lambda: client.post(f"/projects/{project}/undo"))
            for _ in range(2)
        ]
        for t in undos:
            t.start()
        for t in undos:
            t.join()
        taken = 2
        while client.post(f"/projects/{project}/undo").json()["label"] is not None:
            taken += 1
        assert taken == len(fields) * EACH
        assert client.get(f"/projects/{project}").json()["looks"] == before["looks"]
