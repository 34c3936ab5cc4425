"""Views: what a stage shows for a selection, as a picture."""

from typing import Any

import numpy as np

from imbrix.core.evidence import agreement
from imbrix.core.lower import band_section
from imbrix.core.measures import deviation
from imbrix.core.signal import ComplexArray, FloatArray, decibels
from imbrix.core.tune import Channel, Tune
from imbrix.work import angles, closer, corrections, listening, looks, ohms, reading_off, references, rig, seam_view
from imbrix.work.desk import Desk, NotHereError
from imbrix.work.link import read_back
from imbrix.work.picture import Picture
from imbrix.work.prediction import Scene, acoustic_target, predicted, scene, summed
from imbrix.work.takes import Take, band, bare, reading, take, takes, through
from imbrix.work.targets import placed, share_db
from imbrix.work.tuning import revision
from imbrix.work.view import View, level, shown

WHOLE = {"bold": "sum", "faint": "sum-faint"}
"""The roles of a single driver's curves, told of the whole."""


def draw(desk: Desk, slug: str, view: View, tune: Tune) -> Picture:
    """The picture of a view for a tune, which may be a draft."""
    now = scene(desk, slug, spatial=_spatial(desk, slug, view))
    picture = Picture()
    drawers = {
        "rig": _rig,
        "drivers": _drivers,
        "seams": seam_view.draw,
        "voice": _voice,
        "proof": _proof,
        "handover": _handover,
    }
    drawers[view.stage](desk, slug, view, tune, now, picture)
    if view.compare is not None and view.stage in ("seams", "voice", "proof"):
        old = revision(desk, slug, view.compare)
        among = _among(now, view)
        whole = summed(now, predicted(desk, now, old.tune), old.tune, among)
        label = f"revision {old.number}"
        picture.add("compare", level(desk, whole, view), "compare", label=label)
    if view.stage not in ("rig", "handover") and view.part != "impedance":
        for one in references.references(desk, slug):
            if one.shown:
                picture.add(f"reference-{one.id}", references.on_grid(one), "reference", label=one.name)
    if view.below and view.stage != "drivers":
        # What is looked at closely takes the place of what usually stands below.
        usual = ("phase", "correction", "difference")
        picture.curves = [one for one in picture.curves if one.id not in usual and one.role != "band"]
    levels = view.part != "impedance"
    reading_off.add(desk, now, picture, view.selection, view.span_low_hz, view.span_high_hz, levels)
    return picture


def _spatial(desk: Desk, slug: str, view: View) -> bool:
    """Whether a view shows what a moving microphone hears, where there is such a take."""
    if view.stage == "proof":
        one = _proof_take(desk, slug, view)
        return one is not None and one.levels_only
    return view.stage in ("drivers", "voice")


