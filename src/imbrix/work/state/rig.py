"""The rig as the page knows it: what is set, the ready line, the devices and corrections there are, the practice."""

from typing import Any

from pydantic import BaseModel

from imbrix.core.measure.jig import Standard
from imbrix.devices.browser import Opened
from imbrix.standins.places.place import Place
from imbrix.standins.practice import SAYS, Practice
from imbrix.work.checks.level import AIM_DBFS, level_advice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import jigging
from imbrix.work.rig import corrections, devices, readiness, rig
from imbrix.work.rig.choices import BROWSER, Rig
from imbrix.work.rig.devices import Device
from imbrix.work.rig.readiness import Part


class CorrectionState(BaseModel):
    """A microphone correction without its curve."""

    id: int
    name: str
    pointing: str
    origin: str
    sensitivity: str


class RigState(Rig):
    """The rig's choices and results, and what follows from them."""

    ready: list[Part]
    aim_dbfs: tuple[float, float]
    level_says: str
    devices: list[Device]
    no_cards: str
    correction_list: list[CorrectionState]
    practice: Practice | None
    switches: dict[str, str]
    full_scale_db_spl: float
    jig_steps: list[Standard]
    jig_stale: str
    browser: Opened | None
    latency_s: float | None
    """Of playing and recording, as the device states it; None where it does not, or has not run yet."""


def rig_state(space: Workspace, line: list[Part] | None = None, stands: Place | None = None) -> RigState:
    """The rig as it stands; `line` is its ready line where that is known already, `stands` the place of a project
    whose troubles can be practised, where it is not the one that sounded last."""
    chosen = rig.rig(space)
    listed, why = devices.devices(space)
    simulated, opened = rig.standin(space), space.browser.opened
    own: dict[str, Any] = {name: getattr(chosen, name) for name in Rig.model_fields}
    return RigState.model_construct(
        **own,
        ready=readiness.ready_line(space) if line is None else line,
        aim_dbfs=AIM_DBFS,
        level_says=level_advice(chosen.level),
        devices=listed,
        no_cards=why,
        correction_list=[
            CorrectionState(
                id=one.id, name=one.name, pointing=one.pointing, origin=one.origin, sensitivity=one.sensitivity
            )
            for one in corrections.corrections(space)
        ],
        practice=simulated.practice if simulated else None,
        switches={**SAYS, **(stands or space.standin.stands).says},
        full_scale_db_spl=rig.full_scale(space),
        jig_steps=jigging.steps_done(space),
        jig_stale=readiness.jig_stale(space),
        browser=opened,
        latency_s=opened.latency_s
        if opened and chosen.device == BROWSER
        else getattr(space.interface, "latency_s", None),
    )
