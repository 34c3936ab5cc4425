"""What was typed into a processor that nobody can talk to: its settings in words, as the person ticked them off."""

from imbrix.core.tune.changes import Change, differences, settings
from imbrix.core.tune.limits import Screen
from imbrix.work.ground import documents, processors
from imbrix.work.ground.documents import Document
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import head

ORDER: tuple[Screen, ...] = ("routing", "crossovers", "gain", "polarity", "delay", "bands", "sound")
"""Of one output, where the model does not say how its screens go; sound comes last, so that nothing plays half set."""
SCREENS: dict[str, Screen] = {
    "hears": "routing",
    "high-pass": "crossovers",
    "low-pass": "crossovers",
    "gain": "gain",
    "polarity": "polarity",
    "delay": "delay",
    "sound": "sound",
}
Rows = dict[tuple[str, str], str]


def rows(space: Workspace, slug: str) -> Rows | None:
    """Settings as typed, in words by place and name; None where the processor is not typed by hand."""
    return documents.made(space, key(slug), _rows)


def left(space: Workspace, slug: str) -> list[Change] | None:
    """What is still to be typed, in the order of the device's screens; None where it is not typed by hand."""
    held = rows(space, slug)
    if held is None:
        return None
    layout = space.layout(slug)
    wanted = settings(head(space, slug).tune, layout)
    return in_order(differences(held, wanted), processors.model(space, slug).screens)


def in_order(found: list[Change], screens: tuple[Screen, ...]) -> list[Change]:
    """Changes screen by screen where a model says how these go, else place by place."""
    places = list(dict.fromkeys(one.channel for one in found))

    def place(one: Change) -> tuple[bool, int]:
        return not one.channel.startswith("Input "), places.index(one.channel)

    def screen(one: Change) -> int:
        what = "inputs" if one.channel.startswith("Input ") else SCREENS.get(one.what, "bands")
        order = screens or ORDER
        return order.index(what) if what in order else -1 if what == "inputs" else len(order)

    return sorted(found, key=lambda one: (screen(one), place(one)) if screens else (place(one), screen(one)))


def key(slug: str) -> str:
    """The document's key."""
    return f"typed:{slug}"


def _rows(found: Document | None) -> Rows | None:
    return None if found is None else {(where, what): says for where, what, says in found["rows"]}
