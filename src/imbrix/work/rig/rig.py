"""The rig: devices, inputs, microphone, interface check, level, reference level - what is set.

It belongs to the machine, not to a project, and survives restarts.
"""

import math
from typing import Any

from pydantic import ValidationError

from imbrix.core.errors import InvalidError
from imbrix.standins.interface import StandinInterface
from imbrix.standins.places.shipped import SHIPPED
from imbrix.work.ground import documents, places
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import NOMINAL_FULL_SCALE, Workspace
from imbrix.work.rig import corrections
from imbrix.work.rig.choices import STANDIN, Position, Rig, standard_names

REACH_CM = 25.0
"""So far from where it rests a head goes while a person listens."""


def rig(space: Workspace) -> Rig:
    """The rig as it was last set."""
    return documents.made(space, "rig", _read)


def _read(found: documents.Document | None) -> Rig:
    kept = stored(Rig, found, "the rig") if found else Rig()
    if kept.device == STANDIN and kept.known_inputs < len(StandinInterface.inputs):
        names = standard_names(STANDIN, len(StandinInterface.inputs))
        names = kept.input_names + names[len(kept.input_names) :]
        kept = kept.model_copy(update={"known_inputs": len(names), "input_names": names})
    return kept


def keep(space: Workspace, wanted: Rig) -> Rig:
    """Make a rig the present one; on disk when this returns."""
    documents.write(space, "rig", wanted.model_dump(mode="json"))
    return wanted


def update(space: Workspace, **values: Any) -> Rig:
    """Set single results of the present rig, whatever else is being changed in it."""
    with space.lock:
        return keep(space, rig(space).model_copy(update=values))


def changed(before: Rig, values: dict[str, Any]) -> Rig:
    """The rig with choices changed by name. Raises InvalidError where a value is impossible."""
    try:
        after = Rig.model_validate({**before.model_dump(), **values})
    except ValidationError as error:
        first = error.errors()[0]
        raise InvalidError(f"{'.'.join(str(part) for part in first['loc'])}: {first['msg']}") from None
    _ = after.sweep_settings, after.moving_settings  # raise InvalidError where they do not fit the rate
    if after.jig.driver_input == after.jig.resistor_input:
        raise InvalidError("the jig's two voltages cannot be on the same input")
    known = {one.name for one in after.positions} | {name for one in SHIPPED.values() for name, _, _ in one.spots}
    if after.position not in known:
        after = after.model_copy(update={"position": after.positions[0].name}) if after.positions else after
    return after


def spots(space: Workspace, slug: str) -> tuple[Position, ...]:
    """Positions of the microphone that the place of a project has besides the rig's own."""
    shipped = SHIPPED.get(places.standing(space, slug).key) if slug else None
    return tuple(
        Position(name=name, x_cm=round(x * 100, 1), y_cm=round(y * 100, 1))
        for name, x, y in (shipped.spots if shipped else ())
    )


def near(space: Workspace, slug: str, name: str) -> tuple[Position, ...]:
    """Further positions within a head's reach of the one of a name; none where there is no such position."""
    every = (*rig(space).positions, *spots(space, slug))
    here = next((one for one in every if one.name == name), None)
    if here is None:
        return ()
    return tuple(
        one for one in every if one != here and math.hypot(one.x_cm - here.x_cm, one.y_cm - here.y_cm) <= REACH_CM
    )


def held_at(space: Workspace, slug: str, name: str = "") -> Position:
    """Where the microphone is held for a project, by the rig or at the position of a `name`; one that another place has
    means the first of the rig's."""
    chosen = rig(space)
    return chosen.held_at(spots(space, slug), name or chosen.position)


def full_scale(space: Workspace) -> float:
    """The sound level that reaches full scale: by calibration, by the microphone's sheet, or nominal."""
    now_set = rig(space)
    if now_set.reference:
        return now_set.reference.full_scale_db_spl
    if now_set.correction is not None:
        sheet = corrections.correction(space, now_set.correction).full_scale_db_spl
        if sheet is not None:
            return sheet
    return NOMINAL_FULL_SCALE


def standin(space: Workspace) -> StandinInterface | None:
    """The stand-in where it is the device in use."""
    return space.standin if rig(space).device == STANDIN else None
