"""What the demo's takes show, computed once for all tests: each of them would take two seconds for the same."""

import shutil
from pathlib import Path

from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.work.ground.workspace import Workspace, open_workspace
from tests.helpers.server import BASE

STAGES = ("drivers", "seams", "voice", "proof")


def content(folder: Path) -> tuple[int, int]:
    """What tells one database from another: its size and when it was written, which a copy keeps."""
    status = (folder / "imbrix.db").stat()
    return status.st_size, status.st_mtime_ns


class Computed:
    """The memory of a workspace that has looked at a data folder, to begin others with that are opened on a copy."""

    def __init__(self, folder: Path, scratch: Path) -> None:
        self.content = content(folder)
        shutil.copytree(folder, scratch)
        space = open_workspace(scratch, pace=0)
        with TestClient(create_app(space), base_url="http://127.0.0.1") as client:
            for path in ("", "/next", *(f"/curves?stage={stage}" for stage in STAGES)):
                assert client.get(f"{BASE}{path}").status_code == 200
        # What is remembered is stamped with counts of writes: it is true of a copy only where none was made.
        assert not any(space._counts.values())
        self.memory = space.memory.copy(without=("sound cards",))  # which there are, tests say for themselves
        space.close()

    def begin(self, space: Workspace) -> None:
        """Let a workspace remember what was computed, where it was opened on a copy that nobody has changed."""
        if content(space.folder) == self.content:
            space.memory = self.memory.copy()
