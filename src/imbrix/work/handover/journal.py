"""The journal of a job: what was done, in order, in words, from the first take to the last slot."""

from datetime import datetime
from functools import partial
from typing import Literal

from imbrix.core.system.layout import SIDES, Layout
from imbrix.core.tune.changes import changes
from imbrix.core.tune.tune import Tune
from imbrix.core.value import Value
from imbrix.work.audition.notes import notes
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.moments import Moment, in_utc
from imbrix.work.ground.workspace import Workspace, project_row
from imbrix.work.processor.deeds import deeds
from imbrix.work.takes.shelf import Take, takes
from imbrix.work.tune.revisions import Head, revisions

Kind = Literal["change", "take", "sent", "slot", "note"]
TOUCHED: Drawer[tuple[str, int, int], tuple[str, ...]] = Drawer("channels of revisions", 4096)
HOW = {
    "sweep": "by a sweep",
    "moving": "by a moving microphone",
    "file": "from a recording",
    "impulse": "from an impulse response",
    "text": "from a text curve",
    "stepped": "step by step",
    "raw": "as it was",
    "average": "as a mean of takes",
    "source": "through the source",
}


class Entry(Value):
    """One line: when, what kind of thing, in words; the channels that it is about, none where it is about all.

    `revision` (its number) and `revision_id` are the tune as it was after it, `take` what was recorded, `name` what a
    person called the revision, `aside` whether the take was set aside since.
    """

    at: Moment
    kind: Kind
    says: str
    channels: tuple[str, ...] = ()
    revision: int | None = None
    revision_id: int | None = None
    take: int | None = None
    name: str | None = None
    aside: bool = False


def journal(space: Workspace, slug: str, channel: str = "") -> list[Entry]:
    """All entries, the first first; with a `channel` those that are about it or about all. Raises NotHereError."""
    layout = space.layout(slug)
    if channel:
        layout.driver(channel)
    states = list(reversed(revisions(space, slug)))
    numbers = {one.id: one.number for one in states}
    ids = {one.number: one.id for one in states}
    found = [
        *_changes(space, slug, layout, states),
        *(_of_take(layout, one, numbers) for one in takes(space, slug)),
        *(
            Entry(at=one.at, kind=one.kind, says=one.says, revision=one.revision, revision_id=ids.get(one.revision))
            for one in deeds(space, slug)
        ),
        *(
            Entry(at=one.made, kind="note", says=one.text, revision=one.revision, revision_id=ids.get(one.revision))
            for one in notes(space, slug)
        ),
    ]
    found.sort(key=lambda one: in_utc(one.at))
    return [one for one in found if not channel or not one.channels or channel in one.channels]


def _changes(space: Workspace, slug: str, layout: Layout, states: list[Head]) -> list[Entry]:
    """The revisions, each with the channels that it changed against the one that it was made of."""
    tunes = {one.id: one.tune for one in states}
    found: list[Entry] = []
    for one in states:
        touched: tuple[str, ...] = ()
        if one.parent_id in tunes:
            key = (slug, one.id, len(layout.drivers))
            touched = space.memory.of(TOUCHED, key, partial(_touched, layout, tunes[one.parent_id], one.tune))
        found.append(
            Entry(
                at=one.created,
                kind="change",
                says=one.summary,
                channels=touched,
                revision=one.number,
                revision_id=one.id,
                name=one.name,
            )
        )
    return found


def _touched(layout: Layout, before: Tune, after: Tune) -> tuple[str, ...]:
    """The channels whose settings differ; none where that is all of them, or none."""
    named = {one.channel for one in changes(before, after, layout)}
    found = tuple(one.id for one in layout.drivers if one.name in named)
    return () if len(found) == len(layout.drivers) else found


def _of_take(layout: Layout, one: Take, numbers: dict[int, int]) -> Entry:
    says = f"{_what(layout, one)} {HOW.get(one.method, '')}".strip()
    if one.note:
        says += f": {one.note}"
    return Entry(
        at=one.created,
        kind="take",
        says=f"Take {one.id}: {says}",
        channels=one.channels if len(one.channels) < len(layout.drivers) else (),
        revision=numbers.get(one.revision_id),
        revision_id=one.revision_id,
        take=one.id,
        aside=one.discarded,
    )


def _what(layout: Layout, one: Take) -> str:
    """What was recorded, in words."""
    known = {each.id: each.name for each in layout.drivers}
    names = ", ".join(known.get(name, name) for name in one.channels)
    if one.purpose in ("proof", "null"):
        if set(one.channels) == set(known):
            names = "the whole"
        for side in SIDES:
            if set(one.channels) == {each.id for each in layout.drivers if each.side == side}:
                names = f"the {side} side"
        return f"{names} recorded" + (", the upper way inverted," if one.purpose == "null" else "")
    if one.purpose == "impedance":
        return f"impedance of {names} measured"
    if one.purpose == "feed":
        return "wires of the source recorded"
    return "an input recorded" if one.purpose == "raw" else f"{names} recorded"


def as_text(space: Workspace, slug: str, channel: str = "") -> str:
    """The journal as text, a line for each entry under the day that it was made on, times in UTC."""
    with space.session() as session:
        lines = [f"Journal of {project_row(session, slug).name}"]
    if channel:
        lines[0] += f", {space.layout(slug).driver(channel).name}"
    day = ""
    for one in journal(space, slug, channel):
        at: datetime = in_utc(one.at)
        if f"{at:%Y-%m-%d}" != day:
            day = f"{at:%Y-%m-%d}"
            lines += ["", f"{day} (UTC)"]
        revision = f"  [{one.revision}]" if one.revision is not None else ""
        aside = " (set aside since)" if one.aside else ""
        called = f' "{one.name}"' if one.name else ""
        lines.append(f"{at:%H:%M:%S}  {one.says}{called}{aside}{revision}")
    return "\n".join(lines) + "\n"
