"""What the plan says of takes that may not show what they should."""

from imbrix.core.evidence.verdict import Trouble
from imbrix.core.plan.plan import plan
from imbrix.core.plan.situation import InForce
from imbrix.core.plan.step import RecordEach
from tests.helpers.situations import IDS, coming, recorded, situation


def test_a_doubted_take_is_named_before_what_follows_from_it() -> None:
    doubt = Trouble(kind="noisy", weight="doubt", says="Only 8 dB over the noise", evidence="a lorry", tries="wait")
    takes = {**recorded(), "mid-l": InForce(4, (doubt,), moving=True)}
    step = coming(takes=takes)
    assert (step.key, step.channel) == ("doubt:4", "mid-l")
    assert "Only 8 dB over the noise" in step.why
    assert [one.skips for one in step.choices] == [False, True]
    # What was kept once is doubted anew only when it was recorded anew.
    kept = coming(takes=takes, skipped=frozenset({"source", "doubt:4"}))
    assert kept.key == "align"


def test_a_trouble_that_stays_is_no_reason_to_record_for_ever() -> None:
    doubt = Trouble(kind="noisy", weight="doubt", says="Only 8 dB over the noise", evidence="a fan", tries="wait")
    takes = {**recorded(), "mid-l": InForce(9, (doubt,), moving=True, known=frozenset({"noisy"}))}
    step = coming(takes=takes)
    assert step.key == "doubt:9"
    assert [one.skips for one in step.choices] == [True, False]
    assert "the take before had it too" in step.does


def test_what_the_place_does_to_several_takes_is_looked_for_once() -> None:
    hum = Trouble(kind="hum", weight="doubt", says="Hum of 50 Hz", evidence="30 dB out", tries="use the battery")
    takes = {name: InForce(n + 5, (hum,), moving=True) for n, name in enumerate(IDS)}
    step = coming(takes=takes, switches=True)
    assert step.key == "doubts:hum:5"
    assert step.choices[0].action == RecordEach(channels=tuple(IDS))
    assert step.why == f"Hum of 50 Hz, in {len(IDS)} takes: 30 dB out"
    # Recorded again they have it still, and then it is known: kept once, it is not asked about again.
    again = {name: InForce(n + 25, (hum,), moving=True, known=frozenset({"hum"})) for n, name in enumerate(IDS)}
    step = coming(takes=again, switches=True)
    assert (step.key, step.choices[0].skips) == ("doubts:hum:25", True)
    assert coming(takes=again, switches=True, skipped=frozenset({"source", "doubts:hum:25"})).key == "align"
    # What only two have is asked of each.
    few = {**recorded(), **{name: InForce(n + 5, (hum,), moving=True) for n, name in enumerate(IDS[:2])}}
    assert coming(takes=few, switches=True).key == "doubt:5"
    # Without a switch for each channel the drivers cannot be recorded in a row.
    assert coming(takes=takes, switches=False).key == "doubt:5"


def test_what_is_wrong_with_the_first_take_comes_before_the_other_drivers() -> None:
    hum = Trouble(kind="hum", weight="doubt", says="Hum of 50 Hz", evidence="30 dB out", tries="use the battery")
    first = {IDS[0]: InForce(1, (hum,))}
    assert coming(takes=first, switches=True).key == "doubt:1"
    assert coming(takes=first, switches=True, skipped=frozenset({"source", "doubt:1"})).key == "each"


def test_hum_is_named_once_for_all_takes_that_have_it() -> None:
    hum = Trouble(kind="hum", weight="note", says="A hum at 50 Hz", evidence="", tries="other socket")
    takes = {name: InForce(n, (hum,), moving=True) for n, name in enumerate(IDS)}
    step = coming(takes=takes)
    assert (step.key, step.does) == ("hum", "other socket")
    assert sum(one.key == "hum" for one in plan(situation(takes=takes))) == 1
