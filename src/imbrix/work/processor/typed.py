"""What was typed into a processor that nobody can talk to: its settings in words, as the person ticked them off."""

from imbrix.core.tune.changes import SECOND, Change, differences, settings
from imbrix.core.tune.limits import Screen
from imbrix.core.tune.tune import neutral
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
INPUT = "Input "
"""What the name of an input begins with."""
Rows = dict[tuple[str, str], str]


def rows(space: Workspace, slug: str) -> Rows | None:
    """Settings as typed, in words by place and name; None where the processor is not typed by hand."""
    return documents.made(space, key(slug), _rows)


def begin(space: Workspace, slug: str, held: Rows) -> None:
    """Keep what the device holds; nothing is ticked off yet."""
    named = [[*name, says] for name, says in held.items()]
    documents.write(space, key(slug), {"rows": named, "ticked": []})


def left(space: Workspace, slug: str) -> list[Change] | None:
    """What is still to be typed, in the order of the device's screens; None where it is not typed by hand."""
    held = rows(space, slug)
    if held is None:
        return None
    asked = wanted(space, slug)
    there = {where for where, _what in asked}
    # An output whose driver is gone, or has another name by now, is not typed back.
    held = {name: says for name, says in held.items() if name[0] in there}
    # What comes in is as it came, where it was never typed.
    layout = space.layout(slug)
    fresh = settings(neutral(layout), layout, sum(where.startswith(INPUT) for where in there))
    held = {**{name: says for name, says in fresh.items() if _comes_in(name[0])}, **held}
    return in_order(differences(held, asked), processors.model(space, slug).screens)


def wanted(space: Workspace, slug: str) -> Rows:
    """Settings as the tune asks for them; inputs that it leaves alone too, where something was typed there."""
    tune = head(space, slug).tune
    typed = {where for where, _what in rows(space, slug) or {} if where.startswith(INPUT)}
    inputs = max([len(tune.inputs), *(int(one.removeprefix(INPUT)) for one in typed)])
    return settings(tune, space.layout(slug), inputs)


def in_order(found: list[Change], screens: tuple[Screen, ...]) -> list[Change]:
    """Changes screen by screen where a model says how these go, else place by place."""
    places = list(dict.fromkeys(one.channel for one in found))

    def place(one: Change) -> tuple[bool, int]:
        return not _comes_in(one.channel), places.index(one.channel)

    def screen(one: Change) -> int:
        what = "inputs" if _comes_in(one.channel) else SCREENS.get(one.what, "bands")
        order = screens or ORDER
        return order.index(what) if what in order else -1 if what == "inputs" else len(order)

    return sorted(found, key=lambda one: (screen(one), place(one)) if screens else (place(one), screen(one)))


def _comes_in(where: str) -> bool:
    """Whether a setting stands at an input or at the second source."""
    return where.startswith(INPUT) or where == SECOND


def key(slug: str) -> str:
    """The document's key."""
    return f"typed:{slug}"


def _rows(found: Document | None) -> Rows | None:
    return None if found is None else {(where, what): says for where, what, says in found["rows"]}
