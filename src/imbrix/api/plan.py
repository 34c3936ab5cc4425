"""The plan of the job: the step that comes next, all steps, and what is left out."""

from fastapi import APIRouter
from pydantic import Field

from imbrix.api.at import AtRecorder, AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import Request
from imbrix.work.state.plan import NextState, PlanState, leave_out, next_state, plan_state

router = APIRouter(prefix="/api/projects/{slug}", tags=["Plan"], responses=RESPONSES)


class LeaveIn(Request):
    """A step by its key, and whether it is left out for now."""

    key: str = Field(max_length=80)
    skipped: bool = True


@router.get("/next", summary="What comes next")
def get_next(slug: Slug, space: AtSpace, recorder: AtRecorder) -> NextState:
    """The next step with its reason and the requests that do it: the first of its choices is what is advised. A script
    that sends them one after another, waiting for `GET /api/progress` where one says so, does the whole job."""
    return next_state(space, slug, recorder.progress)


@router.get("/plan", summary="All steps of the job")
def get_plan(slug: Slug, space: AtSpace, recorder: AtRecorder) -> PlanState:
    """In their order, each done, next, later or left out."""
    return plan_state(space, slug, recorder.progress)


@router.put("/plan", summary="Leave a step out, or take it in again")
def put_plan(slug: Slug, body: LeaveIn, space: AtSpace, recorder: AtRecorder) -> PlanState:
    """What is left out stays in the plan and can be done at any time."""
    leave_out(space, slug, body.key, body.skipped, recorder.progress)
    return plan_state(space, slug, recorder.progress)
