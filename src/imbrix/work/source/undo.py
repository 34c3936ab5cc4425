"""Proposals for the inputs: what straightens each feed, and what that leaves."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.source.between import SECOND, AllPass
from imbrix.core.source.straighten import inverse, tone
from imbrix.core.tune.edits import Edit, SetInput, SetSources
from imbrix.core.tune.routing import input_of, sources
from imbrix.core.tune.tune import Band, Input, Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.source import ends
from imbrix.work.source.feeds import GRID, Feed, feeds, meant, say_meant
from imbrix.work.tune.revisions import head

SAME_OCTAVES = 0.05
"""All-passes nearer to each other than this are one, found twice."""


@dataclass(frozen=True)
class Passes:
    """The all-passes of a source by the input whose feed has them."""

    by_input: dict[int, tuple[AllPass, ...]]

    def owed(self, number: int, among: set[int]) -> tuple[AllPass, ...]:
        """Those that a feed has to be given so that it turns like those `among` the inputs: what the others have."""
        return tuple(one for other in sorted(among - {number}) for one in self.by_input.get(other, ()))


def passes(there: Iterable[Feed]) -> Passes:
    """Which feed has which all-pass: what every other feed lacks against the reference is the reference's own."""
    found: dict[int, list[AllPass]] = {}
    there = list(there)
    reference = next((one.take.details.feeds[0] for one in there), 0)
    for feed in there:
        for one in feed.against.passes if feed.against else ():
            mine = found.setdefault(reference if one.ahead else feed.input, [])
            if all(abs(np.log2(other.frequency_hz / one.frequency_hz)) > SAME_OCTAVES for other in mine):
                mine.append(one)
    return Passes({number: tuple(mine) for number, mine in found.items()})


def straightened(space: Workspace, slug: str) -> list[Edit]:
    """Edits that straighten every feed there is. Raises ConflictError where there is none, or no band to do it with."""
    there = feeds(space, slug)
    if not there:
        raise ConflictError("no feed was recorded yet: clip the leads to the source's wires and record them first")
    model = processors.model(space, slug)
    turned = passes(there.values())
    # Who is heard by no channel holds nobody back: it would cost the others time and level.
    counts = heard(space, slug) & there.keys() or set(there)
    latest = max((one.against.delay_s for n in counts if (one := there[n]).against), default=0.0)
    quietest = min(there[n].level_db for n in counts)
    edits: list[Edit] = []
    for number, feed in there.items():
        given = tuple(_turns_alike(one) for one in turned.owed(number, counts))
        room = model.input_bands - len(given)
        if model.input_bands < 1 or room < 0:
            raise ConflictError(
                f"{model.name} has {model.input_bands} bands at an input: too few to straighten with; "
                "choose another model, or correct at the outputs"
            )
        bands: tuple[Band, ...] = ()
        gain = 0.0
        if not feed.tone.flat and room:
            made = inverse(feed.tone, room, model.rate)
            bands, gain = made.bands, made.gain_db
        wanted = Input(
            gain_db=gain + min(0.0, quietest - feed.level_db),
            inverted=bool(feed.against and feed.against.inverted),
            delay_s=max(0.0, latest - feed.against.delay_s) if feed.against else 0.0,
            bands=(*bands, *given),
        )
        edits.append(_set(number, model.settle_input(wanted)))
    return edits


def _turns_alike(one: AllPass) -> Band:
    """A band that turns a feed as an all-pass turns another."""
    if one.order == SECOND:
        return Band(kind="all_pass", frequency_hz=one.frequency_hz, q=one.q)
    return Band(kind="all_pass_1", frequency_hz=one.frequency_hz)


def heard(space: Workspace, slug: str) -> set[int]:
    """The inputs that some channel hears."""
    tune, inputs = head(space, slug).tune, processors.model(space, slug).inputs
    return {
        number
        for driver in space.layout(slug).drivers
        for number, factor in enumerate(sources(tune, driver, inputs), 1)
        if factor
    }


def _set(number: int, one: Input) -> SetInput:
    return SetInput(
        input=number,
        gain_db=one.gain_db,
        inverted=one.inverted,
        delay_s=one.delay_s,
        bands=one.bands,
        straightens=one != Input(),
    )


def as_it_comes(space: Workspace, slug: str) -> list[Edit]:
    """Edits that take all straightening back."""
    tune = head(space, slug).tune
    return [_set(number, Input()) for number, one in enumerate(tune.inputs, 1) if one.straightens]


def after(space: Workspace, slug: str, feed: Feed, tune: Tune) -> ComplexArray:
    """A feed's response (n,) with what its input does in a tune."""
    does = input_of(tune, feed.input)
    return np.asarray(feed.response * space.predictor_at(processors.model(space, slug).rate).channel(does.channel))


def left_db(values: ComplexArray, feed: Feed) -> float:
    """How far from flat, at most, a feed is within its own band, in dB about its mean there."""
    levels = tone(values).levels
    inside = np.isfinite(levels) & (feed.tone.low_hz <= GRID) & (feed.tone.high_hz >= GRID)
    return float(np.abs(levels[inside] - (levels[inside].max() + levels[inside].min()) / 2).max())


def exchanged(space: Workspace, slug: str) -> tuple[int, int] | None:
    """Two inputs that carry what the other is for, by their recordings or by the source's knobs; None where there are
    none."""
    by_knobs = ends.exchanged(space, slug)
    if by_knobs is not None:
        return by_knobs
    there = feeds(space, slug)
    for number, feed in there.items():
        for other, partner in there.items():
            if number < other and feed.meant.group == partner.meant.group:
                sides = (feed.meant.side, partner.meant.side)
                if (
                    sides in (("left", "right"), ("right", "left"))
                    and (feed.wire.side, partner.wire.side) == sides[::-1]
                ):
                    return number, other
    return None


def put_right(space: Workspace, slug: str) -> list[Edit]:
    """Exchange what two exchanged inputs are for, and the edits by which every channel hears the other of them.

    Raises ConflictError where none are exchanged.
    """
    pair = exchanged(space, slug)
    if pair is None:
        raise ConflictError("no two inputs carry what the other is for")
    there = meant(space, slug)
    one, other = pair
    edits: list[Edit] = []
    tune, inputs = head(space, slug).tune, processors.model(space, slug).inputs
    for driver in space.layout(slug).drivers:
        factors = list(sources(tune, driver, inputs))
        factors += [0.0] * (max(pair) - len(factors))
        factors[one - 1], factors[other - 1] = factors[other - 1], factors[one - 1]
        edits.append(SetSources(channel=driver.id, factors=tuple(factors)))
    say_meant(space, slug, one, there[other])
    say_meant(space, slug, other, there[one])
    return edits
