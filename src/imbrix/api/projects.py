"""Projects as a whole: listed, begun, named, and their systems."""

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, UploadFile
from pydantic import BaseModel

from imbrix.api.at import AtRecorder, AtSpace, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import DriverIn, LayoutIn, NameIn, ProjectIn
from imbrix.core.system.layout import Group, Kind, Layout
from imbrix.core.system.layouts import GROUP_NAMES, NAMES, READY, fits, make, ready, with_driver
from imbrix.core.system.remarks import Remark, remarks
from imbrix.work.ground import projects
from imbrix.work.ground.projects import Listed
from imbrix.work.ground.workspace import Workspace
from imbrix.work.handover import project_in
from imbrix.work.state.audition import audition_state
from imbrix.work.state.image import image_state
from imbrix.work.state.plan import steps_of
from imbrix.work.state.project import ProjectState, project_state
from imbrix.work.state.revisions import revision_list
from imbrix.work.state.source import source_state

router = APIRouter(prefix="/api", tags=["Projects"], responses=RESPONSES)


class ReadySystem(BaseModel):
    """A layout to begin with."""

    key: str
    name: str
    layout: Layout


class KindName(BaseModel):
    """A kind of driver and what it is called."""

    kind: Kind
    name: str


class GroupName(BaseModel):
    """A group of drivers, what it is called, and the kinds that can stand in it."""

    group: Group
    name: str
    kinds: list[Kind]


class Projects(BaseModel):
    """All projects, and what a new one can begin with."""

    projects: list[Listed]
    ready: list[ReadySystem]
    kinds: list[KindName]
    groups: list[GroupName]


class ProjectBegun(BaseModel):
    """The address of a project that was begun."""

    slug: str


@router.post("/project-files", status_code=201, summary="Open a project file")
def post_project_file(
    space: AtSpace,
    recorder: AtRecorder,
    file: Annotated[UploadFile, File()],
    name: Annotated[str, Form(max_length=80)] = "",
) -> ProjectBegun:
    """As a project of its own, under its own name or another: all of it, or nothing."""

    def plan(space: Workspace, slug: str) -> object:
        return steps_of(space, slug, recorder.progress)

    looks = (project_state, revision_list, source_state, image_state, audition_state, plan)
    return ProjectBegun(slug=project_in.open_file(space, file.file, name, looks))


@router.get("/projects", summary="All projects")
def get_projects(space: AtSpace) -> Projects:
    """Newest first, with the ready systems that a new one can begin with."""
    return Projects(
        projects=projects.projects(space),
        ready=[ReadySystem(key=one.key, name=one.name, layout=make(one.ways)) for one in READY],
        kinds=[KindName(kind=kind, name=name) for kind, name in NAMES.items()],
        groups=[
            GroupName(group=group, name=name, kinds=[kind for kind in Kind if fits(group, kind)])
            for group, name in GROUP_NAMES.items()
        ],
    )


@router.post("/projects", status_code=201, summary="Begin a project")
def post_project(body: ProjectIn, space: AtSpace) -> ProjectBegun:
    """From a ready system or a layout of one's own, with a cautious high-pass before every driver."""
    layout = body.layout.layout() if body.layout else ready(body.ready, body.seat)
    return ProjectBegun(slug=projects.begin(space, body.name, layout, body.processor, body.place))


@router.get("/projects/{slug}", summary="The state of a project")
def get_project(slug: Slug, space: AtSpace) -> ProjectState:
    """Everything about a project that is not a curve: layout, tune, takes, findings, the processor, the rig."""
    return project_state(space, slug)


@router.put("/projects/{slug}/name", summary="Rename a project")
def put_name(slug: Slug, body: NameIn, space: AtSpace) -> ProjectState:
    """Its address stays."""
    projects.rename(space, slug, body.name)
    return project_state(space, slug)


@router.put("/projects/{slug}/layout", summary="Change the system")
def put_layout(slug: Slug, body: LayoutIn, space: AtSpace) -> ProjectState:
    """Takes of a driver that goes stay on disk and come back with it."""
    projects.change_layout(space, slug, body.layout())
    return project_state(space, slug)


@router.post("/layout/driver", summary="A layout with one more driver")
def post_driver(body: DriverIn) -> Layout:
    """On the first output that is free. Nothing is kept."""
    return with_driver(body.layout.layout(), body.group, body.kind, body.side)


@router.post("/layout/remarks", summary="What is wrong with a layout")
def post_remarks(
    body: LayoutIn,
    outputs: Annotated[int, Query(ge=1, le=64, description="How many the processor has.")] = 8,
) -> list[Remark]:
    """Nothing is kept. A remark that bars means that a project cannot have this layout on such a processor."""
    return remarks(body.layout(), outputs)


@router.get("/grid", summary="The frequency grid")
def get_grid(
    space: AtSpace, every: Annotated[int, Query(ge=1, le=96, description="Every so many points.")] = 1
) -> list[float]:
    """Frequencies in hertz, 96 to the octave, on which every curve is given that brings none of its own."""
    found: list[float] = space.grid[::every].tolist()
    return found
