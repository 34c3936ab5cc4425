"""The customer's controls from the tuner's side: what may be turned, the phone page, who is let in."""

from typing import Annotated

import segno
from fastapi import APIRouter, Depends, Request
from pydantic import BaseModel, Field

from imbrix.api.at import AtSpace, Id, Slug
from imbrix.api.phone.listener import Listener
from imbrix.api.problems import RESPONSES
from imbrix.api.request import Request as Asked
from imbrix.core.errors import ConflictError
from imbrix.core.tune.controls import Controls, Turned
from imbrix.work.handover import customer
from imbrix.work.processor.controls import controls

router = APIRouter(prefix="/api/projects/{slug}/customer", tags=["Processor"], responses=RESPONSES)


class OpenIn(Asked):
    """Where to listen; port 0 takes any that is free."""

    host: str = Field(max_length=60)
    port: int = Field(default=0, ge=0, le=65_535)


class CodeState(BaseModel):
    """A code for one phone, how long it holds, the link that holds it, and that as a picture to be pointed at."""

    code: str
    seconds: float
    link: str
    picture: str


class PhoneName(BaseModel):
    """A phone that was let in."""

    id: int
    name: str


class CustomerState(BaseModel):
    """What may be turned and how it stands; where phones are listened for (empty: nowhere), for which project, and
    who is in; the addresses of this machine."""

    allowed: Controls
    said: bool
    turned: Turned
    address: str
    project: str
    code: CodeState | None
    phones: list[PhoneName]
    addresses: list[str]


def _listener(request: Request) -> Listener:
    found: Listener = request.app.state.phones
    return found


AtPhones = Annotated[Listener, Depends(_listener)]


def _state(slug: str, space: AtSpace, listener: Listener) -> CustomerState:
    held = listener.phones.code()
    code = None
    if held is not None and listener.address:
        link = f"{listener.address}/#{held.text}"
        picture = segno.make(link, micro=False).svg_data_uri(scale=4, border=2, dark="#171c22", light="#ffffff")
        code = CodeState(code=held.text, seconds=listener.phones.left_s(), link=link, picture=picture)
    return CustomerState(
        allowed=customer.allowed_of(space, slug),
        said=controls(space, slug) is not None,
        turned=customer.turned(space, slug),
        address=listener.address,
        project=listener.slug,
        code=code,
        phones=[PhoneName(id=one.id, name=one.name) for one in listener.phones.all()],
        addresses=listener.addresses(),
    )


@router.get("", summary="The customer's controls")
def get_customer(slug: Slug, space: AtSpace, listener: AtPhones) -> CustomerState:
    """What may be turned, and who is let in to turn it."""
    space.layout(slug)
    return _state(slug, space, listener)


@router.put("/controls", summary="Say what the customer may turn")
def put_controls(slug: Slug, body: Controls, space: AtSpace, listener: AtPhones) -> CustomerState:
    """Headroom is kept for it from then on: warnings reckon with everything turned up."""
    customer.allow(space, slug, body)
    space.changed()
    return _state(slug, space, listener)


@router.put("/turned", summary="Turn the customer's controls")
def put_turned(slug: Slug, body: Turned, space: AtSpace, listener: AtPhones) -> CustomerState:
    """As the customer would, as far as it may be."""
    customer.turn(space, slug, body)
    space.changed()
    return _state(slug, space, listener)


@router.post("/phones", summary="Listen for phones")
def post_phones(slug: Slug, body: OpenIn, space: AtSpace, listener: AtPhones) -> CustomerState:
    """On an address of this machine. It serves the phone page and nothing else, to those that a code has let in."""
    listener.open(slug, body.host.strip(), body.port)
    listener.phones.new_code()
    return _state(slug, space, listener)


@router.delete("/phones", summary="Listen no longer")
def delete_phones(slug: Slug, space: AtSpace, listener: AtPhones) -> CustomerState:
    """All phones are sent away."""
    space.layout(slug)
    listener.close()
    return _state(slug, space, listener)


@router.post("/code", summary="Make a code for a phone")
def post_code(slug: Slug, space: AtSpace, listener: AtPhones) -> CustomerState:
    """It lets one phone in, within five minutes; the code before holds no longer."""
    space.layout(slug)
    if listener.slug != slug:
        raise ConflictError("phones are not listened for in this project: begin that first")
    listener.phones.new_code()
    return _state(slug, space, listener)


@router.delete("/phones/{phone_id}", summary="Send a phone away")
def delete_phone(slug: Slug, phone_id: Id, space: AtSpace, listener: AtPhones) -> CustomerState:
    """At once: it can turn nothing more."""
    space.layout(slug)
    listener.phones.send_away(phone_id)
    return _state(slug, space, listener)
