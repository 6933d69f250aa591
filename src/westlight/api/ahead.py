"""Before anybody has opened a page: the building that was worked on last is read and set up, so that its picture is there soon."""

from __future__ import annotations

from typing import Any

import structlog

from westlight.engine.host import STOPPED, EngineHost
from westlight.studio.studio import Studio

log = structlog.get_logger()
#: Pixels across the picture that is made for nobody: what is wanted of it is the building.
WIDTH = 64


def look_ahead(studio: Studio, engine: EngineHost) -> None:
    """Set up the building of the project that was changed last, in a session that ends with its first picture.

    It ends as well if the engine does: a building that breaks it is not tried again before somebody opens it.
    """
    try:
        rows = studio.projects.all()
        if not rows:
            return
        project = studio.projects.overview(max(rows, key=lambda row: row["changed_at"])["id"])
        if not (project["models"] and project["looks"] and project["views"]):
            return
        look, view = project["looks"][0]["id"], project["views"][0]["id"]
        spec = studio.scenes.picture(project["id"], look, view, {}, WIDTH)
    except Exception:
        # Nobody waits for it: whoever opens the project is told what is wrong.
        log.exception("looking ahead failed")
        return

    def heard(head: dict[str, Any], _: bytes) -> None:
        if head["kind"] != "note" or head["text"] == STOPPED:
            session.close()

    session = engine.open(heard)
    session.show(spec)
    try:
        # The sheet beside the picture draws it.
        studio.buildings.plan(project["id"])
    except Exception:
        log.exception("looking ahead failed")