def _rig(desk: Desk, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    """What is divided out of every take: the microphone's corrections and the interface's own response."""
    if view.part == "input":
        shown, marked = (view.raw_from, view.raw_to), (view.mark_from, view.mark_to)
        listening.draw(desk, slug, picture, view.take, shown, marked)
        return
    chosen = rig.rig(desk)
    for pointing, wanted in chosen.corrections.items():
        if wanted is not None:
            values = decibels(corrections.on_grid(desk, wanted))
            role = "bold-sum" if pointing == chosen.pointing else "reference"
            picture.add(f"microphone-{pointing}", values, role, label=f"microphone, pointing at the {pointing}")
    if chosen.check:
        own = rig.check_curve(desk, chosen.check.made, against_reference=False)
        if own is not None:
            picture.add("interface", decibels(own), "interface", label="interface, looped")
    if chosen.level and view.part == "level":
        over = np.full(desk.grid.size, np.nan)
        for middle, value in chosen.level.over_noise_db.items():
            centre = float(middle)
            over[(desk.grid >= centre / 2**0.5) & (desk.grid < centre * 2**0.5)] = value
        picture.add("over-noise", over, "correction", pane="lower", label="signal over noise by octave")


def _among(now: Scene, view: View) -> set[str] | None:
    if view.stage == "seams" and view.seam:
        seam = now.layout.seam(view.seam)
        return {*seam.lowers, *seam.uppers}
    if view.stage == "voice" and view.selection:
        return {view.selection}
    return None


def _drivers(desk: Desk, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    if view.part == "impedance":
        ohms.draw(desk, slug, picture, view.selection, view.take, tune)
        return
    for row, name in enumerate(now.ids):
        values = shown(desk, now, row, now.rows[row], view)
        role = "bold" if name == view.selection else "plain"
        picture.add(f"bare-{name}", values, role, label=now.layout.driver(name).name, channel=name)
    if view.selection and view.selection not in now.takes:
        closer.add(desk, picture, None, None, view.below, view.smoothing, view.gate_ms, view.lens)
    elif view.selection:
        subject, beside = closer.of_driver(desk, now, view.selection)
        older = take(desk, slug, view.take) if view.take is not None else None
        older = older if older and older.purpose == "driver" else None
        closer.add(desk, picture, subject, beside, view.below, view.smoothing, view.gate_ms, view.lens, older)
        if view.below == "angles":
            angles.of_driver(desk, slug, picture, view.selection, view.smoothing)
        if view.gate_ms or view.lens.cycles >= 1:
            _gated(desk, picture, view, closer.gated_bare(desk, now.takes[view.selection], view.gate_ms, view.lens))
    looks.draw(desk, slug, picture, view.selection, view.smoothing, view.below == "difference")
    if view.take is not None:
        _one_take(desk, slug, view, now, picture)
        return
    force = now.forces.get(view.selection)
    if force and force.moving and force.moving.id != force.take.id:
        fixed = bare(desk, force.take)
        values = np.where(np.isfinite(fixed), level(desk, np.nan_to_num(fixed), view), np.nan)
        picture.add("fixed", values, "faint", label="at one spot", channel=view.selection)
    if force and force.moving:
        _confidence(desk, now, view, force.moving, picture)


def _gated(desk: Desk, picture: Picture, view: View, through: ComplexArray | None) -> None:
    """What a gate leaves of the main curve, and the lowest frequency that it still supports."""
    if through is None:
        return
    cycles = view.lens.cycles
    values = np.where(np.isfinite(through), level(desk, np.nan_to_num(through), view), np.nan)
    label = f"{cycles:g} cycles" if cycles >= 1 else f"gate of {view.gate_ms:g} ms"
    picture.add("gated", values, "sum", label=label)
    # So many cycles always hold a period: nothing is out of reach but what the longest window leaves out.
    picture.facts["lowest_hz"] = 20.0 if cycles >= 1 else 1e3 / view.gate_ms


def _one_take(desk: Desk, slug: str, view: View, now: Scene, picture: Picture) -> None:
    """An older take of a driver beside the one in force, and what the two differ by."""
    assert view.take is not None
    one = take(desk, slug, view.take)
    if one.purpose != "driver":
        return
    values = bare(desk, one)
    picture.add(
        "older",
        np.where(np.isfinite(values), level(desk, np.nan_to_num(values), view), np.nan),
        "compare",
        label=f"take {one.id}",
    )
    row = now.index(one.channels[0])
    if row is None or now.takes[one.channels[0]].id == one.id:
        return
    low, high = band(desk, one)
    same = one.timed and one.clock == now.takes[one.channels[0]].clock
    found = agreement(values, np.where(now.known[row], now.rows[row], np.nan), desk.grid, low, high, same)
    if found:
        picture.facts["agreement"] = found.model_dump(mode="json")


def _confidence(desk: Desk, now: Scene, view: View, moving: Take, picture: Picture) -> None:
    """The 95 % confidence band of a moving-microphone take about its curve."""
    row = now.index(view.selection)
    if row is None or not moving.details.band_hz:
        return
    middle = shown(desk, now, row, now.rows[row], view)
    half = np.interp(np.log(desk.grid), np.log(moving.details.band_hz), moving.details.band_db)
    picture.add("sure-low", middle - half, "edge", channel=view.selection)
    picture.add("sure-high", middle + half, "edge", channel=view.selection)
    picture.facts["moving"] = {
        "averages": moving.details.averages,
        "change_db": moving.details.change_db,
        "band_db": float(np.median(moving.details.band_db)),
    }


def _voice(desk: Desk, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    grid = desk.grid
    target = placed(desk, slug, tune)
    responses = predicted(desk, now, tune)
    subject = None
    was_role, now_role = ("bold", "faint") if view.before else ("faint", "bold")
    if view.selection:
        driver = now.layout.driver(view.selection)
        own, low, high = acoustic_target(desk, slug, tune, driver)
        share = target + share_db(driver.side)
        row = now.index(driver.id)
        channel = tune.channels[driver.id]
        if row is not None:
            plain = channel.model_copy(update={"bands": ()})
            before = now.rows[row] * desk.predictor.channel(plain)
            picture.add("uncorrected", shown(desk, now, row, before, view), was_role, channel=driver.id)
            values = shown(desk, now, row, responses[row], view)
            picture.add("corrected", values, now_role, label=driver.name, channel=driver.id)
            _against(picture, deviation(values, own, grid, low, high), low, high)
            _price(picture, shown(desk, now, row, before, view), own, low, high, grid)
            heard = np.where(now.known[row], responses[row], np.nan)
            subject = closer.Subject(heard, driver.name, driver.id, now.takes[driver.id])
        picture.add("own-target", np.where(own > share - 30, own, np.nan), "own-target", channel=driver.id)
        _correction(desk, picture, channel, tune, driver.id)
        wanted = share
    else:
        whole = summed(now, responses, tune)
        plain_tune = tune.model_copy(update={"common": ()})
        before = summed(now, predicted(desk, now, plain_tune), plain_tune)
        for row, name in enumerate(now.ids):
            picture.add(f"one-{name}", shown(desk, now, row, responses[row], view), "faint", channel=name)
        if now.ids:
            if tune.common:
                picture.add("uncorrected", level(desk, before, view), WHOLE[was_role])
            values = level(desk, whole, view)
            picture.add("corrected", values, WHOLE[now_role], label="all channels")
            subject = closer.Subject(whole, "all channels")
            _against(picture, deviation(values, target, grid, view.low_hz, view.high_hz), view.low_hz, view.high_hz)
        _correction(desk, picture, Channel(bands=tune.common), tune.model_copy(update={"common": ()}), "")
        wanted = target
    closer.add(desk, picture, subject, None, view.below, view.smoothing, view.gate_ms, view.lens)
    picture.add("target", wanted, "target", label="target")
    picture.facts["target_level_db"] = tune.target.level_db
    picture.facts["share_db"] = float(wanted[0] - target[0])


def _against(picture: Picture, found: Any, low: float, high: float) -> None:
    if found is not None:
        picture.facts["deviation"] = {
            "mean": found.mean,
            "plus_minus": found.plus_minus,
            "worst": found.worst,
            "rms": found.rms,
            "low_hz": low,
            "high_hz": high,
        }


def _price(picture: Picture, before: FloatArray, own: FloatArray, low: float, high: float, grid: FloatArray) -> None:
    """How far gain and bands have to lift the lowest dip and lower the highest peak in the span."""
    inside = (grid >= low) & (grid <= high) & np.isfinite(before)
    if inside.any():
        apart = (before - own)[inside]
        picture.facts["price"] = {"highest": float(apart.max()), "lowest": float(apart.min())}


def _correction(desk: Desk, picture: Picture, channel: Channel, tune: Tune, name: str) -> None:
    bands = channel.bands
    rate = desk.processor.limits.rate
    total = np.ones(desk.grid.size, dtype=complex)
    for n, each in enumerate(bands):
        one = desk.predictor.sections(np.array([[band_section(each, rate)]]))[0]
        total *= one
        picture.add(f"band-{n}", decibels(one), "band", pane="lower", channel=name)
    if tune.common:
        total *= desk.predictor.channel(Channel(bands=tune.common))
    picture.add("correction", decibels(total), "correction", pane="lower", channel=name)
    picture.facts["most_boost_db"] = float(max(decibels(total).max(), 0.0))


def _proof(desk: Desk, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    one = _proof_take(desk, slug, view)
    target = placed(desk, slug, tune)
    grid = desk.grid
    playing: set[str] | None = None
    predicted_tune = tune
    if one is not None:
        playing = set(one.channels)
        predicted_tune = through(desk, one)
    responses = predicted(desk, now, predicted_tune)
    if now.ids:
        whole = level(desk, summed(now, responses, predicted_tune, playing), view)
        picture.add("predicted", whole, "predicted", label="predicted")
    picture.add("target", target, "target", label="target")
    picture.facts["target_level_db"] = tune.target.level_db
    if one is None:
        closer.add(desk, picture, None, None, view.below, view.smoothing, view.gate_ms, view.lens)
        return
    known = reading(desk, one).response
    values = np.where(np.isfinite(known), level(desk, np.nan_to_num(known), view), np.nan)
    picture.add("measured", values, "sum", label="measured")
    if view.below:
        subject = closer.of_proof(desk, one)
        closer.add(desk, picture, subject, None, view.below, view.smoothing, view.gate_ms, view.lens)
        if view.gate_ms or view.lens.cycles >= 1:
            _gated(desk, picture, view, closer.gated(desk, one, view.gate_ms, view.lens))
    picture.facts["take"] = {
        "id": one.id,
        "channels": list(one.channels),
        "made": one.created.isoformat(),
        "revision_id": one.revision_id,
    }
    _against(picture, deviation(values, target, grid, view.low_hz, view.high_hz), view.low_hz, view.high_hz)
    if now.ids:
        picture.add("difference", values - whole, "difference", pane="lower")
        came = deviation(values, whole, grid, view.low_hz, view.high_hz)
        if came is not None:
            picture.facts["prediction"] = {"rms": came.rms, "worst": came.worst, "mean": came.mean}


def _proof_take(desk: Desk, slug: str, view: View) -> Take | None:
    if view.take is not None:
        one = take(desk, slug, view.take)
        if one.purpose != "proof":
            raise NotHereError(f"take {view.take} is none of the whole")
        return one
    for one in takes(desk, slug):
        if one.purpose == "proof" and not one.discarded:
            return one
    return None


def _handover(desk: Desk, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    held = read_back(desk, now.layout, tune)
    for driver in now.layout.drivers:
        wanted = decibels(desk.predictor.channel(tune.channels[driver.id], tune.common))
        picture.add(f"tune-{driver.id}", wanted, "plain", label=driver.name, channel=driver.id)
        has = decibels(desk.predictor.channel(held.channels[driver.id], held.common))
        if not np.allclose(has, wanted, atol=0.01):
            picture.add(f"held-{driver.id}", has, "faint", channel=driver.id)


def curve_of(desk: Desk, slug: str, view: View, curve_id: str, tune: Tune) -> FloatArray:
    """One curve (n,) of a view by its id. Raises NotHereError."""
    for one in draw(desk, slug, view, tune).curves:
        if one.id == curve_id:
            return one.values
    raise NotHereError(f"there is no curve {curve_id!r} in this view")
