"""The plan: what comes next follows from how far a job is, and from nothing else."""

from dataclasses import replace

import pytest

from imbrix.core.plan.plan import following, plan
from imbrix.core.plan.situation import (
    BothSides,
    Image,
    InForce,
    Placing,
    Proof,
    Refused,
    Remedy,
    RigPart,
    Source,
    Spot,
)
from imbrix.core.plan.step import (
    ExchangeInputs,
    FitTo,
    Listen,
    LookForDevices,
    MakeEdits,
    MatchSides,
    ReadInputs,
    Record,
    RecordEach,
    UseCorrection,
)
from imbrix.core.system.layouts import ready
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.apply import apply
from imbrix.core.tune.edits import SetBands, SetChannel, SetDelays, SetTarget
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.tune import Band, neutral
from tests.helpers.situations import IDS, LAYOUT, NAMES, PARTS, coming, recorded, situation, voiced


def test_steps_come_in_the_order_of_the_work_and_one_is_next() -> None:
    steps = plan(situation(skipped=frozenset()))
    stages = [one.stage for one in steps]
    order = ["rig", "source", "drivers", "seams", "voice", "proof", "handover"]
    assert [order.index(one) for one in stages] == sorted(order.index(one) for one in stages)
    assert [one.key for one in steps if one.state == "next"] == ["source"]
    assert len({one.key for one in steps}) == len(steps)
    assert all(one.why and one.does and one.name for one in steps)


def test_the_rig_comes_first_and_says_which_sheet_to_use() -> None:
    line = tuple(RigPart(key, key, "missing" if key == "microphone" else "set", "no correction") for key in PARTS)
    step = coming(rig=line)
    assert (step.key, step.stage, step.part) == ("microphone", "rig", "microphone")
    assert step.choices[0].action == UseCorrection(pointing="ceiling", id=7)
    assert step.choices[-1].skips


def test_every_driver_is_recorded_before_anything_is_aligned() -> None:
    takes = recorded(moving=False)
    for n, name in enumerate(IDS):
        step = coming(takes={key: takes[key] for key in IDS[:n]})
        assert (step.key, step.channel) == (f"take:{name}", name)
        assert step.choices[0].action == Record(channels=(name,), purpose="driver", method="sweep")
    assert coming(takes=takes).key == f"moving:{IDS[0]}"
    assert coming(takes=recorded()).key == "align"


def test_after_the_first_driver_the_rest_is_recorded_by_one_press() -> None:
    takes = recorded(moving=False)
    assert coming(switches=True).key == f"take:{IDS[0]}"
    some = {name: takes[name] for name in IDS[:2]}
    step = coming(switches=True, takes=some)
    assert (step.key, step.name) == ("each", f"Record the other {len(IDS) - 2} in a row")
    assert step.choices[0].action == RecordEach(channels=tuple(IDS[2:]))
    one_by_one = coming(switches=True, takes=some, skipped=frozenset({"source", "each"}))
    assert one_by_one.key == f"take:{IDS[2]}"
    assert coming(switches=True, takes={name: takes[name] for name in IDS[:-2]}).key == "each"
    # The last one needs no series.
    assert coming(switches=True, takes={name: takes[name] for name in IDS[:-1]}).key == f"take:{IDS[-1]}"
    step = coming(switches=True, takes=takes)
    assert (step.key, step.optional) == ("each-moving", True)
    assert step.choices[0].action == RecordEach(channels=tuple(IDS), method="moving")
    assert coming(switches=True, takes=takes, moves=False).key == "align"
    # Two that are left are a row as well; one is recorded by itself.
    left = {name: replace(one, moving=name not in IDS[-2:]) for name, one in takes.items()}
    step = coming(switches=True, takes=left)
    assert set(step.choices[0].action.channels) == set(IDS[-2:])
    left[IDS[-1]] = replace(left[IDS[-1]], moving=True)
    assert coming(switches=True, takes=left).key == f"moving:{IDS[-2]}"


def test_who_was_left_out_is_recorded_by_no_row() -> None:
    takes = recorded(moving=False)
    first, second, third = IDS[:3]
    step = coming(switches=True, takes={first: takes[first]}, skipped=frozenset({"source", f"take:{second}"}))
    assert step.choices[0].action == RecordEach(channels=tuple(IDS[2:]))
    # Nor at a further spot, where there is nothing to sum it with.
    some = {name: takes[name] for name in IDS if name != second}
    out = frozenset({"source", f"take:{second}", f"moving:{third}"})
    step = coming(switches=True, takes=some, spots=(Spot("Left ear", tuple(IDS)),), skipped=out)
    known = tuple(name for name in IDS if name != second)
    assert (step.key, step.name) == ("spot:Left ear", f"Record all {len(known)} in a row, left ear")
    assert step.choices[0].action == RecordEach(channels=known, place="Left ear")
    step = coming(switches=True, takes=some, spots=(Spot("Left ear", (second,)),), skipped=out)
    assert step.choices[0].action == RecordEach(
        channels=tuple(name for name in known if name != third), method="moving"
    )


