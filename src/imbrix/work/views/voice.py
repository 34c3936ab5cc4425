"""What Voice shows: a channel, or all together, against the target; below the correction."""

import numpy as np

from imbrix.core.predict.headroom import peaks
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.measures import deviation
from imbrix.core.signal.signal import FloatArray, decibels
from imbrix.core.tune.tune import Channel, Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.fir import without_taps
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import acoustic_target, predicted, summed
from imbrix.work.processor.controls import at_most
from imbrix.work.tune.targets import placed, share_db
from imbrix.work.views import bands, closer, taps
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View, shown, together
from imbrix.work.views.strays import strays

WHOLE = {"bold": "sum", "faint": "sum-faint"}
"""The roles of a single driver's curves, told of the whole."""


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    grid = space.grid
    target = placed(space, slug, tune)
    responses = predicted(space, now, tune)
    subject = None
    was_role, now_role = ("bold", "faint") if view.before else ("faint", "bold")
    if view.selection:
        driver = now.layout.driver(view.selection)
        own, low, high = acoustic_target(space, slug, tune, driver)
        share = target + share_db(now.layout, driver)
        row = now.index(driver.id)
        channel = tune.channels[driver.id]
        if row is not None:
            plain = tune.with_channel(driver.id, bands=()).model_copy(update={"common": ()})
            if view.part == taps.PART:  # what taps do is looked at there: bands stay
                plain = without_taps(tune, now.layout, processors.model(space, slug))
            before = predicted(space, now, plain)[row]
            picture.add("uncorrected", shown(space, now, row, before, view), was_role, channel=driver.id)
            values = shown(space, now, row, responses[row], view)
            picture.add("corrected", values, now_role, label=driver.name, channel=driver.id)
            strays(picture, deviation(values, own, grid, low, high), low, high)
            _price(picture, shown(space, now, row, before, view), own, low, high, grid)
            heard = np.where(now.known[row], responses[row], np.nan)
            subject = closer.Subject(heard, driver.name, driver.id, now.takes[driver.id])
        picture.add("own-target", np.where(own > share - 30, own, np.nan), "own-target", channel=driver.id)
        _correction(space.predictor_at(now.rate), picture, channel, tune, driver.id)
        _headroom(space.predictor_at(now.rate), picture, (driver.id,), tune, at_most(space, slug, tune))
        wanted = share
    else:
        whole = summed(now, responses, tune)
        plain_tune = tune.model_copy(update={"common": ()})
        if view.part == taps.PART:
            plain_tune = without_taps(tune, now.layout, processors.model(space, slug))
        without = predicted(space, now, plain_tune)
        for row, name in enumerate(now.ids):
            picture.add(f"one-{name}", shown(space, now, row, responses[row], view), "faint", channel=name)
        if now.ids:
            if plain_tune != tune:
                picture.add("uncorrected", together(space, now, without, plain_tune, view), WHOLE[was_role])
            values = together(space, now, responses, tune, view)
            picture.add("corrected", values, WHOLE[now_role], label="all channels")
            subject = closer.Subject(whole, "all channels")
            strays(picture, deviation(values, target, grid, view.low_hz, view.high_hz), view.low_hz, view.high_hz)
        _correction(
            space.predictor_at(now.rate),
            picture,
            Channel(bands=tune.common),
            tune.model_copy(update={"common": ()}),
            "",
        )
        everyone = tuple(one.id for one in now.layout.drivers)
        _headroom(space.predictor_at(now.rate), picture, everyone, tune, at_most(space, slug, tune))
        wanted = target
    if view.part != taps.PART or not taps.draw(space, slug, view, tune, now, picture):
        closer.add(space, picture, subject, None, view.below, view.smoothing, view.gate_ms, view.lens)
    picture.add("target", wanted, "target", label="target")
    picture.facts["target_level_db"] = tune.target.level_db
    picture.facts["share_db"] = float(wanted[0] - target[0])


def _price(picture: Picture, before: FloatArray, own: FloatArray, low: float, high: float, grid: FloatArray) -> None:
    """How far gain and bands have to lift the lowest dip and lower the highest peak in the span."""
    inside = (grid >= low) & (grid <= high) & np.isfinite(before)
    if inside.any():
        apart = (before - own)[inside]
        picture.facts["price"] = {"highest": float(apart.max()), "lowest": float(apart.min())}


def _headroom(predictor: Predictor, picture: Picture, names: tuple[str, ...], tune: Tune, most: Tune) -> None:
    """The peaks of the channel that peaks highest, what the customer may turn up included."""
    one = max((peaks(most, name, predictor) for name in names), key=lambda each: each.worst_db)
    picture.facts["headroom"] = {
        "sine_db": one.sine_db,
        "sine_hz": one.sine_hz,
        "sweep_db": one.sweep_db,
        "pink_db": one.pink_db,
        "turned_up": most != tune,
    }


def _correction(predictor: Predictor, picture: Picture, channel: Channel, tune: Tune, name: str) -> None:
    total = bands.add(predictor, picture, channel.bands, name)
    if channel.taps:
        total *= predictor.taps(channel.taps.values)
    if tune.common:
        total *= predictor.channel(Channel(bands=tune.common))
    picture.add("correction", decibels(total), "correction", pane="lower", channel=name)
    picture.facts["most_boost_db"] = float(max(decibels(total).max(), 0.0))
