"""The base of all documents, and what an array is when it comes back from the disk."""

import numpy as np
import pytest
from pydantic import ValidationError

from imbrix.core.errors import InvalidError, NotHereError
from imbrix.core.system.layout import Group, Kind
from imbrix.core.system.layouts import driver, make, ready, with_driver
from imbrix.core.system.remarks import remarks
from imbrix.core.tune.apply import apply
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.tune import Band, Crossover, neutral
from imbrix.store.arrays import as_kept, pack, unpack

PAIR = ((Group.FRONT, Kind.MIDBASS, True), (Group.FRONT, Kind.TWEETER, True))


def test_values_cannot_be_changed_and_take_nothing_unknown() -> None:
    band = Band(frequency_hz=100)
    with pytest.raises(ValidationError, match="frozen"):
        band.gain_db = 3  # type: ignore[misc]
    with pytest.raises(ValidationError, match="colour"):
        Band.model_validate({"frequency_hz": 100, "colour": "red"})
    assert band == Band(frequency_hz=100)
    assert hash(band) == hash(Band(frequency_hz=100))


def test_what_an_edit_cannot_make_is_an_error_of_ours_and_not_a_bug() -> None:
    layout = make(PAIR)
    tune = neutral(layout)
    for edit, says in (
        ({"do": "crossover", "channel": "midbass-l", "end": "low_pass", "slope_db": 13}, "no slope of 13"),
        ({"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "off": True}, "keeps a high-pass"),
        ({"do": "step", "channel": "midbass-l", "octaves": 0.5}, "no corner to move"),
        ({"do": "band", "channel": "midbass-l", "index": 3, "band": {"frequency_hz": 50}}, "no band 4"),
    ):
        with pytest.raises(InvalidError, match=says):
            apply(tune, EDITS.validate_python([edit]), layout)
    for edit, says in (
        ({"do": "solo", "channel": "horn"}, "no driver 'horn'"),
        ({"do": "seam", "seam": "a-b", "delay_s": 0}, "no seam 'a-b'"),
        ({"do": "tie", "ways": "a-b", "what": "ways", "tied": True}, "no seam 'a-b'"),
    ):
        with pytest.raises(NotHereError, match=says):
            apply(tune, EDITS.validate_python([edit]), layout)
    with pytest.raises(InvalidError, match="no ready layout 'boat'"):
        ready("boat", "left")


def test_a_corner_steps_by_octaves_with_all_that_is_tied_to_it() -> None:
    layout = make(PAIR)
    corner = {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 2000}
    tune = apply(neutral(layout), EDITS.validate_python([corner]), layout)
    up = apply(tune, EDITS.validate_python([{"do": "step", "channel": "tweeter-l", "octaves": 1}]), layout)
    assert {one.high_pass.corner_hz for name, one in up.channels.items() if name.startswith("tweeter")} == {4000}
    assert {one.low_pass.corner_hz for name, one in up.channels.items() if name.startswith("midbass")} == {4000}
    # Without a high-pass it is the low-pass that steps.
    down = apply(up, EDITS.validate_python([{"do": "step", "channel": "midbass-r", "octaves": -1}]), layout)
    assert down.channels["midbass-l"].low_pass == Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=2000)


def test_names_that_could_not_be_told_apart_or_read_are_remarked() -> None:
    layout = make(PAIR)
    assert not [one for one in remarks(layout, 8) if one.bars]
    more = with_driver(layout, Group.SUB, Kind.SUB, "both")
    assert more.driver("sub") == driver(Group.SUB, Kind.SUB, "both", 5)
    for values, says in (({"id": "Sub 1"}, "'Sub 1' is not one"), ({"name": "a\x00"}, "needs a name")):
        odd = layout.drivers[0].model_copy(update=values)
        barred = [one.says for one in remarks(layout.model_copy(update={"drivers": (odd,)}), 8) if one.bars]
        assert len(barred) == 1
        assert says in barred[0]


@pytest.mark.parametrize("shape", [(0,), (1,), (2, 3), (5, 1, 2)])
def test_arrays_come_back_as_they_are_judged(shape: tuple[int, ...]) -> None:
    values = np.random.default_rng(1).standard_normal(shape) * 1e3
    assert unpack(pack(values)) == pytest.approx(as_kept(values), abs=0)
    assert as_kept(np.array([1e-46, 1e39, 0.5])) == pytest.approx([0.0, np.inf, 0.5])
