"""A series: several drivers recorded one after another, without a hand between them."""

import logging
from typing import Literal

from imbrix.core.errors import ConflictError, GapError, InvalidError, UnusableError
from imbrix.core.evidence.verdict import PASSING
from imbrix.work.processor import typed
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder, Stopped
from imbrix.work.takes.moving import moving_take
from imbrix.work.takes.recording import Kept, TakeJob, doubted, sweep_take

LOG = logging.getLogger("imbrix.sound")


def start_series(
    recorder: Recorder,
    slug: str,
    channels: tuple[str, ...],
    method: Literal["sweep", "moving"] = "sweep",
    note: str = "",
    place: str = "",
) -> None:
    """Begin one take of each of some drivers, in their order, at a `place` of the microphone or where the rig says.

    What passed by (a door, a lorry) or was lost (a buffer) makes a take doubtful, not the driver: it is recorded once
    more at once. What is kept stays kept, however the series ends. Raises as `start_sweep` and `start_moving` do,
    before anything is played.
    """
    space = recorder.space
    if typed.rows(space, slug) is not None:
        raise ConflictError(
            "this processor is typed by hand: it cannot change from driver to driver by itself; record one at a time"
        )
    chosen = rig.rig(space)
    if place and place not in {one.name for one in (*chosen.positions, *rig.spots(space, slug))}:
        raise InvalidError(f"the rig knows no position {place!r} of the microphone")
    if len(set(channels)) < len(channels):
        raise InvalidError("a series records every driver once")
    make = moving_take if method == "moving" else sweep_take
    takes = [make(recorder, slug, (one,), "driver", note, place=place) for one in channels]
    names = {one.id: one.name for one in space.layout(slug).drivers}
    by_files = chosen.device == choices.FILE

    def first_try(channel: str, take: TakeJob) -> Kept | None:
        """What came of a take; None where it is worth another one: samples were lost, or something passed by."""
        try:
            made = take()
        except GapError as error:
            LOG.info("%s is recorded once more: %s", names[channel], error)
            return None
        return None if not by_files and doubted(space, slug, made.id, PASSING) else made

    def job() -> None:
        kept: list[Kept] = []
        twice: list[str] = []
        recorder.countdown(chosen.sweep.countdown_s)
        for channel, take in zip(channels, takes, strict=True):
            try:
                recorder.next_turn((channel,))
                made = first_try(channel, take)
                if made is None:
                    twice.append(names[channel])
                    recorder.say(
                        stage="playing",
                        done=0.0,
                        message=f"{names[channel]} once more: something passed by or was lost",
                    )
                    made = take()
            except Stopped:
                if not kept:
                    raise
                recorder.say(stage="kept", message=f"Stopped at {names[channel]}. {_so_far(kept, channels)}.")
                return
            except UnusableError as error:
                raise UnusableError(f"{names[channel]}: {error}; {_so_far(kept, channels)}", error.kind) from error
            kept.append(made)
            recorder.say(take_id=made.id)
            space.changed()
            if made.ended:
                break
        said = [f"{', '.join(twice)}: recorded once more, since something passed by or was lost."] if twice else []
        if len(kept) < len(channels):
            said.append(f"{_so_far(kept, channels)}.")
        doubt = any(doubted(space, slug, one.id) for one in kept)
        recorder.say(stage="kept", message=" ".join(said), result={"doubt": doubt})

    values = {"channels": channels[:1], "purpose": "driver", "place": place, "turns": len(channels)}
    recorder.start("moving" if method == "moving" else "take", job, project=slug, **values)


def _so_far(kept: list[Kept], channels: tuple[str, ...]) -> str:
    return f"{len(kept)} of {len(channels)} drivers are kept"
