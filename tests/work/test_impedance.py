"""Impedance through the jig's stand-in: calibrated, measured, read, brought in; and what goes wrong with clips."""

from pathlib import Path

import numpy as np
import pytest

from imbrix.core.errors import BadFileError, ConflictError
from imbrix.core.impedance.impedance import Circuit, find_circuit, impedance, ohm_grid
from imbrix.core.tune.tune import Crossover
from imbrix.formats.text_curve import read_curve
from imbrix.standins.jig import JigModel
from imbrix.standins.places import van
from imbrix.standins.practice import Practice
from imbrix.work.demo import CLIPS
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.impedance import impedance as measured
from imbrix.work.impedance import jigging
from imbrix.work.impedance.impedance import About, LoadingIn
from imbrix.work.predict import findings
from imbrix.work.rig import change, devices, readiness, rig
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.state import project
from imbrix.work.takes.shelf import discard, take
from imbrix.work.tune import revisions
from imbrix.work.views import ohms
from imbrix.work.views.draw import draw
from imbrix.work.views.request import View

SLUG = van.SLUG
NAMES = ("re", "fs", "qms", "qes", "qts", "res", "coil", "exponent")


def record(space: Workspace, channel: str, loaded: LoadingIn | None = None, **practice: object) -> Progress:
    space.standin.practice = Practice(
        **{"clips": "driver", "clipped_output": space.layout(SLUG).driver(channel).output, **practice}
    )
    recorder = Recorder(space)
    measured.start(recorder, SLUG, channel, loaded or LoadingIn())
    return recorder.wait()


def truth(space: Workspace, channel: str) -> Circuit:
    return van.MOTORS[space.layout(SLUG).driver(channel).output - 1].circuit


def test_every_driver_of_the_demo_is_read_within_one_per_cent(demo: Workspace) -> None:
    for name, here in measured.here(demo, SLUG).items():
        assert here.free is not None
        found = measured.circuit(demo, here.free, None)
        assert not isinstance(found, str)
        true = truth(demo, name)
        errors = {key: abs(getattr(found.circuit, key) / getattr(true, key) - 1) for key in NAMES}
        assert max(errors.values()) < 0.01, (name, errors)
        curve = measured.curves(demo, here.free).on(demo.grid)
        assert np.abs(curve / impedance(true, demo.grid) - 1).max() < 0.01


def test_without_calibration_the_leads_are_in_the_curve(demo: Workspace) -> None:
    jigging.forget(demo)
    assert {part.key: part.state for part in readiness.ready_line(demo)}["jig"] == "missing"
    kept = record(demo, "tweeter-l")
    found = measured.circuit(demo, take(demo, SLUG, kept.take_id or 0), None)
    assert not isinstance(found, str)
    assert abs(found.circuit.re / truth(demo, "tweeter-l").re - 1) > 0.01
    assert JigModel().lead_ohm > 0


@pytest.mark.walk
def test_single_tones_agree_with_sweeps(demo: Workspace) -> None:
    jig = rig.rig(demo).jig.model_copy(update={"method": "stepped"})
    change.change(demo, {"jig": jig})
    kept = record(demo, "mid-r")
    one = take(demo, SLUG, kept.take_id or 0)
    assert one.method == "stepped"
    found = measured.circuit(demo, one, None)
    assert not isinstance(found, str)
    assert max(abs(getattr(found.circuit, key) / getattr(truth(demo, "mid-r"), key) - 1) for key in NAMES) < 0.01
    space = open_workspace(Path(str(demo.sessions.kw["bind"].url.database)).parent, pace=0)  # read again from disk
    again = measured.curves(space, take(space, SLUG, one.id))
    assert again.frequencies.size == one.details.steps.frequencies.size  # type: ignore[union-attr]


