"""What source and inputs together leave on each channel: no straightening brings back what a factory cut away."""

import numpy as np

from imbrix.core.signal.signal import ComplexArray
from imbrix.core.source.straighten import tone
from imbrix.core.tune.routing import sources
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted
from imbrix.work.source.feeds import Feed, feeds
from imbrix.work.source.undo import after, heard


def predicted_through(space: Workspace, slug: str, now: Scene, tune: Tune) -> ComplexArray:
    """Each driver's response (d, n) through its channel where the source plays."""
    colour = colours(space, slug, tune)
    plain = np.ones(space.grid.size)
    rows = np.array([colour.get(name, plain) for name in now.ids]).reshape(len(now.ids), plain.size)
    return predicted(space, now, tune) * rows


def colours(space: Workspace, slug: str, tune: Tune) -> dict[str, ComplexArray]:
    """By channel the response (n,) of what it hears of the source, at the level of a signal that goes in here.

    A feed that was not recorded, or is not known at a frequency, is taken to leave the signal alone there.
    """
    there = feeds(space, slug)
    if not there:
        return {}
    plain = np.ones(space.grid.size, dtype=complex)
    known = scaled(space, slug, there, tune)
    does: dict[int, ComplexArray] = {n: np.where(np.isfinite(one), one, plain) for n, one in known.items()}
    inputs = processors.model(space, slug).inputs
    return {
        driver.id: sum(
            (factor * does.get(n, plain) for n, factor in enumerate(sources(tune, driver, inputs), 1) if factor),
            np.zeros(space.grid.size, dtype=complex),
        )
        for driver in space.layout(slug).drivers
    }


def scaled(space: Workspace, slug: str, there: dict[int, Feed], tune: Tune) -> dict[int, ComplexArray]:
    """By input what its feed does (n,) with what the input does in a tune, at the level of a signal that goes in here;
    NaN where it is not known."""
    does = {number: after(space, slug, one, tune) for number, one in there.items()}
    level_db = np.mean([tone(does[n]).plateau_db for n in heard(space, slug) & does.keys() or does.keys()])
    return {number: np.asarray(one / 10 ** (level_db / 20)) for number, one in does.items()}
