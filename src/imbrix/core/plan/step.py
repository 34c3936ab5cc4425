"""Steps of the job: what each is for, why it is due, and the requests that do it."""

from typing import Any, Literal

from pydantic import Field

from imbrix.core.value import Value

State = Literal["done", "next", "later", "skipped", "not needed"]
Method = Literal["POST", "PUT", "PATCH"]
Stage = Literal["rig", "source", "drivers", "seams", "voice", "proof", "handover"]


class Request(Value):
    """A request to the server. `path` begins with `/api`; where it `waits`, a job runs until it has ended."""

    method: Method = "POST"
    path: str
    body: dict[str, Any] | None = None
    waits: bool = False


class Choice(Value):
    """One of several ways to do a step: the first is what is advised. Without requests it is done by hand."""

    name: str
    says: str = ""
    requests: tuple[Request, ...] = ()
    skips: bool = False
    """Whether it leaves the step out."""


class Step(Value):
    """A step: where it belongs, why it is due, what pressing its button does, and how far it is.

    `channel` is the driver that it is about, `part` the part of its stage. `optional` ones lose little when left out.
    """

    key: str
    stage: Stage
    name: str
    why: str
    does: str
    choices: tuple[Choice, ...] = Field(min_length=1)
    channel: str = ""
    part: str = ""
    optional: bool = False
    state: State = "later"
