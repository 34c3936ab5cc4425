"""The application: routes, the live socket, errors in words, and the built front end."""

import threading
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

from imbrix.api import impedance_routes, listening_routes, live, rig_routes, routes, take_routes
from imbrix.api.safety import LocalOnly
from imbrix.work import rig
from imbrix.work.desk import ConflictError, Desk, NotHereError
from imbrix.work.player import Recorder, restore_after_crash
from imbrix.work.warm import warm

WEB = Path(__file__).parent / "web"


def create_app(desk: Desk, web: Path = WEB) -> FastAPI:
    """The application over an open desk."""

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        threading.Thread(target=warm, args=(desk,), daemon=True).start()
        yield

    app = FastAPI(title="Imbrix", docs_url=None, redoc_url=None, lifespan=lifespan)
    app.state.desk = desk
    app.state.recorder = Recorder(desk)
    restore_after_crash(desk)
    rig.open_interface(desk)
    app.add_middleware(LocalOnly)
    app.include_router(rig_routes.router)
    app.include_router(impedance_routes.router)
    app.include_router(listening_routes.router)
    app.include_router(routes.router)
    app.include_router(take_routes.router)
    app.include_router(live.router)
    app.add_exception_handler(NotHereError, _answer(404))
    app.add_exception_handler(ConflictError, _answer(409))
    app.add_exception_handler(ValueError, _answer(422))
    app.add_exception_handler(KeyError, _answer(422))
    app.add_exception_handler(RequestValidationError, _invalid)
    if web.is_dir():
        app.mount("/assets", StaticFiles(directory=web / "assets"), name="assets")

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> FileResponse:
            return FileResponse(web / "index.html", headers={"Cache-Control": "no-cache"})

    return app


def _answer(status: int) -> Callable[[Request, Exception], Awaitable[JSONResponse]]:
    async def handler(_request: Request, error: Exception) -> JSONResponse:
        said = str(error.args[0]) if error.args else str(error)
        return JSONResponse({"detail": said}, status)

    return handler


async def _invalid(_request: Request, error: Exception) -> JSONResponse:
    assert isinstance(error, RequestValidationError)
    first = error.errors()[0]
    where = ".".join(str(part) for part in first["loc"][1:]) or "request"
    return JSONResponse({"detail": f"{where}: {first['msg']}"}, 422)
