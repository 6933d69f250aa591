"""Every operation with made-up requests: none ends in a fault."""

from __future__ import annotations

import itertools
import random
import re
from collections import Counter
from typing import Any
from urllib.parse import urlsplit

import httpx
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.generation import GenerationMode
from starlette.testclient import TestClient

from . import FACTOR

_SETTINGS = settings(
    max_examples=2 * FACTOR, deadline=None, derandomize=True, database=None,
    suppress_health_check=list(HealthCheck), phases=[Phase.generate],
)  # fmt: skip


def sent(client: TestClient, case: schemathesis.Case) -> httpx.Response:
    """A made-up request, sent."""
    told = case.as_transport_kwargs(base_url="http://127.0.0.1:8620")
    # Cookies and headers are not what the operations read; some values no client can send.
    more: dict[str, Any] = {}
    for name in ("params", "files", "json"):
        if told.get(name) is not None:
            more[name] = told[name]
    data = told.get("data")
    if isinstance(data, (bytes, str)):
        more["content"] = data
        more["headers"] = {"content-type": "application/json"}
    elif data is not None:
        more["data"] = data
    return client.request(told["method"], urlsplit(told["url"]).path, **more)


def test_what_is_not_there_is_said(client: TestClient, project: str) -> None:
    """Each name in a path in turn is one of nothing, the others of what there is."""
    rows = client.get(f"/api/projects/{project}").json()
    there = {"project": project, "look": rows["looks"][0]["id"], "view": rows["views"][0]["id"]}
    faults, asked = [], 0
    for path, acts in client.app.openapi()["paths"].items():  # type: ignore[attr-defined]
        names = re.findall(r"{(\w+)}", path)
        for act, gone in itertools.product(acts, names):
            asked += 1
            at = path.format(
                **{n: "nothing" if n == gone else there.get(n, "nothing") for n in names}
            )
            status = client.request(act, at, json={}).status_code
            if status >= 500 or (status == 200 and gone == "project" and act == "get"):
                faults.append((status, act, at))
    assert asked > 100
    assert not faults


def test_no_call_ends_in_a_fault(client: TestClient, project: str) -> None:
    """Requests as the schema allows them, and as it does not; those about what there is among them."""
    schema = schemathesis.openapi.from_dict(client.app.openapi())  # type: ignore[attr-defined]
    calls, unsent, faults = 0, 0, []
    seen: Counter[int] = Counter()
    chance = random.Random(1)

    def known() -> dict[str, str]:
        """Names of what there is: rows come and go by these very calls."""
        rows = client.get(f"/api/projects/{project}").json()
        return {"project": project, "look": rows["looks"][0]["id"], "view": rows["views"][0]["id"]}

    for result in schema.get_all_operations():
        operation = result.ok()
        if operation.path.endswith(("/import", "/projects/file", "/projects/example")):
            continue  # a child of its own for each: see the damaged files

        # What is told by names in its path alone cannot be told wrongly.
        asks = operation.body or operation.query or operation.headers
        wrongly = [GenerationMode.NEGATIVE] if asks else []
        for mode in (GenerationMode.POSITIVE, *wrongly):

            @_SETTINGS
            @given(case=operation.as_strategy(mode))
            def call(case: schemathesis.Case) -> None:
                nonlocal calls, unsent
                # The one project there is must last to the end.
                lasting = case.operation.label != "DELETE /api/projects/{project}"
                if lasting and case.path_parameters and chance.random() < 0.6:
                    there = known()
                    case.path_parameters.update(
                        {k: v for k, v in there.items() if k in case.path_parameters}
                    )
                if isinstance(case.body, dict) and chance.random() < 0.6:
                    case.body |= {k: v for k, v in known().items() if k in case.body}
                calls += 1
                try:
                    answer = sent(client, case)
                except (UnicodeError, httpx.InvalidURL, TypeError, ValueError):
                    unsent += 1
                    return
                seen[answer.status_code] += 1
                if answer.status_code >= 500:
                    faults.append(
                        f"{case.operation.label}: {answer.status_code} {answer.text[:160]} {case.body!r:.200}"
                    )

            try:
                call()
            except Exception as error:
                # An operation without parameters cannot be called wrongly.
                if (
                    "negative" not in str(error).lower()
                    and "Unsatisfiable" not in type(error).__name__
                ):
                    raise
    assert calls - unsent > 200
    # Much of it gets past the door, else nothing behind it is tried.
    assert seen[200] > 40, seen
    assert not faults, "\n".join(dict.fromkeys(faults[:20]))
