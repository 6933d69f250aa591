"""The application over a database of its own, without engine and stills: what is tried here asks neither."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from starlette.testclient import TestClient

from westlight.api.app import create_app
from westlight.api.settings import ServerSettings
from westlight.cli.postgres import Cluster

from ..conftest import own_database
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
