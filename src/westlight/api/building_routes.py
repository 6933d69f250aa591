"""Routes of the building: import, plan and section, parts, daylight; its fixtures."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable
from typing import Any

from fastapi import FastAPI, Request, UploadFile
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from westlight.studio.fixtures import as_csv
from westlight.studio.studio import Studio

from . import answers as A
from .bodies import (
    Direction,
    Grid,
    NameInZip,
    UpAxis,
)
from .uploads import name_of, on_disk

#: Seconds between two looks at whether the browser still waits.
LOOK_S = 0.3


def add_building_routes(app: FastAPI, studio: Studio) -> None:
    """Add them to the application."""
    _building(app, studio)
    _fixtures(app, studio)


async def _while_wanted(request: Request, work: Callable[[Callable[[], bool]], Any]) -> Any:
    """Work on another thread, told to stop when the browser gives it up."""
    gone = threading.Event()
    task = asyncio.ensure_future(run_in_threadpool(work, gone.is_set))
    while not (await asyncio.wait([task], timeout=LOOK_S))[0]:
        if await request.is_disconnected():
            gone.set()
    return task.result()


def _building(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/import", response_model=A.Imported)
    async def import_model(
        project: str,
        file: UploadFile,
        request: Request,
        up: UpAxis = "y",
        wanted: NameInZip = "",
    ) -> dict[str, Any]:
        name = name_of(file, "model")
        async with on_disk(file) as kept:
            report = await _while_wanted(
                request, lambda gone: studio.buildings.bring(project, kept, name, up, gone, wanted)
            )
        choose = report.pop("choose", [])
        return {
            "report": report or None,
            "choose": choose,
            "project": studio.projects.overview(project),
        }

    @app.post("/api/projects/{project}/up", response_model=A.Project)
    def turn_up(project: str, body: Direction) -> dict[str, Any]:
        studio.buildings.turn_up(project, body.direction)
        return studio.projects.overview(project)

    @app.get("/api/projects/{project}/parts", response_model=A.Parts)
    def parts(project: str) -> dict[str, Any]:
        return studio.buildings.parts(project)

    @app.get("/api/projects/{project}/plan", response_model=A.Plan | None)
    def plan(
        project: str,
        height: float | None = None,
        eye_x: float = 0.0,
        eye_y: float = 0.0,
        eye_z: float = 0.0,
    ) -> dict[str, Any] | None:
        return studio.buildings.plan(project, height, (eye_x, eye_y, eye_z))

    @app.get("/api/projects/{project}/check", response_model=list[A.Finding])
    def check(project: str) -> list[dict[str, Any]]:
        return studio.buildings.check(project)

    @app.get("/api/projects/{project}/section", response_model=A.Plan | None)
    def section(
        project: str, x: float, y: float, looking: float,
        eye_x: float = 0.0, eye_y: float = 0.0, eye_z: float = 0.0,
    ) -> dict[str, Any] | None:  # fmt: skip
        return studio.buildings.section(project, (x, y), looking, (eye_x, eye_y, eye_z))

    @app.get("/api/projects/{project}/looks/{look}/described", response_model=A.Described)
    def told(project: str, look: str) -> dict[str, str]:
        return {"text": studio.scenes.described(project, look)}

    @app.get("/api/projects/{project}/looks/{look}/daylight", response_model=A.Daylight)
    def daylight(project: str, look: str) -> dict[str, Any]:
        return {
            "chart": studio.scenes.chart(project, look), "facts": studio.scenes.facts(project, look),
            "stands": studio.scenes.stands(project, look),
        }  # fmt: skip


def _fixtures(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/fixtures/{source}/repeat", response_model=A.Project)
    def repeat(project: str, source: str, body: Grid) -> dict[str, Any]:
        studio.fixtures.repeat(project, source, **body.model_dump())
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/fixtures/{source}/alike", response_model=A.Project)
    def fill_alike(project: str, source: str) -> dict[str, Any]:
        studio.fixtures.fill_alike(project, source)
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/fixtures/{source}/separate", response_model=A.Project)
    def separate(project: str, source: str) -> dict[str, Any]:
        studio.fixtures.separate(project, source)
        return studio.projects.overview(project)

    @app.get("/api/projects/{project}/looks/{look}/lights.zip", response_class=Response)
    def lights(project: str, look: str, view: str) -> Response:
        name = {"content-disposition": 'attachment; filename="lights.zip"'}
        made = studio.handover.lights(project, look, view)
        return Response(made, media_type="application/zip", headers=name)

    @app.post("/api/projects/{project}/lights", response_model=A.Brought)
    async def bring(project: str, file: UploadFile) -> dict[str, Any]:
        name = name_of(file, "lights")
        async with on_disk(file) as kept:
            count, remarks = await run_in_threadpool(studio.fixtures.bring, project, kept, name)
        return {"count": count, "remarks": remarks, "project": studio.projects.overview(project)}

    @app.get("/api/projects/{project}/looks/{look}/schedule.csv", response_class=Response)
    def schedule(project: str, look: str) -> Response:
        name = {"content-disposition": 'attachment; filename="light-schedule.csv"'}
        made = as_csv(studio.handover.schedule(project, look))
        return Response(made, media_type="text/csv", headers=name)
