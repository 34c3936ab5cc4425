"""Loaded once by the process that servers are forked from: they begin with what the demo's takes show."""

import os
import tempfile
from pathlib import Path

from imbrix.work.ground import workspace
from imbrix.work.ground.workspace import Workspace
from tests.helpers.computed import Computed

MADE = "IMBRIX_DEMO_MADE"
"""The variable that says where the demo's folder is."""

opened = workspace.open_workspace
computed = Computed(Path(os.environ[MADE]), Path(tempfile.mkdtemp()) / "demo") if MADE in os.environ else None


def open_workspace(folder: Path, pace: float = 1.0) -> Workspace:
    """As the application opens it, and computed where it is a copy of the demo."""
    space = opened(folder, pace)
    if computed:
        computed.begin(space)
    return space


workspace.open_workspace = open_workspace
