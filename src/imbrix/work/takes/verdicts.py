"""The verdict on takes: pure, from what was measured when each was made."""

from imbrix.core.evidence.verdict import Trouble, verdict
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.forces import counts_at, leading_place
from imbrix.work.takes.shelf import Take, takes


def troubles_of(space: Workspace, slug: str, known: list[Take] | None = None) -> dict[int, tuple[Trouble, ...]]:
    """The verdict on each take that has evidence, by its id: pure, from what was measured when it was made."""
    layout = space.layout(slug)
    all_takes = takes(space, slug) if known is None else known
    latest: dict[str, float] = {}
    for one in all_takes:
        if one.purpose == "driver" and not one.discarded and one.details.evidence and one.timed:
            latest.setdefault(one.channels[0], one.details.evidence.arrival_ms)
    lead = leading_place(space, slug, all_takes)
    at_lead = {one.channels[0] for one in all_takes if counts_at(one) == lead}
    found = {}
    for one in all_takes:
        evidence = one.details.evidence
        if evidence is None:
            continue
        driver = layout.driver(one.channels[0]) if one.purpose == "driver" else None
        others = tuple(ms for name, ms in latest.items() if name != one.channels[0])
        agrees, timed = one.details.agrees, one.timed
        if driver is None:
            said = verdict(evidence, None, agrees, timed)
        else:
            said = verdict(evidence, driver.kind, agrees, timed, others, driver.passive_to)
        place = counts_at(one)
        if place is not None and place != lead and one.channels[0] in at_lead:
            said.append(_elsewhere(place, lead))
        found[one.id] = tuple(said)
    return found


def doubted(space: Workspace, slug: str, take_id: int, kinds: frozenset[str] | None = None) -> bool:
    """Whether something speaks against a take; of `kinds` only, where they are given."""
    troubles = troubles_of(space, slug).get(take_id, ())
    return any(one.weight == "doubt" and (kinds is None or one.kind in kinds) for one in troubles)


def _elsewhere(place: str, lead: str) -> Trouble:
    return Trouble(
        kind="elsewhere",
        weight="note",
        says=f"Recorded at {place or 'a place without a name'}; what counts was recorded at {lead}",
        evidence="most drivers were recorded there, or it comes first in the rig: what was heard at two places cannot "
        "be brought in step",
        tries="nothing where it is one more place to fit and to align over; put it in force where it is to count alone",
    )
