"""Routes of what is kept and handed over: proofs, contact sheets, stills, papers."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import FastAPI, Query
from fastapi.responses import FileResponse, Response
from starlette.background import BackgroundTask

from westlight.core.errors import WestlightError
from westlight.engine.host import EngineHost
from westlight.engine.questions import QUESTIONS, Answer
from westlight.engine.questions.light import PatternMap, Patterns
from westlight.engine.questions.light_plan import Kind as LightKind
from westlight.engine.questions.light_plan import LightWanted
from westlight.engine.spec import Settings
from westlight.studio.fixtures import as_csv
from westlight.studio.studio import Studio

from . import answers as A
from .bodies import (
    Again,
    NewProof,
    NewSeries,
    NewSheet,
    NewStill,
    Note,
    SeriesAct,
    StillAct,
)

#: Degrees between the suns of which lights to begin with are chosen.
START_STEP_DEG = 8.0


def add_handover_routes(app: FastAPI, studio: Studio, engine: EngineHost) -> None:
    """Add them to the application."""
    _proofs(app, studio, engine)
    _sheets(app, studio, engine)
    _stills(app, studio)
    _papers(app, studio, engine)


def _picture_of(engine: EngineHost, session: str) -> dict[str, Any]:
    """The present picture of a page as files; nothing where there is none. Raises `WestlightError`."""
    found = _asked(engine, session, "proof").model_dump()
    return found if found["jpeg"] is not None else {}


def _asked(engine: EngineHost, session: str, what: str, of: Settings | None = None) -> Answer:
    """What a page's picture answers to a question; raises `WestlightError`."""
    question = QUESTIONS[what]
    try:
        return engine.session(session).ask(question.name, of).result(question.timeout_s)
    except TimeoutError as error:
        raise WestlightError("The picture is busy; try again in a moment.") from error


def _proofs(app: FastAPI, studio: Studio, engine: EngineHost) -> None:
    @app.get("/api/projects/{project}/proofs", response_model=list[A.Proof])
    def proofs(project: str) -> list[dict[str, Any]]:
        return studio.proofs.all(project)

    @app.post("/api/projects/{project}/proofs", response_model=list[A.Proof])
    def keep(project: str, body: NewProof) -> list[dict[str, Any]]:
        return studio.proofs.keep(project, body.look, body.view, _picture_of(engine, body.session))

    @app.patch("/api/projects/{project}/proofs/{proof}", response_model=list[A.Proof])
    def note(project: str, proof: str, body: Note) -> list[dict[str, Any]]:
        studio.proofs.note(project, proof, body.note)
        return studio.proofs.all(project)

    @app.delete("/api/projects/{project}/proofs/{proof}", response_model=list[A.Proof])
    def remove(project: str, proof: str) -> list[dict[str, Any]]:
        studio.proofs.remove(project, proof)
        return studio.proofs.all(project)

    @app.post("/api/projects/{project}/proofs/back", response_model=list[A.Proof])
    def back(project: str) -> list[dict[str, Any]]:
        return studio.proofs.put_back(project)

    @app.post("/api/projects/{project}/proofs/{proof}/restore", response_model=A.Restored)
    def restore(project: str, proof: str) -> dict[str, Any]:
        return {
            **studio.proofs.restore(project, proof),
            "project": studio.projects.overview(project),
        }

    @app.get("/api/projects/{project}/proofs/{proof}/differences")
    def differences(project: str, proof: str, look: str, view: str) -> list[str]:
        return studio.proofs.differences(project, proof, look, view)

    @app.get("/api/projects/{project}/proofs/{proof}/difference", response_class=Response)
    def difference(project: str, proof: str, session: str) -> Response:
        made = studio.proofs.difference(project, proof, _picture_of(engine, session))
        return Response(made, media_type="image/png")


def _sheets(app: FastAPI, studio: Studio, engine: EngineHost) -> None:
    @app.post("/api/projects/{project}/sheets", response_model=A.Sheet)
    def begin(project: str, body: NewSheet) -> dict[str, Any]:
        found = None
        if body.kind == "start":
            scored = _asked(engine, body.session, "pattern", Patterns(step_deg=START_STEP_DEG))
            found = scored.as_found() if isinstance(scored, PatternMap) else None
        return studio.handover.make_sheet(project, body.look, body.view, body.kind, found)

    @app.get("/api/sheets/{sheet}", response_model=A.Sheet)
    def sheet(sheet: str) -> dict[str, Any]:
        return studio.handover.sheets.get(sheet).describe()

    @app.post("/api/sheets/{sheet}/stop", response_model=A.Sheet)
    def stop(sheet: str) -> dict[str, Any]:
        studio.handover.sheets.stop(sheet)
        return studio.handover.sheets.get(sheet).describe()

    @app.get("/api/sheets/{sheet}/pictures/{n}", response_class=FileResponse)
    def picture(sheet: str, n: int) -> FileResponse:
        return FileResponse(studio.handover.sheets.picture(sheet, n), media_type="image/jpeg")

    @app.get("/api/sheets/{sheet}/file.{kind}", response_class=Response)
    def file(sheet: str, kind: Literal["png", "pdf"]) -> Response:
        name = {"content-disposition": f'attachment; filename="contact-sheet.{kind}"'}
        media = "application/pdf" if kind == "pdf" else "image/png"
        made = studio.handover.sheets.as_file(sheet, kind.upper())
        return Response(made, media_type=media, headers=name)


