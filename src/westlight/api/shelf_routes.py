"""Routes of what there is to choose from, and of the shelves: photometric files, film tables, finishes, whites, skies, backdrops, references."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fastapi import FastAPI, UploadFile
from fastapi.responses import FileResponse
from starlette.concurrency import run_in_threadpool

from westlight.studio.studio import Studio
from westlight.studio.vocabulary import vocabulary

from . import answers as A
from .bodies import (
    ORDERS,
    NewFinish,
    NewWhite,
    PhotometricCopy,
)
from .uploads import name_of, on_disk


def add_shelf_routes(app: FastAPI, studio: Studio) -> None:
    """Add them to the application."""

    @app.get("/api/vocabulary", response_model=A.Vocabulary)
    def told() -> dict[str, Any]:
        return vocabulary(ORDERS)

    _shelf(app, studio)
    _tables(app, studio)
    _finishes(app, studio)
    _whites(app, studio)
    _skies(app, studio)
    _backdrops(app, studio)
    _references(app, studio)


async def _brought(studio: Studio, kind: str, file: UploadFile) -> dict[str, Any]:
    """An upload on its shelf."""
    async with on_disk(file) as kept:
        return await run_in_threadpool(studio.shelves.bring, kind, kept, name_of(file, kind))


def _shelf(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/photometry", response_model=list[A.Luminaire])
    def photometry() -> list[dict[str, Any]]:
        return studio.shelves.photometry.cards()

    @app.get("/api/photometry/{asset}/wall", response_class=FileResponse)
    def wall(asset: str) -> FileResponse:
        return FileResponse(studio.shelves.photometry.wall(asset), media_type="image/jpeg")

    @app.get("/api/photometry/{asset}/file", response_class=FileResponse)
    def photometric_file(asset: str, name: str = "luminaire") -> FileResponse:
        return FileResponse(studio.shelves.photometry.file(asset), media_type="text/plain",
                            filename=f"{Path(name).name}.ies")  # fmt: skip

    @app.post("/api/photometry/{asset}/copy", response_model=A.Luminaire)
    def copy(asset: str, body: PhotometricCopy) -> dict[str, Any]:
        return studio.shelves.photometry.copy(asset, **body.model_dump())

    @app.post("/api/photometry", response_model=A.Luminaire)
    async def add(file: UploadFile) -> dict[str, Any]:
        return await _brought(studio, "photometry", file)


def _tables(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/tables", response_model=list[A.Named])
    def tables() -> list[dict[str, Any]]:
        return studio.shelves.tables.cards()

    @app.post("/api/tables", response_model=A.Named)
    async def add(file: UploadFile) -> dict[str, Any]:
        return await _brought(studio, "table", file)


def _finishes(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/finishes", response_model=list[A.Kept])
    def finishes() -> list[dict[str, Any]]:
        return studio.shelves.finishes.cards()

    @app.post("/api/finishes", response_model=list[A.Kept])
    def keep(body: NewFinish) -> list[dict[str, Any]]:
        studio.looks.keep_finish(body.look, body.name)
        return studio.shelves.finishes.cards()

    @app.delete("/api/finishes/{finish}", response_model=list[A.Kept])
    def remove(finish: str) -> list[dict[str, Any]]:
        studio.shelves.finishes.remove(finish)
        return studio.shelves.finishes.cards()


def _whites(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/whites", response_model=list[A.Kept])
    def whites() -> list[dict[str, Any]]:
        return studio.shelves.whites.cards()

    @app.post("/api/whites", response_model=list[A.Kept])
    def keep(body: NewWhite) -> list[dict[str, Any]]:
        studio.shelves.whites.keep(body.name, body.kelvin, body.colour)
        return studio.shelves.whites.cards()

    @app.delete("/api/whites/{white}", response_model=list[A.Kept])
    def remove(white: str) -> list[dict[str, Any]]:
        studio.shelves.whites.remove(white)
        return studio.shelves.whites.cards()


def _skies(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/skies", response_model=list[A.SkyCard])
    def shelf() -> list[dict[str, Any]]:
        return studio.shelves.skies.cards()

    @app.post("/api/skies", response_model=A.SkyCard)
    async def add(file: UploadFile) -> dict[str, Any]:
        return await _brought(studio, "sky", file)

    @app.get("/api/skies/{sky}/thumbnail", response_class=FileResponse)
    def thumbnail(sky: str) -> FileResponse:
        return FileResponse(studio.shelves.skies.thumbnail(sky), media_type="image/jpeg")


def _backdrops(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/backdrops", response_model=list[A.Named])
    def backdrops() -> list[dict[str, Any]]:
        return studio.shelves.backdrops.cards()

    @app.post("/api/backdrops", response_model=A.Named)
    async def add(file: UploadFile) -> dict[str, Any]:
        return await _brought(studio, "backdrop", file)

    @app.get("/api/backdrops/{backdrop}/thumbnail", response_class=FileResponse)
    def thumbnail(backdrop: str) -> FileResponse:
        return FileResponse(studio.shelves.backdrops.thumbnail(backdrop), media_type="image/jpeg")


def _references(app: FastAPI, studio: Studio) -> None:
    @app.get("/api/references", response_model=list[A.Named])
    def references() -> list[dict[str, Any]]:
        return studio.shelves.references.cards()

    @app.post("/api/references", response_model=A.Named)
    async def add(file: UploadFile) -> dict[str, Any]:
        return await _brought(studio, "reference", file)

    @app.delete("/api/references/{reference}", response_model=list[A.Named])
    def remove(reference: str) -> list[dict[str, Any]]:
        studio.shelves.references.remove(reference)
        return studio.shelves.references.cards()

    @app.get("/api/references/{reference}/thumbnail", response_class=FileResponse)
    def thumbnail(reference: str) -> FileResponse:
        return FileResponse(studio.shelves.references.thumbnail(reference), media_type="image/jpeg")

    @app.get("/api/references/{reference}/picture", response_class=FileResponse)
    def picture(reference: str) -> FileResponse:
        return FileResponse(studio.shelves.references.file(reference), media_type="image/png")