@pytest.mark.parametrize(("loading", "amount"), [("mass", 8.0), ("box", 6.0)])
def test_a_mass_or_a_box_shows_what_moves(demo: Workspace, loading: str, amount: float) -> None:
    motor = van.MOTORS[1]
    measured.tell(demo, SLUG, "midbass-l", About(area_cm2=motor.area * 1e4))
    loaded = LoadingIn(loading=loading, amount=amount)
    assert record(demo, "midbass-l", loaded, loading=loading, loading_amount=amount).stage == "kept"
    here = measured.here(demo, SLUG)["midbass-l"]
    found = measured.mechanics(demo, here, measured.about(demo, SLUG)["midbass-l"])
    assert not isinstance(found, str)
    assert len(found) == 2  # the demo's takes have two sweeps, the new one three
    for each in found:
        assert each.mms == pytest.approx(motor.mms, rel=0.01)
        assert each.vas == pytest.approx(motor.vas, rel=0.01)
        assert each.bl == pytest.approx(motor.bl, rel=0.01)
    told = {one["key"]: one for one in ohms.rows(ohms.spreads(found), ohms.MOVING)}
    assert told["mms"]["value"] == pytest.approx(motor.mms * 1e3, rel=0.01)
    assert 0 < told["mms"]["half"] < 0.02 * told["mms"]["value"]


def test_what_is_missing_for_the_mechanics_is_said(demo: Workspace) -> None:
    def says() -> str:
        here = measured.here(demo, SLUG)["mid-l"]
        found = measured.mechanics(demo, here, measured.about(demo, SLUG)["mid-l"])
        assert isinstance(found, str)
        return found

    assert "second take" in says()
    record(demo, "mid-l", LoadingIn(loading="box", amount=2), loading="mass", loading_amount=2.0)
    assert "area" in says()
    measured.tell(demo, SLUG, "mid-l", About(area_cm2=53))
    assert "should rise" in says()
    with pytest.raises(ConflictError, match="how many"):
        measured.start(Recorder(demo), SLUG, "mid-l", LoadingIn(loading="mass"))


@pytest.mark.parametrize(
    ("practice", "says"),
    [
        ({"clips": "nothing"}, "hold nothing"),
        ({"clips": "joined"}, "short"),
        ({"jig_unplugged": True}, "silent"),
    ],
)
def test_clips_that_are_elsewhere_make_no_take(demo: Workspace, practice: dict[str, object], says: str) -> None:
    before = len(measured.here(demo, SLUG))
    ended = record(demo, "sub", **practice)
    assert (ended.stage, ended.cause) == ("refused", "jig")
    assert says in ended.message
    assert len(measured.here(demo, SLUG)) == before


def test_a_calibration_step_with_the_wrong_thing_is_refused(demo: Workspace) -> None:
    jigging.forget(demo)
    recorder = Recorder(demo)
    demo.standin.practice = Practice(clips="resistor")
    jigging.start_standard(recorder, "short")
    assert "joined" in recorder.wait().message
    assert jigging.steps_done(demo) == []
    for standard in ("open", "short"):
        demo.standin.practice = Practice(clips=CLIPS[standard])
        jigging.start_standard(recorder, standard)
        recorder.wait()
    assert jigging.steps_done(demo) == ["open", "short"]
    assert rig.rig(demo).jig_done is None


def test_steps_made_under_other_conditions_are_not_mixed(demo: Workspace) -> None:
    jigging.forget(demo)
    recorder = Recorder(demo)
    demo.standin.practice = Practice(clips="nothing")
    jigging.start_standard(recorder, "open")
    recorder.wait()
    assert jigging.steps_done(demo) == ["open"]
    change.change(demo, {"jig": rig.rig(demo).jig.model_copy(update={"known_ohm": 8.2})})
    assert jigging.steps_done(demo) == []


