"""Keeps other web pages from driving this server: who asks is checked on HTTP and sockets alike, and what is answered
says what a browser may do with it."""

import re

from starlette.datastructures import Headers, MutableHeaders
from starlette.middleware.body_limit import RequestBodyLimitMiddleware
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOCAL = re.compile(r"(127\.0\.0\.1|localhost|\[::1\])(:\d{1,5})?", re.IGNORECASE)
"""Names of this machine; any other could be a name on a network that was pointed here."""
PROJECT_FILES = "/api/project-files"
MOST_PROJECT_BYTES, MOST_FILE_BYTES, MOST_BODY_BYTES = 4_000_000_000, 72_000_000, 1_000_000
"""Of a project file, which goes to disk as it comes; of a form with another file; and of any other body: a million
settings would take seconds to be refused one by one."""
DOCS = "/api/docs"
POLICY = (
    "default-src 'self'; script-src 'self'{scripts}; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
"""Own scripts and fonts, no frames. Styles are put in by the interface itself, where no address could name them."""
HEADERS = {
    "x-content-type-options": "nosniff",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


def most(path: str, headers: Headers) -> int:
    """How many bytes the body of a request may have."""
    if not headers.get("content-type", "").startswith("multipart/"):
        return MOST_BODY_BYTES
    return MOST_PROJECT_BYTES if path == PROJECT_FILES else MOST_FILE_BYTES


def too_large(path: str, headers: Headers) -> str:
    """What is said of a body that has more."""
    length = headers.get("content-length", "")
    size = f" ({int(length[:20]) / 1e6:.0f} MB)" if length.isdigit() else ""
    limit = most(path, headers)
    what = "request" if limit == MOST_BODY_BYTES else "file"
    return f"the {what} is too large{size}: at most {limit / 1e6:.0f} MB are taken"


class BodyLimit:
    """ASGI middleware: ends a body that grows larger than it may, whatever it said beforehand."""

    def __init__(self, app: ASGIApp) -> None:
        sizes = (MOST_PROJECT_BYTES, MOST_FILE_BYTES, MOST_BODY_BYTES)
        self._limited = {size: RequestBodyLimitMiddleware(app, size) for size in sizes}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        size = most(scope["path"], Headers(scope=scope)) if scope["type"] == "http" else MOST_BODY_BYTES
        await self._limited[size](scope, receive, send)


class LocalOnly:
    """ASGI middleware: refuses foreign hosts and origins, and bodies that say beforehand that they are too large."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        guarded = _guarded(scope, send) if scope["type"] == "http" else send
        if _foreign(scope, headers):
            await self._refuse(scope, guarded, 403, "this server answers pages of its own only")
            return
        length = headers.get("content-length", "0")
        if not length.isdigit() or int(length[:20]) > most(scope["path"], headers):
            await self._refuse(scope, guarded, 413, too_large(scope["path"], headers))
            return
        await self.app(scope, receive, guarded)

    async def _refuse(self, scope: Scope, send: Send, status: int, says: str) -> None:
        if scope["type"] == "websocket":
            await send({"type": "websocket.close", "code": 4403, "reason": says})
            return
        problem = {"type": "about:blank", "title": "Refused", "status": status, "detail": says, "changed": []}
        await JSONResponse(problem, status, media_type="application/problem+json")(scope, _nothing, send)


def _foreign(scope: Scope, headers: Headers) -> bool:
    """Whether another page asks, or one that reached this machine under another name."""
    host, origin = headers.get("host", ""), headers.get("origin")
    if not LOCAL.fullmatch(host):
        return True
    if origin is not None and origin.lower() not in (f"http://{host}".lower(), f"https://{host}".lower()):
        return True
    site = headers.get("sec-fetch-site", "none")
    # A link on another page may lead here, to a page.
    followed = headers.get("sec-fetch-mode") == "navigate" and scope.get("method") == "GET"
    return site not in ("none", "same-origin") and not (followed and not scope["path"].startswith("/api"))


def _guarded(scope: Scope, send: Send) -> Send:
    """`send` with the headers that every answer has."""
    api = scope["path"].startswith("/api")
    policy = POLICY.format(scripts=" 'unsafe-inline'" if scope["path"] == DOCS else "")

    async def sent(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            headers.update(HEADERS)
            headers["content-security-policy"] = policy
            if api:
                headers.setdefault("cache-control", "no-store")
        await send(message)

    return sent


async def _nothing() -> Message:
    return {"type": "http.disconnect"}
