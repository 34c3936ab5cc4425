"""A processor without a link: a person types each setting in and ticks it off; how far that is, is kept."""

from imbrix.core.errors import ConflictError, StaleError
from imbrix.core.tune.changes import NONE, settings
from imbrix.core.tune.tune import neutral
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import link, typed
from imbrix.work.tune.revisions import head


def begin(space: Workspace, slug: str, as_sent: bool) -> None:
    """Type from now on: into a device that is as it came, or one that holds what was sent. Raises ConflictError."""
    if typed.rows(space, slug) is not None:
        raise ConflictError("this processor is typed by hand already")
    layout = space.layout(slug)
    held = link.read_back(space, slug, head(space, slug).tune) if as_sent else neutral(layout)
    typed.begin(space, slug, settings(held, layout))


def end(space: Workspace, slug: str) -> None:
    """Type no longer; what was typed so far is forgotten. Raises ConflictError while a take runs."""
    with space.idle("a take is being recorded: send instead when it has ended"):
        if typed.left(space, slug) == []:
            link.mirror(space, slug)  # what it holds by now is no longer to be sent
        documents.remove(space, typed.key(slug))


def tick(space: Workspace, slug: str, where: str, what: str, says: str) -> None:
    """Tick a setting off: it stands in the device as it is said.

    Raises ConflictError where nothing is typed by hand, StaleError where the tune asks for something else by now.
    """

    def change(now: Document) -> Document:
        rows = {(one[0], one[1]): one[2] for one in now["rows"]}
        before = rows.pop((where, what), NONE)
        if says != NONE:
            rows[where, what] = says
        ticked = [*now["ticked"], [where, what, before]]
        return {"rows": [[*name, value] for name, value in rows.items()], "ticked": ticked[-1000:]}

    with space.lock:
        _typing(space, slug)
        asked = typed.wanted(space, slug).get((where, what), NONE)
        if asked != says:
            raise StaleError(f"{where}, {what}: the tune asks for {asked} by now, not for {says}")
        documents.change(space, typed.key(slug), change)


def untick(space: Workspace, slug: str) -> None:
    """Take the last tick back. Raises ConflictError where there is none."""

    def change(now: Document) -> Document:
        if not now["ticked"]:
            raise ConflictError("nothing was ticked off yet")
        *ticked, (where, what, before) = now["ticked"]
        rows = {(one[0], one[1]): one[2] for one in now["rows"]}
        rows.pop((where, what), None)
        if before != NONE:
            rows[where, what] = before
        return {"rows": [[*name, value] for name, value in rows.items()], "ticked": ticked}

    with space.lock:
        _typing(space, slug)
        documents.change(space, typed.key(slug), change)


def _typing(space: Workspace, slug: str) -> None:
    if typed.rows(space, slug) is None:
        raise ConflictError("this processor is not typed by hand: what changes is sent")
