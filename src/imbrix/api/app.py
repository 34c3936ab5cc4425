"""The application: routers, the live socket, errors in words, the described API, and the built front end."""

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from fastapi import FastAPI, Request
from starlette.exceptions import HTTPException
from starlette.routing import BaseRoute, Match

from imbrix.api import describe, live, problems, safety
from imbrix.api.later import Later
from imbrix.api.news import News
from imbrix.api.page import WEB, entry, page
from imbrix.api.phone.listener import Listener
from imbrix.work.demo import Demos, clear_halves
from imbrix.work.ground.workspace import Workspace
from imbrix.work.handover import project_in
from imbrix.work.processor.hold import restore_after_crash
from imbrix.work.rig import devices
from imbrix.work.sound.recorder import Recorder
from imbrix.work.warm import PAGE_S


def _first() -> list[BaseRoute]:
    """What a page asks for when it is opened, but for its pictures over the socket."""
    from imbrix.api import begins, plan, projects, views

    return [route for one in (projects, plan, begins, views) for route in one.router.routes]


def _later() -> list[BaseRoute]:
    """What is asked for when someone does something."""
    from imbrix.api import (
        audition,
        browser_sound,
        copies,
        customer,
        diagnostics,
        handover,
        image,
        impedance,
        logo,
        models,
        passive,
        places,
        predict,
        processor,
        rig,
        sound,
        source,
        takes,
        tune,
    )

    routers = (places, tune, processor, models, predict, takes, rig, sound, impedance, logo, passive, source, image)
    more = (audition, handover, customer, copies, diagnostics, browser_sound)
    # The routes as they are: to include the routers builds all of them anew, at the first request of each start.
    return [route for one in (*routers, *more) for route in one.router.routes]


def create_app(space: Workspace, web: Path = WEB, at_once: bool = True) -> FastAPI:
    """The application over an open workspace; where not `at_once`, all but pictures follows when it is asked for."""

    def come_now() -> None:
        for one in later:
            one.come_now()

    async def come() -> None:
        await asyncio.sleep(PAGE_S)
        for one in later:
            await one.come()

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        coming = None if at_once else asyncio.create_task(come())
        yield
        if coming is not None:
            coming.cancel()
        # A thread that is cut off within compiled code takes the whole process down with it.
        app.state.recorder.abort()
        app.state.recorder.wait(30)
        app.state.demos.wait(30)
        app.state.phones.close()

    app = FastAPI(docs_url=None, redoc_url=None, openapi_url="/api/openapi.json", lifespan=lifespan, **describe.ABOUT)
    app.state.space = space
    app.state.recorder = Recorder(space)
    app.state.page = entry(web)
    app.state.news = News(space, app.state.recorder)
    app.state.phones = Listener(space)
    app.state.demos = Demos(app.state.recorder)
    restore_after_crash(space)
    clear_halves(space)
    project_in.clear_halves(space)
    devices.open_interface(space)
    app.add_middleware(safety.BodyLimit)
    app.add_middleware(safety.LocalOnly)
    routes = app.router.routes
    routes.extend(live.router.routes)
    later = [Later(routes, make) for make in (_first, _later)]
    routes.extend(later)
    if at_once:
        come_now()
    problems.install(app)
    describe.install(app, web, come_now)

    app.add_api_route("/api/{path:path}", _nothing, include_in_schema=False)
    app.mount("", page(web))
    return app


def _nothing(path: str, request: Request) -> None:
    """An address under /api that nobody answers is no page."""
    # Not a function of the application: FastAPI remembers what it was given, and would keep the whole application.
    others = [one for one in request.app.router.routes if one.matches(request.scope)[0] == Match.PARTIAL]
    raise HTTPException(405 if others else 404)