def test_further_spots_of_the_head_come_before_the_alignment_and_not_after_it() -> None:
    takes = recorded()
    spots = (Spot("Left ear", tuple(IDS[1:])), Spot("Right ear", tuple(IDS)))
    step = coming(switches=True, takes=takes, spots=spots)
    assert (step.key, step.optional) == ("spot:Left ear", True)
    assert step.name == f"Record the other {len(IDS) - 1} in a row, left ear"
    assert "put the microphone there: Left ear" in step.does
    assert step.choices[0].action == RecordEach(channels=tuple(IDS[1:]), place="Left ear")
    after = coming(switches=True, takes=takes, spots=(Spot("Left ear", ()), spots[1]))
    assert after.choices[0].action == RecordEach(channels=tuple(IDS), place="Right ear")
    assert after.name == f"Record all {len(IDS)} in a row, right ear"
    # Who leaves one out is not asked for the next.
    assert coming(takes=takes, spots=spots, skipped=frozenset({"source", "spot:Left ear"})).key == "align"
    tune = neutral(LAYOUT)
    states = {
        one.key: one.state for one in plan(situation(takes=takes, spots=spots, crossed=True, timed=True, tune=tune))
    }
    assert states["spot:Left ear"] == "not needed"


def test_a_processor_that_reads_its_inputs_needs_no_wires() -> None:
    step = coming(source=Source(names=NAMES, reads=True), skipped=frozenset())
    assert (step.key, step.choices[0].action) == ("source", ReadInputs())
    names = {**NAMES, 3: "Rear left"}
    read = plan(situation(source=Source(names=names, reads=True, recorded=frozenset({1, 2})), skipped=frozenset()))
    states = {one.key: one.state for one in read}
    assert states["source"] == "done"
    assert "feed:3" not in states
    assert "straighten" in states


def test_where_no_microphone_moves_none_is_asked_for() -> None:
    takes = recorded(moving=False)
    assert coming(takes=takes, moves=False).key == "align"
    states = {one.key: one.state for one in plan(situation(takes=takes, moves=False))}
    assert states[f"moving:{IDS[0]}"] == "not needed"


def test_what_is_wired_backwards_is_put_right_before_the_alignment() -> None:
    edits = (SetChannel(channel="midbass-r", inverted=True),)
    remedy = Remedy("midbass-r", "Midbass R looks wired backwards", "it moves against the left", "Invert it", edits)
    step = coming(takes=recorded(), remedies=(remedy,))
    assert step.key == "remedy:midbass-r"
    assert step.choices[0].action == MakeEdits(edits=edits, summary="Invert it")


def test_exchanged_inputs_are_named_as_soon_as_a_take_was_refused_for_them() -> None:
    step = coming(refused=Refused("exchanged", "the inputs are exchanged"))
    assert step.key == "exchanged"
    assert step.choices[0].action == ExchangeInputs()
    assert coming(refused=Refused("clipped", "it clipped")).key.startswith("take:")


@pytest.mark.parametrize(
    ("source", "key"),
    [
        (Source(names=NAMES), "source"),
        (Source(names=NAMES, recorded=frozenset({1})), "feed:2"),
        (Source(names=NAMES, recorded=frozenset({1, 2}), exchanged=(1, 2)), "put-right"),
        (Source(names=NAMES, recorded=frozenset({1, 2}), straightens=(SetTarget(level_db=1),), far_db=7), "straighten"),
        (Source(names=NAMES, recorded=frozenset({1, 2})), f"take:{IDS[0]}"),
    ],
)
def test_the_source_is_known_before_drivers_are_recorded(source: Source, key: str) -> None:
    assert coming(source=source, skipped=frozenset()).key == key


def test_channels_are_voiced_far_side_first_and_the_target_is_placed_before() -> None:
    ready_to_voice = {"takes": recorded(), "crossed": True, "timed": True}
    place = Placing("mid-r", 9.0, 3.0, 4.0, (SetTarget(level_db=67),))
    step = coming(**ready_to_voice, placing=place)
    assert step.key == "place"
    assert "+9.0 dB" in step.why
    done: list[str] = []
    for name in work_order(LAYOUT):
        assert coming(**ready_to_voice, placing=replace(place, off_db=2.0), tune=voiced(*done)).key == f"voice:{name}"
        done.append(name)
    assert coming(**ready_to_voice, tune=voiced(*done), whole_db=4.0).key == "common"


