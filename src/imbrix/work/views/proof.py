"""What Proof shows: measured against predicted and target."""

import numpy as np

from imbrix.core.errors import NotHereError
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.measures import deviation
from imbrix.core.signal.signal import ComplexArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import SIDES, Side
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.moments import in_utc
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.matching import SIDES_HZ, apart_db, difference, sides
from imbrix.work.predict.parting import parting
from imbrix.work.predict.scene import acoustic_target, predicted
from imbrix.work.source.colour import predicted_through
from imbrix.work.takes.proofs import proofs
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take, take, through
from imbrix.work.tune.targets import placed
from imbrix.work.views import closer
from imbrix.work.views.gated import gated
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View, level, together
from imbrix.work.views.strays import strays


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    one = proof_take(space, slug, view)
    target = placed(space, slug, tune)
    grid = space.grid
    playing: set[str] | None = None
    predicted_tune = tune
    if one is not None:
        playing = set(one.channels)
        predicted_tune = through(space, one)
    by_source = one is not None and one.method == "source"
    responses = (
        predicted_through(space, slug, now, predicted_tune) if by_source else predicted(space, now, predicted_tune)
    )
    if now.ids:
        whole = together(space, now, responses, predicted_tune, view, playing)
        picture.add("predicted", whole, "predicted", label="predicted")
    picture.add("target", target, "target", label="target")
    picture.facts["target_level_db"] = tune.target.level_db
    if one is None:
        closer.add(space, picture, None, None, view.below, view.smoothing, view.gate_ms, view.lens)
        return
    known = reading(space, one).response
    values = np.where(np.isfinite(known), level(space, np.nan_to_num(known), view), np.nan)
    picture.add("measured", values, "sum", label="measured")
    if view.below:
        subject = closer.of_proof(space, one)
        closer.add(space, picture, subject, None, view.below, view.smoothing, view.gate_ms, view.lens)
        if view.gate_ms or view.lens.cycles >= 1:
            gated(space, picture, view, closer.gated(space, one, view.gate_ms, view.lens))
    picture.facts["take"] = {
        "id": one.id,
        "channels": list(one.channels),
        "made": in_utc(one.created).isoformat(),
        "revision_id": one.revision_id,
    }
    low, high = _judged(space, slug, now, predicted_tune, one, view)
    strays(picture, deviation(values, target, grid, low, high), low, high)
    if now.ids:
        picture.add("difference", values - whole, "difference", pane="lower")
        came = deviation(values, whole, grid, low, high)
        parted = parting(space, slug, one)
        if parted is not None:
            picture.facts["parting"] = {"rms_db": parted.rms_db, "says": parted.says}
        heard = sides(space, slug, tune)
        measured = heard.takes if heard is not None and heard.both else None
        apart = apart_db(space, difference(space, measured)) if measured else _sides_db(space, now, responses)
        if apart is not None:
            picture.facts["sides_db"] = apart
            picture.facts["sides_measured"] = measured is not None
        if came is not None:
            picture.facts["prediction"] = {"rms": came.rms, "worst": came.worst, "mean": came.mean}


def _judged(space: Workspace, slug: str, now: Scene, tune: Tune, one: Take, view: View) -> tuple[float, float]:
    """The span in hertz over which a recording is held against target and prediction: what is looked at, as far as the
    channels that played are there to play it."""
    spans = [acoustic_target(space, slug, tune, now.layout.driver(name))[1:] for name in one.channels]
    low, high = max(view.low_hz, min(span[0] for span in spans)), min(view.high_hz, max(span[1] for span in spans))
    return (low, high) if low < high else (view.low_hz, view.high_hz)


def _sides_db(space: Workspace, now: Scene, responses: ComplexArray) -> float | None:
    """By how much both sides of the main group differ as predicted, in dB rms; None where there is but one."""
    sums = []
    for side in SIDES:
        mine = [n for n, name in enumerate(now.ids) if _of(now, name, side)]
        if not mine:
            return None
        sums.append(power_decibels(smooth_power(responses[mine].sum(axis=0), space.grid, 6.0)))
    inside = span_mask(space.grid, *SIDES_HZ)
    return float(np.sqrt(np.mean((sums[0] - sums[1])[inside] ** 2)))


def _of(now: Scene, name: str, side: Side) -> bool:
    driver = now.layout.driver(name)
    return (driver.group, driver.side) == (now.layout.main, side)


def proof_take(space: Workspace, slug: str, view: View) -> Take | None:
    if view.take is not None:
        one = take(space, slug, view.take)
        if one.purpose != "proof":
            raise NotHereError(f"take {view.take} is none of the whole")
        return one
    return next(proofs(space, slug), None)
