"""Recordings of several drivers together: those that count, and those of the whole."""

from collections.abc import Iterator

from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.reading import sick
from imbrix.work.takes.shelf import Take, takes


def proofs(space: Workspace, slug: str) -> Iterator[Take]:
    """Those that are not set aside and can be read, newest first; each is tried only when it is asked for."""
    for one in takes(space, slug):
        if one.purpose == "proof" and not one.discarded and not sick(space, one):
            yield one


def of_the_whole(space: Workspace, slug: str) -> Iterator[Take]:
    """Those of all drivers of the system, newest first."""
    everyone = {driver.id for driver in space.layout(slug).drivers}
    return (one for one in proofs(space, slug) if set(one.channels) == everyone)
