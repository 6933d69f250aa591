"""The application: routes over the studio, the picture's socket, and the browser's files."""

from __future__ import annotations

import tempfile
import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import FastAPI, Query, Request, UploadFile, WebSocket
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool

from westlight.core.errors import WestlightError
from westlight.engine.host import EngineHost
from westlight.store import Store
from westlight.studio import gazetteer
from westlight.studio.daylight import warm_up
from westlight.studio.errors import NotFound
from westlight.studio.fixtures import as_csv
from westlight.studio.studio import Studio
from westlight.studio.tables import LARGEST_BYTES

from . import answers as A
from .bodies import (
    Again,
    Direction,
    Edit,
    EditKind,
    Grid,
    Kind,
    LampStep,
    LevelsOf,
    NewFinish,
    NewFixture,
    NewName,
    NewProject,
    NewProof,
    NewRow,
    NewSheet,
    NewStill,
    NewWhite,
    Note,
    PhotometricCopy,
    PictureSun,
    StillAct,
)
from .picture import PictureSocket
from .settings import ServerSettings


def create_app(settings: ServerSettings | None = None) -> FastAPI:
    """The application for some settings (by default from the environment)."""
    chosen = settings or ServerSettings()
    store = Store(chosen.database_url)
    studio = Studio(store, chosen.data)
    engine = EngineHost()

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        store.migrate()
        if chosen.demo is not None:
            studio.create_demo(chosen.demo)
        studio.stills.start()
        engine.start()
        threading.Thread(target=warm_up, daemon=True).start()
        yield
        engine.close()
        studio.stills.close()
        studio.sheets.close()
        store.close()

    app = FastAPI(title="Westlight", lifespan=lifespan)
    app.state.studio, app.state.engine = studio, engine
    _errors(app)
    _projects(app, studio)
    _past(app, studio)
    _places(app)
    _proofs(app, studio, engine)
    _fixtures(app, studio)
    _papers(app, studio)
    _building(app, studio)
    _shelf(app, studio)
    _tables(app, studio)
    _finishes(app, studio)
    _whites(app, studio)
    _levels(app, studio)
    _skies(app, studio)
    _backdrops(app, studio)
    _sheets(app, studio)
    _stills(app, studio)

    @app.get("/api/health")
    def health() -> dict[str, Any]:
        return {"ok": True, "engine_pid": engine.pid}

    @app.websocket("/api/picture")
    async def picture(socket: WebSocket) -> None:
        await PictureSocket(socket, studio, engine).serve()

    if chosen.web.is_dir():
        app.mount("/", StaticFiles(directory=chosen.web, html=True), name="web")
    return app


def _errors(app: FastAPI) -> None:
    @app.exception_handler(WestlightError)
    async def in_words(_: Request, error: WestlightError) -> JSONResponse:
        status = 404 if isinstance(error, NotFound) else 422
        return JSONResponse({"detail": str(error)}, status_code=status)


