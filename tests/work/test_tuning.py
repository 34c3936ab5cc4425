"""Revisions, undo and redo, and the link to the processor."""

import pytest

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.tune.edits import EDITS
from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import link
from imbrix.work.tune import revisions


def change(space: Workspace, gain: float, channel: str = "sub") -> revisions.Head:
    return revisions.commit(
        space, SLUG, EDITS.validate_python([{"do": "channel", "channel": channel, "gain_db": gain}])
    )


def gain(space: Workspace, channel: str = "sub") -> float:
    return revisions.head(space, SLUG).tune.channels[channel].gain_db


def test_each_change_is_a_revision_and_no_change_is_none(space: Workspace) -> None:
    assert change(space, -3).number == 2
    assert change(space, -3).number == 2
    assert change(space, -4).summary == "Sub: gain -4.0 dB"
    assert [one.number for one in revisions.revisions(space, SLUG)] == [3, 2, 1]


def test_undo_and_redo_walk_the_line(space: Workspace) -> None:
    for level in (-1, -2, -3):
        change(space, level)
    revisions.undo(space, SLUG)
    revisions.undo(space, SLUG)
    assert gain(space) == -1
    assert revisions.redo(space, SLUG).can_redo
    revisions.redo(space, SLUG)
    assert gain(space) == -3
    with pytest.raises(ConflictError, match="nothing to redo"):
        revisions.redo(space, SLUG)


def test_a_change_after_undo_starts_a_branch_and_the_old_one_is_not_lost(space: Workspace) -> None:
    change(space, -1)
    change(space, -2)
    revisions.undo(space, SLUG)
    change(space, -8)
    assert not revisions.head(space, SLUG).can_redo
    assert {one.tune.channels["sub"].gain_db for one in revisions.revisions(space, SLUG)} == {0, -1, -2, -8}
    revisions.undo(space, SLUG)
    revisions.redo(space, SLUG)
    assert gain(space) == -8


def test_the_first_revision_cannot_be_undone(space: Workspace) -> None:
    with pytest.raises(ConflictError, match="first revision"):
        revisions.undo(space, SLUG)


def test_a_named_revision_is_gone_back_to_and_that_can_be_undone(space: Workspace) -> None:
    kept = change(space, -5)
    revisions.name_revision(space, SLUG, kept.id, "  before lunch ")
    change(space, -9)
    back = revisions.restore(space, SLUG, kept.id)
    assert back.summary == "Back to revision 2"
    assert gain(space) == -5
    assert revisions.revision(space, SLUG, kept.id).name == "before lunch"
    revisions.undo(space, SLUG)
    assert gain(space) == -9
    with pytest.raises(NotHereError, match="no revision 999"):
        revisions.restore(space, SLUG, 999)


def test_what_the_processor_cannot_do_is_not_committed(space: Workspace) -> None:
    bands = [{"frequency_hz": 100 * n, "gain_db": -1} for n in range(1, 14)]
    with pytest.raises(ValueError, match="13 bands"):
        revisions.commit(space, SLUG, EDITS.validate_python([{"do": "bands", "channel": "sub", "bands": bands}]))
    assert revisions.head(space, SLUG).number == 1


def test_unsent_changes_are_found_by_reading_back(space: Workspace) -> None:
    link.send(space, SLUG)
    assert link.unsent(space, SLUG) == []
    change(space, -6)
    (one,) = link.unsent(space, SLUG)
    assert (one.channel, one.before, one.after) == ("Sub", "+0.0 dB", "-6.0 dB")
    assert link.send(space, SLUG) == []


def test_common_bands_are_sent_with_every_channel(space: Workspace) -> None:
    edits = [{"do": "bands", "channel": None, "bands": [{"frequency_hz": 1000, "gain_db": -2}]}]
    revisions.commit(space, SLUG, EDITS.validate_python(edits))
    assert len(link.unsent(space, SLUG)) >= 7
    assert link.send(space, SLUG) == []
    assert space.processor.read(5).common[0].gain_db == -2


def test_a_power_cut_of_the_processor_shows_as_unsent(space: Workspace) -> None:
    link.send(space, SLUG)
    space.processor.power_cycle()
    assert {one.what for one in link.unsent(space, SLUG)} >= {"sound"}


def test_nothing_sounds_half_set_while_sending(space: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    change(space, -6)
    seen = []
    write = space.processor.write
    monkeypatch.setattr(
        space.processor, "write", lambda output, reg: (seen.append((output, reg.channel.muted)), write(output, reg))
    )
    link.send(space, SLUG)
    first_sound = next(n for n, (_, muted) in enumerate(seen) if not muted)
    assert first_sound >= 14
    assert {output for output, _ in seen[:first_sound]} == set(range(1, 8))
