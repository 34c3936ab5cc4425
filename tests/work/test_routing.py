"""Inputs and routing: one lowering for what is predicted, sounds and is exported."""

import csv
import io
import json

import numpy as np
import pytest
from scipy.signal import sosfreqz

from imbrix.core.errors import NotHereError, RefusedError
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layouts import make, ready
from imbrix.core.tune.apply import apply
from imbrix.core.tune.changes import changes
from imbrix.core.tune.clash import clash
from imbrix.core.tune.edits import SetInput, SetNeutral, SetSources
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.models import LARGE, MODELS, SMALL, STOCK
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.routing import default_sources, sources, words
from imbrix.core.tune.tune import Band, Channel, Input, Tune, neutral
from imbrix.formats.coefficients import sections_json
from imbrix.formats.settings import settings_csv, settings_json
from imbrix.standins.processor import StandinProcessor
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict import scene
from imbrix.work.processor import hold, link
from imbrix.work.processor.link import held, registers, write_all
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import forces, reading, recording, shelf
from imbrix.work.tune import revisions

LAYOUT = ready("front-2-sub", "left")
GRID = log_grid()
SLUG = "wren"
BANDS = (Band(frequency_hz=90, gain_db=-5, q=2), Band(kind="all_pass", frequency_hz=300, q=0.8))


def fed(limits: Limits = LARGE) -> Tune:
    """A tune whose two inputs differ."""
    edits = [
        SetInput(input=1, gain_db=-3, delay_s=0.001, bands=BANDS),
        SetInput(input=2, inverted=True, gain_db=2),
    ]
    return apply(neutral(LAYOUT), edits, LAYOUT, limits)


def sounds(tune: Tune, limits: Limits, output: int) -> np.ndarray:
    """The response on the grid of an output of the stand-in that holds the tune."""
    processor = StandinProcessor(limits=limits)
    write_all(processor, registers(tune, LAYOUT, limits.inputs))
    size = limits.rate
    pulse = np.zeros(size)
    pulse[0] = 0.5
    stream = processor.stream(len(LAYOUT.drivers))
    out = np.concatenate([stream.process(block)[:, output - 1] for block in np.split(pulse, 10)])
    return np.array([np.exp(-2j * np.pi * f / limits.rate * np.arange(size)) @ out for f in GRID[::40]]) / 0.5


def test_left_hears_left_right_hears_right_and_mono_both_at_half() -> None:
    layout = make([*[(one.group, one.kind, False) for one in LAYOUT.drivers[:1]]])
    assert default_sources(layout.drivers[0], 2) == (0.5, 0.5)
    heard = {one.id: default_sources(one, 6) for one in LAYOUT.drivers}
    assert heard == {
        "sub": (0.5, 0.5),
        "midbass-l": (1.0,),
        "midbass-r": (0.0, 1.0),
        "tweeter-l": (1.0,),
        "tweeter-r": (0.0, 1.0),
    }
    assert {default_sources(one, 1) for one in LAYOUT.drivers} == {(1.0,)}
    # A signal on both keeps its level, whoever hears it.
    assert {sum(one) for one in heard.values()} == {1.0}


@pytest.mark.parametrize("driver", ["sub", "midbass-l", "midbass-r"])
def test_what_is_predicted_through_inputs_is_what_sounds(driver: str) -> None:
    tune = fed().with_channel(driver, high_pass=None, bands=(Band(frequency_hz=1000, gain_db=4, q=1),))
    output = LAYOUT.driver(driver).output
    predicted = Predictor(GRID[::40], LARGE.rate).through(tune, [driver])[0]
    assert sounds(tune, LARGE, output) == pytest.approx(predicted, abs=2e-4)


def test_an_input_is_added_up_by_its_closed_form() -> None:
    """The sub hears half of each: a delay and a level against the other, turned round."""
    tune = fed().with_channel("sub", high_pass=None)
    predictor = Predictor(GRID, LARGE.rate)
    first = predictor.channel(Channel(bands=tune.inputs[0].bands))
    delay = np.exp(-2j * np.pi * GRID * round(0.001 * LARGE.rate) / LARGE.rate)
    expected = 0.5 * 10 ** (-3 / 20) * first * delay - 0.5 * 10 ** (2 / 20)
    assert predictor.through(tune, ["sub"])[0] == pytest.approx(expected, rel=1e-9)


