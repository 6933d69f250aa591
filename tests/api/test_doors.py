"""Who is let in: names the server was started for, pages of its own; and what a page may load."""

from __future__ import annotations

import pytest
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from westlight.api.app import create_app
from westlight.api.settings import ServerSettings

HERE = "http://127.0.0.1:8620"


@pytest.fixture
def client() -> TestClient:
    """The application without a database: what is refused at the door needs none."""
    nowhere = ServerSettings(
        database_url="postgresql+psycopg://nowhere/none", names=("studio.example",)
    )
    return TestClient(create_app(nowhere), base_url=HERE, raise_server_exceptions=False)


@pytest.mark.parametrize(
    "host", ["evil.example", "evil.example:8620", "127.0.0.1.evil.example", ""]
)
def test_a_foreign_name_is_not_answered(client: TestClient, host: str) -> None:
    """A name that leads here by another's will reads nothing."""
    answer = client.get("/api/health", headers={"host": host})
    assert answer.status_code == 403
    assert "not known by that name" in answer.text


@pytest.mark.parametrize("host", ["localhost:8620", "[::1]:8620", "studio.example"])
def test_known_names_are_answered(client: TestClient, host: str) -> None:
    """Those of the machine, and those it was started for."""
    assert client.get("/api/health", headers={"host": host}).status_code != 403


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "https://evil.example"}, {"origin": "http://127.0.0.1:9999"}, {"origin": "null"},
        {"sec-fetch-site": "cross-site"}, {"sec-fetch-site": "same-site"},
    ],
)  # fmt: skip
@pytest.mark.parametrize("path", ["/api/projects", "/api/projects/x/undo", "/api/skies"])
def test_pages_of_others_change_nothing(
    client: TestClient, headers: dict[str, str], path: str
) -> None:
    """Not with a body, not without one, not as a form; the same request of ours gets further."""
    for sent in ({}, {"json": {"name": "x"}}, {"files": {"file": b"x"}}):
        answer = client.post(path, headers=headers, **sent)  # type: ignore[arg-type]
        assert answer.status_code == 403
        assert "Only pages of this server" in answer.text
    assert (
        client.post(path, headers={"origin": HERE, "sec-fetch-site": "same-origin"}).status_code
        != 403
    )


@pytest.mark.parametrize("origin", ["https://evil.example", "null"])
def test_the_picture_is_not_streamed_to_others(client: TestClient, origin: str) -> None:
    """A socket from a foreign page is closed before it hears anything."""
    with pytest.raises(WebSocketDisconnect), client.websocket_connect("/api/picture", headers={"origin": origin}) as s:  # fmt: skip
        s.receive_bytes()


def test_answers_say_what_a_page_may_load(client: TestClient) -> None:
    """No foreign scripts, no frames around us, no guessing of types, no addresses handed on."""
    answer = client.get("/api/health")
    policy = answer.headers["content-security-policy"]
    assert "script-src 'self';" in policy
    assert "frame-ancestors 'none'" in policy
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert answer.headers["referrer-policy"] == "no-referrer"
    assert "access-control-allow-origin" not in answer.headers


KEY = "a-key-that-was-printed"


@pytest.fixture
def locked() -> TestClient:
    """The application as it is started beyond loopback."""
    nowhere = ServerSettings(database_url="postgresql+psycopg://nowhere/none", key=KEY)
    return TestClient(create_app(nowhere), base_url=HERE, raise_server_exceptions=False)


@pytest.mark.parametrize("more", ["", "?key=", "?key=wrong", f"?key={KEY}x"])
def test_without_the_key_nothing_is_answered(locked: TestClient, more: str) -> None:
    """No page, no request, no socket; a wrong cookie is none."""
    for path in ("/", "/api/health", "/api/projects"):
        assert locked.get(path + more).status_code == 403
    assert locked.get("/api/health", headers={"cookie": "westlight-key=wrong"}).status_code == 403
    assert locked.post("/api/projects" + more, json={"name": "x"}).status_code == 403
    with pytest.raises(WebSocketDisconnect), locked.websocket_connect("/api/picture" + more) as s:
        s.receive_bytes()


def test_the_key_opens_the_door_and_leaves_the_address(locked: TestClient) -> None:
    """It becomes a cookie that no script reads and no other site makes a browser send."""
    answer = locked.get(f"/api/openapi-none?key={KEY}", follow_redirects=False)
    assert answer.status_code == 303
    assert "key" not in answer.headers["location"]
    cookie = answer.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Strict" in cookie
    # The test client keeps it as a browser does.
    assert locked.get("/api/health").status_code != 403
