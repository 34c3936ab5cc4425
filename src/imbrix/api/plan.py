"""The plan of the job: the step that comes next, all steps, what is left out; and the requests that do a step."""

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field, JsonValue

from imbrix.api.at import AtRecorder, AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.request import Request
from imbrix.core.plan import step as steps
from imbrix.core.plan.plan import following
from imbrix.core.plan.step import Action, Choice, Stage, State, Step
from imbrix.core.tune.edits import EDITS
from imbrix.work.state.plan import leave_out, steps_of

LISTEN_S = 10.0
"""So long a script lets a band play; the page goes on until it is stopped."""
router = APIRouter(prefix="/api/projects/{slug}", tags=["Plan"], responses=RESPONSES)


class StepRequest(BaseModel):
    """A request to the server. Where it `waits`, it begins a job: `GET /api/progress` tells when that has ended."""

    method: Literal["POST", "PATCH"] = "POST"
    path: str
    body: dict[str, JsonValue] | None = None
    waits: bool = False


class ChoiceState(BaseModel):
    """One of several ways to do a step, what it does, and the request for that; without one it is done by hand, or,
    where it `skips`, the step is left out."""

    name: str
    says: str
    action: Action | None
    request: StepRequest | None
    skips: bool


class StepState(BaseModel):
    """A step: where it belongs, why it is due, what its first choice does, and how far it is.

    `channel` is the driver that it is about, `part` the part of its stage. `optional` ones lose little when left out.
    """

    key: str
    stage: Stage
    name: str
    why: str
    does: str
    choices: list[ChoiceState]
    channel: str
    part: str
    optional: bool
    state: State


class NextState(BaseModel):
    """The step that comes next, none where nothing is left; and how many of how many are behind."""

    step: StepState | None
    done: int
    total: int


class PlanState(BaseModel):
    """All steps in their order, the key of the next one (empty where nothing is left), and how many are behind."""

    steps: list[StepState]
    next: str
    done: int
    total: int


class LeaveIn(Request):
    """A step by its key, and whether it is left out for now."""

    key: str = Field(max_length=80)
    skipped: bool = True


@router.get("/next", summary="What comes next")
def get_next(slug: Slug, space: AtSpace, recorder: AtRecorder) -> NextState:
    """The next step with its reason and the requests that do it: the first of its choices is what is advised. A script
    that sends them one after another, waiting for `GET /api/progress` where one says so, does the whole job."""
    found = steps_of(space, slug, recorder.progress)
    come = following(found)
    return NextState(step=_step(slug, come) if come else None, done=_behind(found), total=len(found))


@router.get("/plan", summary="All steps of the job")
def get_plan(slug: Slug, space: AtSpace, recorder: AtRecorder) -> PlanState:
    """In their order, each done, next, later, left out or not needed."""
    found = steps_of(space, slug, recorder.progress)
    come = following(found)
    return PlanState(
        steps=[_step(slug, one) for one in found],
        next=come.key if come else "",
        done=_behind(found),
        total=len(found),
    )


@router.put("/plan", summary="Leave a step out, or take it in again")
def put_plan(slug: Slug, body: LeaveIn, space: AtSpace, recorder: AtRecorder) -> PlanState:
    """What is left out stays in the plan and can be done at any time."""
    leave_out(space, slug, body.key, body.skipped, recorder.progress)
    return get_plan(slug, space, recorder)


def _behind(found: tuple[Step, ...]) -> int:
    return sum(one.state in ("done", "skipped", "not needed") for one in found)


def _step(slug: str, one: Step) -> StepState:
    own = {name: getattr(one, name) for name in StepState.model_fields if name != "choices"}
    return StepState(choices=[_choice(slug, each) for each in one.choices], **own)


def _choice(slug: str, one: Choice) -> ChoiceState:
    request = request_of(slug, one.action) if one.action else None
    return ChoiceState(name=one.name, says=one.says, action=one.action, request=request, skips=one.skips)


def request_of(slug: str, action: Action) -> StepRequest:
    """The request that does an action in a project."""
    project = f"/api/projects/{slug}"
    match action:
        case steps.LookForDevices():
            return StepRequest(path="/api/rig/look")
        case steps.UseCorrection():
            return StepRequest(method="PATCH", path="/api/rig", body={"corrections": {action.pointing: action.id}})
        case steps.ExchangeInputs():
            return StepRequest(path="/api/rig/exchange")
        case steps.TryLevel():
            return StepRequest(path=f"{project}/level", body={"channel": action.channel}, waits=True)
        case steps.CheckInterface():
            return StepRequest(path="/api/rig/check", waits=True)
        case steps.RecordWires():
            return StepRequest(path=f"{project}/source/record", body={"inputs": list(action.inputs)}, waits=True)
        case steps.ReadInputs():
            return StepRequest(path=f"{project}/source/read", waits=True)
        case steps.PutRight():
            return StepRequest(path=f"{project}/source/put-right")
        case steps.MakeEdits():
            edits = EDITS.dump_python(list(action.edits), mode="json", exclude_none=True)
            return StepRequest(path=f"{project}/edits", body={"edits": edits, "summary": action.summary})
        case steps.Record():
            return StepRequest(path=f"{project}/takes", body=action.model_dump(mode="json", exclude={"do"}), waits=True)
        case steps.RecordEach():
            body = action.model_dump(mode="json", exclude={"do"})
            return StepRequest(path=f"{project}/takes/each", body=body, waits=True)
        case steps.Align():
            return StepRequest(path=f"{project}/proposals/first", body={})
        case steps.FitTo():
            return StepRequest(path=f"{project}/fit", body=action.model_dump(mode="json", exclude={"do"}))
        case steps.MatchSides():
            return StepRequest(path=f"{project}/sides")
        case steps.Send():
            return StepRequest(path=f"{project}/processor/send")
        case steps.Listen():
            body = {"hz": action.hz, "seconds": LISTEN_S}
            return StepRequest(path=f"{project}/image/play", body=body, waits=True)
        case steps.Store():
            return StepRequest(path=f"{project}/processor/store", body={"slot": action.slot})
