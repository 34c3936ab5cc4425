"""The change-over between both sources of the processor, heard by the microphone: tried, kept, and what follows."""

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import FloatArray, Looped
from imbrix.core.source.changing_over import OTHER, ChangeOver, ChangingOver, Which, comb
from imbrix.core.tune.edits import Edit, SetSecond
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Tune, measuring
from imbrix.core.value import Value
from imbrix.standins.head_unit import RATE
from imbrix.standins.second_source import Player
from imbrix.work.ground import documents, processors
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import read_back
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder, Stopped
from imbrix.work.source.recording import as_wav
from imbrix.work.tune.revisions import head

LONGEST_S = 180.0
ALONE_S, TOGETHER_S, AFTER_S = 1.5, 3.0, 1.5
"""How long a stand-in lets the later source play alone, both, and the later one again."""
APART_DB = 1.0
"""Sources that differ by less are alike: one comb meets the drivers a little otherwise than the other."""
HOLD_OFF_S = 0.5
NAMES: dict[Which, str] = {"wires": "the wires", "second": "the second source"}


class Tried(Value):
    """How a change-over went, and as what the second source was set then."""

    second: SecondSource
    went: ChangeOver


def comb_wav(which: Which, rate: int) -> bytes:
    """What a source plays while the change-over is tried, as a WAV file of 16 bit. Raises ConflictError."""
    return as_wav(lambda at: comb(which, at), rate)


def first_of(second: SecondSource) -> Which:
    """Which source comes first."""
    return "second" if second.priority == "before" else "wires"


def start(recorder: Recorder, slug: str) -> None:
    """Listen while a person lets the later source play, then the first beside it, then the later one alone again.

    Ends by itself when all of that was heard. Raises ConflictError.
    """
    space = recorder.space
    through = _through(space, slug)
    second = through.second
    first = first_of(second)
    rate = space.interface.rate
    heard = ChangingOver(rate, first)

    def on_block(block: FloatArray) -> bool:
        if heard.feed(block[:, 0]):
            recorder.say(message=_asks(heard), result={"sounding": _sounding(heard)})
        return heard.found.done and heard.now[1]

    def job() -> None:
        simulated = rig.standin(space)
        seconds = ALONE_S + TOGETHER_S + second.hold_s + AFTER_S + 1.0 if simulated else LONGEST_S
        try:
            with measuring_through(space, slug, through):
                if simulated:
                    spans = {first: (ALONE_S, ALONE_S + TOGETHER_S), OTHER[first]: (0.0, seconds)}
                    simulated.track, simulated.source_plays = comb("wires", RATE), True
                    simulated.source_span = spans["wires"]
                    simulated.player = Player(comb("second", RATE), *spans["second"])
                recorder.play(
                    Looped(np.zeros(4096), round(seconds * rate)), on_block=on_block, clip=False, goes_on=True
                )
        except Stopped:
            recorder.stopping.clear()
        finally:
            if simulated:
                simulated.source_plays, simulated.source_span, simulated.player = False, None, None
        _keep(space, slug, second, heard.found)
        recorder.say(stage="done", message="", seconds_left=0.0)

    recorder.start("switch", job, project=slug, channels=tuple(through.channels), purpose="feed")


def _through(space: Workspace, slug: str) -> Tune:
    """What the processor holds, its inputs and its second source with it. Raises ConflictError."""
    wanted, model = head(space, slug).tune.second, processors.model(space, slug)
    if not model.second_source:
        raise ConflictError(f"{model.name} has no second source: nothing changes over")
    if wanted.priority == "never":
        raise ConflictError("the second source is never heard: say first which of the two comes first")
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("with files there is nothing to listen to: choose a sound card")
    layout = space.layout(slug)
    now = read_back(space, slug, head(space, slug).tune)
    if now.second != model.settle_second(wanted):
        raise ConflictError("the processor does not know of the second source yet: send first")
    alone = measuring(now, layout, {one.id for one in layout.drivers if now.audible(one.id)})
    if not any(alone.audible(one.id) for one in layout.drivers):
        raise ConflictError("every channel is muted: nothing could be heard")
    return processors.playable(space, slug, alone.model_copy(update={"inputs": now.inputs, "second": now.second}))


