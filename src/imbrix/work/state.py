"""The state of a project in one piece: what the frame, the band strip and the panels show beside the curves."""

from typing import Any

import numpy as np

from imbrix.core.crossover import SLOPES
from imbrix.core.findings import Finding, boosts, reversed_drivers
from imbrix.core.layouts import remarks
from imbrix.core.measures import deviation
from imbrix.core.seam import loss
from imbrix.core.signal import power_decibels
from imbrix.core.smoothing import smooth_power
from imbrix.core.tune import Tune, guard
from imbrix.standins.practice import SAYS
from imbrix.work import checks, corrections, impedance, jigging, ohms, readiness, references, rig, rounds
from imbrix.work.desk import Desk, project_row
from imbrix.work.forces import chosen
from imbrix.work.link import read_back, unsent
from imbrix.work.looks import Look, looks
from imbrix.work.prediction import Scene, scene
from imbrix.work.recording import troubles_of
from imbrix.work.seams import two_sides
from imbrix.work.takes import Take, band, bare, reading, takes
from imbrix.work.targets import placed, targets
from imbrix.work.tuning import head, revisions


def project_state(desk: Desk, slug: str) -> dict[str, Any]:
    """Everything about a project that is not a curve."""
    layout = desk.layout(slug)
    now = head(desk, slug)
    all_takes = takes(desk, slug)
    at = scene(desk, slug)
    with desk.session() as session:
        name = project_row(session, slug).name
    held = read_back(desk, layout, now.tune)
    differs = unsent(desk, slug)
    said = troubles_of(desk, slug, all_takes)
    line = readiness.ready_line(desk)
    shown = looks(desk, slug)
    return {
        "slug": slug,
        "name": name,
        "layout": layout.model_dump(mode="json"),
        "seams": [seam.model_dump(mode="json") | {"name": seam.name} for seam in layout.seams()],
        "grid": desk.grid.tolist(),
        "offset_db": desk.offset_db,
        "revision": {
            "id": now.id,
            "number": now.number,
            "summary": now.summary,
            "name": now.name,
            "can_undo": now.can_undo,
            "can_redo": now.can_redo,
        },
        "tune": now.tune.model_dump(mode="json"),
        "guarded": [d.id for d in layout.drivers if d.fragile and now.tune.channels[d.id].high_pass == guard(d)],
        "drivers": {one.channels[0]: _driver(desk, one, at) for one in at.takes.values()},
        "takes": [_take(one, said.get(one.id), shown.get(one.id, Look())) for one in all_takes],
        "without_moving": sorted(name for name, mine in chosen(desk, slug).items() if mine.get("moving") == 0),
        "rig": rig_state(desk, line),
        "round": rounds.current(desk, slug).model_dump(mode="json"),
        "references": [
            {"id": one.id, "name": one.name, "shown": one.shown, "shift_db": one.shift_db}
            for one in references.references(desk, slug)
        ],
        "remarks": [one.model_dump() for one in remarks(layout, desk.processor.limits.outputs)],
        "notice": desk.notice,
        "findings": [
            one.model_dump(mode="json")
            for one in [*findings(desk, at, now.tune, line), *ohms.findings(desk, slug, layout, all_takes)]
        ],
        "impedance": _impedance(desk, slug, all_takes),
        "targets": [{"key": key, "name": curve.name} for key, curve in targets(desk, slug).items()],
        "link": {
            "unsent": [change.model_dump() for change in differs],
            "all_muted": not any(held.audible(d.id) for d in layout.drivers),
            "slots": {str(number): name for number, name in desk.processor.slot_names().items()},
            "active_slot": desk.processor.active_slot,
            "slopes": {
                shape: [slope for slope in slopes if slope <= desk.processor.limits.slope_db]
                for shape, slopes in SLOPES.items()
            },
            "limits": desk.processor.limits.model_dump(mode="json"),
        },
        "stages": _stages(desk, slug, at, now.tune, all_takes, len(differs), line),
    }


def rig_state(desk: Desk, line: list[dict[str, str]] | None = None) -> dict[str, Any]:
    """The rig with its ready line, the devices there are, and the microphone corrections."""
    chosen = rig.rig(desk)
    listed, why = rig.devices(desk)
    simulated = rig.standin(desk)
    return {
        **chosen.model_dump(mode="json"),
        "ready": readiness.ready_line(desk) if line is None else line,
        "aim_dbfs": checks.AIM_DBFS,
        "level_says": checks.level_advice(chosen.level),
        "devices": listed,
        "no_cards": why,
        "correction_list": [
            {
                "id": one.id,
                "name": one.name,
                "pointing": one.pointing,
                "origin": one.origin,
                "sensitivity": one.sensitivity,
            }
            for one in corrections.corrections(desk)
        ],
        "practice": simulated.practice.model_dump() if simulated else None,
        "switches": SAYS,
        "full_scale_db_spl": rig.full_scale(desk),
        "jig_steps": jigging.steps_done(desk),
        "jig_stale": readiness.jig_stale(desk),
    }


