"""What routes stand at: the open workspace and its recorder; and the parts of addresses, with their bounds."""

from typing import Annotated

from fastapi import Depends, Path, Request

from imbrix.work.demo import Demos
from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Recorder


def _space(request: Request) -> Workspace:
    space: Workspace = request.app.state.space
    return space


def _recorder(request: Request) -> Recorder:
    recorder: Recorder = request.app.state.recorder
    return recorder


def _demos(request: Request) -> Demos:
    demos: Demos = request.app.state.demos
    return demos


AtSpace = Annotated[Workspace, Depends(_space)]
AtRecorder = Annotated[Recorder, Depends(_recorder)]
AtDemos = Annotated[Demos, Depends(_demos)]
Slug = Annotated[str, Path(description="The project's address, as `GET /api/projects` lists it.", max_length=60)]
Id = Annotated[int, Path(description="A number, as lists give it.", ge=0, le=2**53)]
Channel = Annotated[str, Path(description="The id of a driver.", max_length=60)]