def test_a_calibration_goes_stale_with_its_inputs(demo: Workspace) -> None:
    assert readiness.jig_stale(demo) == ""
    change.change(demo, {"jig": rig.rig(demo).jig.model_copy(update={"sense_ohm": 4.7})})
    assert "resistor" in readiness.jig_stale(demo)
    with pytest.raises(ValueError, match="same input"):
        change.change(demo, {"jig": rig.rig(demo).jig.model_copy(update={"driver_input": 5})})


def test_nothing_but_the_jig_sounds_and_the_processor_comes_back(demo: Workspace) -> None:
    before = {n: demo.processor.read(n) for n in range(1, 8)}
    play = demo.standin.play_and_record
    muted = []

    def listened(*args: object, **more: object):  # type: ignore[no-untyped-def]
        muted.append(all(demo.processor.read(n) == demo.processor.read(n).with_mute(True) for n in range(1, 8)))
        return play(*args, **more)  # type: ignore[arg-type]

    demo.standin.play_and_record = listened  # type: ignore[method-assign]
    record(demo, "tweeter-r")
    assert muted == [True]
    assert {n: demo.processor.read(n) for n in range(1, 8)} == before


def test_pairs_that_differ_and_loads_too_low_are_found(demo: Workspace) -> None:
    found = findings.of_impedances(demo, SLUG, demo.layout(SLUG))
    assert [(one.about, one.kind) for one in found] == [("midbass-r", "impedance")]
    measured.tell(demo, SLUG, "tweeter-l", About(least_ohm=4.0))
    found = findings.of_impedances(demo, SLUG, demo.layout(SLUG))
    assert {one.about for one in found} == {"midbass-r", "tweeter-l"}
    assert "allows 4 ohm" in next(one for one in found if one.about == "tweeter-l").evidence


def test_the_view_shows_curves_figures_and_planned_corners(demo: Workspace) -> None:
    tune = revisions.head(demo, SLUG).tune
    tune = tune.with_channel("mid-l", high_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=300))
    picture = draw(demo, SLUG, View(stage="drivers", part="impedance", selection="mid-l"), tune)
    names = {one.id for one in picture.curves}
    assert {"ohms-sub", "ohms-mid-l", "circuit", "turn-mid-l", "turn-mid-r"} <= names
    facts = picture.facts["impedance"]
    (corner,) = facts["corners"]
    at = impedance(truth(demo, "mid-l"), np.array([300.0]))[0]
    assert corner["ohms"] == pytest.approx(abs(at), rel=0.01)
    assert corner["degrees"] == pytest.approx(np.degrees(np.angle(at)), abs=0.6)
    assert facts["rows"][0]["value"] == pytest.approx(118.0, rel=0.01)
    assert facts["rows"][0]["half"] < 1.0
    assert facts["pair"]["much"] is False
    span = View(stage="drivers", part="impedance", selection="mid-l", span_low_hz=100, span_high_hz=200)
    rows = draw(demo, SLUG, span, tune).facts["span"]["rows"]
    assert all("energy_db" not in row for row in rows)  # ohms have none


def test_text_goes_out_and_comes_back(demo: Workspace) -> None:
    one = measured.here(demo, SLUG)["sub"].free
    assert one is not None
    text = measured.as_text(demo, SLUG, one.id).encode()
    brought = take(demo, SLUG, measured.bring(demo, SLUG, "sub", read_curve(text), LoadingIn(), "again"))
    first, second = measured.curves(demo, one), measured.curves(demo, brought)
    assert np.abs(second.mean / first.mean - 1).max() < 1e-4
    assert measured.here(demo, SLUG)["sub"].free == brought
    discard(demo, SLUG, brought.id, True)
    assert measured.here(demo, SLUG)["sub"].free == one


def test_magnitudes_alone_get_the_least_phase(demo: Workspace) -> None:
    true = van.MOTORS[3].circuit
    values = impedance(true, ohm_grid())
    rows = "\n".join(f"{f:.5g} {abs(z):.6g}" for f, z in zip(ohm_grid(), values, strict=True))
    brought = measured.bring(demo, SLUG, "mid-l", read_curve(rows.encode()), LoadingIn(), "")
    shows = measured.curves(demo, take(demo, SLUG, brought))
    inside = (shows.frequencies > 30) & (shows.frequencies < 10_000)
    apart = np.degrees(np.angle(shows.mean / values))[inside]
    assert np.abs(apart).max() < 2.0


