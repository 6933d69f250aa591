"""Every setting with every odd value: taken or refused in words, and the project can be read afterwards."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from typing import Any

from starlette.testclient import TestClient

from westlight.engine.spec import FixtureSettings, MaterialEdit, ViewSettings
from westlight.studio.settings import LookState

from . import FACTOR

ODD: list[Any] = [
    float("nan"), float("inf"), -float("inf"), -1, 0, 1e308, -1e308, 1e-320, 2**31, 2**63, 10**400, "", "\x00",
    "\ud800", "x" * 100_000, "/etc/passwd", "../../etc/passwd", [], {}, [[]], None, True, [1] * 300, {"a": {"b": 1}},
]  # fmt: skip
TRIED = 500


def leaves(node: Any, path: tuple[str, ...] = ()) -> Iterator[tuple[str, ...]]:
    """Paths to every value in nested settings, and to what holds them."""
    if path:
        yield path
    if isinstance(node, dict):
        for key, value in node.items():
            yield from leaves(value, (*path, key))


def laid(path: tuple[str, ...], value: Any) -> dict[str, Any]:
    """A patch that sets one value."""
    for key in reversed(path):
        value = {key: value}
    return value


def tried(client: TestClient, project: str) -> Iterator[tuple[str, str, tuple[str, ...], Any]]:
    """Every case: kind, row, path, odd value."""
    rows = client.get(f"/api/projects/{project}").json()
    lamp = {"settings": FixtureSettings(places=[]).model_dump(mode="json")}
    source = client.post(
        f"/api/projects/{project}/rows/source", json={"name": "Lamp", **lamp}
    ).json()["id"]
    edits = {
        "materials": {"m": MaterialEdit().model_dump()},
        "hidden": [],
        "additions": [],
        "openings": {},
    }
    whole = {
        ("look", rows["looks"][0]["id"]): {"name": "", "position": 0, "settings": LookState().model_dump(mode="json")},
        ("view", rows["views"][0]["id"]): {"name": "", "settings": ViewSettings().model_dump(mode="json")},
        ("source", source): {"name": "", **lamp},
        ("model", rows["models"][0]["id"]): {"settings": {**rows["models"][0]["settings"], "edits": edits}},
        ("project", project): {"name": "", "latitude_deg": 0, "longitude_deg": 0, "time_zone": "", "north_deg": 0},
    }  # fmt: skip
    for (kind, row), settings in whole.items():
        for path in leaves(settings):
            for value in ODD:
                yield kind, row, path, value


def test_odd_settings_are_taken_or_refused_in_words(client: TestClient, project: str) -> None:
    cases = list(tried(client, project))
    chosen = random.Random(FACTOR).sample(cases, min(TRIED * FACTOR, len(cases)))
    look = client.get(f"/api/projects/{project}").json()["looks"][0]["id"]
    view = client.get(f"/api/projects/{project}").json()["views"][0]["id"]
    studio = client.app.state.studio  # type: ignore[attr-defined]
    for kind, row, path, value in chosen:
        case = f"{kind} {'.'.join(path)} = {value!r:.40}"
        body = json.dumps({"patch": laid(path, value), "label": "x"})
        answer = client.patch(f"/api/projects/{project}/rows/{kind}/{row}", content=body,
                              headers={"content-type": "application/json"})  # fmt: skip
        assert answer.status_code in (200, 404, 413, 422), (
            f"{case}: {answer.status_code} {answer.text[:300]}"
        )
        if answer.status_code != 200:
            assert "detail" in answer.json(), case
            assert "x" * 1000 not in answer.text, f"{case}: the input comes back"
            assert "root:" not in answer.text, case
            continue
        # What was taken can be shown, told in numbers, and taken back.
        assert client.get(f"/api/projects/{project}").status_code == 200, case
        if kind in ("look", "project"):
            shown = client.get(f"/api/projects/{project}/looks/{look}/daylight")
            assert shown.status_code == 200, case
        studio.scenes.picture(project, look, view)
        undone = client.post(f"/api/projects/{project}/undo")
        assert undone.status_code == 200, case


def test_a_name_with_half_a_sign_is_refused_in_words(client: TestClient, project: str) -> None:
    """What cannot be written is not in the answer either."""
    patch = json.dumps({"patch": {"time_zone": "\ud800"}, "label": "x"})
    answer = client.patch(f"/api/projects/{project}/rows/project/{project}", content=patch,
                          headers={"content-type": "application/json"})  # fmt: skip
    assert answer.status_code == 422
    assert "time zone" in answer.json()["detail"]
