"""Two applications to be hard on: one in this process without engine and stills, and one that may be killed."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from westlight.api.app import create_app
from westlight.api.settings import ServerSettings
from westlight.cli.postgres import Cluster
from westlight.store import Store

from ..conftest import Server, own_database
from ..core.test_models import glb


@pytest.fixture(scope="module")
def client(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """Requests to it. An error nobody expected is an answer here, as in a browser."""
    folder = tmp_path_factory.mktemp("hostile")
    url = own_database(cluster.url, f"hostile_{folder.name.replace('-', '_')}_{id(folder)}")
    app = create_app(ServerSettings(database_url=url, data=folder, web=folder))
    made = TestClient(app, base_url="http://127.0.0.1:8620", raise_server_exceptions=False)
    yield made
    app.state.studio.store.close()


@pytest.fixture(scope="module")
def project(client: TestClient, tmp_path_factory: pytest.TempPathFactory) -> str:
    """A project with a building in it."""
    made: str = client.post("/api/projects", json={"name": "Hostile"}).json()["id"]
    file = glb(Path(tmp_path_factory.mktemp("model")) / "scene.glb")
    sent = {"file": ("scene.glb", file.read_bytes())}
    assert client.post(f"/api/projects/{made}/import", files=sent).status_code == 200
    return made


@pytest.fixture(scope="module")
def ground() -> Iterator[tuple[Cluster, Server]]:
    """A cluster and a server that may be killed, without the demo."""
    folder = Path(tempfile.mkdtemp(prefix="wl-kills-"))
    folder.chmod(0o755)
    cluster = Cluster(folder)
    cluster.start()
    Store(cluster.url).migrate()
    (folder / "data").mkdir()
    (folder / "nothing").mkdir()
    server = Server(cluster.url, folder / "data", folder, folder / "nothing")
    del server.environment["WESTLIGHT_DEMO"]
    server.start()
    yield cluster, server
    server.stop()
    cluster.stop()
    shutil.rmtree(folder, ignore_errors=True)
