"""What runs in the background, waited for without asking again and again: each answer would cost what runs its time."""

from collections.abc import Callable

from starlette.testclient import TestClient

from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Progress, Recorder


def ended(client: TestClient, *well: str) -> dict:
    """The progress of the job once it is over, which it is `well` (kept or done, where nothing else is said)."""
    client.app.state.recorder.wait(600)
    job = client.get("/api/progress").json()
    assert job["stage"] in (well or ("kept", "done")), job["message"]
    return job


def run(space: Workspace, start: Callable[..., object], *more: object) -> Progress:
    """How a job ended that `start` begins on a recorder of its own."""
    recorder = Recorder(space)
    start(recorder, *more)
    return recorder.wait()
