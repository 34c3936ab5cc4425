"""The live socket: drafts in, pictures out, and the progress of takes.

The client sends one request at a time and waits for its frame, so that slow drawing drops positions of the
pointer rather than queueing them. It says when it has drawn a frame that came by itself: the next one is made only
then, so that a slow browser sees fewer frames, and never old ones.
"""

import asyncio
import json
import time
from dataclasses import asdict

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError
from starlette.concurrency import run_in_threadpool

from imbrix.api.frames import encode
from imbrix.api.schemas import Request
from imbrix.core.edits import Edit
from imbrix.core.smoothing import Fraction
from imbrix.work.desk import ConflictError, Desk, NotHereError
from imbrix.work.player import Progress, Recorder
from imbrix.work.tuning import draft, head
from imbrix.work.view import View
from imbrix.work.views import draw

router = APIRouter()
MOST_MESSAGE = 200_000
DRAWN = "drawn"
"""What the client says of a frame that came by itself."""
FRAME_S = 0.04
"""No more than 25 frames a second: an eye sees no more in a curve."""
PROGRESS_S = 0.1


class _Shown:
    """What the client looks at, and whether it has drawn the last frame that came by itself."""

    def __init__(self) -> None:
        self.smoothing: Fraction = 6.0
        self.drawn = asyncio.Event()
        self.drawn.set()


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
    shown = _Shown()
    telling = asyncio.create_task(_tell(socket, recorder, shown))
    try:
        while True:
            text = await socket.receive_text()
            if len(text) > MOST_MESSAGE:
                await socket.close(1009, "message too large")
                return
            if text == DRAWN:
                shown.drawn.set()
            else:
                await _answer(socket, desk, recorder, slug, text, shown)
    except WebSocketDisconnect:
        pass
    finally:
        telling.cancel()
        recorder.drafts.pop(slug, None)


async def _answer(socket: WebSocket, desk: Desk, recorder: Recorder, slug: str, text: str, shown: "_Shown") -> None:
    seq = -1
    try:
        wanted = Wanted.model_validate_json(text)
        seq = wanted.seq
        shown.smoothing = wanted.view.smoothing
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
    if wanted.edits:
        recorder.drafts[slug] = tune
    else:
        recorder.drafts.pop(slug, None)
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


async def _tell(socket: WebSocket, recorder: Recorder, shown: "_Shown") -> None:
    """Send the recorder's progress when it has changed, and curves as they grow, as fast as they can be drawn."""
    told: Progress | None = None
    told_at = 0.0
    drawn, drawn_at = -1, 0.0
    while True:
        progress, growing = recorder.progress, recorder.live
        now = time.monotonic()
        if growing is not None and growing.count != drawn and shown.drawn.is_set() and now - drawn_at >= FRAME_S:
            drawn, drawn_at = growing.count, now
            picture = await run_in_threadpool(growing.picture, shown.smoothing)
            shown.drawn.clear()
            await socket.send_bytes(encode(picture, {"running": True, "channels": growing.channels}))
        fresh = told is None or progress.version != told.version
        if fresh and (told is None or progress.stage != told.stage or now - told_at >= PROGRESS_S):
            told, told_at = progress, now
            await socket.send_text(json.dumps({"progress": asdict(progress)}))
        await asyncio.sleep(0.01)