def test_inputs_that_were_never_set_cost_and_change_nothing() -> None:
    plain = neutral(LAYOUT)
    predictor = Predictor(GRID, STOCK.rate)
    names = [one.id for one in LAYOUT.drivers]
    channels = predictor.channels([plain.channels[name] for name in names], plain.common)
    assert np.array_equal(predictor.through(plain, names), channels)
    assert sounds(plain, STOCK, 1) == pytest.approx(predictor.through(plain, ["sub"])[0][::40], abs=2e-4)


def test_what_is_exported_does_the_same() -> None:
    tune = fed()
    whole = json.loads(sections_json(tune, LAYOUT, LARGE.inputs, LARGE.rate, "t"))
    assert len(whole["inputs"]) == LARGE.inputs
    inputs = []
    for one in whole["inputs"]:
        turn = np.exp(-2j * np.pi * GRID * one["delay_samples"] / LARGE.rate)
        flat = np.ones(GRID.size)
        sos = np.array(one["sections"]).reshape(-1, 6)
        inputs.append(one["factor"] * turn * (sosfreqz(sos, GRID, fs=LARGE.rate)[1] if sos.size else flat))
    sub = next(one for one in whole["channels"] if one["name"] == "Sub")
    heard = sum(factor * inputs[n] for n, factor in enumerate(sub["hears"]))
    assert heard == pytest.approx(Predictor(GRID, LARGE.rate).through(tune, ["sub"])[0], rel=1e-8)
    rows = list(csv.reader(io.StringIO(settings_csv(tune, LAYOUT, LARGE.inputs))))
    assert ["1", "Sub", "hears", "inputs 1 and 2, -6.0 dB each"] in rows
    assert ["", "Input 2", "polarity", "inverted"] in rows
    assert ["", "Input 1", "band 1", "peaking 90 Hz, -5.0 dB, Q 2.00"] in rows
    told = json.loads(settings_json(tune, LAYOUT, 2, "t"))
    assert [one["gain_db"] for one in told["inputs"]] == [-3.0, 2.0]
    assert told["channels"][1]["hears"] == [1.0]


def test_routing_is_set_and_put_back() -> None:
    plain = neutral(LAYOUT)
    only = apply(plain, [SetSources(channel="sub", factors=(0.0, 1.0, 0.0))], LAYOUT, STOCK)
    assert only.routing == {"sub": (0.0, 1.0)}
    (change,) = changes(plain, only, LAYOUT)
    assert (change.channel, change.what, change.after) == ("Sub", "hears", "input 2")
    silent = apply(plain, [SetSources(channel="sub", factors=())], LAYOUT, STOCK)
    assert Predictor(GRID, STOCK.rate).through(silent, ["sub"])[0] == pytest.approx(0)
    assert np.abs(sounds(silent, STOCK, 1)).max() == 0
    back = apply(only, [SetSources(channel="sub", factors=None)], LAYOUT, STOCK)
    assert back == plain
    assert apply(fed(), [SetNeutral()], LAYOUT, LARGE).inputs == ()
    with pytest.raises(NotHereError):
        apply(plain, [SetSources(channel="moon", factors=None)], LAYOUT)


def test_a_processor_that_cannot_says_what() -> None:
    tune = fed()
    assert LARGE.refusals(tune, LAYOUT) == []
    said = SMALL.refusals(apply(tune, [SetSources(channel="sub", factors=(0, 0, 1))], LAYOUT, LARGE), LAYOUT)
    assert any("input 1: 2 bands are more than the 0" in one for one in said)
    assert any("Sub hears input 3, but there are only 2" in one for one in said)
    fits = SMALL.fitted(tune)
    assert SMALL.refusals(fits, LAYOUT) == []
    assert fits.inputs[0].bands == ()
    assert fits.inputs[0].gain_db == -3
    processor = StandinProcessor(limits=SMALL)
    with pytest.raises(RefusedError, match="cannot hear input 3"):
        processor.write(1, OutputRegister(sources=(0, 0, 1)))
    with pytest.raises(RefusedError, match="no input 3"):
        processor.write_input(3, Input())
    with pytest.raises(RefusedError, match="input 1: a gain of 5 dB"):
        processor.write_input(1, Input(gain_db=5))


@pytest.mark.parametrize("key", MODELS)
def test_inputs_outlive_the_power_in_a_slot(key: str, tmp_path) -> None:
    limits = MODELS[key]
    processor = StandinProcessor(tmp_path / "memory.json", limits)
    tune = limits.fitted(fed(limits))
    wanted = registers(tune, LAYOUT, limits.inputs)
    write_all(processor, wanted)
    assert held(processor, wanted) == wanted
    processor.store(1, "mine")
    processor.write_input(1, Input())
    again = StandinProcessor(tmp_path / "memory.json", limits)
    assert held(again, wanted) == wanted