def test_a_side_is_turned_once_all_channels_are_voiced() -> None:
    edits = (SetBands(channel="mid-r", bands=(Band(kind="all_pass", frequency_hz=300),)),)
    turned = Remedy("", "Left and right take each other away at 300 Hz", "an all-pass", "Turn the right side", edits)
    done = {"takes": recorded(), "crossed": True, "timed": True, "turned": turned}
    assert coming(**{**done, "turned": None}, tune=voiced(*IDS[:-1])).key.startswith("voice:")
    step = coming(**done, tune=voiced(*IDS))
    assert (step.key, step.name) == ("turn", "Turn the right side")


def test_an_all_pass_is_no_voice() -> None:
    turned = apply(
        voiced(*IDS).with_channel("mid-r", gain_db=0.0),
        [SetBands(channel="mid-r", bands=(Band(kind="all_pass", frequency_hz=300),))],
        LAYOUT,
        STOCK,
    )
    assert coming(takes=recorded(), crossed=True, timed=True, tune=turned).key == "voice:mid-r"


def test_a_near_side_may_be_matched_to_the_far_one_once_that_is_set() -> None:
    done = {"takes": recorded(), "crossed": True, "timed": True}
    far, near = [one for one in work_order(LAYOUT) if one.startswith("mid-")]
    first = next(one for one in plan(situation(**done)) if one.key == f"voice:{near}")
    assert [one.name for one in first.choices][1:] == ["Leave it out"]
    then = next(one for one in plan(situation(**done, tune=voiced(far))) if one.key == f"voice:{near}")
    assert [one.action for one in then.choices][:2] == [FitTo(channels=(near,)), FitTo(channels=(near,), like=far)]


def test_the_image_is_heard_after_the_proof_and_mended_before_it_is_stored() -> None:
    tune = voiced(*IDS).model_copy(update={"common": (Band(frequency_hz=100.0, gain_db=-2.0),)})
    done = {"takes": recorded(), "crossed": True, "timed": True, "tune": tune, "proof": Proof(True, 1.9, 0.2)}
    step = coming(**done, image=Image(7, 0))
    assert (step.key, step.choices[0].action, step.optional) == ("image", Listen(hz=1000.0), True)
    assert "7 bands" in step.does
    again = coming(**done, image=Image(7, 5, again=2))
    assert again.why == "2 bands sound otherwise since the tune was changed"
    edits = (SetChannel(channel="mid-l", gain_db=-4.0),)
    mends = Remedy("", "500 Hz stands off the centre", "", "Even out the level of both sides", edits)
    step = coming(**done, image=Image(7, 7, mends=mends))
    assert (step.key, step.name) == ("image-mends", mends.action)
    assert step.choices[0].action == MakeEdits(edits=edits, summary=mends.action)
    assert coming(**done, image=Image(7, 7)).key == "store"


def test_after_the_voice_it_is_sent_recorded_refined_and_stored() -> None:
    tune = voiced(*IDS).model_copy(update={"common": (Band(frequency_hz=100.0, gain_db=-2.0),)})
    done = {"takes": recorded(), "crossed": True, "timed": True, "tune": tune}
    assert coming(**done, over_db=2.0, over_says="Sub peaks +2.0 dB over full scale").key == "gains"
    assert coming(**done, unsent=12).key == "send"
    step = coming(**done)
    assert step.key == "proof"
    assert step.choices[0].action == Record(channels=tuple(IDS), purpose="proof", method="moving")
    assert coming(**done, proof=Proof(False, 3.0, 0.2)).key == "proof"
    assert coming(**done, proof=Proof(True, 3.0, 2.4, "Mid L was silent")).key == "apart"
    assert coming(**done, proof=Proof(True, 3.0, 2.4, "Mid L was silent", repeated=True)).key == "store"
    assert coming(**done, proof=Proof(True, 3.0, 0.2, better_db=1.4)).key == "measured"
    assert coming(**done, proof=Proof(True, 3.0, 0.2, better_db=2.8)).key == "store"
    assert coming(**done, proof=Proof(True, 1.9, 0.2, better_db=1.0)).key == "store"
    assert following(plan(situation(**done, proof=Proof(True, 1.9, 0.2), stored=1))) is None


