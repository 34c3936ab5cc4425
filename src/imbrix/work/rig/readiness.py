"""How ready the rig is: what no longer holds, and the ready line. Derived from what there is; nothing is stored."""

from datetime import datetime
from typing import Literal

from sqlalchemy import select

from imbrix.core.evidence.evidence import Agreement
from imbrix.core.evidence.verdict import gain_changed
from imbrix.core.value import Value
from imbrix.store.models import TakeRow
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import choices, corrections, devices, rig

Key = Literal["device", "microphone", "check", "level", "reference", "takes", "jig"]
State = Literal["set", "stale", "missing"]


class Part(Value):
    """One part of the ready line."""

    key: Key
    name: str
    state: State
    says: str


GAIN_CHANGED: Drawer[str, bool] = Drawer("gain changed", 8)


def stale(space: Workspace) -> dict[str, str]:
    """Which parts of the rig no longer hold, and why."""
    now_set = rig.rig(space)
    found: dict[str, str] = {}
    if now_set.check and (now_set.check.device, now_set.check.rate) != (now_set.device, now_set.rate):
        found["check"] = "another device or sample rate was chosen since"
    reference = now_set.reference
    if reference:
        if reference.device != now_set.device:
            found["reference"] = "another device was chosen since"
        elif reference.input != now_set.microphone_input:
            found["reference"] = "the microphone was put on another input since"
        elif reference.correction != now_set.correction:
            found["reference"] = "another microphone or correction was chosen since"
        elif _gain_changed_since(space, reference.made):
            found["reference"] = "a take since says that a gain was changed"
    return found


def jig_stale(space: Workspace) -> str:
    """Why the jig's calibration no longer holds; empty where it does, or where there is none."""
    chosen = rig.rig(space)
    done, now_set = chosen.jig_done, choices.jig_conditions(chosen)
    if done is None or done.model_dump(exclude={"made"}) == now_set:
        return ""
    if (done.device, done.rate) != (chosen.device, chosen.rate):
        return "another device or sample rate was chosen since"
    return "other inputs or another resistor were chosen since"


def _gain_changed_since(space: Workspace, made: str) -> bool:
    """Whether a take that is not set aside, made since a time, differs from the one before it in level alone."""

    def read() -> bool:
        since = TakeRow.created > datetime.fromisoformat(made)
        with space.session() as session:
            wanted = select(TakeRow.details).where(since, TakeRow.discarded.is_(False))
            found = [details.get("agrees") for details in session.scalars(wanted)]
        return any(gain_changed(stored(Agreement, one, "a take")) for one in found if one)

    return space.recall(GAIN_CHANGED, made, (TakeRow,), read)


def ready_line(space: Workspace, slug: str = "") -> list[Part]:
    """What is set, stale or missing, in the order of the work; for a project, whether it can be heard at all too."""
    now_set = rig.rig(space)
    old = stale(space)
    wrong = devices.trouble(space, slug=slug) or devices.processed(space)
    found = devices.device(space, now_set.device)
    correction = None if now_set.correction is None else corrections.correction(space, now_set.correction)

    def part(key: Key, name: str, state: State, says: str) -> Part:
        return Part(key=key, name=name, state=state, says=says)

    named = {one.id: one.name for one in space.layout(slug).drivers} if slug else {}
    takes_state, takes_say = _takes(now_set, named.get(now_set.anchor, now_set.anchor))
    jig_old = jig_stale(space)
    check, reference, level = now_set.check, now_set.reference, now_set.level
    bad = [line.what.lower() for line in check.lines if not line.good] if check else []
    # The browser's microphone alone: there is nothing that a loop could be plugged into.
    alone = now_set.device == choices.BROWSER and now_set.known_inputs == 1
    return [
        part(
            "device",
            "Device",
            "stale" if wrong else "set",
            wrong or (f"{found.name}, {now_set.rate / 1000:g} kHz" if found else ""),
        ),
        part(
            "microphone",
            "Microphone",
            "set" if correction else "missing",
            f"{correction.name}, at the {now_set.pointing}" if correction else "no correction: curves show it too",
        ),
        part(
            "check",
            "Interface",
            "set" if alone else "missing" if not check else "stale" if "check" in old else "set",
            "a microphone alone has no loop"
            if alone
            else "not checked yet"
            if not check
            else old.get("check")
            or (f"checked; look at {', '.join(bad)}" if bad else f"checked, latency {check.latency:.0f} samples"),
        ),
        part(
            "level",
            "Level",
            "set" if level else "missing",
            f"peaks at {level.peak_dbfs:.0f} dBFS, quiet at {level.noise_dbfs:.0f}" if level else "not tried yet",
        ),
        part(
            "reference",
            "Reference level",
            "missing" if not reference else "stale" if "reference" in old else "set",
            "not calibrated: dB by the sheet or nominal"
            if not reference
            else old.get("reference") or f"0 dBFS is {reference.full_scale_db_spl:.1f} dB SPL, by {reference.how}",
        ),
        part(
            "takes",
            "Takes",
            takes_state,
            takes_say,
        ),
        part(
            "jig",
            "Impedance jig",
            "missing" if not now_set.jig_done else "stale" if jig_old else "set",
            "not calibrated: leads are in the curves"
            if not now_set.jig_done
            else jig_old or f"calibrated, resistor of {now_set.jig.sense_ohm:g} ohm",
        ),
    ]


def _takes(now_set: choices.Rig, anchor: str) -> tuple[State, str]:
    """Whether takes can be made as they are meant to, and how they are made; `anchor` is its driver's name."""
    by_source, keeps = now_set.plays == "source", now_set.timing != "none"
    if keeps and not anchor and (by_source or now_set.timing == "marker"):
        return (
            "missing",
            "the source's track needs an anchor driver" if by_source else "a marker needs an anchor driver",
        )
    if by_source:
        return "set", f"played by the source, {f'time by {anchor}' if keeps else 'no time kept'}"
    sweep = f"sweep of {now_set.sweep.length / now_set.rate:.1f} s"
    sweep += f", {now_set.sweep.repeats} times" if now_set.sweep.repeats > 1 else ""
    clock = {"loopback": "time by loopback", "marker": f"time by marker of {anchor}", "none": "no time kept"}
    return "set", f"{sweep}, {clock[now_set.timing]}"
