"""The live socket: drafts in, pictures out, the progress of takes, and word of what other windows changed.

The client sends one request at a time and waits for its frame, so that slow drawing drops positions of the
pointer rather than queueing them. It says when it has drawn a frame that came by itself: the next one is made only
then, so that a slow browser sees fewer frames, and never old ones. So it is with a job's figures, which come once a
second to one who does not say so.
"""

import asyncio
import json
import logging
import time
from dataclasses import asdict

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import Field, ValidationError
from starlette.concurrency import run_in_threadpool

from imbrix.api.frames import encode, frame
from imbrix.api.news import News
from imbrix.api.problems import first_fault
from imbrix.api.problems import told as words
from imbrix.api.request import Number, Request
from imbrix.core.errors import ImbrixError
from imbrix.core.signal.smoothing import Fraction
from imbrix.core.tune.edits import Edit
from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.tune.revisions import draft, head
from imbrix.work.views.draw import draw
from imbrix.work.views.request import View

router = APIRouter()
LOG = logging.getLogger("imbrix.api")
MOST_MESSAGE = 600_000
DRAWN = "drawn"
"""What the client says of a frame that came by itself."""
FRAME_S = 0.04
"""No more than 25 frames a second: an eye sees no more in a curve."""
SEEN = "seen"
"""The same of a progress."""
PROGRESS_S = 0.1
UNSEEN_S = 1.0
"""How often a job's figures are sent to one who does not say that he has seen the last: what a busy page cannot draw
would wait in a queue before what a person does."""


class _Window:
    """One window: what it looks at, and whether it has drawn the last frame and progress that came by themselves."""

    def __init__(self, slug: str, name: str) -> None:
        self.slug = slug
        self.name = name
        self.smoothing: Fraction = 6.0
        self.drawn = True
        self.seen = True
        self.news = asyncio.Event()


class Wanted(Request):
    """A picture asked for: of which view, with which edits not yet kept."""

    seq: Number
    view: View
    edits: list[Edit] = Field(default=[], max_length=64)


@router.websocket("/api/projects/{slug}/live")
async def live(socket: WebSocket, slug: str, window: str = "") -> None:
    space: Workspace = socket.app.state.space
    recorder: Recorder = socket.app.state.recorder
    await socket.accept()
    # A socket that does not name its window is one of its own all the same.
    mine = _Window(slug, window[:40] or f"socket-{id(socket)}")
    telling = asyncio.create_task(_tell(socket, space, recorder, socket.app.state.news, mine))
    try:
        while True:
            message = await socket.receive()
            if message["type"] == "websocket.disconnect":
                return
            text = message.get("text") or (message.get("bytes") or b"").decode("utf-8", "replace")
            if len(text) > MOST_MESSAGE:
                await socket.close(1009, "message too large")
                return
            if text == DRAWN:
                mine.drawn = True
                mine.news.set()
            elif text == SEEN:
                mine.seen = True
                mine.news.set()
            else:
                await _answer(socket, space, recorder, text, mine)
    except WebSocketDisconnect:
        pass
    finally:
        telling.cancel()
        recorder.drafts.pop((slug, mine.name), None)


async def _answer(socket: WebSocket, space: Workspace, recorder: Recorder, text: str, mine: _Window) -> None:
    seq = -1
    try:
        wanted = Wanted.model_validate_json(text)
        seq = wanted.seq
        mine.smoothing = wanted.view.smoothing
        await socket.send_bytes(await run_in_threadpool(_frame, space, recorder, mine, wanted))
    except ValidationError as error:
        await socket.send_text(json.dumps({"seq": seq, "error": first_fault(error)}))
    except WebSocketDisconnect:
        raise
    except Exception as error:
        # Whatever it is, it is an answer: a socket that dies would be linked again and die again for ever.
        if not isinstance(error, ImbrixError):
            LOG.exception("a view of %s failed", mine.slug)
        await socket.send_text(json.dumps({"seq": seq, "error": words(error)}))


def _frame(space: Workspace, recorder: Recorder, mine: _Window, wanted: Wanted) -> bytes:
    now = head(space, mine.slug)
    tune = draft(space, mine.slug, now.tune, wanted.edits) if wanted.edits else now.tune
    if wanted.edits:
        recorder.drafts[(mine.slug, mine.name)] = tune
    else:
        recorder.drafts.pop((mine.slug, mine.name), None)
    picture = draw(space, mine.slug, wanted.view, tune)
    return frame(picture, wanted.view, tune, now.id, wanted.seq, bool(wanted.edits))


async def _tell(socket: WebSocket, space: Workspace, recorder: Recorder, news: News, mine: _Window) -> None:
    """Send the recorder's progress when it has changed, curves as they grow, and that something was changed."""
    told: Progress | None = None
    told_at = 0.0
    drawn, drawn_at = -1, 0.0
    async with news.heard_by(mine.news):
        version, changed_at = space.version, 0.0
        while True:
            mine.news.clear()
            progress, heard = recorder.progress, recorder.growing
            now = time.monotonic()
            later: list[float] = []  # when what is too early to be told may be
            if heard is not None and heard.count != drawn and mine.drawn:
                if now - drawn_at >= FRAME_S:
                    from imbrix.work.views import growing  # a first picture does not wait for it

                    drawn, drawn_at = heard.count, now
                    picture = await run_in_threadpool(growing.draw, space, heard, mine.smoothing)
                    mine.drawn = False
                    await socket.send_bytes(encode(picture, {"running": True, "channels": heard.channels}))
                else:
                    later.append(drawn_at + FRAME_S)
            if told is None or progress.version != told.version:
                page = {} if told else {"page": socket.app.state.page}
                apart_s = PROGRESS_S if mine.seen else UNSEEN_S
                other = told is None or (progress.job, progress.stage) != (told.job, told.stage)
                if other or now - told_at >= apart_s:
                    told, told_at, mine.seen = progress, now, False
                    await socket.send_text(json.dumps({"progress": asdict(progress), **page}))
                else:
                    later.append(told_at + apart_s)
            if space.version != version:
                if now - changed_at >= PROGRESS_S:
                    version, changed_at = space.version, now
                    await socket.send_text(json.dumps({"changed": version}))
                else:
                    later.append(changed_at + PROGRESS_S)
            await _news(mine, min(later) - now if later else None)


async def _news(mine: _Window, seconds: float | None) -> None:
    """Wait until there is news for a window, at most so many seconds."""
    try:
        async with asyncio.timeout(seconds):
            await mine.news.wait()
    except TimeoutError:
        pass
