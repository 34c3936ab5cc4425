"""Inputs of a processor, what a channel hears of them, and a second source, set by edits."""

import pytest

from imbrix.core.errors import NotHereError
from imbrix.core.system.layouts import ready
from imbrix.core.tune.apply import apply
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Input, Tune, neutral

LAYOUT = ready("front-2-sub", "left")
NEUTRAL = neutral(LAYOUT)


def edited(tune: Tune, *edits: dict, limits: bool = True) -> Tune:
    return apply(tune, EDITS.validate_python(list(edits)), LAYOUT, STOCK if limits else None)


def test_an_input_is_set_and_the_routing_is_written_down_with_it() -> None:
    """From now on it matters which input a channel hears."""
    made = edited(NEUTRAL, {"do": "input", "input": 2, "gain_db": -3.0})
    assert made.inputs == (Input(), Input(gain_db=-3.0))
    assert {tuple(made.routing[one.id]) for one in LAYOUT.drivers} == {(1.0,), (0.0, 1.0), (0.5, 0.5)}
    more = edited(
        made, {"do": "input", "input": 1, "inverted": True, "bands": [{"frequency_hz": 100.0, "gain_db": 2.0}]}
    )
    assert more.inputs[1] == Input(gain_db=-3.0)
    assert more.inputs[0].inverted
    assert [band.gain_db for band in more.inputs[0].bands] == [2.0]
    again = edited(more, {"do": "input", "input": 1, "gain_db": 1.0})
    assert again.inputs[0].inverted
    assert len(again.inputs[0].bands) == 1
    assert edited(again, {"do": "input", "input": 1, "bands": []}).inputs[0].bands == ()
    alone = edited(NEUTRAL, {"do": "input", "input": 1, "gain_db": -1.0}, limits=False)
    assert alone.routing[LAYOUT.subs[0].id] == (0.5, 0.5)


def test_a_channel_hears_what_is_said_or_what_follows_from_its_side() -> None:
    name = LAYOUT.subs[0].id
    both = edited(NEUTRAL, {"do": "sources", "channel": name, "inputs": [1, 2]})
    assert both.routing == {name: (0.5, 0.5)}
    factors = edited(both, {"do": "sources", "channel": name, "factors": [0.0, -1.0, 0.0]})
    assert factors.routing == {name: (0.0, -1.0)}
    other = edited(factors, {"do": "sources", "channel": LAYOUT.drivers[-1].id, "inputs": [1]})
    assert set(other.routing) == {name, LAYOUT.drivers[-1].id}
    assert edited(factors, {"do": "sources", "channel": name}).routing == {}
    with pytest.raises(NotHereError):
        edited(NEUTRAL, {"do": "sources", "channel": "horn", "inputs": [1]})


def test_a_second_source_is_set_bit_by_bit_on_the_steps_of_the_processor() -> None:
    made = edited(NEUTRAL, {"do": "second", "priority": "after"})
    assert made.second == SecondSource(priority="after")
    louder = edited(made, {"do": "second", "gain_db": -2.04})
    assert louder.second == SecondSource(priority="after", gain_db=-2.0)
    assert edited(made, {"do": "second", "gain_db": -2.04}, limits=False).second.gain_db == -2.04
