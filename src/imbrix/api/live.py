"""The live socket: drafts in, pictures out, and the progress of takes.

The client sends one request at a time and waits for its frame, so that slow drawing drops positions of the
pointer rather than queueing them.
"""

import asyncio
import json
from dataclasses import asdict

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError
from starlette.concurrency import run_in_threadpool

from imbrix.api.frames import encode
from imbrix.api.schemas import Request
from imbrix.core.edits import Edit
from imbrix.core.smoothing import Fraction
from imbrix.work.desk import ConflictError, Desk, NotHereError
from imbrix.work.player import Recorder
from imbrix.work.tuning import draft, head
from imbrix.work.views import View, draw

router = APIRouter()
MOST_MESSAGE = 200_000


class Wanted(Request):
    """A picture asked for: of which view, with which edits not yet kept."""

    seq: int
    view: View
    edits: list[Edit] = Field(default=[], max_length=64)


@router.websocket("/api/projects/{slug}/live")
async def live(socket: WebSocket, slug: str) -> None:
    desk: Desk = socket.app.state.desk
    recorder: Recorder = socket.app.state.recorder
    await socket.accept()
    shown: dict[str, Fraction] = {"smoothing": 6.0}
    telling = asyncio.create_task(_tell(socket, recorder, shown))
    try:
        while True:
            text = await socket.receive_text()
            if len(text) > MOST_MESSAGE:
                await socket.close(1009, "message too large")
                return
            await _answer(socket, desk, recorder, slug, text, shown)
    except WebSocketDisconnect:
        pass
    finally:
        telling.cancel()
        recorder.draft = None


async def _answer(
    socket: WebSocket, desk: Desk, recorder: Recorder, slug: str, text: str, shown: dict[str, Fraction]
) -> None:
    seq = -1
    try:
        wanted = Wanted.model_validate_json(text)
        seq = wanted.seq
        shown["smoothing"] = wanted.view.smoothing
        await socket.send_bytes(await run_in_threadpool(_frame, desk, recorder, slug, wanted))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        await socket.send_text(json.dumps({"seq": seq, "error": f"{where}: {first['msg']}"}))
    except (ValueError, KeyError, NotHereError, ConflictError) as error:
        await socket.send_text(json.dumps({"seq": seq, "error": str(error.args[0]) if error.args else str(error)}))


def _frame(desk: Desk, recorder: Recorder, slug: str, wanted: Wanted) -> bytes:
    now = head(desk, slug)
    tune = draft(desk, slug, now.tune, wanted.edits) if wanted.edits else now.tune
    recorder.draft = tune if wanted.edits else None
    picture = draw(desk, slug, wanted.view, tune)
    return encode(
        picture,
        {
            "seq": wanted.seq,
            "view": wanted.view.model_dump(),
            "tune": tune.model_dump(mode="json"),
            "draft": bool(wanted.edits),
            "revision": now.id,
        },
    )


async def _tell(socket: WebSocket, recorder: Recorder, shown: dict[str, Fraction]) -> None:
    """Send the recorder's progress whenever it has changed, and the curve of a moving microphone as it grows."""
    last = -1
    drawn = -1
    while True:
        progress, growing = recorder.progress, recorder.live
        if growing is not None and growing.count != drawn:
            drawn = growing.count
            picture = await run_in_threadpool(growing.picture, shown["smoothing"])
            await socket.send_bytes(encode(picture, {"running": True, "channels": growing.channels}))
        if progress.version != last:
            last = progress.version
            await socket.send_text(json.dumps({"progress": asdict(progress)}))
        await asyncio.sleep(0.02)
