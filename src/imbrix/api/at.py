"""What routes stand at: the open desk and its recorder."""

from typing import Annotated

from fastapi import Depends, Request

from imbrix.work.desk import Desk
from imbrix.work.player import Recorder


def _desk(request: Request) -> Desk:
    return request.app.state.desk


def _recorder(request: Request) -> Recorder:
    return request.app.state.recorder


AtDesk = Annotated[Desk, Depends(_desk)]
AtRecorder = Annotated[Recorder, Depends(_recorder)]
