"""What answers while the program is still being loaded: the page at once and what it was told last, all else as soon as
it can.

A browser takes most of a second for the page itself. By then the program is nearly there.
"""

import asyncio
from collections.abc import Callable, Mapping
from contextlib import AsyncExitStack
from pathlib import Path

from starlette.applications import Starlette
from starlette.datastructures import Headers
from starlette.requests import Request
from starlette.responses import PlainTextResponse, Response
from starlette.routing import Mount, Route
from starlette.types import ASGIApp, Receive, Scope, Send

from imbrix.api.page import page
from imbrix.api.safety import LocalOnly


class Doorman:
    """An ASGI application in front of one that `load` makes, in a thread, from the start of the server on.

    `told` are answers by address (see `told.py`) that a page may begin with; a script waits for the program. Where
    loading fails, `failed` has the error, those who wait are refused, and `give_up` is called.
    """

    def __init__(
        self,
        web: Path,
        load: Callable[[], Starlette],
        give_up: Callable[[], None],
        told: Mapping[str, str | bytes] | None = None,
    ) -> None:
        self.failed: Exception | None = None
        self._told = told or {}
        self._page = LocalOnly(Starlette(routes=[Route("/api/{path:path}", self._tell), Mount("", page(web))]))
        self._load = load
        self._give_up = give_up
        self._loaded: asyncio.Task[ASGIApp] | None = None
        self._until_end = AsyncExitStack()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._live(receive, send)
            return
        assert self._loaded is not None
        if not self._loaded.done() and self._at_once(scope):
            await self._page(scope, receive, send)
            return
        # One who waits and goes away must not take the application along.
        served = await asyncio.shield(self._loaded)
        await served(scope, receive, send)

    def _at_once(self, scope: Scope) -> bool:
        """Whether a request can be answered without the program."""
        if scope["type"] != "http":
            return False
        if not scope["path"].startswith("/api"):
            return True
        by_page = Headers(scope=scope).get("sec-fetch-site") == "same-origin"
        return by_page and scope["method"] == "GET" and not scope["query_string"] and scope["path"] in self._told

    async def _tell(self, request: Request) -> Response:
        body = self._told[request.url.path]
        return Response(body, media_type="application/json" if isinstance(body, str) else "application/octet-stream")

    async def _live(self, receive: Receive, send: Send) -> None:
        await receive()
        self._loaded = asyncio.create_task(self._open())
        await send({"type": "lifespan.startup.complete"})
        await receive()
        await asyncio.wait([self._loaded])
        await self._until_end.aclose()
        await send({"type": "lifespan.shutdown.complete"})

    async def _open(self) -> ASGIApp:
        try:
            served = await asyncio.to_thread(self._load)
            await self._until_end.enter_async_context(served.router.lifespan_context(served))
        except Exception as error:
            self.failed = error
            self._give_up()
            return PlainTextResponse("Imbrix could not be loaded", 503)
        return served