def _stills(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/stills", response_model=A.Made)
    def order(project: str, body: NewStill) -> dict[str, Any]:
        wanted = body.model_dump(exclude={"look", "view"})
        still = studio.handover.order_still(project, body.look, body.view, **wanted)
        return {"id": still, "project": studio.projects.overview(project)}

    @app.post("/api/projects/{project}/series", response_model=A.Made)
    def series(project: str, body: NewSeries) -> dict[str, Any]:
        wanted = body.model_dump(exclude={"look", "view", "series"})
        made = studio.handover.order_series(project, body.look, body.view, body.series, **wanted)
        return {"id": made, "project": studio.projects.overview(project)}

    @app.post("/api/projects/{project}/series/{series}/{act}", response_model=A.Project)
    def act_on_series(project: str, series: str, act: SeriesAct) -> dict[str, Any]:
        studio.handover.act_on_series(project, series, act)
        return studio.projects.overview(project)

    @app.get("/api/projects/{project}/series/{series}.webp", response_class=Response)
    def moving(project: str, series: str) -> Response:
        named = {"content-disposition": 'inline; filename="series.webp"'}
        made = studio.handover.moving(project, series)
        return Response(made, media_type="image/webp", headers=named)

    @app.get("/api/projects/{project}/stills", response_model=list[A.StillRow])
    def stills(project: str) -> list[dict[str, Any]]:
        return studio.handover.stills(project)

    @app.get("/api/projects/{project}/stills.zip", response_class=FileResponse)
    def packed(
        project: str, still: Annotated[tuple[str, ...], Query()] = (), series: str = ""
    ) -> FileResponse:
        made = studio.handover.stills_zip(project, still, series)
        return FileResponse(made, media_type="application/zip", filename="stills.zip",
                            background=BackgroundTask(made.unlink, missing_ok=True))  # fmt: skip

    @app.get("/api/stills/{still}/preview", response_class=FileResponse)
    def preview(still: str) -> FileResponse:
        return FileResponse(studio.handover.queue.preview(still), media_type="image/jpeg",
                            headers={"cache-control": "no-store"})  # fmt: skip

    @app.get("/api/stills/{still}/recipe.json", response_class=Response)
    def recipe(still: str) -> Response:
        named = {"content-disposition": 'attachment; filename="still-recipe.json"'}
        return Response(
            studio.handover.queue.recipe(still), media_type="application/json", headers=named
        )

    @app.post("/api/projects/{project}/stills/{still}/again", response_model=A.Made)
    def again(project: str, still: str, body: Again) -> dict[str, Any]:
        made = studio.handover.render_again(project, still, **body.model_dump())
        return {"id": made, "project": studio.projects.overview(project)}

    @app.post("/api/projects/{project}/stills/{still}/{act}", response_model=A.Project)
    def act(project: str, still: str, act: StillAct) -> dict[str, Any]:
        getattr(studio.handover.queue, act)(still)
        return studio.projects.overview(project)

    @app.post("/api/projects/{project}/stills/{still}/mixed/{look}", response_model=A.Made)
    def mixed(project: str, still: str, look: str) -> dict[str, Any]:
        return {
            "id": studio.handover.mix_still(project, still, look),
            "project": studio.projects.overview(project),
        }

    @app.get("/api/files/{asset}", response_class=FileResponse)
    def download(asset: str, show: bool = False) -> FileResponse:
        path, name, media = studio.shelves.any_file(asset)
        kind = "inline" if show else "attachment"
        return FileResponse(path, media_type=media, filename=name, content_disposition_type=kind)


def _papers(app: FastAPI, studio: Studio, engine: EngineHost) -> None:
    def paper(made: bytes, name: str, media: str = "application/pdf") -> Response:
        named = {"content-disposition": f'attachment; filename="{name}"'}
        return Response(made, media_type=media, headers=named)

    @app.get("/api/projects/{project}/looks/{look}/schedule.pdf", response_class=Response)
    def schedule(project: str, look: str) -> Response:
        return paper(studio.handover.schedule_pdf(project, look), "light-schedule.pdf")

    @app.get("/api/projects/{project}/looks/{look}/sun-table.pdf", response_class=Response)
    def sun(project: str, look: str) -> Response:
        return paper(studio.handover.sun_pdf(project, look), "sun-table.pdf")

    @app.get("/api/projects/{project}/looks/{look}/sun-table.csv", response_class=Response)
    def sun_rows(project: str, look: str) -> Response:
        made = as_csv(studio.handover.sun_table(project, look))
        return paper(made.encode(), "sun-table.csv", "text/csv")

    @app.get("/api/projects/{project}/looks/{look}/light-plan.pdf", response_class=Response)
    def light(
        project: str, look: str, of: LightKind, session: str, x: float, y: float, z: float,
        height: Annotated[float, Query(ge=0, le=10)] = 0.75,
    ) -> Response:  # fmt: skip
        wanted = LightWanted(of=of, at=(x, y, z), height_m=height)
        found = _asked(engine, session, "light on plan", wanted).model_dump()
        return paper(
            studio.handover.light_plan_pdf(project, look, of, height, found), "light-plan.pdf"
        )

    @app.get("/api/projects/{project}/client-sheet.pdf", response_class=Response)
    def client(project: str, note: str = "") -> Response:
        return paper(studio.handover.client_pdf(project, note[:2000]), "client-sheet.pdf")

    @app.get("/api/projects/{project}/look-book.html", response_class=Response)
    def book(
        project: str, note: str = "", still: Annotated[tuple[str, ...], Query()] = ()
    ) -> Response:
        made = studio.handover.look_book(project, note[:2000], still)
        return paper(made, "look-book.html", "text/html; charset=utf-8")

    @app.get("/api/storage", response_model=A.Storage)
    def storage() -> dict[str, Any]:
        return studio.projects.storage()

    @app.post("/api/storage/sweep", response_model=A.Storage)
    def sweep() -> dict[str, Any]:
        return studio.projects.sweep()
