"""The requests that steps are done by."""

from collections.abc import Sequence

from imbrix.core.plan.situation import Situation
from imbrix.core.plan.step import Choice, Request
from imbrix.core.tune.edits import EDITS, Edit

SKIP = Choice(name="Leave it out", skips=True)


def at(now: Situation, tail: str) -> str:
    """An address of the project's own."""
    return f"/api/projects/{now.slug}/{tail}"


def asked(now: Situation, edits: Sequence[Edit], summary: str) -> Request:
    """The request that makes edits one revision."""
    body = {"edits": EDITS.dump_python(list(edits), mode="json", exclude_none=True), "summary": summary}
    return Request(path=at(now, "edits"), body=body)


def take(now: Situation, channel: str, method: str = "sweep") -> Request:
    """The request that records a driver."""
    body = {"channels": [channel], "purpose": "driver", "method": method}
    return Request(path=at(now, "takes"), body=body, waits=True)
