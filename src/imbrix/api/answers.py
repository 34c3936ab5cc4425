"""Answers that several routers give: files, what was begun, what was made."""

from typing import Any

from fastapi.responses import Response
from pydantic import BaseModel, Field

from imbrix.work.sound.recorder import Recorder, Stage


class Begun(BaseModel):
    """A job was begun, or asked to end: `GET /api/progress` tells how far it is."""

    stage: Stage
    job: int = Field(description="Its number: as long as `GET /api/progress` tells the same, it is of this one.")


def begun(recorder: Recorder) -> Begun:
    """What a recorder has begun, or was asked to end."""
    now = recorder.progress
    return Begun(stage=now.stage, job=now.job)


class Made(BaseModel):
    """What an upload made."""

    id: int = Field(description="Its number, by which it is asked for from now on.")
    name: str = Field(description="What it is called.")
    understood: str = Field(default="", description="Of text: how it was read, and what was left out of it.")


def download(content: str | bytes, name: str, kind: str) -> Response:
    """A file of a media type that the browser saves under a name."""
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def file_of(*kinds: str) -> dict[int | str, dict[str, Any]]:
    """The responses of an operation that answers with a file of one of these media types."""
    # Who reads a JSON file through the API gets an object, not its bytes.
    read = {"type": "object", "title": "The file's content"}
    raw = {"type": "string", "format": "binary"}
    content = {kind: {"schema": read if kind == "application/json" else raw} for kind in kinds}
    return {200: {"description": "The file.", "content": content}}
