"""Revisions, undo and redo, and the link to the processor."""

import pytest

from imbrix.core.edits import EDITS
from imbrix.standins.wren import SLUG
from imbrix.work import link, tuning
from imbrix.work.desk import ConflictError, Desk, NotHereError


def change(desk: Desk, gain: float, channel: str = "sub") -> tuning.Head:
    return tuning.commit(desk, SLUG, EDITS.validate_python([{"do": "channel", "channel": channel, "gain_db": gain}]))


def gain(desk: Desk, channel: str = "sub") -> float:
    return tuning.head(desk, SLUG).tune.channels[channel].gain_db


def test_each_change_is_a_revision_and_no_change_is_none(desk: Desk) -> None:
    assert change(desk, -3).number == 2
    assert change(desk, -3).number == 2
    assert change(desk, -4).summary == "Sub: gain -4.0 dB"
    assert [one.number for one in tuning.revisions(desk, SLUG)] == [3, 2, 1]


def test_undo_and_redo_walk_the_line(desk: Desk) -> None:
    for level in (-1, -2, -3):
        change(desk, level)
    tuning.undo(desk, SLUG)
    tuning.undo(desk, SLUG)
    assert gain(desk) == -1
    assert tuning.redo(desk, SLUG).can_redo
    tuning.redo(desk, SLUG)
    assert gain(desk) == -3
    with pytest.raises(ConflictError, match="nothing to redo"):
        tuning.redo(desk, SLUG)


def test_a_change_after_undo_starts_a_branch_and_the_old_one_is_not_lost(desk: Desk) -> None:
    change(desk, -1)
    change(desk, -2)
    tuning.undo(desk, SLUG)
    change(desk, -8)
    assert not tuning.head(desk, SLUG).can_redo
    assert {one.tune.channels["sub"].gain_db for one in tuning.revisions(desk, SLUG)} == {0, -1, -2, -8}
    tuning.undo(desk, SLUG)
    tuning.redo(desk, SLUG)
    assert gain(desk) == -8


def test_the_first_revision_cannot_be_undone(desk: Desk) -> None:
    with pytest.raises(ConflictError, match="first revision"):
        tuning.undo(desk, SLUG)


def test_a_named_revision_is_gone_back_to_and_that_can_be_undone(desk: Desk) -> None:
    kept = change(desk, -5)
    tuning.name_revision(desk, SLUG, kept.id, "  before lunch ")
    change(desk, -9)
    back = tuning.restore(desk, SLUG, kept.id)
    assert back.summary == "Back to revision 2"
    assert gain(desk) == -5
    assert tuning.revision(desk, SLUG, kept.id).name == "before lunch"
    tuning.undo(desk, SLUG)
    assert gain(desk) == -9
    with pytest.raises(NotHereError, match="no revision 999"):
        tuning.restore(desk, SLUG, 999)


def test_what_the_processor_cannot_do_is_not_committed(desk: Desk) -> None:
    bands = [{"frequency_hz": 100 * n, "gain_db": -1} for n in range(1, 14)]
    with pytest.raises(ValueError, match="13 bands"):
        tuning.commit(desk, SLUG, EDITS.validate_python([{"do": "bands", "channel": "sub", "bands": bands}]))
    assert tuning.head(desk, SLUG).number == 1


def test_unsent_changes_are_found_by_reading_back(desk: Desk) -> None:
    link.send(desk, SLUG)
    assert link.unsent(desk, SLUG) == []
    change(desk, -6)
    (one,) = link.unsent(desk, SLUG)
    assert (one.channel, one.before, one.after) == ("Sub", "+0.0 dB", "-6.0 dB")
    assert link.send(desk, SLUG) == []


def test_common_bands_are_sent_with_every_channel(desk: Desk) -> None:
    edits = [{"do": "bands", "channel": None, "bands": [{"frequency_hz": 1000, "gain_db": -2}]}]
    tuning.commit(desk, SLUG, EDITS.validate_python(edits))
    assert len(link.unsent(desk, SLUG)) >= 7
    assert link.send(desk, SLUG) == []
    assert desk.processor.read(5).common[0].gain_db == -2


def test_a_power_cut_of_the_processor_shows_as_unsent(desk: Desk) -> None:
    link.send(desk, SLUG)
    desk.processor.power_cycle()
    assert {one.what for one in link.unsent(desk, SLUG)} >= {"sound"}


def test_nothing_sounds_half_set_while_sending(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    change(desk, -6)
    seen = []
    write = desk.processor.write
    monkeypatch.setattr(
        desk.processor, "write", lambda output, reg: (seen.append((output, reg.channel.muted)), write(output, reg))
    )
    link.send(desk, SLUG)
    first_sound = next(n for n, (_, muted) in enumerate(seen) if not muted)
    assert first_sound >= 14
    assert {output for output, _ in seen[:first_sound]} == set(range(1, 8))
