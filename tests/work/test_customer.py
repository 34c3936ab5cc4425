"""What the customer may turn: within its range, heard as it is said, kept out of takes, with headroom kept for it."""

import numpy as np
import pytest
from scipy.signal import sosfreqz

from imbrix.core.errors import ConflictError
from imbrix.core.system.layouts import ready
from imbrix.core.tune.biquad import low_shelf
from imbrix.core.tune.controls import Controls, Remote, Turned, bass_of, turned_up, within
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Channel, neutral
from imbrix.standins.places.van import SLUG
from imbrix.standins.processor import ProcessorStream, StandinProcessor
from imbrix.work.ground.workspace import Workspace
from imbrix.work.handover import customer
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import send, unsent
from imbrix.work.processor.slots import store
from imbrix.work.sound.recorder import Progress
from imbrix.work.state.plan import situation
from imbrix.work.tune.revisions import head
from imbrix.work.views.draw import draw
from imbrix.work.views.request import View

RATE = 48_000


def heard(processor: StandinProcessor) -> np.ndarray:
    """Responses (2, n) of the first two outputs."""
    pulse = np.zeros(2**15)
    pulse[0] = 0.01
    stream = ProcessorStream(processor, 2)
    return np.abs(np.fft.rfft(np.concatenate([stream.process(one) for one in np.split(pulse, 8)]), axis=0).T) / 0.01


def test_the_processor_does_what_is_turned() -> None:
    processor = StandinProcessor()
    for output in (1, 2):
        processor.write(output, OutputRegister(channel=Channel()))
    plain = heard(processor)
    processor.turn(Remote(turned=Turned(volume_db=-10, bass_db=4, lift_db=6), bass_outputs=(2,), lift_hz=80))
    turned = heard(processor) / plain
    hertz = np.fft.rfftfreq(2**15, 1 / RATE)
    lift = np.abs(sosfreqz([low_shelf(80, 6, 0.707, RATE)], worN=hertz, fs=RATE)[1])
    assert turned[0] == pytest.approx(10 ** (-10 / 20) * lift, rel=0.01)
    assert turned[1] == pytest.approx(10 ** (-6 / 20) * lift, rel=0.01)
    processor.turn(Remote())
    assert heard(processor) == pytest.approx(plain)


def test_nothing_goes_beyond_what_is_allowed() -> None:
    allowed = Controls(volume_db=40, bass_db=3, lift_db=0)
    assert within(Turned(volume_db=-80, bass_db=12, lift_db=6), allowed) == Turned(volume_db=-40, bass_db=3)
    assert within(Turned(bass_db=-12), allowed).bass_db == -3


def test_the_bass_is_the_subs_or_else_the_lowest_way() -> None:
    assert bass_of(ready("front-3-sub", "left")) == ("sub",)
    assert bass_of(ready("whole-car", "left")) == ("sub", "sub-2")
    assert bass_of(ready("four-way", "left")) == ("woofer-l", "woofer-r")
    assert bass_of(ready("bookshelf-2", "left")) == ("midbass-l", "midbass-r")


def test_headroom_is_kept_for_what_may_be_turned_up() -> None:
    layout = ready("front-3-sub", "left")
    tune = neutral(layout)
    up = turned_up(tune, layout, Controls(bass_db=6, lift_db=4, lift_hz=50))
    assert up.channels["sub"].gain_db == tune.channels["sub"].gain_db + 6
    assert up.channels["mid-l"] == tune.channels["mid-l"]
    assert up.common[-1].gain_db == 4
    assert turned_up(tune, layout, Controls(bass_db=0)) == tune


def test_it_stays_beside_the_tune_and_out_of_takes(demo: Workspace) -> None:
    send(demo, SLUG)
    customer.allow(demo, SLUG, Controls(bass_db=6, lift_db=6))
    stands = customer.turn(demo, SLUG, Turned(volume_db=-20, bass_db=9, lift_db=3))
    assert stands == Turned(volume_db=-20, bass_db=6, lift_db=3)
    assert unsent(demo, SLUG) == []
    with measuring_through(demo, SLUG, head(demo, SLUG).tune):
        assert customer.turned(demo, SLUG) == Turned()
        for turn in (customer.turn, customer.allow):  # a take is made through what it was begun with
            with pytest.raises(ConflictError, match="a take is being recorded"):
                turn(demo, SLUG, Turned(volume_db=-3) if turn == customer.turn else Controls(bass_db=1))
    assert customer.turned(demo, SLUG) == stands
    with measuring_through(demo, SLUG, head(demo, SLUG).tune, follows=True):
        assert customer.turned(demo, SLUG) == stands  # music is heard with it
        stands = customer.turn(demo, SLUG, Turned(volume_db=-25, bass_db=6, lift_db=3))  # and may be turned meanwhile
    assert customer.turned(demo, SLUG) == stands
    customer.allow(demo, SLUG, Controls(volume_db=10, bass_db=0))
    assert customer.turned(demo, SLUG) == Turned(volume_db=-10)


def test_a_slot_that_is_loaded_leaves_the_controls_where_they_are(demo: Workspace) -> None:
    send(demo, SLUG)
    store(demo, SLUG, 2, "Evening")
    customer.turn(demo, SLUG, Turned(volume_db=-20))
    customer.load(demo, SLUG, 2)
    assert customer.turned(demo, SLUG) == Turned(volume_db=-20)
    customer.allow(demo, SLUG, Controls(slots=False))
    with pytest.raises(ConflictError, match="not to be changed"):
        customer.load(demo, SLUG, 2)


def test_warnings_and_the_plan_reckon_with_all_of_it_turned_up(demo: Workspace) -> None:
    tune = head(demo, SLUG).tune

    def told() -> tuple[float, bool]:
        head_ = draw(demo, SLUG, View(stage="voice", selection="sub"), tune).facts["headroom"]
        return head_["sine_db"], head_["turned_up"]

    plain, turned = told()
    assert not turned
    customer.allow(demo, SLUG, Controls(bass_db=6))
    assert told() == (pytest.approx(plain + 6), True)
    known = situation(demo, SLUG, Progress())
    assert known.over_db == pytest.approx(6, abs=0.5)
    assert "Sub peaks" in known.over_says
    assert "with the customer's controls turned up" in known.over_says
