"""Keeps other web pages from driving this server: Host and Origin are checked on HTTP and sockets alike."""

from urllib.parse import urlsplit

from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOCAL = {"127.0.0.1", "localhost", "[::1]", "::1", "testserver"}
MOST_BODY_BYTES = 72_000_000


class LocalOnly:
    """ASGI middleware: refuses foreign hosts and origins, and bodies that say beforehand that they are too large."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        host = headers.get("host", "")
        origin = headers.get("origin")
        if urlsplit(f"//{host}").hostname not in LOCAL or (origin is not None and urlsplit(origin).netloc != host):
            await self._refuse(scope, send, 403, "this server answers pages of its own only")
            return
        length = headers.get("content-length", "0")
        if not length.isdigit() or int(length) > MOST_BODY_BYTES:
            size = f"{int(length) / 1e6:.0f} MB" if length.isdigit() else "of unknown size"
            most = f"at most {MOST_BODY_BYTES / 1e6:.0f} MB are taken"
            await self._refuse(scope, send, 413, f"the file is too large ({size}): {most}")
            return
        await self.app(scope, receive, send)

    async def _refuse(self, scope: Scope, send: Send, status: int, says: str) -> None:
        if scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 4403, "reason": says})
            return
        problem = {"type": "about:blank", "title": "Refused", "status": status, "detail": says, "changed": []}
        await JSONResponse(problem, status, media_type="application/problem+json")(scope, _nothing, send)


async def _nothing() -> Message:
    return {"type": "http.disconnect"}
