"""Answers that are files."""

from fastapi.responses import Response


def download(content: str | bytes, name: str, kind: str) -> Response:
    """A file of a media type that the browser saves under a name."""
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