@pytest.mark.parametrize("number", range(7))
def test_magnitudes_alone_give_the_parameters_as_exactly(number: int) -> None:
    """From 15 Hz to 20 kHz, as a friend's file has it: the ends that are not known are not made up."""
    true = van.MOTORS[number].circuit
    f = np.geomspace(15 if number else 8, 20_000, 500)
    found = find_circuit(f, np.abs(impedance(true, f)).astype(complex), levels_only=True)
    assert found.misfit < 1e-4
    for name in ("re", "fs", "qms", "qes", "qts", "coil", "exponent"):
        assert getattr(found.circuit, name) == pytest.approx(getattr(true, name), rel=0.01), name


def test_a_file_without_degrees_is_read_by_its_magnitudes(demo: Workspace) -> None:
    true = van.MOTORS[1].circuit
    f = np.geomspace(20, 18_000, 300)
    rows = "\n".join(f"{at:.5g} {abs(z):.6g}" for at, z in zip(f, impedance(true, f), strict=True))
    brought = take(demo, SLUG, measured.bring(demo, SLUG, "midbass-l", read_curve(rows.encode()), LoadingIn(), ""))
    found = measured.circuit(demo, brought, None)
    assert found.misfit < 1e-3
    assert found.circuit.qts == pytest.approx(true.qts, rel=0.01)
    assert found.circuit.fs == pytest.approx(true.fs, rel=0.005)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("\n".join(f"{20 * 1.3**n:.1f} {-1 if n == 3 else 8}" for n in range(20)), "above zero"),
        ("\n".join(f"{20 * 1.3**n:.1f} 1e-320" for n in range(20)), "no driver has that"),
        ("\n".join(f"{20 * 1.3**n:.1f} 8 {400 if n == 3 else 8}" for n in range(20)), "degrees"),
        ("\n".join(f"{0.01 * 1.3**n:.5f} 8" for n in range(20)), "twelve"),
    ],
)
def test_a_text_that_is_no_impedance_is_refused(demo: Workspace, text: str, says: str) -> None:
    before = len(project.project_state(demo, SLUG).model_dump(mode="json")["takes"])
    with pytest.raises(BadFileError, match=says):
        measured.bring(demo, SLUG, "sub", read_curve(text.encode()), LoadingIn(), "")
    assert len(project.project_state(demo, SLUG).model_dump(mode="json")["takes"]) == before


def test_an_older_rig_learns_of_the_inputs_that_the_stand_in_has_now(demo: Workspace) -> None:
    old = rig.rig(demo).model_copy(update={"known_inputs": 2, "input_names": ("Mine", "Loopback")})
    rig.keep(demo, old)
    demo.rig_kept = None
    assert rig.rig(demo).input_names[0] == "Mine"
    assert len(rig.rig(demo).input_names) == 6
    assert devices.trouble(demo) == ""


@pytest.mark.parametrize(("box", "says"), [("box", ""), ("leaking box", "leaks")])
def test_a_box_that_leaks_is_told_by_its_qms(demo: Workspace, box: str, says: str) -> None:
    measured.tell(demo, SLUG, "mid-r", About(area_cm2=53))
    record(demo, "mid-r", LoadingIn(loading="box", amount=3), loading=box, loading_amount=3.0)
    facts = draw(
        demo, SLUG, View(stage="drivers", part="impedance", selection="mid-r"), revisions.head(demo, SLUG).tune
    ).facts["impedance"]
    assert facts["mechanics"] is not None
    assert says in facts["mechanics_says"]
    assert bool(says) == bool(facts["mechanics_says"])
