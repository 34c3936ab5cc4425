"""Applying edits to a tune, with the ties and the order in time that go with them."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from imbrix.core.errors import InvalidError, NotHereError
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.system.layout import Group, Layout, Seam
from imbrix.core.tune.apply_source import set_input, set_second, set_sources
from imbrix.core.tune.crossover import SLOPES, End
from imbrix.core.tune.edits import (
    Edit,
    Replace,
    SetBand,
    SetBands,
    SetChannel,
    SetCrossover,
    SetDelays,
    SetInput,
    SetNeutral,
    SetPair,
    SetSeam,
    SetSecond,
    SetSolo,
    SetSources,
    SetTaps,
    SetTarget,
    SetTie,
    ShiftGains,
    Step,
    StepSeam,
    StepTarget,
)
from imbrix.core.tune.fir import LINEAR_SLOPES, needed_taps
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Band, Crossover, Placement, Tune, neutral


def apply(tune: Tune, edits: Sequence[Edit], layout: Layout, limits: Limits | None = None) -> Tune:
    """The tune after `edits`, settled to the processor's steps where `limits` are known.

    Raises NotHereError for a channel or seam that is not there, InvalidError for a value that cannot be.
    """
    named = _Named.of(edits)
    try:
        for edit in edits:
            before = tune
            tune = _paired(before, _apply(tune, edit, layout, limits), edit, layout, named)
            if limits and isinstance(edit, SetTaps | SetCrossover):
                tune = _kept_in_time(before, tune, layout, limits)
    except ValidationError as error:
        raise InvalidError(error.errors()[0]["msg"].removeprefix("Value error, ")) from None
    if limits is None:
        return tune
    channels = {name: limits.settle(channel) for name, channel in tune.channels.items()}
    return tune.model_copy(
        update={
            "channels": channels,
            "common": tuple(limits.settle_band(band) for band in tune.common),
            "inputs": tuple(limits.settle_input(one) for one in tune.inputs),
        }
    )


def _apply(tune: Tune, edit: Edit, layout: Layout, limits: Limits | None) -> Tune:
    match edit:
        case SetChannel():
            layout.driver(edit.channel)
            values = edit.model_dump(exclude={"do", "channel"}, exclude_none=True)
            return tune.with_channel(edit.channel, **values)
        case SetCrossover():
            return _set_crossover(tune, edit, layout, limits)
        case SetTie():
            return _set_tie(tune, edit, layout)
        case SetPair():
            return _set_pair(tune, edit, layout)
        case SetSeam():
            return _set_seam(tune, edit, layout)
        case SetBand():
            return _set_band(tune, edit, layout)
        case SetBands():
            return _set_bands(tune, edit, layout)
        case SetTaps():
            layout.driver(edit.channel)
            return tune.with_channel(edit.channel, taps=edit.taps)
        case ShiftGains():
            channels = {
                name: one.model_copy(update={"gain_db": one.gain_db + edit.by_db})
                for name, one in tune.channels.items()
            }
            return tune.model_copy(update={"channels": channels})
        case SetDelays():
            for name in edit.delays_s:
                layout.driver(name)
            return with_delays(tune, {**{k: c.delay_s for k, c in tune.channels.items()}, **edit.delays_s})
        case SetSolo():
            if edit.channel is not None:
                layout.driver(edit.channel)
            return tune.model_copy(update={"solo": edit.channel})
        case SetTarget():
            values = edit.model_dump(exclude={"do"}, exclude_none=True)
            return tune.model_copy(update={"target": Placement(**{**tune.target.model_dump(), **values})})
        case Step():
            return _step(tune, edit, layout)
        case StepSeam():
            now = relative_delay(tune, layout.seam(edit.seam))
            return _set_seam(tune, SetSeam(seam=edit.seam, delay_s=now + edit.delay_s), layout)
        case StepTarget():
            level = tune.target.level_db + edit.level_db
            return _apply(tune, SetTarget(level_db=round(level, 6)), layout, limits)
        case SetInput():
            return set_input(tune, edit, layout, limits)
        case SetSources():
            return set_sources(tune, edit, layout)
        case SetSecond():
            return set_second(tune, edit, limits)
        case SetNeutral():
            plain = neutral(layout, tune)
            return limits.fitted(plain) if limits else plain
        case Replace():
            if set(edit.tune.channels) != {driver.id for driver in layout.drivers}:
                raise InvalidError("the tune does not have the channels of this system")
            return edit.tune


def _kept_in_time(before: Tune, after: Tune, layout: Layout, limits: Limits) -> Tune:
    """The tune with delays moved against what its taps delay more than before: nothing comes at another time.

    Raises InvalidError where the processor has not so much delay for the others.
    """
    later = {
        name: after.channels[name].tap_delay - before.channels[name].tap_delay
        for name in before.channels.keys() & after.channels.keys()
    }
    if not any(later.values()):
        return after
    delays = {name: one.delay_s - later.get(name, 0) / limits.rate for name, one in after.channels.items()}
    # What all would wait alike is left out: as before, the first waits as long as it did.
    spare = min(delays.values()) - min(one.delay_s for one in before.channels.values())
    tune = with_delays(after, {name: delay - max(spare, 0.0) for name, delay in delays.items()})
    name = max(tune.channels, key=lambda one: tune.channels[one].delay_s)
    most = tune.channels[name].delay_s
    if most > limits.delay_s.most + 0.5 / limits.rate:
        slow = layout.driver(max(later, key=lambda one: later[one])).name
        raise InvalidError(
            f"the taps make {slow} {max(later.values()) / limits.rate * 1e3:.1f} ms late: {layout.driver(name).name} "
            f"would need a delay of {most * 1e3:.1f} ms to stay in time, and the processor has "
            f"{limits.delay_s.most * 1e3:g} ms; take fewer taps, or give {layout.driver(name).name} taps too"
        )
    return tune


def _seams_at(layout: Layout, channel: str, end: End) -> list[Seam]:
    return [seam for seam in layout.seams() if seam.ways and channel in _ends(seam, end)]


def followers(tune: Tune, layout: Layout, channel: str, end: End) -> list[tuple[str, End]]:
    """The ends that move together: the one named first, then those tied to it across the seam or side."""
    found: list[tuple[str, End]] = [(channel, end)]
    here = _seams_at(layout, channel, end)
    if not here:
        return found
    name = here[0].name
    if name in tune.tied_sides:
        here = [seam for seam in layout.seams() if seam.name == name]
        found += [(one, end) for seam in here for one in _ends(seam, end)]
    if name in tune.tied_ways:
        other: End = "low_pass" if end == "high_pass" else "high_pass"
        found += [(one, other) for seam in here for one in _ends(seam, other)]
    return list(dict.fromkeys(found))


def _ends(seam: Seam, end: End) -> tuple[str, ...]:
    """The drivers of a seam that have this end at it."""
    return seam.uppers if end == "high_pass" else seam.lowers


def _set_crossover(tune: Tune, edit: SetCrossover, layout: Layout, limits: Limits | None) -> Tune:
    driver = layout.driver(edit.channel)
    now: Crossover | None = getattr(tune.channels[driver.id], edit.end)
    if edit.off:
        if driver.fragile and edit.end == "high_pass":
            raise InvalidError(f"{driver.name} keeps a high-pass: without one a full-range signal would destroy it")
        return tune.with_channel(driver.id, **{edit.end: None})
    given = edit.model_dump(include={"shape", "slope_db", "corner_hz", "taps"}, exclude_none=True)
    base = now or Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=1000.0)
    if now is None and limits:
        base = limits.nearest(base)
    values = {**base.model_dump(), **given}
    if edit.linear is not None:
        values["taps"] = _taps_for(limits, values) if edit.linear else 0
    if values["taps"] and edit.shape is None:
        values["shape"] = "linkwitz-riley"
    elif edit.shape is not None and edit.shape != "linkwitz-riley" and not edit.taps:
        values["taps"] = 0  # another family than this is of sections
    if "slope_db" not in given:  # a new family takes the nearest slope it has
        sections_again = now is not None and now.taps > 0 and not values["taps"]
        anew = edit.shape is not None or sections_again or now is None  # moving a corner does not change a slope
        has = (limits.slopes_of(values["shape"]) if limits and anew else ()) or SLOPES[values["shape"]]
        slopes = LINEAR_SLOPES if values["taps"] else has
        values["slope_db"] = min(slopes, key=lambda slope: abs(slope - values["slope_db"]))
    if limits and edit.taps is None and 0 < values["taps"] < _needed(limits, values):
        # Taps follow a corner that moves, and a steeper slope.
        values["taps"] = max(values["taps"], _taps_for(limits, values))
    end = Crossover(**values)
    for name, which in followers(tune, layout, driver.id, edit.end):
        tune = tune.with_channel(name, **{which: end})
    return tune


ROOM = 0.8
"""A linear-phase end gets taps enough for its corner to move down by so much."""


def _needed(limits: Limits, values: dict[str, Any]) -> int:
    return needed_taps(values["slope_db"], values["corner_hz"], limits.rate)


def _taps_for(limits: Limits | None, values: dict[str, Any]) -> int:
    """How many taps a linear-phase end gets: what it needs, as far as there are so many."""
    if limits is None or not limits.taps:
        raise InvalidError("the processor has no FIR filter: linear phase needs taps")
    slope = min(LINEAR_SLOPES, key=lambda one: abs(one - values["slope_db"]))
    needed = needed_taps(slope, ROOM * values["corner_hz"], limits.rate)
    return min(needed, limits.taps - (1 - limits.taps % 2))


def _step(tune: Tune, edit: Step, layout: Layout) -> Tune:
    channel = tune.channels[layout.driver(edit.channel).id]
    if edit.octaves:
        end: End = "high_pass" if channel.high_pass else "low_pass"
        now = channel.high_pass or channel.low_pass
        if now is None:
            raise InvalidError(f"{layout.driver(edit.channel).name} has no corner to move: set one first")
        corner = now.corner_hz * 2.0**edit.octaves
        tune = _set_crossover(tune, SetCrossover(channel=edit.channel, end=end, corner_hz=corner), layout, None)
    return tune.with_channel(
        edit.channel,
        gain_db=round(channel.gain_db + edit.gain_db, 6),
        delay_s=max(0.0, channel.delay_s + edit.delay_s),
    )


def _set_tie(tune: Tune, edit: SetTie, layout: Layout) -> Tune:
    field = "tied_ways" if edit.what == "ways" else "tied_sides"
    seams = [seam for seam in layout.seams() if seam.name == edit.ways]
    if not seams:
        raise NotHereError(f"there is no seam {edit.ways!r} in this system")
    names = set(getattr(tune, field)) - {edit.ways} | ({edit.ways} if edit.tied else set())
    tune = tune.model_copy(update={field: tuple(sorted(names))})
    if not edit.tied:
        return tune
    leader = tune.channels[seams[0].uppers[0]].high_pass or tune.channels[seams[0].lowers[0]].low_pass
    if leader is None:
        return tune
    for name, which in followers(tune, layout, seams[0].uppers[0], "high_pass"):
        tune = tune.with_channel(name, **{which: leader})
    return tune


@dataclass(frozen=True)
class _Named:
    """Of which channels edits that come together set level and bands: what is said of a channel counts more than what
    follows from its partner."""

    levels: frozenset[str]
    bands: frozenset[str]

    @classmethod
    def of(cls, edits: Sequence[Edit]) -> "_Named":
        with_level = [one for one in edits if isinstance(one, SetChannel | SetBands) and one.gain_db is not None]
        stepped = [one for one in edits if isinstance(one, Step) and one.gain_db]
        with_bands = [one for one in edits if isinstance(one, SetBand | SetBands)]
        return cls(
            frozenset(one.channel for one in (*with_level, *stepped) if one.channel is not None),
            frozenset(one.channel for one in with_bands if one.channel is not None),
        )


def _paired(before: Tune, after: Tune, edit: Edit, layout: Layout, named: _Named) -> Tune:
    """The tune with what is tied to a channel following it: levels by as much, bands that change the level alike."""
    if not isinstance(edit, SetChannel | Step | SetBand | SetBands) or edit.channel is None:
        return after
    driver = layout.driver(edit.channel)
    others = [one.id for one in layout.alike(driver) if one.id != driver.id]
    rises = after.channels[driver.id].gain_db - before.channels[driver.id].gain_db
    bands = after.channels[driver.id].voicing
    for name in others:
        other = after.channels[name]
        if rises and {name, driver.id} <= set(after.tied_levels) and name not in named.levels:
            after = after.with_channel(name, gain_db=round(other.gain_db + rises, 6))
        both = {name, driver.id} <= set(after.tied_bands) and name not in named.bands
        if both and bands != before.channels[driver.id].voicing:
            after = after.with_channel(name, bands=(*other.all_passes, *bands))
    return after


def _set_pair(tune: Tune, edit: SetPair, layout: Layout) -> Tune:
    driver = layout.driver(edit.channel)
    pair = [one.id for one in layout.alike(driver)]
    if len(pair) < 2:
        raise InvalidError(f"{driver.name} has no partner on the other side to be tied to")
    field = "tied_levels" if edit.what == "level" else "tied_bands"
    names = set(getattr(tune, field)) - set(pair) | (set(pair) if edit.tied else set())
    tune = tune.model_copy(update={field: tuple(sorted(names))})
    if edit.tied and edit.what == "bands":
        bands = tune.channels[driver.id].voicing
        for name in pair:
            if name != driver.id:
                tune = tune.with_channel(name, bands=(*tune.channels[name].all_passes, *bands))
    return tune


def _set_seam(tune: Tune, edit: SetSeam, layout: Layout) -> Tune:
    seam = layout.seam(edit.seam)
    first = layout.driver(seam.uppers[0])
    # What is below both sides of a pair moves by itself: moving the pair would part left from right.
    lowest = layout.driver(seam.lowers[0])
    below = seam.ways is not None and (lowest.group == Group.SUB or (lowest.side == "both" and first.side != "both"))
    if below:
        moved = list(seam.lowers)
    elif seam.ways is None:
        moved = list(seam.uppers)
    else:
        moved = [one.id for one in layout.above(first)]
    wanted = edit.delay_s if edit.path_m is None else edit.path_m / speed_of_sound()
    if wanted is not None:
        change = wanted - relative_delay(tune, seam)
        delays = {name: channel.delay_s for name, channel in tune.channels.items()}
        for name in moved:
            delays[name] += -change if below else change
        tune = with_delays(tune, delays)
    if edit.invert is not None and edit.invert != relative_polarity(tune, seam):
        for name in moved:
            tune = tune.with_channel(name, inverted=not tune.channels[name].inverted)
    return tune


def relative_delay(tune: Tune, seam: Seam) -> float:
    """Seconds by which the upper way of a seam is set later than the lower one."""
    return tune.channels[seam.uppers[0]].delay_s - tune.channels[seam.lowers[0]].delay_s


def relative_polarity(tune: Tune, seam: Seam) -> bool:
    """Whether the two ways of a seam are set to opposite polarity."""
    return tune.channels[seam.uppers[0]].inverted != tune.channels[seam.lowers[0]].inverted


def with_delays(tune: Tune, delays_s: dict[str, float]) -> Tune:
    """The tune with these delays, all shifted alike so that the shortest of all channels is zero or as given.

    Only differences matter to the sound; no processor plays before it hears.
    """
    least = min(delays_s.values())
    shift = -least if least < 0 else 0.0
    channels = {
        name: channel.model_copy(update={"delay_s": delays_s[name] + shift}) for name, channel in tune.channels.items()
    }
    return tune.model_copy(update={"channels": channels})


def _bands(tune: Tune, channel: str | None, layout: Layout) -> tuple[Band, ...]:
    if channel is None:
        return tune.common
    layout.driver(channel)
    return tune.channels[channel].bands


def _with_bands(tune: Tune, channel: str | None, bands: tuple[Band, ...]) -> Tune:
    if channel is None:
        return tune.model_copy(update={"common": bands})
    return tune.with_channel(channel, bands=bands)


def _set_band(tune: Tune, edit: SetBand, layout: Layout) -> Tune:
    bands = list(_bands(tune, edit.channel, layout))
    if edit.index > len(bands) or (edit.band is None and edit.index == len(bands)):
        raise InvalidError(f"there is no band {edit.index + 1}; there are {len(bands)}")
    bands[edit.index : edit.index + 1] = [edit.band] if edit.band else []
    return _with_bands(tune, edit.channel, tuple(bands))


def _set_bands(tune: Tune, edit: SetBands, layout: Layout) -> Tune:
    _bands(tune, edit.channel, layout)
    tune = _with_bands(tune, edit.channel, edit.bands)
    if edit.gain_db is not None and edit.channel is not None:
        tune = tune.with_channel(edit.channel, gain_db=edit.gain_db)
    return tune