def test_gains_brought_down_take_the_target_with_them() -> None:
    tune = voiced(*IDS).with_channel("sub", gain_db=2.0)
    steps = plan(situation(takes=recorded(), crossed=True, timed=True, tune=tune, over_db=2.0))
    action = next(one for one in steps if one.key == "gains").choices[0].action
    assert isinstance(action, MakeEdits)
    after = apply(tune, list(action.edits), LAYOUT, STOCK)
    assert max(one.gain_db for one in after.channels.values()) == pytest.approx(0)
    assert after.target.level_db == pytest.approx(tune.target.level_db - 2)
    assert after.channels["mid-l"].gain_db == pytest.approx(tune.channels["mid-l"].gain_db - 2)


def test_what_is_left_out_is_said_and_passed_over() -> None:
    steps = plan(situation(skipped=frozenset({"source", f"take:{IDS[0]}"})))
    states = {one.key: one.state for one in steps}
    assert states[f"take:{IDS[0]}"] == "skipped"
    assert states[f"take:{IDS[1]}"] == "next"
    assert states["store"] == "later"


def test_rear_and_centre_follow_the_front_once_that_is_aligned() -> None:
    layout = ready("whole-car", "left")
    ids = [one.id for one in layout.drivers]
    edits = (SetDelays(delays_s={next(one for one in ids if one.startswith("rear")): 0.01}),)
    known = situation(
        layout=layout,
        tune=neutral(layout),
        order=work_order(layout),
        queue=tuple(ids),
        takes={name: InForce(n, moving=True) for n, name in enumerate(ids)},
        crossed=True,
        timed=True,
    )
    step = following(plan(replace(known, beside=edits, beside_says="rear comes 10 ms after the front")))
    assert step is not None
    assert (step.key, step.does) == ("beside", "rear comes 10 ms after the front")
    after = following(plan(known))
    assert after is not None
    assert after.key.startswith("voice:")


def test_where_no_band_is_free_none_is_asked_for() -> None:
    done = {"takes": recorded(), "crossed": True, "timed": True, "tune": voiced(*IDS), "whole_db": 4.0}
    assert coming(**done).key == "common"
    assert coming(**done, room=0).key == "proof"


def test_a_slot_that_is_written_over_is_named() -> None:
    tune = voiced(*IDS).model_copy(update={"common": (Band(frequency_hz=100.0, gain_db=-2.0),)})
    done = {"takes": recorded(), "crossed": True, "timed": True, "tune": tune, "proof": Proof(True, 1.5, 0.2)}
    assert coming(**done).does == "keeps it in slot 1"
    assert coming(**done, free=4, free_holds="Flat").does == "keeps it in slot 4, in the place of Flat"


def test_both_sides_are_recorded_matched_and_recorded_once_more() -> None:
    tune = voiced(*IDS).model_copy(update={"common": (Band(frequency_hz=100.0, gain_db=-2.0),)})
    done = {"takes": recorded(), "crossed": True, "timed": True, "tune": tune, "proof": Proof(True, 1.5, 0.2)}
    channels = {side: tuple(one for one in IDS if one.endswith(side[0])) for side in ("left", "right")}
    first = BothSides(channels)
    step = coming(**done, sides=first)
    assert step.key == "side:left"
    assert step.choices[0].action == Record(channels=channels["left"], purpose="proof", method="moving")
    half = replace(first, recorded=frozenset({"left"}), rounds={"left": 1})
    assert coming(**done, sides=half).key == "side:right"
    both = replace(half, recorded=frozenset({"left", "right"}), rounds={"left": 1, "right": 1})
    apart = replace(both, apart_db=1.9, after_db=1.1)
    step = coming(**done, sides=apart)
    assert (step.key, step.choices[0].action) == ("sides", MatchSides())
    assert "1.9 dB rms apart" in step.why
    assert "1.1 dB are expected" in step.does
    # It is not done for its own sake.
    assert coming(**done, sides=replace(both, apart_db=1.1, after_db=0.5)).key == "store"
    assert coming(**done, sides=replace(both, apart_db=1.9, after_db=1.8)).key == "store"
    # What was recorded no longer goes with the tune: once more each, and that is enough.
    after = replace(apart, recorded=frozenset(), apart_db=None, after_db=None)
    assert coming(**done, sides=after).key == "side:left"
    assert coming(**done, sides=replace(after, rounds={"left": 2, "right": 2})).key == "store"
    assert coming(**done, unsent=3, sides=apart).key == "send"


def test_a_window_that_has_to_open_its_microphone_is_not_looked_for() -> None:
    gone = tuple(RigPart(key, key, "stale" if key == "device" else "set", "no window has it open") for key in PARTS)
    step = coming(rig=gone, asks=True)
    assert (step.key, step.name, step.choices[0].action) == ("device", "Open the microphone", None)
    assert coming(rig=gone).choices[0].action == LookForDevices()