def test_edits_of_inputs_made_at_once_clash_only_where_they_touch() -> None:
    old = fed()
    now = apply(old, [SetInput(input=1, gain_db=-6)], LAYOUT, LARGE)
    assert clash(old, now, [SetInput(input=1, gain_db=0)], LAYOUT, LARGE)
    assert not clash(old, now, [SetInput(input=2, gain_db=0)], LAYOUT, LARGE)
    assert not clash(old, now, [SetSources(channel="sub", factors=(1.0,))], LAYOUT, LARGE)


def test_what_is_heard_is_read_as_a_sentence() -> None:
    assert words(()) == "nothing"
    assert words((1.0,)) == "input 1"
    assert words((0.5, 0.5)) == "inputs 1 and 2, -6.0 dB each"
    assert words((1.0, 0.0, 1.0)) == "inputs 1 and 3"
    assert words((1.0, -0.5)) == "input 1 and input 2 at -6.0 dB, inverted"
    assert sources(neutral(LAYOUT), LAYOUT.driver("sub"), 2) == (0.5, 0.5)


def test_takes_made_through_set_inputs_are_bare_of_them_and_the_whole_is_predicted(demo: Workspace) -> None:
    first = reading.bare(demo, forces.in_force(demo, SLUG)["mid-l"])
    edits = [SetInput(input=1, gain_db=-4, inverted=True, delay_s=0.0007), SetInput(input=2, gain_db=1.5)]
    revisions.commit(demo, SLUG, edits)
    recorder = Recorder(demo)
    recording.start_sweep(recorder, SLUG, ("mid-l",), "driver")
    one = shelf.take(demo, SLUG, recorder.finished().take_id or 0)
    inside = (GRID > 250) & (GRID < 8000)
    ratio = reading.bare(demo, one)[inside] / first[inside]
    assert np.percentile(np.abs(decibels(np.abs(ratio))), 99) < 0.3
    assert np.percentile(np.abs(np.degrees(np.angle(ratio))), 99) < 3
    link.send(demo, SLUG)
    assert link.unsent(demo, SLUG) == []
    recording.start_sweep(recorder, SLUG, tuple(d.id for d in demo.layout(SLUG).drivers), "proof")
    proof = shelf.take(demo, SLUG, recorder.finished().take_id or 0)
    now = scene.scene(demo, SLUG)
    tune = revisions.head(demo, SLUG).tune
    predicted = scene.summed(now, scene.predicted(demo, now, tune), tune)
    inside = (GRID > 40) & (GRID < 16_000)
    known = [decibels(smooth(one)) for one in (reading.reading(demo, proof).response, predicted)]
    assert np.sqrt(np.mean((known[0] - known[1])[inside] ** 2)) < 0.5
    # What the processor holds is said as any other difference.
    revisions.commit(demo, SLUG, [SetInput(input=2, gain_db=0), SetSources(channel="sub", factors=(1.0,))])
    said = {(one.channel, one.what) for one in link.unsent(demo, SLUG)}
    assert said == {("Input 2", "gain"), ("Sub", "hears")}
    assert link.read_back(demo, SLUG, revisions.head(demo, SLUG).tune).inputs[1].gain_db == 1.5


def smooth(response: np.ndarray) -> np.ndarray:
    return np.sqrt(smooth_power(np.nan_to_num(response), GRID, 6))


def test_what_was_held_comes_back_with_its_inputs_after_a_crash(demo: Workspace) -> None:
    revisions.commit(demo, SLUG, [SetInput(input=1, gain_db=-4)])
    link.send(demo, SLUG)
    tune = revisions.head(demo, SLUG).tune
    plain = tune.model_copy(update={"inputs": (), "routing": {}})
    with hold.measuring_through(demo, SLUG, plain):
        assert demo.processor.read_input(1) == Input()
        journal = documents.read(demo, "journal")
    assert demo.processor.read_input(1).gain_db == -4
    demo.processor.write_input(1, Input(gain_db=-20))
    documents.write(demo, "journal", journal)
    assert hold.restore_after_crash(demo)
    assert link.unsent(demo, SLUG) == []


def test_a_slot_of_before_there_were_inputs_leaves_nothing_unsent(demo: Workspace) -> None:
    link.send(demo, SLUG)
    for output, register in registers(revisions.head(demo, SLUG).tune, demo.layout(SLUG), 2).outputs.items():
        demo.processor.write(output, register.model_copy(update={"sources": None}))
    assert link.unsent(demo, SLUG) == []
