"""FIR taps for a channel or for the whole: what the core finds for the takes in force, as edits and in sentences."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import ConflictError, InvalidError
from imbrix.core.fir.together import Part, Together, alone, together
from imbrix.core.fir.wish import Wish
from imbrix.core.system.layout import Layout
from imbrix.core.tune.apply import apply
from imbrix.core.tune.edits import Edit, SetChannel, SetTaps
from imbrix.core.tune.fir import Taps
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Channel, Tune
from imbrix.work.ground import processors
from imbrix.work.ground.searching import searching
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import acoustic_target, scene
from imbrix.work.predict.spots import Spots, in_common, require_time, spots_of
from imbrix.work.takes.reading import place_dips
from imbrix.work.takes.seen import comes_bare, seen
from imbrix.work.takes.shelf import Take
from imbrix.work.tune.revisions import head

AXIS = "off the axis"
LOSES_DB = 0.5
TOLD_DB = 0.1
DOES = {"linear": "linear phase", "excess": "excess phase", "keep": "magnitude"}


@dataclass(frozen=True)
class Found:
    """Taps on a revision: what was found, the edits that set it, the places it was judged at, and what to say."""

    revision: int
    found: Together
    edits: tuple[Edit, ...]
    places: tuple[str, ...]
    says: tuple[str, ...]


def fir(space: Workspace, slug: str, channel: str, wish: Wish) -> Found:
    """Taps for a channel, or for all of them together where none is named. Nothing is kept.

    Raises ConflictError where takes are missing or show no phase, or another search runs, InvalidError where the wish
    cannot be done, StoppedError where it was stopped.
    """
    model = processors.model(space, slug)
    now = scene(space, slug)
    present = head(space, slug)
    plain = without_taps(present.tune, now.layout, model)
    names = (now.layout.driver(channel).id,) if channel else now.ids
    _check(now, model, plain, names, wish)
    spots = spots_of(space, now, timed=not channel)
    # Of one way each place is referred to its own arrival: clocks are no matter there.
    places = tuple(spots[channel]) if channel else in_common(now, spots)
    parts = [_part(space, slug, now, spots, plain, name, places, wish) for name in names]
    with searching(space, slug, f"taps for {now.layout.driver(channel).name if channel else 'all channels'}"):
        found = (
            alone(parts[0], space.grid, wish, model.rate) if channel else together(parts, space.grid, wish, model.rate)
        )
    if channel:
        places = (*places, *(f"{one.details.angle:g}° {AXIS}" for one in _angles(now, channel)))
    edits = _edits(found, plain, model, wish)
    return Found(present.id, found, edits, places, _says(found, now.layout, places, wish))


def without_taps(tune: Tune, layout: Layout, model: Limits) -> Tune:
    """The tune without the taps that its channels keep, in time as it is; linear-phase ends stay."""
    return apply(tune, [SetTaps(channel=name) for name, one in tune.channels.items() if one.taps], layout, model)


def _check(now: Scene, model: Limits, plain: Tune, names: tuple[str, ...], wish: Wish) -> None:
    if not model.taps:
        raise ConflictError(f"{model.name} has no FIR filter: choose a model of processor that has taps")
    linear = max((plain.channels[name].linear_taps for name in names), default=0)
    room = model.taps - max(0, linear - 1)
    if wish.taps > room:
        beside = f", {linear} of which its linear-phase ends take" if linear else ""
        raise InvalidError(f"{wish.taps} taps are more than the {room} that are left of {model.taps}{beside}")
    if len(names) == 1:
        one = now.takes.get(names[0])
        driver = now.layout.driver(names[0])
        if one is None:
            raise ConflictError(f"{driver.name}: no take yet; record it first")
        if not one.has_impulse:
            raise ConflictError(f"{driver.name}: its take shows levels only; record a sweep for its phase")
    else:
        require_time(now)


def _part(
    space: Workspace,
    slug: str,
    now: Scene,
    spots: Spots,
    plain: Tune,
    name: str,
    places: tuple[str, ...],
    wish: Wish,
) -> Part:
    driver = now.layout.driver(name)
    filtered = processors.predictor(space, slug).through(plain, [name])[0]
    takes = [now.takes[name] if n == 0 else spots[name][spot] for n, spot in enumerate(places)]
    heard = np.array([seen(space, one, wish.cycles, wish.gate_ms) * filtered for one in takes])
    late = plain.channels[name].late_s(now.rate)
    about = tuple(comes_bare(space, one) + late for one in takes)
    target, low, high = acoustic_target(space, slug, plain, driver)
    dips = place_dips(space, slug, takes[0], 12) if wish.magnitude and not wish.here else 0.0
    angles = _angles(now, name)
    aside = np.array([seen(space, one, wish.cycles, wish.gate_ms) * filtered for one in angles])
    aside_s = tuple(comes_bare(space, one) + late for one in angles)
    off_axis = aside if angles else None
    return Part(name, driver.side, heard, about, target, (low, high), dips, off_axis, aside_s)


def _angles(now: Scene, name: str) -> list[Take]:
    """The newest take of a driver from each angle."""
    found: dict[float, Take] = {}
    for one in now.known_takes:  # the newest first
        mine = one.channels == (name,) and one.purpose == "driver" and not one.discarded
        if mine and one.details.angle and one.has_impulse:
            found.setdefault(one.details.angle, one)
    return [found[angle] for angle in sorted(found)]


def _edits(found: Together, plain: Tune, model: Limits, wish: Wish) -> tuple[Edit, ...]:
    edits: list[Edit] = []
    moved = _gains(found, plain, model)
    for name, one in found.made.items():
        channel: Channel = plain.channels[name]
        if name in found.inverted or name in moved:
            turned = not channel.inverted if name in found.inverted else None
            edits.append(SetChannel(channel=name, inverted=turned, gain_db=moved.get(name)))
        does = DOES[wish.phase] if wish.phase == "keep" or not wish.magnitude else f"{DOES[wish.phase]} and magnitude"
        says = f"{does}, {one.low_hz:.0f} to {one.high_hz:.0f} Hz"
        edits.append(SetTaps(channel=name, taps=Taps.of(one.taps, model.rate, found.late, says)))
    return tuple(edits)


def _gains(found: Together, plain: Tune, model: Limits) -> dict[str, float]:
    """The gains of ways that are levelled among each other, as the processor can set them; the whole comes down where
    one would go beyond that."""
    gains = {name: plain.channels[name].gain_db + by for name, by in found.gains.items()}
    over = max(0.0, max(gains.values(), default=0.0) - model.gain_db.most)
    return {name: round(max(gain - over, model.gain_db.least), 1) for name, gain in gains.items()}


def _says(found: Together, layout: Layout, places: tuple[str, ...], wish: Wish) -> tuple[str, ...]:
    """What is to be known before they are taken."""
    name = {one.id: one.name for one in layout.drivers}
    said = []
    if found.inverted:
        who = ", ".join(name[one] for one in found.inverted)
        said.append(f"{who}: points the other way than the rest; its polarity is changed first")
    for one, why in found.left_out.items():
        said.append(f"{name[one]} is left as it is: {why}")
    for one, made in found.made.items():
        if made.pre_db > wish.pre_db + 0.5:
            other = ", or take excess phase" if wish.phase == "linear" else ""
            said.append(
                f"{name[one]}: {made.pre_db:.0f} dB before the main pulse, over the limit; what is turned so low rings "
                f"so early: raise the span's lower end{other}"
            )
        for low, high in made.left_out_hz[:3]:
            said.append(f"{name[one]}: {low:.0f} to {high:.0f} Hz moves with the microphone, and is left alone")
    if found.before and found.after and found.after.level_db > found.before.level_db + LOSES_DB:
        said.append(
            f"The sum strays by {found.after.level_db:.1f} dB in place of {found.before.level_db:.1f}: a way that is "
            "left as it is no longer fits its neighbour; take the span so far that both are in it"
        )
    if wish.here and wish.magnitude:
        said.append("For one chair: what reflections take away there is lifted, and comes as a peak beside it.")
        moves = [f"{name[one]} {by:+.1f} dB" for one, by in found.gains.items() if abs(by) >= TOLD_DB]
        if moves:
            said.append(f"Levels between ways move, as the window hears them: {', '.join(moves)}")
    harmed = [places[spot.place] or "the first place" for spot in found.spots if spot.place and spot.harmed]
    if harmed:
        other = "level it for more than one chair" if wish.here and wish.magnitude else "record more places"
        said.append(f"It helps where it was made and harms {', '.join(harmed)}: narrow the span, or {other}")
    if sum(AXIS not in one for one in places) < 2:
        said.append("Judged at one spot: takes at a second place would tell what moves with the microphone.")
    return tuple(said)
