"""Routes that take a quarter or half of a second to build: they come when one of them is asked for."""

import asyncio
from collections.abc import Callable

from starlette.datastructures import URLPath
from starlette.routing import BaseRoute, Match, NoMatchFound
from starlette.types import Receive, Scope, Send


class Later(BaseRoute):
    """Stands in a list of `routes` in the place of those that `make` makes, and takes whatever is asked of /api."""

    def __init__(self, routes: list[BaseRoute], make: Callable[[], list[BaseRoute]]) -> None:
        self._routes = routes
        self._make = make

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        return (Match.FULL if scope["path"].startswith("/api/") else Match.NONE), {}

    def url_path_for(self, name: str, /, **_params: object) -> URLPath:
        raise NoMatchFound(name, {})

    async def handle(self, scope: Scope, receive: Receive, send: Send) -> None:
        await self.come()
        await scope["app"].router(scope, receive, send)

    async def come(self) -> None:
        """Put the routes in their place; made in a thread, so that others are answered."""
        self._place(await asyncio.to_thread(self._make))

    def come_now(self) -> None:
        """Put the routes in their place before anything else is done."""
        self._place(self._make())

    def _place(self, made: list[BaseRoute]) -> None:
        if self in self._routes:
            at = self._routes.index(self)
            self._routes[at : at + 1] = made
