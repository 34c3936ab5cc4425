"""The link to a window that has opened its microphone: what is to be played goes there, what it hears comes back.

The window's first message says what it has opened; everything else is text with a `kind`, or a block of samples as
`devices.browser` lays them out. A message that makes no sense is answered, and ends nothing.
"""

import asyncio
import json
from typing import Annotated, Literal

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import Field, TypeAdapter, ValidationError
from starlette.concurrency import run_in_threadpool

from imbrix.api.problems import first_fault
from imbrix.api.request import Number, Request
from imbrix.core.errors import ConflictError
from imbrix.devices.browser import Gap, Lost, Opened, Send, Window
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import devices

router = APIRouter()
MOST_MESSAGE = 1_000_000


class OpenIn(Request):
    """The microphone and the output are open."""

    kind: Literal["open"]
    opened: Opened


class LostIn(Request):
    """There is nothing more to come."""

    kind: Literal["lost"]
    why: Lost


class GapIn(Request):
    """Something is missing in a run."""

    kind: Literal["gap"]
    run: Number
    gap: Gap


class EndIn(Request):
    """All of a run has been sent."""

    kind: Literal["end"]
    run: Number


Message = TypeAdapter[OpenIn | LostIn | GapIn | EndIn](
    Annotated[OpenIn | LostIn | GapIn | EndIn, Field(discriminator="kind")]
)


@router.websocket("/api/browser-sound")
async def browser_sound(socket: WebSocket) -> None:
    space: Workspace = socket.app.state.space
    await socket.accept()
    loop, waiting = asyncio.get_running_loop(), asyncio.Queue[str | bytes]()

    def send(message: str | bytes) -> None:
        if not loop.is_closed():
            loop.call_soon_threadsafe(waiting.put_nowait, message)

    sending = asyncio.create_task(_send(socket, waiting))
    held: Window | None = None
    try:
        while True:
            message = await socket.receive()
            if message["type"] == "websocket.disconnect":
                return
            block, text = message.get("bytes"), message.get("text")
            if len(block or text or "") > MOST_MESSAGE:
                await socket.close(1009, "message too large")
                return
            if text is None:
                if held is not None:
                    held.heard(block or b"")
                continue
            try:
                held = await run_in_threadpool(_told, space, held, text, send)
            except (ValidationError, ConflictError) as error:
                says = first_fault(error) if isinstance(error, ValidationError) else str(error)
                send(json.dumps({"kind": "refused", "says": says}))
    except WebSocketDisconnect:
        pass
    finally:
        sending.cancel()
        if held is not None:
            _let_go(space, held, "closed")


def _told(space: Workspace, held: Window | None, text: str, send: Send) -> Window | None:
    """Take in what a window says; what it holds after that. Raises ValidationError, ConflictError."""
    told = Message.validate_json(text)
    match told:
        case OpenIn():
            if held is not None:
                space.browser.close(held)
            held = space.browser.open(told.opened, send)
            devices.open_browser(space)
            send(json.dumps({"kind": "opened"}))
        case LostIn() if held is not None:
            _let_go(space, held, told.why)
            return None
        case GapIn() if held is not None:
            held.missing(told.run, told.gap)
        case EndIn() if held is not None:
            held.ended(told.run)
        case _:
            raise ConflictError("nothing is open: say first what is")
    return held


def _let_go(space: Workspace, held: Window, why: Lost) -> None:
    space.browser.close(held, why)
    space.changed()


async def _send(socket: WebSocket, waiting: asyncio.Queue[str | bytes]) -> None:
    """Send what waits, one after the other."""
    while True:
        message = await waiting.get()
        try:
            if isinstance(message, str):
                await socket.send_text(message)
            else:
                await socket.send_bytes(message)
        except (WebSocketDisconnect, RuntimeError):
            return
