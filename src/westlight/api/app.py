"""The application: routes over the studio, the picture's socket, and the browser's files."""

from __future__ import annotations

import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any

from fastapi import FastAPI, WebSocket
from fastapi.responses import JSONResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy.exc import SQLAlchemyError
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from westlight.engine.host import EngineHost, end_waiting_process
from westlight.store import AUTHOR, Store
from westlight.studio.daylight import warm_up
from westlight.studio.studio import Studio

from .ahead import look_ahead
from .building_routes import add_building_routes
from .doors import LOOPBACK, Doors
from .faults import add_faults
from .handover_routes import add_handover_routes
from .limits import Limits
from .picture import PictureSocket
from .project_routes import add_project_routes
from .settings import ServerSettings
from .shelf_routes import add_shelf_routes


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
        studio.handover.queue.start()
        engine.start()
        threading.Thread(target=warm_up, daemon=True).start()
        if chosen.look_ahead:
            threading.Thread(target=look_ahead, args=(studio, engine), daemon=True).start()
        yield
        engine.close()
        end_waiting_process()
        studio.handover.queue.close()
        studio.handover.sheets.close()
        store.close()

    app = FastAPI(title="Westlight", lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.studio, app.state.engine = studio, engine
    add_faults(app)
    app.add_middleware(Authored)
    app.add_middleware(Limits)
    app.add_middleware(Doors, names=(*LOOPBACK, *chosen.names), key=chosen.key)
    add_project_routes(app, studio)
    add_building_routes(app, studio)
    add_shelf_routes(app, studio)
    add_handover_routes(app, studio, engine)

    @app.get("/api/health")
    def health() -> JSONResponse:
        told: dict[str, Any] = {"ok": True, "database": True, "engine_pid": engine.pid}
        try:
            store.ping()
        except SQLAlchemyError:
            told |= {"ok": False, "database": False}
        return JSONResponse(told, 200 if told["ok"] else 503)

    @app.websocket("/api/picture")
    async def picture(socket: WebSocket) -> None:
        await PictureSocket(socket, studio, engine, chosen.live_passes, chosen.live_width).serve()

    if chosen.web.is_dir():
        app.mount("/", StaticFiles(directory=chosen.web, html=True), name="web")
    return app


class Authored:
    """Notes which page a request comes from, so that it is not told of its own edits."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on."""
        if scope["type"] == "http":
            AUTHOR.set(Headers(scope=scope).get("x-page", "")[:40])
        await self._app(scope, receive, send)