def _sounding(heard: ChangingOver) -> list[Which]:
    return [which for which, on in zip((heard.first, OTHER[heard.first]), heard.now, strict=True) if on]


def _asks(heard: ChangingOver) -> str:
    """What a person has to do next."""
    found, later = heard.found, OTHER[heard.first]
    if found.other_db is None:
        return f"1 of 3: let {NAMES[later]} play its file, and nothing else."
    if found.first_db is None:
        return f"2 of 3: let {NAMES[heard.first]} play its file beside it for some seconds."
    return f"3 of 3: stop {NAMES[heard.first]}, and wait until {NAMES[later]} {_verb(later, 'is', 'are')} back."


def _keep(space: Workspace, slug: str, second: SecondSource, went: ChangeOver) -> None:
    kept = Tried(second=second, went=went).model_dump(mode="json")
    documents.change(space, _key(slug), lambda before: {**before, "switch": kept})
    space.changed()


def tried(space: Workspace, slug: str) -> Tried | None:
    """How the change-over went when it was tried last; None where it never was, or the second source is set otherwise
    by now."""
    found = (documents.read(space, _key(slug)) or {}).get("switch")
    if found is None:
        return None
    last = stored(Tried, found, "how the change-over went")
    now = head(space, slug).tune.second
    return last if last.second.model_copy(update={"gain_db": now.gain_db}) == now else None


def louder_db(space: Workspace, slug: str) -> float | None:
    """By how much the second source is louder than the wires with the gain that it has now; None where not known."""
    last = tried(space, slug)
    if last is None or last.went.louder_db is None:
        return None
    return last.went.louder_db + head(space, slug).tune.second.gain_db - last.second.gain_db


def apart_db(space: Workspace, slug: str) -> float | None:
    """The same, None where both are alike."""
    louder = louder_db(space, slug)
    return None if louder is None or abs(louder) <= APART_DB else louder


def alike(space: Workspace, slug: str) -> list[Edit]:
    """Edits that make the second source as loud as the wires were beside it. Raises ConflictError."""
    louder = louder_db(space, slug)
    if louder is None:
        raise ConflictError("how loud both sources are is not known: try the change-over first")
    wanted = round(head(space, slug).tune.second.gain_db - louder, 1)
    reach = processors.model(space, slug).gain_db
    if not reach.holds(wanted):
        raise ConflictError(
            f"the second source would need {wanted:+.1f} dB, and the processor's gains reach {reach.least:+g} to "
            f"{reach.most:+g}: turn its own volume first"
        )
    return [SetSecond(gain_db=wanted)]


def says(space: Workspace, slug: str) -> list[str]:
    """How the change-over went, in sentences."""
    last = tried(space, slug)
    if last is None:
        return []
    went, hold_s = last.went, last.second.hold_s
    later = OTHER[went.first]
    first_name, later_name = NAMES[went.first], NAMES[later]
    if went.other_db is None:
        return [f"{later_name} {_verb(later, 'was', 'were')} not heard: play the file there, and see to the connection"]
    if went.first_db is None or went.gap_s is None:
        return [
            f"{first_name} did not take over: nothing played there, nothing is connected, or it stays under "
            f"{last.second.over_dbfs:.0f} dBFS"
        ]
    if went.leaks_db is not None:
        return [
            f"both are heard at once ({went.leaks_db:+.0f} dB of {later_name} stay): one of them reaches the "
            "amplifiers by another way"
        ]
    over = f", {went.gap_s:.2f} s without sound" if went.gap_s > 0 else " at once"
    said = [f"{first_name} {_verb(went.first, 'takes', 'take')} over{over}"]
    if went.back_s is None:
        said.append(f"{later_name} did not come back")
    else:
        off = f", and not after {hold_s:.1f} s as it is set" if abs(went.back_s - hold_s) > HOLD_OFF_S else ""
        said.append(f"{later_name} {_verb(later, 'is', 'are')} back after {went.back_s:.1f} s{off}")
    louder = apart_db(space, slug)
    if louder is not None:
        more = "louder" if louder > 0 else "softer"
        said.append(f"the second source is {abs(louder):.1f} dB {more} than the wires, as both volumes stood")
    return said


def _verb(which: Which, one: str, many: str) -> str:
    return many if which == "wires" else one


def _key(slug: str) -> str:
    return f"source:{slug}"
