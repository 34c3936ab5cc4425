"""What a person finds set before touching anything, and what there is to choose from: the same as it was."""

from imbrix.core.fir.wish import Bound, Wish
from imbrix.core.measure.moving import MovingSettings
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.stepped import Steps
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.measure.transfer import TransferSettings
from imbrix.core.plan.situation import Image
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.target import BUILT_IN
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate
from imbrix.core.signal.weighting import a_weighting, bands, c_weighting, nominal
from imbrix.core.system.layouts import READY, make
from imbrix.core.system.remarks import remarks
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.controls import Controls, Remote, Turned, turned_up
from imbrix.core.tune.models import MODELS
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Band, Placement, guard, neutral
from tests.helpers.figures import check

GRID = log_grid()


def test_settings_that_nobody_has_changed() -> None:
    sweep = SweepSettings()
    check(
        "settings",
        {
            "fit": FitLimits(),
            "taps": [Wish(), Bound(low_hz=100, high_hz=1000)],
            "sweep": [sweep, Schedule(sweep).quiet, Schedule(sweep).period],
            "moving": MovingSettings(),
            "running": TransferSettings(),
            "stepped": Steps(),
            "gate": Gate(),
            "band": Band(frequency_hz=1000),
            "placement": Placement(),
            "controls": [Controls(), Remote(turned=Turned(bass_db=3, lift_db=4), bass_outputs=(2,)).lift],
            "image": Image(7, 0),
            "output": OutputRegister(),
        },
    )


def test_what_there_is_to_choose_from() -> None:
    layouts = {one.key: make(one.ways) for one in READY}
    lifted = Controls(lift_db=6)
    check(
        "choices",
        {
            "targets": {key: one.shape(GRID) for key, one in BUILT_IN.items()},
            "processors": MODELS,
            "layouts": {
                key: [work_order(one), [seam.id for seam in one.seams()], [each.output for each in one.drivers]]
                for key, one in layouts.items()
            },
            "remarks": {key: remarks(one, 4) for key, one in layouts.items()},
            "guards": {one.id: guard(one) for one in layouts["front-3-sub"].drivers},
            "turned up": {
                key: turned_up(neutral(one), one, lifted).channels[one.drivers[0].id] for key, one in layouts.items()
            },
            "weightings": [a_weighting(GRID), c_weighting(GRID)],
            "bands": [[nominal(hertz) for hertz in bands(fraction)] for fraction in (1, 3)],
        },
    )
