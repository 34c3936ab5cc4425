"""The application: routers, the live socket, errors in words, the described API, and the built front end."""

import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.routing import Match

from imbrix.api import (
    audition,
    browser_sound,
    copies,
    customer,
    describe,
    diagnostics,
    handover,
    image,
    impedance,
    live,
    logo,
    models,
    passive,
    places,
    plan,
    predict,
    problems,
    processor,
    projects,
    rig,
    safety,
    sound,
    source,
    takes,
    tune,
    views,
)
from imbrix.api.news import News
from imbrix.api.phone.listener import Listener
from imbrix.work.demo import Demos, clear_halves
from imbrix.work.ground.workspace import Workspace
from imbrix.work.handover import project_in
from imbrix.work.processor.hold import restore_after_crash
from imbrix.work.rig import devices
from imbrix.work.sound.recorder import Recorder

WEB = Path(__file__).parent / "web"
ENTRY = re.compile(r'src="/assets/(index-[^"]+)"')
"""What the page begins with; its name changes with what it holds."""
ROUTERS = (
    projects,
    places,
    plan,
    tune,
    processor,
    models,
    predict,
    takes,
    views,
    rig,
    sound,
    impedance,
    logo,
    passive,
    source,
    image,
    audition,
    handover,
    customer,
    copies,
    diagnostics,
    live,
    browser_sound,
)


def create_app(space: Workspace, web: Path = WEB) -> FastAPI:
    """The application over an open workspace."""

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        yield
        # A thread that is cut off within compiled code takes the whole process down with it.
        app.state.recorder.abort()
        app.state.recorder.wait(30)
        app.state.demos.wait(30)
        app.state.phones.close()

    app = FastAPI(docs_url=None, redoc_url=None, openapi_url="/api/openapi.json", lifespan=lifespan, **describe.ABOUT)
    app.state.space = space
    app.state.recorder = Recorder(space)
    app.state.page = _entry(web)
    app.state.news = News(space, app.state.recorder)
    app.state.phones = Listener(space)
    app.state.demos = Demos(app.state.recorder)
    restore_after_crash(space)
    clear_halves(space)
    project_in.clear_halves(space)
    devices.open_interface(space)
    app.add_middleware(safety.BodyLimit)
    app.add_middleware(safety.LocalOnly)
    for one in ROUTERS:
        # The routes as they are: to include the routers builds all of them anew, at the first request of each start.
        app.router.routes.extend(one.router.routes)
    problems.install(app)
    describe.install(app, web)

    app.add_api_route("/api/{path:path}", _nothing, include_in_schema=False)
    if web.is_dir():
        app.mount("/assets", StaticFiles(directory=web / "assets"), name="assets")

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> FileResponse:
            return FileResponse(web / "index.html", headers={"Cache-Control": "no-cache"})

    return app


def _nothing(path: str, request: Request) -> None:
    """An address under /api that nobody answers is no page."""
    # Not a function of the application: FastAPI remembers what it was given, and would keep the whole application.
    others = [one for one in request.app.router.routes if one.matches(request.scope)[0] == Match.PARTIAL]
    raise HTTPException(405 if others else 404)


def _entry(web: Path) -> str:
    """The name of what the page that is served begins with: one that was opened before may have another."""
    page = web / "index.html"
    found = ENTRY.search(page.read_text()) if page.is_file() else None
    return found[1] if found else ""