def _take(one: Take, said: list[dict[str, str]] | None, look: Look) -> dict[str, Any]:
    evidence = one.details.evidence
    return {
        "id": one.id,
        "channels": list(one.channels),
        "purpose": one.purpose,
        "method": one.method,
        "timed": one.timed,
        "clock": one.clock,
        "note": one.note,
        "discarded": one.discarded,
        "made": one.created.isoformat(),
        "revision_id": one.revision_id,
        "rate": one.rate,
        "correction": one.details.correction,
        "position": one.details.position,
        "repeats": one.details.repeats,
        "averages": one.details.averages,
        "troubles": said or [],
        "judged": evidence is not None,
        "evidence": evidence.model_dump(mode="json") if evidence else None,
        "agrees": one.details.agrees.model_dump(mode="json") if one.details.agrees else None,
        "loading": one.details.loading,
        "amount": one.details.amount,
        "input": one.details.input,
        "look": look.model_dump(),
        "angle": one.details.angle,
        "of": list(one.details.of),
    }


def _impedance(desk: Desk, slug: str, all_takes: list[Take]) -> dict[str, Any]:
    """By driver: the impedance take that counts, and what is known of the driver."""
    known = impedance.here(desk, slug, all_takes)
    what = impedance.about(desk, slug)
    none = impedance.Here(None, None)
    return {
        name: {
            "take_id": one.free.id if one.free else None,
            "loaded_id": one.loaded.id if one.loaded else None,
            **what[name].model_dump(),
        }
        for name, one in ((name, known.get(name, none)) for name in what)
    }


def _driver(desk: Desk, one: Take, at: Scene) -> dict[str, Any]:
    shows = reading(desk, one)
    low, high = band(desk, one)
    inside = (desk.grid >= low) & (desk.grid <= high)
    moving = at.forces[one.channels[0]].moving
    return {
        "take_id": one.id,
        "low_hz": low,
        "high_hz": high,
        "over_noise_db": float(np.median(shows.over_noise_db[inside])),
        "arrival_ms": shows.arrival_s * 1e3,
        "timed": one.timed,
        "clock": one.clock,
        "made": one.created.isoformat(),
        "method": one.method,
        "moving_id": moving.id if moving else None,
    }


def findings(desk: Desk, at: Scene, tune: Tune, line: list[dict[str, str]]) -> list[Finding]:
    """What Imbrix notices about the takes in force and the tune."""
    rows = {name: bare(desk, one) for name, one in at.takes.items() if one.timed}
    clean = {name: np.nan_to_num(row) for name, row in rows.items()}
    bands = {name: band(desk, at.takes[name]) for name in rows}
    polarity = {name: reading(desk, at.takes[name]).polarity for name in rows}
    stale = [
        Finding(kind="rig", about="", says=f"{part['name']} no longer holds", evidence=part["says"])
        for part in line
        if part["state"] == "stale"
    ]
    return [*stale, *reversed_drivers(at.layout, tune, clean, bands, polarity, desk.grid), *boosts(at.layout, tune)]


def revision_list(desk: Desk, slug: str) -> list[dict[str, Any]]:
    """All revisions, newest first, without their tunes."""
    return [
        {
            "id": one.id,
            "number": one.number,
            "summary": one.summary,
            "name": one.name,
            "created": one.created.isoformat(),
        }
        for one in revisions(desk, slug)
    ]


def _stages(
    desk: Desk,
    slug: str,
    at: Scene,
    tune: Tune,
    all_takes: list[Take],
    differs: int,
    line: list[dict[str, str]],
) -> dict[str, str]:
    """A word of state for each stage."""
    losses = []
    for seam in at.layout.seams():
        sides = two_sides(desk, at, seam, tune) if seam.ways else None
        found = loss(*sides, desk.grid) if sides else None
        if found:
            losses.append(found.mean)
    corrected = sum(bool(channel.bands) for channel in tune.channels.values())
    total = len(at.layout.drivers)
    wrong = [one["name"] for one in line if one["state"] == "stale"]
    good = sum(one["state"] == "set" for one in line)
    return {
        "rig": f"{wrong[0].lower()} stale" if wrong else f"{good} of {len(line)} set",
        "drivers": f"{len(at.ids)} of {total}",
        "seams": f"{max(losses):.1f} dB lost" if losses else "—",
        "voice": f"{corrected} of {total} set" if corrected else "—",
        "proof": _proof_word(desk, slug, tune, all_takes),
        "handover": f"{differs} unsent" if differs else "all sent",
    }


def _proof_word(desk: Desk, slug: str, tune: Tune, all_takes: list[Take]) -> str:
    for one in all_takes:
        if one.purpose == "proof" and not one.discarded:
            known = np.nan_to_num(reading(desk, one).response)
            values = power_decibels(smooth_power(known, desk.grid, 6)) + desk.offset_db
            found = deviation(values, placed(desk, slug, tune), desk.grid, 40, 16_000)
            return f"±{found.plus_minus:.1f} dB" if found else "—"
    return "—"
