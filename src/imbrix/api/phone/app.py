"""What a phone may ask: the page, to be let in, how the controls stand, to turn them, to load a slot. Nothing else."""

from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Annotated

from fastapi import Depends, FastAPI, Header, Request
from fastapi.responses import FileResponse, JSONResponse, Response
from pydantic import BaseModel, ConfigDict, Field
from starlette.middleware.body_limit import RequestBodyLimitMiddleware

from imbrix.core.errors import ConflictError, ImbrixError
from imbrix.core.tune.controls import Controls, Turned
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace, project_row
from imbrix.work.handover import customer
from imbrix.work.handover.phones import NotLetInError, Phone, Phones, TooOftenError

HERE = Path(__file__).parent
PAGE = {"": ("page.html", "text/html"), "page.js": ("page.js", "text/javascript"), "page.css": ("page.css", "text/css")}
MOST_BODY_BYTES = 4000
HEADERS = {
    "content-security-policy": "default-src 'none'; script-src 'self'; style-src 'self'; connect-src 'self'; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
    "x-content-type-options": "nosniff",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "cache-control": "no-store",
}


class Asked(BaseModel):
    model_config = ConfigDict(extra="forbid")


class PairIn(Asked):
    code: str = Field(max_length=40)
    name: str = Field(default="", max_length=40)


class TurnIn(Asked):
    """What is turned; the rest stays."""

    volume_db: float | None = Field(default=None, ge=-80, le=0, allow_inf_nan=False)
    bass_db: float | None = Field(default=None, ge=-12, le=12, allow_inf_nan=False)
    lift_db: float | None = Field(default=None, ge=0, le=12, allow_inf_nan=False)


class Let(BaseModel):
    """What a phone that was let in names itself by from then on."""

    token: str


class SlotIn(Asked):
    slot: int = Field(ge=1, le=64)


class PhoneState(BaseModel):
    """What may be turned, how it stands, and the slots where they may be loaded."""

    name: str
    allowed: Controls
    turned: Turned
    slots: dict[str, str]
    slot: int | None


def create_phone_app(space: Workspace, slug: str, phones: Phones, host: str) -> FastAPI:
    """The application of one project's phones, reached by one `host` (name and port) only."""
    app = FastAPI(docs_url=None, redoc_url=None, openapi_url=None)
    app.add_middleware(RequestBodyLimitMiddleware, MOST_BODY_BYTES)

    def phone(authorization: Annotated[str, Header(max_length=200)] = "") -> Phone:
        return phones.known(authorization.removeprefix("Bearer "))

    def state() -> PhoneState:
        processor, allowed = processors.processor(space, slug), customer.allowed_of(space, slug)
        with space.session() as session:
            name = project_row(session, slug).name
        names = processor.slot_names() if allowed.slots else {}
        return PhoneState(
            name=name,
            allowed=allowed,
            turned=customer.turned(space, slug),
            slots={str(number): held for number, held in sorted(names.items())},
            slot=processor.active_slot,
        )

    @app.middleware("http")
    async def guarded(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        """One host only, so that no other name can be pointed here; the headers that every answer has."""
        foreign = request.headers.get("host") != host
        origin = request.headers.get("origin")
        if foreign or origin not in (None, f"http://{host}"):
            answer: Response = JSONResponse({"detail": "this address is not served here"}, 403)
        else:
            answer = await call_next(request)
        answer.headers.update(HEADERS)
        return answer

    @app.exception_handler(ImbrixError)
    async def told(_request: Request, error: ImbrixError) -> Response:
        status = 401 if isinstance(error, NotLetInError) else 429 if isinstance(error, TooOftenError) else 409
        return JSONResponse({"detail": str(error)}, status)

    @app.post("/pair")
    def pair(body: PairIn) -> Let:
        return Let(token=phones.let_in(body.code, body.name))

    @app.get("/state")
    def get_state(_phone: Annotated[Phone, Depends(phone)]) -> PhoneState:
        return state()

    @app.post("/turn")
    def turn(body: TurnIn, _phone: Annotated[Phone, Depends(phone)]) -> PhoneState:
        with space.lock:
            now = customer.turned(space, slug)
            customer.turn(space, slug, now.model_copy(update=body.model_dump(exclude_none=True)))
        space.changed()
        return state()

    @app.post("/slot")
    def slot(body: SlotIn, _phone: Annotated[Phone, Depends(phone)]) -> PhoneState:
        names = processors.processor(space, slug).slot_names()
        if body.slot not in names:
            raise ConflictError(f"slot {body.slot} is empty")
        customer.load(space, slug, body.slot)
        return state()

    @app.get("/{path:path}")
    def page(path: str) -> Response:
        if path not in PAGE:
            return JSONResponse({"detail": "there is nothing here"}, 404)
        name, media = PAGE[path]
        return FileResponse(HERE / name, media_type=media)

    return app
