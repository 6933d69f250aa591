"""Routes of projects: rows, edits, history, levels, places by name."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path
from typing import Annotated, Any

from fastapi import FastAPI, Query, UploadFile
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, Response
from starlette.background import BackgroundTask

from westlight.engine.project_file import SUFFIX
from westlight.studio import gazetteer
from westlight.studio.lantern_row import NAME as EXAMPLE
from westlight.studio.studio import Studio

from . import answers as A
from .bodies import (
    Edit,
    EditKind,
    Kind,
    LampStep,
    LevelsOf,
    NewFixture,
    NewName,
    NewProject,
    NewRow,
    OtherLook,
    PictureSun,
)
from .uploads import name_of, on_disk


def add_project_routes(app: FastAPI, studio: Studio) -> None:
    """Add them to the application."""
    _projects(app, studio)
    _project(app, studio)
    _past(app, studio)
    _levels(app, studio)
    _places(app)


def _projects(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/projects", response_model=list[A.Card])
    def projects() -> list[dict[str, Any]]:
        return studio.projects.all()

    @app.post("/api/projects", response_model=A.Named)
    def create(body: NewProject) -> dict[str, str]:
        return {"id": studio.projects.create(body.name), "name": body.name}

    @app.post("/api/projects/example", response_model=A.Named)
    def example() -> dict[str, str]:
        return {"id": studio.add_example(), "name": EXAMPLE}

    @app.post("/api/projects/file", response_model=A.Named)
    async def bring(file: UploadFile) -> dict[str, str]:
        name = name_of(file, f"project{SUFFIX}")
        async with on_disk(file) as kept:
            made = await run_in_threadpool(studio.projects.bring, kept, name)
        return {"id": made, "name": name}

    @app.get("/api/projects/{project}/file.zip", response_class=FileResponse)
    def export(project: str) -> FileResponse:
        handle, scratch = tempfile.mkstemp(suffix=SUFFIX)
        os.close(handle)
        target = Path(scratch)
        try:
            name = studio.projects.export(project, target)
        except BaseException:
            target.unlink()
            raise
        return FileResponse(target, media_type="application/zip", filename=f"{name}{SUFFIX}",
                            background=BackgroundTask(target.unlink))  # fmt: skip

    @app.post("/api/projects/{project}/copy", response_model=A.Named)
    def duplicate(project: str) -> dict[str, str]:
        return {"id": studio.projects.duplicate(project), "name": ""}

    @app.delete("/api/projects/{project}", response_model=list[A.Card])
    def remove_project(project: str) -> list[dict[str, Any]]:
        studio.projects.put_aside(project)
        return studio.projects.all()

    @app.post("/api/projects/{project}/back", response_model=list[A.Card])
    def bring_back(project: str) -> list[dict[str, Any]]:
        studio.projects.put_back(project)
        return studio.projects.all()


def _project(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/projects/{project}", response_model=A.Project)
    def overview(project: str) -> dict[str, Any]:
        return studio.projects.overview(project)

    @app.get("/api/projects/{project}/pictures/{look}/{view}", response_class=FileResponse)
    def picture(project: str, look: str, view: str) -> FileResponse:
        file = studio.last_pictures.find(project, look, view)
        return FileResponse(file, media_type="image/jpeg", headers={"Cache-Control": "no-cache"})

    @app.patch("/api/projects/{project}/rows/{kind}/{row}", response_model=A.Project)
    def change(project: str, kind: EditKind, row: str, body: Edit) -> dict[str, Any]:
        studio.history.change(project, kind, row, body.patch, body.label, body.gesture)
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/rows/{kind}", response_model=A.Made)
    def add(project: str, kind: Kind, body: NewRow) -> dict[str, Any]:
        row = studio.history.add(project, kind, body.name, body.settings)
        return {"id": row, "project": studio.projects.overview(project)}

    @app.post("/api/projects/{project}/fixtures", response_model=A.Made)
    def place(project: str, body: NewFixture) -> dict[str, Any]:
        row = studio.fixtures.place(project, **body.model_dump())
        return {"id": row, "project": studio.projects.overview(project)}

    @app.delete("/api/projects/{project}/rows/{kind}/{row}", response_model=A.Project)
    def remove(project: str, kind: Kind, row: str) -> dict[str, Any]:
        studio.history.remove(project, kind, row)
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/undo", response_model=A.Stepped)
    def undo(project: str) -> dict[str, Any]:
        label = studio.history.undo(project)
        return {"label": label, "project": studio.projects.overview(project)}

    @app.post("/api/projects/{project}/redo", response_model=A.Stepped)
    def redo(project: str) -> dict[str, Any]:
        label = studio.history.redo(project)
        return {"label": label, "project": studio.projects.overview(project)}


def _past(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/projects/{project}/history", response_model=list[A.Step])
    def steps(project: str) -> list[dict[str, Any]]:
        return studio.history.steps(project)

    @app.post("/api/projects/{project}/history/{step}", response_model=A.Stepped)
    def go_to(project: str, step: int) -> dict[str, Any]:
        label = studio.history.go_to(project, step)
        return {"label": label, "project": studio.projects.overview(project)}

    @app.post("/api/projects/{project}/looks/{look}/versions", response_model=A.Project)
    def keep(project: str, look: str, body: NewName) -> dict[str, Any]:
        studio.looks.keep_version(project, look, body.name)
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/versions/{version}/restore", response_model=A.Project)
    def restore(project: str, version: str) -> dict[str, Any]:
        studio.looks.restore_version(project, version)
        return studio.projects.overview(project)

    @app.delete("/api/projects/{project}/versions/{version}", response_model=A.Project)
    def drop(project: str, version: str) -> dict[str, Any]:
        studio.looks.drop_version(project, version)
        return studio.projects.overview(project)


def _levels(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/looks/{look}/lamps", response_model=A.Project)
    def lamps(project: str, look: str, body: LampStep) -> dict[str, Any]:
        studio.looks.shift_levels(project, look, body.step)
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/looks/{look}/levels", response_model=A.Project)
    def levels(project: str, look: str, body: LevelsOf) -> dict[str, Any]:
        studio.looks.copy_levels(project, look, body.look, body.source)
        return studio.projects.overview(project)

    @app.get("/api/projects/{project}/looks/{look}/skies.png", response_class=Response)
    def sky_pictures(project: str, look: str) -> Response:
        return Response(studio.scenes.sky_pictures(project, look), media_type="image/png")

    @app.post("/api/projects/{project}/looks/{look}/take", response_model=A.Project)
    def take(project: str, look: str, body: OtherLook) -> dict[str, Any]:
        studio.looks.take(project, look, body.other)
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/looks/{look}/picture-sun", response_model=A.Project)
    def picture_sun(project: str, look: str, body: PictureSun) -> dict[str, Any]:
        studio.looks.picture_sun(project, look, body.act)
        return studio.projects.overview(project)


def _places(app: FastAPI) -> None:
    @app.get("/api/places", response_model=list[A.Town])
    def towns(name: str) -> list[dict[str, Any]]:
        return gazetteer.search(name)

    @app.get("/api/zone", response_model=A.Zone)
    def zone(
        latitude: Annotated[float, Query(ge=-90, le=90)],
        longitude: Annotated[float, Query(ge=-180, le=180)],
    ) -> dict[str, str]:
        return {"time_zone": gazetteer.zone_at(latitude, longitude)}
