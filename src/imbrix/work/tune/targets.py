"""Target curves: the built-in ones and the user's own."""

import numpy as np
from sqlalchemy import select

from imbrix.core.errors import BadFileError, NotHereError
from imbrix.core.predict.target import BUILT_IN, TargetCurve, bent
from imbrix.core.signal.signal import FloatArray
from imbrix.core.system.layout import Driver, Group, Layout
from imbrix.core.tune.tune import Tune
from imbrix.formats.text_curve import TextCurve
from imbrix.store.models import TargetRow
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace, project_row

OWN: Drawer[str, dict[str, TargetCurve]] = Drawer("own targets", 32)
BESIDE_DB = {Group.REAR: -6.0, Group.CENTRE: -3.0}
"""What they aim below a front of their side, or one of its sides where they stand in the middle."""
SIDE_SHARE_DB = -6.0
"""What one side aims below the whole: two equal sides in phase make 6 dB more."""


def targets(space: Workspace, slug: str) -> dict[str, TargetCurve]:
    """All curves by key; the user's own are keyed `own-N`."""

    def read() -> dict[str, TargetCurve]:
        with space.session() as session:
            rows = session.scalars(select(TargetRow).where(TargetRow.project_id == project_row(session, slug).id))
            return {f"own-{row.id}": TargetCurve(row.name, tuple(row.frequencies), tuple(row.levels)) for row in rows}

    own = space.recall(OWN, slug, (TargetRow,), read)
    return {**BUILT_IN, **own}


def add_target(space: Workspace, slug: str, name: str, curve: TextCurve) -> str:
    """Keep a curve of the user's own; returns its key."""
    if curve.frequencies[-1] < curve.frequencies[0] * 4:
        raise BadFileError(
            f"the curve runs from {curve.frequencies[0]:g} to {curve.frequencies[-1]:g} Hz; "
            "a target covers at least two octaves"
        )
    with space.lock, space.session() as session:
        row = TargetRow(
            project_id=project_row(session, slug).id,
            name=name[:60],
            frequencies=curve.frequencies.tolist(),
            levels=curve.levels.tolist(),
        )
        session.add(row)
        session.flush()
        return f"own-{row.id}"


def placed(space: Workspace, slug: str, tune: Tune) -> FloatArray:
    """The target (n,) of the whole on the grid, in dB SPL."""
    curves = targets(space, slug)
    curve = curves.get(tune.target.curve)
    if curve is None:
        raise NotHereError(f"there is no target curve {tune.target.curve!r}")
    return curve.shape(space.grid) + bent(tune.target, space.grid) + tune.target.level_db


def share_db(layout: Layout, driver: Driver) -> float:
    """What a channel aims at relative to the whole: several subs share it as a coherent sum does.

    Rear and centre stay under one side of the front, 6 dB and 3 dB: the stage is in front (common practice, no source).
    """
    if driver.group == Group.SUB:
        return -20.0 * float(np.log10(len(layout.subs)))
    if driver.group != layout.main:
        return SIDE_SHARE_DB + BESIDE_DB.get(driver.group, 0.0)
    return 0.0 if driver.side == "both" else SIDE_SHARE_DB
