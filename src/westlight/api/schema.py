"""The description of the door for generated clients: `python -m westlight.api.schema > FILE`."""

from __future__ import annotations

import json
from typing import Any

from pydantic.json_schema import models_json_schema

from .app import create_app
from .heads import SOCKET_HEADS
from .settings import ServerSettings


def schema() -> dict[str, Any]:
    """OpenAPI of the routes, with the heads of the picture's socket among its components."""
    # Nothing is opened for a description, but the application wants an address to be able to.
    nowhere = ServerSettings(database_url="postgresql+psycopg://nowhere/none")
    described = create_app(nowhere).openapi()
    _, heads = models_json_schema(
        [(head, "serialization") for head in SOCKET_HEADS],
        ref_template="#/components/schemas/{model}",
    )
    components = described["components"]["schemas"]
    return {
        **described,
        "components": {"schemas": {**components, **heads.get("$defs", {})}},
    }


if __name__ == "__main__":
    print(json.dumps(schema(), indent=1, sort_keys=True))
