"""The door: what it describes is what it answers, bad input is refused in words."""

from __future__ import annotations

import httpx
import pytest
from pydantic import TypeAdapter

from westlight.api import answers, heads
from westlight.api.schema import schema

from ..conftest import Server
from ..core.test_finish import identity_cube
from .test_server import client, demo

__all__ = ["client"]


def test_every_answer_is_described() -> None:
    """No route answers with anything at all: the browser's types come from here."""
    untyped = []
    for path, acts in schema()["paths"].items():
        for act, described in acts.items():
            content = described["responses"]["200"].get("content", {})
            body = content.get("application/json", {}).get("schema")
            if body is not None and not ({"$ref", "type", "anyOf"} & set(body)):
                untyped.append(f"{act} {path}")
    assert untyped in ([], ["get /api/health"])


def test_heads_of_the_socket_are_among_the_components() -> None:
    known = schema()["components"]["schemas"]
    for head in heads.SOCKET_HEADS:
        assert head.__name__ in known
        assert set(known[head.__name__]["required"]) == set(head.model_fields)


def test_answers_hold_what_they_describe(client: httpx.Client) -> None:
    project = demo(client)
    pid, look = project["id"], project["looks"][0]["id"]
    for path, model in (
        (f"/projects/{pid}", answers.Project), (f"/projects/{pid}/plan", answers.Plan),
        (f"/projects/{pid}/parts", answers.Parts), ("/photometry", list[answers.Luminaire]),
        (f"/projects/{pid}/looks/{look}/daylight", answers.Daylight),
        ("/skies", list[answers.SkyCard]), ("/tables", list[answers.Named]),
        (f"/projects/{pid}/proofs", list[answers.Proof]),
    ):  # fmt: skip
        answer = client.get(path)
        assert answer.status_code == 200, path
        TypeAdapter(model).validate_python(answer.json())


def test_the_demo_comes_with_its_shelves(client: httpx.Client) -> None:
    skies = {s["name"]: s for s in client.get("/skies").json()}
    assert len(skies) >= 5
    noon = skies["Broken cumulus noon"]
    assert noon["sun"]["elevation_deg"] == pytest.approx(46, abs=0.5)
    assert noon["lux"] > 60_000
    assert skies["Overcast quay"]["sun"] is None
    assert skies["Moonlit"]["lux"] < 1
    thumb = client.get(f"/skies/{noon['asset']}/thumbnail")
    assert thumb.headers["content-type"] == "image/jpeg"
    assert {"Chalk", "Kiln", "Salt print", "Slate dusk"} <= {
        t["name"] for t in client.get("/tables").json()
    }


def test_bad_files_are_refused_in_words(client: httpx.Client) -> None:
    for path, name, words in (
        ("/skies", "sky.exr", "save it again"), ("/skies", "sky.hdr", "save it again"),
        ("/tables", "table.cube", "not a .cube"), ("/photometry", "lamp.ies", ""),
    ):  # fmt: skip
        answer = client.post(path, files={"file": (name, b"nonsense \xff\xfe")})
        assert answer.status_code == 422, path
        assert words in answer.json()["detail"]
    good = client.post("/tables", files={"file": ("Plain.cube", identity_cube().encode())})
    assert good.json()["name"] == "Plain"


def test_copies_and_schedule(client: httpx.Client) -> None:
    project = demo(client)
    pid, look = project["id"], project["looks"][1]["id"]
    lamp = next(s for s in project["sources"] if s["settings"]["kind"] == "fixture")
    assert lamp["per_lumen"]["cd"] > 0
    rows = client.get(f"/projects/{pid}/looks/{look}/schedule.csv").text.splitlines()
    assert rows[0].startswith("\ufefffixture,shape,count,colour (K),flux each (lm)")
    assert any(lamp["name"] in r for r in rows)
    grid = {"columns": 300, "rows": 1}
    assert (
        client.post(f"/projects/{pid}/fixtures/{lamp['id']}/repeat", json=grid).status_code == 422
    )
    before = len(lamp["settings"]["places"])
    after = client.post(f"/projects/{pid}/fixtures/{lamp['id']}/repeat",
                        json={"columns": 5, "rows": 2}).json()  # fmt: skip
    made = next(s for s in after["sources"] if s["id"] == lamp["id"])
    assert len(made["settings"]["places"]) == 10
    back = client.post(f"/projects/{pid}/undo").json()["project"]
    again = next(s for s in back["sources"] if s["id"] == lamp["id"])
    assert len(again["settings"]["places"]) == before


def test_sheets_end_when_told(client: httpx.Client, server: Server) -> None:
    project = demo(client)
    pid = project["id"]
    body = {"look": project["looks"][0]["id"], "view": project["views"][0]["id"], "kind": "all"}
    sheet = client.post(f"/projects/{pid}/sheets", json=body).json()
    assert len(sheet["pictures"]) == len(project["looks"]) * len(project["views"])
    assert sheet["running"]
    assert client.get(f"/sheets/{sheet['id']}/pictures/99").status_code == 404
    stopped = client.post(f"/sheets/{sheet['id']}/stop").json()
    assert stopped["id"] == sheet["id"]
    assert client.get("/sheets/nothing").status_code == 404
    assert client.post(f"/projects/{pid}/sheets", json={**body, "kind": "moon"}).status_code == 422
