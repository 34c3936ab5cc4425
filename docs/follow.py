"""Press the button of the next step until nothing is left: a whole job from a script.

Start `make demo`, then `python docs/follow.py`. A step whose first choice is done by hand is left out, and so is one
that comes a second time at once: it was refused, or it gained nothing.
"""

import sys
import time
from collections.abc import Iterator
from typing import Any

import httpx

MOST_PRESSES = 200
ENDED = ("kept", "done", "refused", "aborted")


def follow(api: httpx.Client, slug: str = "wren") -> Iterator[tuple[dict[str, Any], str]]:
    """Every step that was pressed, and what came of it: `done`, `refused` or `left out`.

    `api` is a client at the server's root. Raises RuntimeError where no end is in sight.
    """
    project = f"/api/projects/{slug}"
    before = ""
    for _ in range(MOST_PRESSES):
        step = api.get(f"{project}/next").json()["step"]
        if step is None:
            return
        key, choice = step["key"], step["choices"][0]
        if choice["request"] is None or key == before:
            api.put(f"{project}/plan", json={"key": key})
            yield step, "left out"
            continue
        done = sent(api, choice["request"])
        before = key
        yield step, "done" if done else "refused"
    raise RuntimeError(f"no end after {MOST_PRESSES} presses")


def sent(api: httpx.Client, request: dict[str, Any]) -> bool:
    """Whether a request was done, the job that it began included."""
    answer = api.request(request["method"], request["path"], json=request["body"])
    if answer.is_error:
        return False
    while request["waits"]:
        stage = api.get("/api/progress").json()["stage"]
        if stage in ENDED:
            return stage in ("kept", "done")
        time.sleep(0.1)
    return True


if __name__ == "__main__":
    with httpx.Client(base_url=sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8642", timeout=120) as client:
        for step, came in follow(client):
            print(f"{came:<9}{step['name']}: {step['why']}")