def _projects(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/projects", response_model=list[A.Named])
    def projects() -> list[dict[str, Any]]:
        return studio.projects()

    @app.post("/api/projects", response_model=A.Named)
    def create(body: NewProject) -> dict[str, str]:
        return {"id": studio.create_project(body.name), "name": body.name}

    @app.get("/api/projects/{project}", response_model=A.Project)
    def overview(project: str) -> dict[str, Any]:
        return studio.overview(project)

    @app.patch("/api/projects/{project}/rows/{kind}/{row}", response_model=A.Project)
    def change(project: str, kind: EditKind, row: str, body: Edit) -> dict[str, Any]:
        studio.change(project, kind, row, body.patch, body.label, body.gesture)
        return studio.overview(project)

    @app.post("/api/projects/{project}/rows/{kind}", response_model=A.Made)
    def add(project: str, kind: Kind, body: NewRow) -> dict[str, Any]:
        row = studio.add(project, kind, body.name, body.settings)
        return {"id": row, "project": studio.overview(project)}

    @app.post("/api/projects/{project}/fixtures", response_model=A.Made)
    def place(project: str, body: NewFixture) -> dict[str, Any]:
        row = studio.place_fixture(project, body.shape, body.position, body.normal, body.photometry)
        return {"id": row, "project": studio.overview(project)}

    @app.delete("/api/projects/{project}/rows/{kind}/{row}", response_model=A.Project)
    def remove(project: str, kind: Kind, row: str) -> dict[str, Any]:
        studio.remove(project, kind, row)
        return studio.overview(project)

    @app.post("/api/projects/{project}/undo", response_model=A.Stepped)
    def undo(project: str) -> dict[str, Any]:
        label = studio.undo(project)
        return {"label": label, "project": studio.overview(project)}

    @app.post("/api/projects/{project}/redo", response_model=A.Stepped)
    def redo(project: str) -> dict[str, Any]:
        label = studio.redo(project)
        return {"label": label, "project": studio.overview(project)}


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


def _past(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/projects/{project}/history", response_model=list[A.Step])
    def steps(project: str) -> list[dict[str, Any]]:
        return studio.history(project)

    @app.post("/api/projects/{project}/history/{step}", response_model=A.Stepped)
    def go_to(project: str, step: int) -> dict[str, Any]:
        label = studio.go_to(project, step)
        return {"label": label, "project": studio.overview(project)}

    @app.post("/api/projects/{project}/looks/{look}/versions", response_model=A.Project)
    def keep(project: str, look: str, body: NewName) -> dict[str, Any]:
        studio.keep_version(project, look, body.name)
        return studio.overview(project)

    @app.post("/api/projects/{project}/versions/{version}/restore", response_model=A.Project)
    def restore(project: str, version: str) -> dict[str, Any]:
        studio.restore_version(project, version)
        return studio.overview(project)

    @app.delete("/api/projects/{project}/versions/{version}", response_model=A.Project)
    def drop(project: str, version: str) -> dict[str, Any]:
        studio.drop_version(project, version)
        return studio.overview(project)


def _fixtures(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/fixtures/{source}/repeat", response_model=A.Project)
    def repeat(project: str, source: str, body: Grid) -> dict[str, Any]:
        studio.repeat_fixture(project, source, **body.model_dump())
        return studio.overview(project)

    @app.post("/api/projects/{project}/fixtures/{source}/separate", response_model=A.Project)
    def separate(project: str, source: str) -> dict[str, Any]:
        studio.separate_fixture(project, source)
        return studio.overview(project)

    @app.get("/api/projects/{project}/looks/{look}/lights.zip", response_class=Response)
    def lights(project: str, look: str, view: str) -> Response:
        name = {"content-disposition": 'attachment; filename="lights.zip"'}
        made = studio.lights(project, look, view)
        return Response(made, media_type="application/zip", headers=name)

    @app.post("/api/projects/{project}/lights", response_model=A.Brought)
    async def bring(project: str, file: UploadFile) -> dict[str, Any]:
        name = Path(file.filename or "lights").name
        async with _on_disk(file) as kept:
            count = await run_in_threadpool(studio.bring_lights, project, kept, name)
        return {"count": count, "project": studio.overview(project)}

    @app.get("/api/projects/{project}/looks/{look}/schedule.csv", response_class=Response)
    def schedule(project: str, look: str) -> Response:
        name = {"content-disposition": 'attachment; filename="light-schedule.csv"'}
        made = as_csv(studio.schedule(project, look))
        return Response(made, media_type="text/csv", headers=name)


def _papers(app: FastAPI, studio: Studio) -> None:
    def paper(made: bytes, name: str, media: str = "application/pdf") -> Response:
        named = {"content-disposition": f'attachment; filename="{name}"'}
        return Response(made, media_type=media, headers=named)

    @app.get("/api/projects/{project}/looks/{look}/schedule.pdf", response_class=Response)
    def schedule(project: str, look: str) -> Response:
        return paper(studio.schedule_pdf(project, look), "light-schedule.pdf")

    @app.get("/api/projects/{project}/looks/{look}/sun-table.pdf", response_class=Response)
    def sun(project: str, look: str) -> Response:
        return paper(studio.sun_pdf(project, look), "sun-table.pdf")

    @app.get("/api/projects/{project}/looks/{look}/sun-table.csv", response_class=Response)
    def sun_rows(project: str, look: str) -> Response:
        made = as_csv(studio.sun_table(project, look))
        return paper(made.encode(), "sun-table.csv", "text/csv")

    @app.get("/api/projects/{project}/client-sheet.pdf", response_class=Response)
    def client(project: str, note: str = "") -> Response:
        return paper(studio.client_pdf(project, note[:2000]), "client-sheet.pdf")

    @app.get("/api/storage", response_model=A.Storage)
    def storage() -> dict[str, Any]:
        return studio.storage()

    @app.post("/api/storage/sweep", response_model=A.Storage)
    def sweep() -> dict[str, Any]:
        return studio.sweep_storage()


def _building(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/import", response_model=A.Imported)
    async def import_model(project: str, file: UploadFile, up: str = "y") -> dict[str, Any]:
        name = Path(file.filename or "model").name
        async with _on_disk(file) as kept:
            report = await run_in_threadpool(studio.import_model, project, kept, name, up)
        return {"report": report, "project": studio.overview(project)}

    @app.post("/api/projects/{project}/up", response_model=A.Project)
    def turn_up(project: str, body: Direction) -> dict[str, Any]:
        studio.turn_up(project, body.direction)
        return studio.overview(project)

    @app.get("/api/projects/{project}/parts", response_model=A.Parts)
    def parts(project: str) -> dict[str, Any]:
        return studio.parts(project)

    @app.get("/api/projects/{project}/plan", response_model=A.Plan | None)
    def plan(project: str, height: float = 1.2) -> dict[str, Any] | None:
        return studio.plan(project, height)

    @app.get("/api/projects/{project}/check", response_model=list[A.Finding])
    def check(project: str) -> list[dict[str, Any]]:
        return studio.check(project)

    @app.get("/api/projects/{project}/section", response_model=A.Plan | None)
    def section(project: str, x: float, y: float, looking: float) -> dict[str, Any] | None:
        return studio.section(project, (x, y), looking)

    @app.get("/api/projects/{project}/looks/{look}/daylight", response_model=A.Daylight)
    def daylight(project: str, look: str) -> dict[str, Any]:
        return {
            "chart": studio.chart(project, look), "facts": studio.facts(project, look),
            "stands": studio.stands(project, look),
        }  # fmt: skip


def _shelf(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/photometry", response_model=list[A.Luminaire])
    def photometry() -> list[dict[str, Any]]:
        return studio.photometry()

    @app.get("/api/photometry/{asset}/wall", response_class=FileResponse)
    def wall(asset: str) -> FileResponse:
        return FileResponse(studio.photometric_wall(asset), media_type="image/jpeg")

    @app.get("/api/photometry/{asset}/file", response_class=FileResponse)
    def photometric_file(asset: str, name: str = "luminaire") -> FileResponse:
        return FileResponse(studio.photometric_file(asset), media_type="text/plain",
                            filename=f"{Path(name).name}.ies")  # fmt: skip

    @app.post("/api/photometry/{asset}/copy", response_model=A.Luminaire)
    def copy(asset: str, body: PhotometricCopy) -> dict[str, Any]:
        return studio.copy_photometry(asset, **body.model_dump())

    @app.post("/api/photometry", response_model=A.Luminaire)
    async def add(file: UploadFile) -> dict[str, Any]:
        content = await file.read(9_000_000)
        return await run_in_threadpool(
            studio.add_photometry, content, Path(file.filename or "luminaire").name
        )


def _tables(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/tables", response_model=list[A.Named])
    def tables() -> list[dict[str, Any]]:
        return studio.tables()

    @app.post("/api/tables", response_model=A.Named)
    async def add(file: UploadFile) -> dict[str, Any]:
        content = await file.read(LARGEST_BYTES + 1)
        name = Path(file.filename or "table.cube").name
        return await run_in_threadpool(studio.add_table, content, name)


def _finishes(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/finishes", response_model=list[A.Kept])
    def finishes() -> list[dict[str, Any]]:
        return studio.finishes.shelf()

    @app.post("/api/finishes", response_model=list[A.Kept])
    def keep(body: NewFinish) -> list[dict[str, Any]]:
        studio.keep_finish(body.look, body.name)
        return studio.finishes.shelf()

    @app.delete("/api/finishes/{finish}", response_model=list[A.Kept])
    def remove(finish: str) -> list[dict[str, Any]]:
        studio.finishes.remove(finish)
        return studio.finishes.shelf()


def _whites(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/whites", response_model=list[A.Kept])
    def whites() -> list[dict[str, Any]]:
        return studio.whites.shelf()

    @app.post("/api/whites", response_model=list[A.Kept])
    def keep(body: NewWhite) -> list[dict[str, Any]]:
        studio.whites.keep(body.name, body.kelvin, body.colour)
        return studio.whites.shelf()

    @app.delete("/api/whites/{white}", response_model=list[A.Kept])
    def remove(white: str) -> list[dict[str, Any]]:
        studio.whites.remove(white)
        return studio.whites.shelf()


def _proofs(app: FastAPI, studio: Studio, engine: EngineHost) -> None:
    @app.get("/api/projects/{project}/proofs", response_model=list[A.Proof])
    def proofs(project: str) -> list[dict[str, Any]]:
        return studio.proofs(project)

    @app.post("/api/projects/{project}/proofs", response_model=list[A.Proof])
    def keep(project: str, body: NewProof) -> list[dict[str, Any]]:
        return studio.keep_proof(project, body.look, body.view, engine.ask("proof", 20.0))

    @app.patch("/api/projects/{project}/proofs/{proof}", response_model=list[A.Proof])
    def note(project: str, proof: str, body: Note) -> list[dict[str, Any]]:
        studio.note_proof(project, proof, body.note)
        return studio.proofs(project)

    @app.delete("/api/projects/{project}/proofs/{proof}", response_model=list[A.Proof])
    def remove(project: str, proof: str) -> list[dict[str, Any]]:
        studio.remove_proof(project, proof)
        return studio.proofs(project)

    @app.post("/api/projects/{project}/proofs/back", response_model=list[A.Proof])
    def back(project: str) -> list[dict[str, Any]]:
        return studio.put_back_proof(project)

    @app.post("/api/projects/{project}/proofs/{proof}/restore", response_model=A.Restored)
    def restore(project: str, proof: str) -> dict[str, Any]:
        return {**studio.restore_proof(project, proof), "project": studio.overview(project)}

    @app.get("/api/projects/{project}/proofs/{proof}/differences")
    def differences(project: str, proof: str, look: str, view: str) -> list[str]:
        return studio.proof_differences(project, proof, look, view)

    @app.get("/api/projects/{project}/proofs/{proof}/difference", response_class=Response)
    def difference(project: str, proof: str) -> Response:
        made = studio.proof_difference(project, proof, engine.ask("proof", 20.0))
        return Response(made, media_type="image/png")


def _levels(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/looks/{look}/lamps", response_model=A.Project)
    def lamps(project: str, look: str, body: LampStep) -> dict[str, Any]:
        studio.shift_lamps(project, look, body.step)
        return studio.overview(project)

    @app.post("/api/projects/{project}/looks/{look}/levels", response_model=A.Project)
    def levels(project: str, look: str, body: LevelsOf) -> dict[str, Any]:
        studio.copy_levels(project, look, body.look, body.source)
        return studio.overview(project)

    @app.post("/api/projects/{project}/looks/{look}/picture-sun", response_model=A.Project)
    def picture_sun(project: str, look: str, body: PictureSun) -> dict[str, Any]:
        studio.picture_sun(project, look, body.act)
        return studio.overview(project)


@asynccontextmanager
async def _on_disk(file: UploadFile) -> AsyncIterator[Path]:
    """An upload as a file of its kind, gone afterwards."""
    suffix = Path(file.filename or "").suffix.lower()
    with tempfile.NamedTemporaryFile(suffix=suffix) as kept:
        while block := await file.read(1 << 20):
            kept.write(block)
        kept.flush()
        yield Path(kept.name)


def _backdrops(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/backdrops", response_model=list[A.Named])
    def backdrops() -> list[dict[str, Any]]:
        return studio.backdrops.shelf()

    @app.post("/api/backdrops", response_model=A.Named)
    async def add(file: UploadFile) -> dict[str, Any]:
        async with _on_disk(file) as kept:
            return await run_in_threadpool(
                studio.backdrops.add, kept, Path(file.filename or "backdrop.jpg").name
            )

    @app.get("/api/backdrops/{backdrop}/thumbnail", response_class=FileResponse)
    def thumbnail(backdrop: str) -> FileResponse:
        return FileResponse(studio.backdrops.thumbnail(backdrop), media_type="image/jpeg")


def _skies(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/skies", response_model=list[A.SkyCard])
    def shelf() -> list[dict[str, Any]]:
        return studio.skies.shelf()

    @app.post("/api/skies", response_model=A.SkyCard)
    async def add(file: UploadFile) -> dict[str, Any]:
        async with _on_disk(file) as kept:
            return await run_in_threadpool(
                studio.skies.add, kept, Path(file.filename or "sky.exr").name
            )

    @app.get("/api/skies/{sky}/thumbnail", response_class=FileResponse)
    def thumbnail(sky: str) -> FileResponse:
        return FileResponse(studio.skies.thumbnail(sky), media_type="image/jpeg")


def _sheets(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/sheets", response_model=A.Sheet)
    def begin(project: str, body: NewSheet) -> dict[str, Any]:
        return studio.make_sheet(project, body.look, body.view, body.kind)

    @app.get("/api/sheets/{sheet}", response_model=A.Sheet)
    def sheet(sheet: str) -> dict[str, Any]:
        return studio.sheets.get(sheet).describe()

    @app.post("/api/sheets/{sheet}/stop", response_model=A.Sheet)
    def stop(sheet: str) -> dict[str, Any]:
        studio.sheets.stop(sheet)
        return studio.sheets.get(sheet).describe()

    @app.get("/api/sheets/{sheet}/pictures/{n}", response_class=FileResponse)
    def picture(sheet: str, n: int) -> FileResponse:
        return FileResponse(studio.sheets.picture(sheet, n), media_type="image/jpeg")

    @app.get("/api/sheets/{sheet}/file.{kind}", response_class=Response)
    def file(sheet: str, kind: Literal["png", "pdf"]) -> Response:
        name = {"content-disposition": f'attachment; filename="contact-sheet.{kind}"'}
        media = "application/pdf" if kind == "pdf" else "image/png"
        made = studio.sheets.as_file(sheet, kind.upper())
        return Response(made, media_type=media, headers=name)


def _stills(app: FastAPI, studio: Studio) -> None:
    @app.post("/api/projects/{project}/stills", response_model=A.Made)
    def order(project: str, body: NewStill) -> dict[str, Any]:
        wanted = body.model_dump(exclude={"look", "view"})
        still = studio.order_still(project, body.look, body.view, **wanted)
        return {"id": still, "project": studio.overview(project)}

    @app.get("/api/projects/{project}/stills.zip", response_class=FileResponse)
    def packed(project: str, still: Annotated[tuple[str, ...], Query()] = ()) -> FileResponse:
        made = studio.stills_zip(project, still)
        return FileResponse(made, media_type="application/zip", filename="stills.zip",
                            background=BackgroundTask(made.unlink, missing_ok=True))  # fmt: skip

    @app.get("/api/stills/{still}/preview", response_class=FileResponse)
    def preview(still: str) -> FileResponse:
        return FileResponse(studio.stills.preview(still), media_type="image/jpeg",
                            headers={"cache-control": "no-store"})  # fmt: skip

    @app.get("/api/stills/{still}/recipe.json", response_class=Response)
    def recipe(still: str) -> Response:
        named = {"content-disposition": 'attachment; filename="still-recipe.json"'}
        return Response(studio.stills.recipe(still), media_type="application/json", headers=named)

    @app.post("/api/projects/{project}/stills/{still}/again", response_model=A.Made)
    def again(project: str, still: str, body: Again) -> dict[str, Any]:
        made = studio.render_again(project, still, **body.model_dump())
        return {"id": made, "project": studio.overview(project)}

    @app.post("/api/projects/{project}/stills/{still}/{act}", response_model=A.Project)
    def act(project: str, still: str, act: StillAct) -> dict[str, Any]:
        getattr(studio.stills, act)(still)
        return studio.overview(project)

    @app.post("/api/projects/{project}/stills/{still}/mixed/{look}", response_model=A.Made)
    def mixed(project: str, still: str, look: str) -> dict[str, Any]:
        return {"id": studio.mix_still(project, still, look), "project": studio.overview(project)}

    @app.get("/api/files/{asset}", response_class=FileResponse)
    def download(asset: str, show: bool = False) -> FileResponse:
        path, name, media = studio.asset_file(asset)
        kind = "inline" if show else "attachment"
        return FileResponse(path, media_type=media, filename=name, content_disposition_type=kind)
