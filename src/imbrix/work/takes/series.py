"""A series: several drivers recorded one after another, without a hand between them."""

import logging
from typing import Literal

from imbrix.core.errors import ConflictError, GapError, InvalidError, UnusableError
from imbrix.core.evidence.verdict import PASSING
from imbrix.work.processor import typed
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder, Stopped
from imbrix.work.takes import rounds
from imbrix.work.takes.asked import Asked, Kept, Maker, TakeJob
from imbrix.work.takes.recording import sweep_take
from imbrix.work.takes.verdicts import doubted

ITS_OWN = frozenset({"clipped", "muted"})
"""Why a take is refused that the next driver's need not be."""
LOG = logging.getLogger("imbrix.sound")


def start_series(
    recorder: Recorder,
    slug: str,
    channels: tuple[str, ...],
    make: Maker = sweep_take,
    note: str = "",
    place: str = "",
    kind: Literal["take", "moving"] = "take",
) -> None:
    """Begin one take of each of some drivers, in their order, at a `place` of the microphone or where the rig says;
    without any named, of those that wait in the round. `make` makes each of them ready.

    What passed by (a door, a lorry) or was lost (a buffer) makes a take doubtful, not the driver: it is recorded once
    more at once. One that clips or is mute is passed over and told of. What is kept stays kept, however it ends. Raises
    as its maker does, before anything is played.
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
    channels = channels or rounds.waiting(rounds.current(space, slug))
    takes = [make(recorder, slug, Asked((one,), "driver", note, place=place)) for one in channels]
    names = {one.id: one.name for one in space.layout(slug).drivers}
    by_files = chosen.device == choices.FILE

    def once_more(channel: str) -> None:
        twice.append(names[channel])
        message = f"{names[channel]} once more: something passed by or was lost"
        recorder.say(stage="playing", done=0.0, message=message)

    def record(channel: str, take: TakeJob) -> None:
        """One driver: what is kept of it counts at once, and gives way to a second take where it is worth one."""
        recorder.next_turn((channel,))
        try:
            kept[channel] = take()
        except GapError as error:
            LOG.info("%s is recorded once more: %s", names[channel], error)
            once_more(channel)
            kept[channel] = take()
            return
        if not by_files and doubted(space, slug, kept[channel].id, PASSING):
            once_more(channel)
            kept[channel] = take()

    kept: dict[str, Kept] = {}
    twice: list[str] = []
    refused: dict[str, str] = {}

    def job() -> None:
        recorder.countdown(chosen.sweep.countdown_s)
        for earlier, channel, take in zip(("", *channels), channels, takes, strict=False):
            try:
                record(channel, take)
            except Stopped:
                if not kept:
                    raise
                recorder.say(stage="kept", message=f"Stopped at {names[channel]}. {_so_far(kept, channels)}.")
                return
            except UnusableError as error:
                refused[channel] = f"{names[channel]}: {error}."
                # One that clips or is mute may be the driver's own matter; two on end are not, nor is the only one.
                if error.kind in ITS_OWN and earlier not in refused and len(channels) > 1:
                    continue
                which = ", ".join(names[one] for one in (earlier, channel) if one in refused)
                raise UnusableError(f"{which}: {error}; {_so_far(kept, channels)}", error.kind) from error
            recorder.say(take_id=kept[channel].id)
            space.changed()
            if kept[channel].ended:
                break
        said = list(refused.values())
        said += [f"{', '.join(twice)}: recorded once more, since something passed by or was lost."] if twice else []
        if len(kept) < len(channels):
            said.append(f"{_so_far(kept, channels)}.")
        doubt = any(doubted(space, slug, one.id) for one in kept.values())
        recorder.say(stage="kept", message=" ".join(said), result={"doubt": doubt})

    turns = len(channels)
    recorder.start(kind, job, project=slug, channels=channels[:1], purpose="driver", place=place, turns=turns)


def _so_far(kept: dict[str, Kept], channels: tuple[str, ...]) -> str:
    return f"{len(kept)} of {len(channels)} drivers are kept"
