"""Whatever is killed while a still is rendered or a building read: the still is the same, the building there or not at all."""

from __future__ import annotations

import os
import random
import signal
import threading
from pathlib import Path
from typing import Any

import httpx
import pytest

from westlight.cli.owner import kept_up
from westlight.cli.postgres import Cluster

from ..conftest import Server, wait_for
from ..core.test_models import glb
from . import FACTOR
from .test_kills import kill

#: Passes of the still: some seconds of work.
PASSES = 300


class Desk:
    """A client with a project that has a small building."""

    def __init__(self, server: Server, cluster: Cluster, folder: Path, name: str) -> None:
        self.server, self.cluster = server, cluster
        self.client = httpx.Client(base_url=f"{server.address}/api", timeout=120)
        self.project = self.client.post("/projects", json={"name": name}).json()["id"]
        self.building = glb(folder / "scene.glb").read_bytes()

    def rows(self) -> dict[str, Any]:
        """The project as the page is told of it; waits for a database that is being started again."""
        found: list[httpx.Response] = []

        def answered() -> bool:
            try:
                found.append(self.client.get(f"/projects/{self.project}"))
            except httpx.HTTPError:
                return False
            return found[-1].status_code == 200

        wait_for(answered, 60, "no answer")
        told: dict[str, Any] = found[-1].json()
        return told

    def read_in(self) -> httpx.Response:
        """Import the building."""
        return self.client.post(
            f"/projects/{self.project}/import", files={"file": ("scene.glb", self.building)}
        )

    def order(self) -> str:
        """Order the still."""
        rows = self.rows()
        wanted = {"look": rows["looks"][0]["id"], "view": rows["views"][0]["id"], "width_px": 64,
                  "samples": PASSES, "noise": 1e-6, "seconds": 600.0, "files": ["png"]}  # fmt: skip
        answer = self.client.post(f"/projects/{self.project}/stills", json=wanted)
        return str(answer.raise_for_status().json()["id"])

    def still(self, which: str) -> dict[str, Any]:
        """The row of a still."""
        return next(s for s in self.rows()["stills"] if s["id"] == which)

    def finished(self, which: str) -> dict[str, Any]:
        """The row of a still once it is done; one that stopped is resumed, as its words say."""

        def done() -> bool:
            row = self.still(which)
            if row["status"] == "failed":
                assert "Resume" in row["problem"]
                self.client.post(f"/projects/{self.project}/stills/{which}/resume")
            return bool(row["status"] == "done")

        wait_for(done, 120, "the still is never done")
        return self.still(which)

    def picture(self, row: dict[str, Any]) -> bytes:
        """The file of a still."""
        file = next(f for f in row["files"] if f["kind"] == "png")
        return self.client.get(f"/files/{file['asset']}").raise_for_status().content


def workers_of(still: str) -> list[int]:
    """Processes that render a still."""
    found = []
    for place in Path("/proc").glob("[0-9]*"):
        try:
            line = (place / "cmdline").read_bytes().decode(errors="replace")
        except OSError:
            continue
        if "westlight.engine.still" in line and still in line:
            found.append(int(place.name))
    return found


@pytest.mark.parametrize(
    "what", ["server", "engine", "database", "worker"] if FACTOR > 1 else ["server", "worker"]
)
def test_a_still_is_the_same_whatever_is_killed(
    ground: tuple[Cluster, Server],
    tmp_path: Path,
    what: str,
) -> None:
    cluster, server = ground
    chance = random.Random(what)
    with kept_up(cluster):
        desk = Desk(server, cluster, tmp_path, f"Stills, {what}")
        desk.read_in().raise_for_status()
        whole = desk.finished(desk.order())
        for _ in range(FACTOR):
            still = desk.order()
            threading.Event().wait(chance.random() * 5)
            if what == "worker":
                for worker in workers_of(still):
                    os.kill(worker, signal.SIGKILL)
            else:
                kill(what, cluster, server)
            again = desk.finished(still)
            assert desk.picture(again) == desk.picture(whole)
            wait_for(lambda s=still: not workers_of(s), 20, "a render is left behind")  # type: ignore[misc]


@pytest.mark.parametrize(
    "what", ["server", "engine", "database"] if FACTOR > 1 else ["server", "database"]
)
def test_a_building_is_there_or_not_at_all(
    ground: tuple[Cluster, Server],
    tmp_path: Path,
    what: str,
) -> None:
    cluster, server = ground
    chance = random.Random(what)
    with kept_up(cluster):
        for n in range(FACTOR):
            desk = Desk(server, cluster, tmp_path, f"Building {n}, {what}")
            answers: list[httpx.Response | None] = []

            def read_in(desk: Desk = desk, answers: list[Any] = answers) -> None:
                try:
                    answers.append(desk.read_in())
                except httpx.HTTPError:
                    answers.append(None)

            reading = threading.Thread(target=read_in)
            reading.start()
            threading.Event().wait(chance.random() * 3)
            kill(what, cluster, server)
            reading.join()
            answer = answers[0]
            models = desk.rows()["models"]
            assert len(models) <= 1
            if answer is not None:
                assert answer.status_code in (200, 503), answer.text
                assert len(models) == (answer.status_code == 200)
            # It can be read in now, and the picture's building is a whole file.
            desk.read_in().raise_for_status()
            assert len(desk.rows()["models"]) == 1
