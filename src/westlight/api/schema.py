"""The description of the door for generated clients: `python -m westlight.api.schema > FILE`."""

from __future__ import annotations

import json
from typing import Any

from pydantic import BaseModel
from pydantic.json_schema import models_json_schema

from westlight.engine.questions import QUESTIONS

from .app import create_app
from .heads import SOCKET_HEADS
from .messages import Show
from .settings import ServerSettings


def schema() -> dict[str, Any]:
    """OpenAPI of the routes; among its components the heads of the picture's socket, and `Questions`."""
    # Nothing is opened for a description, but the application wants an address to be able to.
    nowhere = ServerSettings(database_url="postgresql+psycopg://nowhere/none")
    described = create_app(nowhere).openapi()
    asked: list[tuple[type[BaseModel], Any]] = [(head, "serialization") for head in SOCKET_HEADS]
    asked += [(Show, "validation")]
    public = [q for q in QUESTIONS.values() if not q.inside]
    for q in public:
        asked += [(q.request, "validation"), (q.answer, "serialization")]
    refs, heads = models_json_schema(
        list(dict.fromkeys(asked)), ref_template="#/components/schemas/{model}"
    )
    questions = {
        q.name: _object(
            of=refs[(q.request, "validation")], answer=refs[(q.answer, "serialization")]
        )
        for q in public
    }
    components = {**described["components"]["schemas"], **heads.get("$defs", {})}
    return {
        **described,
        "components": {"schemas": {**components, "Questions": _object(**questions)}},
    }


def _object(**properties: Any) -> dict[str, Any]:
    return {"type": "object", "properties": properties, "required": sorted(properties)}


if __name__ == "__main__":
    print(json.dumps(schema(), indent=1, sort_keys=True))
