"""The page as it was built: its files under /assets, and itself at every address that is not the API's."""

import re
from pathlib import Path

from starlette.requests import Request
from starlette.responses import FileResponse
from starlette.routing import Mount, Route, Router
from starlette.staticfiles import StaticFiles

WEB = Path(__file__).parent / "web"
ENTRY = re.compile(r'src="/assets/(index-[^"]+)"')
"""What the page begins with; its name changes with what it holds."""


def page(web: Path) -> Router:
    """What answers with the page that lies in a folder; with nothing where it was not built."""

    def itself(_request: Request) -> FileResponse:
        return FileResponse(web / "index.html", headers={"Cache-Control": "no-cache"})

    if not web.is_dir():
        return Router()
    files = Mount("/assets", StaticFiles(directory=web / "assets"))
    return Router([files, Route("/{path:path}", itself)])


def entry(web: Path) -> str:
    """The name of what the page that is served begins with: one that was opened before may have another."""
    there = web / "index.html"
    found = ENTRY.search(there.read_text()) if there.is_file() else None
    return found[1] if found else ""
