"""Processors of several models: each project has its own, takes know what they were made through, tunes move."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.system.layouts import ready
from imbrix.core.tune.apply import relative_delay
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.models import LARGE, MODELS, SMALL, STOCK
from imbrix.core.tune.tune import Band, Crossover, measuring, neutral
from imbrix.standins.places.van import SLUG
from imbrix.work.ground import documents, places, processors, projects
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.predict import offers
from imbrix.work.predict.scene import predicted, scene, summed
from imbrix.work.processor import hold, link, slots
from imbrix.work.sound.recorder import Recorder
from imbrix.work.state import project
from imbrix.work.takes import bands, forces, reading, shelf
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune import revisions


def edit(space: Workspace, slug: str, **values: object) -> None:
    revisions.commit(space, slug, EDITS.validate_python([values]))


def record(space: Workspace, slug: str, channels: tuple[str, ...], purpose: str = "driver") -> None:
    recorder = Recorder(space)
    start_sweep(recorder, slug, channels, purpose)
    assert recorder.finished().stage == "kept"


@pytest.mark.walk
def test_at_96_khz_takes_are_bare_and_the_sum_is_as_predicted(demo: Workspace) -> None:
    """The stand-in runs at the processor's rate in the same cabin: its truth is what a bare take shows, and what is
    predicted of filters, bands and delays at 96 kHz is measured within 0.3 dB."""
    slug = projects.begin(demo, "Large", demo.layout(SLUG), "eight-by-twelve")
    for name in ("midbass-l", "mid-l", "tweeter-l"):
        record(demo, slug, (name,))
    grid, full_scale = demo.grid, 20e-6 * 10 ** (112 / 20)
    assert demo.standin.inner_rate == 96_000
    for name, one in forces.in_force(demo, slug).items():
        assert one.details.processor_rate == 96_000
        low, high = bands.band(demo, slug, one)
        inside = (grid >= max(low, 30)) & (grid <= min(high, 18_000))
        truth = demo.standin.cabin.truth(demo.layout(slug).driver(name).output - 1, grid) / full_scale
        error = smooth_db(np.nan_to_num(reading.bare(demo, one)), grid, 12) - smooth_db(truth, grid, 12)
        inside &= reading.reading(demo, one).over_noise_db > 30  # noise alone makes half a decibel at 25 dB
        assert inside.sum() > 200
        assert np.abs(error[inside]).max() < 0.3, name
    edit(demo, slug, do="crossover", channel="mid-l", end="high_pass", corner_hz=420, slope_db=48)
    edit(demo, slug, do="crossover", channel="tweeter-l", end="high_pass", corner_hz=3100)
    edit(demo, slug, do="band", channel="mid-l", index=0, band={"frequency_hz": 1050, "gain_db": 3, "q": 2})
    edit(demo, slug, do="channel", channel="mid-l", delay_s=0.00123)
    link.send(demo, slug)
    record(demo, slug, ("midbass-l", "mid-l", "tweeter-l"), "proof")
    now, tune = scene(demo, slug), revisions.head(demo, slug).tune
    whole = summed(now, predicted(demo, now, tune), tune, {"midbass-l", "mid-l", "tweeter-l"})
    proof = next(one for one in shelf.takes(demo, slug) if one.purpose == "proof")
    measured = reading.reading(demo, proof).response
    inside = (grid > 60) & (grid < 18_000)
    error = smooth_db(whole, grid, 12) - smooth_db(np.nan_to_num(measured), grid, 12)
    assert np.abs(error[inside]).max() < 0.3


def test_a_take_stays_bare_when_the_processor_changes(demo: Workspace) -> None:
    one = forces.in_force(demo, SLUG)["tweeter-l"]
    before = reading.bare(demo, one)
    processors.choose(demo, SLUG, "eight-by-twelve")
    demo.memory.forget_take(one.id)
    assert reading.bare(demo, one) == pytest.approx(before, nan_ok=True)
    assert scene(demo, SLUG).rate == 96_000


def test_each_project_has_a_processor_of_its_own_and_those_of_before_share_one(demo: Workspace) -> None:
    first, second = (projects.begin(demo, name, ready("front-2-sub", "left")) for name in ("One", "Two"))
    edit(demo, first, do="channel", channel="sub", gain_db=-7)
    link.send(demo, first)
    slots.store(demo, first, 1, "mine")
    assert processors.processor(demo, first).read(1).channel.gain_db == -7
    assert processors.processor(demo, second).read(1).channel.gain_db == 0
    assert processors.processor(demo, second).slot_names() == {}
    assert processors.processor(demo, SLUG) is demo.processor
    again = open_workspace(demo.folder, pace=0)
    assert processors.processor(again, first).slot_names() == {1: "mine"}
    assert processors.processor(again, first).read(1).channel.gain_db == -7


def test_what_a_projects_processor_held_comes_back_after_a_crash(demo: Workspace) -> None:
    slug = projects.begin(demo, "Large", demo.layout(SLUG), "eight-by-twelve")
    link.send(demo, slug)
    slots.store(demo, slug, 1, "before")
    layout = demo.layout(slug)
    through = measuring(revisions.head(demo, slug).tune, layout, {"sub"})
    holding = hold.measuring_through(demo, slug, through)
    holding.__enter__()  # the server is killed here
    assert documents.read(demo, "journal")["project"] == slug
    again = open_workspace(demo.folder, pace=0)
    assert hold.restore_after_crash(again)
    assert not again.processors[slug].read(2).channel.muted
    assert documents.read(again, "journal") is None


def test_a_journal_of_version_0_1_is_put_back_too(demo: Workspace) -> None:
    link.send(demo, SLUG)
    kept = {"3": demo.processor.read(3).model_dump(mode="json")}
    demo.processor.write(3, demo.processor.read(3).with_mute(True))
    documents.write(demo, "journal", kept)
    assert hold.restore_after_crash(demo)
    assert not demo.processor.read(3).channel.muted


def test_a_tune_moved_to_a_smaller_model_is_told_what_does_not_fit_and_made_to_fit(space: Workspace) -> None:
    slug = projects.begin(space, "Small", ready("front-2-sub", "left"))
    bands = [{"frequency_hz": 100 * (n + 1), "gain_db": -n, "q": 2} for n in range(12)]
    edit(space, slug, do="bands", channel="midbass-l", bands=bands)
    edit(space, slug, do="crossover", channel="sub", end="low_pass", shape="bessel", slope_db=12, corner_hz=80)
    edit(space, slug, do="crossover", channel="tweeter-r", end="high_pass", slope_db=48)
    edit(space, slug, do="channel", channel="sub", gain_db=3, delay_s=0.012)
    processors.choose(space, slug, "two-by-six")
    state = project.project_state(space, slug).link
    assert state.model == "two-by-six"
    said = "; ".join(state.misfits)
    for words in (
        "Midbass L: 12 bands, the common ones included, are more than the 10 it has",
        "Sub: a low-pass of the bessel family is beyond it: it has butterworth, linkwitz-riley",
        "Tweeter R: a high-pass of 48 dB per octave is beyond its 24",
        "Sub: a gain of 3 dB is outside -24 to 0 dB",
        "Sub: a delay of 12.000 ms is beyond the 8 ms it can do",
    ):
        assert words in said
    # One thing at a time may be mended, and nothing that fits may be made not to.
    edit(space, slug, do="channel", channel="sub", gain_db=-2)
    assert len(project.project_state(space, slug).link.misfits) < len(state.misfits)
    with pytest.raises(Exception, match="11 bands"):
        edit(space, slug, do="bands", channel="midbass-r", bands=bands[:11])
    made = link.make_fit(space, slug).tune
    assert SMALL.refusals(made, space.layout(slug)) == []
    assert made.channels["tweeter-r"].high_pass.slope_db == 24
    assert made.channels["sub"].low_pass == Crossover(shape="butterworth", slope_db=12, corner_hz=80)
    kept = {band.frequency_hz for band in made.channels["midbass-l"].bands}
    assert kept == {100.0 * (n + 1) for n in range(2, 12)}  # the two that did least are gone
    assert link.send(space, slug) == []
    with pytest.raises(ConflictError, match="fits the processor as it is"):
        link.make_fit(space, slug)


def test_common_bands_are_kept_before_a_channels_own_and_an_all_pass_before_a_bell() -> None:
    plain = neutral(ready("free", "left"))
    bells = tuple(Band(frequency_hz=100.0 + n, gain_db=-6.0) for n in range(10))
    common = tuple(Band(frequency_hz=1000.0 + n, gain_db=-1.0) for n in range(8))
    made = SMALL.fitted(plain.with_channel("full-l", bands=bells[:4]).model_copy(update={"common": common}))
    assert (len(made.common), len(made.channels["full-l"].bands)) == (8, 2)
    turn = Band(kind="all_pass", frequency_hz=500, q=1)
    kept = SMALL.fitted(plain.with_channel("full-l", bands=(*bells, turn))).channels["full-l"].bands
    assert len(kept) == 10
    assert kept[-1] == turn


def test_a_processor_with_too_few_outputs_is_refused_and_models_are_kept_by_what_they_are(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="Two by six: 7 drivers, but the processor has 6 outputs"):
        processors.choose(demo, SLUG, "two-by-six")
    with pytest.raises(NotHereError, match="no processor model 'none'"):
        processors.choose(demo, SLUG, "none")
    assert processors.model(demo, SLUG) == STOCK
    with pytest.raises(ConflictError, match=r"14 drivers.*join the subs"):
        projects.begin(demo, "Whole", ready("whole-car", "left"), "eight-by-twelve")
    assert processors.add(demo, LARGE) == "eight-by-twelve"
    own = LARGE.model_copy(update={"name": "Mine"})
    assert processors.add(demo, own) == processors.add(demo, own) == "own-1"
    processors.choose(demo, SLUG, "own-1")
    processors.remove(demo, "own-1")
    assert processors.model(demo, SLUG) == own
    assert processors.key_of(demo, SLUG) == ""
    with pytest.raises(ConflictError, match="ships with the program"):
        processors.remove(demo, "two-by-six")
    assert list(processors.models(demo)) == list(MODELS)


GENTLE = SMALL.model_copy(update={"name": "Gentle", "outputs": 8, "slope_db": 12, "slopes": {"butterworth": (6, 12)}})


@pytest.mark.walk
def test_what_imbrix_chooses_by_itself_is_what_the_processor_has(demo: Workspace) -> None:
    """On a processor without the usual slopes: a guard for a take, neutral, a first crossover, and every offer."""
    slug = projects.begin(demo, "Gentle", demo.layout(SLUG), processors.add(demo, GENTLE))
    for name in ("mid-l", "tweeter-l"):
        record(demo, slug, (name,))
    guard = shelf.through(demo, forces.in_force(demo, slug)["tweeter-l"]).channels["tweeter-l"].high_pass
    assert guard == Crossover(shape="butterworth", slope_db=12, corner_hz=1000)
    assert link.make_neutral(demo, slug).tune.channels["tweeter-l"].high_pass == guard
    edit(demo, slug, do="crossover", channel="mid-l", end="high_pass", corner_hz=400)
    assert revisions.head(demo, slug).tune.channels["mid-l"].high_pass.slope_db == 12
    edit(demo, slug, do="crossover", channel="tweeter-l", end="high_pass", corner_hz=3000)
    found = offers.offers(demo, slug, "mid-tweeter-left")
    assert found
    for one in found:
        revisions.commit(demo, slug, list(one.edits))
        tune, seam = revisions.head(demo, slug).tune, demo.layout(slug).seam("mid-tweeter-left")
        assert relative_delay(tune, seam) == pytest.approx(one.delay_s, abs=2e-5)
        assert GENTLE.refusals(tune, demo.layout(slug)) == []
        revisions.undo(demo, slug)


def test_moving_a_corner_leaves_a_slope_that_does_not_fit(space: Workspace) -> None:
    slug = projects.begin(space, "Steep", ready("front-2-sub", "left"))
    edit(space, slug, do="crossover", channel="tweeter-l", end="high_pass", slope_db=48, corner_hz=3000)
    processors.choose(space, slug, "two-by-six")
    edit(space, slug, do="crossover", channel="tweeter-l", end="high_pass", corner_hz=2500)
    end = revisions.head(space, slug).tune.channels["tweeter-l"].high_pass
    assert (end.slope_db, end.corner_hz) == (48, 2500)


def test_a_processor_that_is_replaced_sounds_no_more(demo: Workspace) -> None:
    slug = projects.begin(demo, "Other", demo.layout(SLUG))
    assert places.connect(demo, slug) is demo.standin.processor
    processors.choose(demo, slug, "eight-by-twelve")
    assert demo.standin.processor is demo.processor
    link.send(demo, SLUG)
    with hold.silenced(demo):
        assert all(demo.standin.processor.read(n).channel.muted for n in range(1, 9))
