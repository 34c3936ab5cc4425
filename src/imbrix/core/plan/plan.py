"""The plan of the job: all steps in the order of the work, and which of them comes next.

A pure function of the situation; nothing is stored but what a person left out. The order is that of common practice
(no source): the rig, the source, every driver, the alignment, the voice from the far side's mid on, the proof, the
handover.
"""

from collections.abc import Iterator, Sequence

from imbrix.core.plan.situation import Situation
from imbrix.core.plan.step import Choice, Request, State, Step
from imbrix.core.predict.findings import brought_down
from imbrix.core.system.layout import Group
from imbrix.core.tune.edits import EDITS, Edit

PLACED_DB = 6.0
"""A target that stands no farther from where the far side's mid needs no gain is placed."""
LEVEL_DB = 0.05
"""What goes over full scale by less is rounding."""
GOOD_DB = 1.0
"""A whole that is predicted within so much of the target needs no common correction."""
APART_DB = 1.5
"""So far apart, rms, what was measured and what was predicted are not the same thing any more."""
FINE_DB, WORTH_DB = 2.0, 0.5
"""A whole that measures within so much needs no more, and what gains less is not worth another round."""
SKIP = Choice(name="Leave it out", skips=True)


def plan(now: Situation) -> tuple[Step, ...]:
    """All steps in their order, each with its state: at most one is next."""
    found: list[Step] = []
    for step, done in _steps(now):
        state: State = "done" if done else "skipped" if step.key in now.skipped else "later"
        if state == "later" and not any(one.state == "next" for one in found):
            state = "next"
        found.append(step.model_copy(update={"state": state}))
    return tuple(found)


def following(steps: Sequence[Step]) -> Step | None:
    """The step that comes next; None where nothing is left to do."""
    return next((one for one in steps if one.state == "next"), None)


def _steps(now: Situation) -> Iterator[tuple[Step, bool]]:
    """Every step with whether it is done."""
    yield from _rig(now)
    yield from _source(now)
    yield from _drivers(now)
    yield from _seams(now)
    yield from _beside(now)
    yield from _voice(now)
    yield from _proof(now)
    yield from _handover(now)


def _at(now: Situation, tail: str) -> str:
    return f"/api/projects/{now.slug}/{tail}"


def _edits(now: Situation, edits: Sequence[Edit], summary: str) -> Request:
    body = {"edits": EDITS.dump_python(list(edits), mode="json", exclude_none=True), "summary": summary}
    return Request(path=_at(now, "edits"), body=body)


def _rig(now: Situation) -> Iterator[tuple[Step, bool]]:
    parts = {one.key: one for one in now.rig}
    device = parts["device"]
    yield (
        Step(
            key="device",
            stage="rig",
            part="device",
            name="Look for the device",
            why=device.says or "no device",
            does="looks for devices anew and opens the chosen one",
            choices=(Choice(name="Look again", requests=(Request(path="/api/rig/look"),)), SKIP),
        ),
        device.state == "set",
    )
    microphone = parts["microphone"]
    sheets = tuple(
        Choice(
            name=f"Use {name}",
            requests=(Request(method="PATCH", path="/api/rig", body={"corrections": {now.pointing: key}}),),
        )
        for key, name in now.corrections.items()
    )
    yield (
        Step(
            key="microphone",
            stage="rig",
            part="microphone",
            name="Choose the microphone's correction",
            why=microphone.says,
            does="every curve is freed of what the microphone does to it",
            choices=(
                *sheets,
                Choice(name="Bring a file", says="the text file that came with the microphone"),
                Choice(name="Go without", says="curves show the microphone too", skips=True),
            ),
            optional=True,
        ),
        microphone.state == "set",
    )
    if now.refused is not None and now.refused.cause == "exchanged":
        yield (
            Step(
                key="exchanged",
                stage="rig",
                part="device",
                name="Exchange microphone and reference",
                why=now.refused.says,
                does="the two inputs change places, with their names",
                choices=(Choice(name="Exchange them", requests=(Request(path="/api/rig/exchange"),)), SKIP),
            ),
            False,
        )
    level = parts["level"]
    name = now.layout.driver(now.harmless).name
    yield (
        Step(
            key="level",
            stage="rig",
            part="level",
            channel=now.harmless,
            name="Try the level",
            why=level.says,
            does=f"listens to the quiet, then plays pink noise through {name}",
            choices=(
                Choice(
                    name="Try it",
                    requests=(Request(path=_at(now, "level"), body={"channel": now.harmless}, waits=True),),
                ),
                SKIP,
            ),
            optional=True,
        ),
        level.state == "set",
    )
    check = parts["check"]
    yield (
        Step(
            key="check",
            stage="rig",
            part="check",
            name="Check the interface",
            why=check.says,
            does="plays a sweep from its output into its input: plug the loop first",
            choices=(Choice(name="Check it", requests=(Request(path="/api/rig/check", waits=True),)), SKIP),
            optional=True,
        ),
        check.state == "set",
    )
    reference = parts["reference"]
    yield (
        Step(
            key="reference",
            stage="rig",
            part="reference",
            name="Set the reference level",
            why=reference.says,
            does="curves are in dB SPL then, from a calibrator or a level meter",
            choices=(
                Choice(name="Go there"),
                Choice(name="Go without", says="levels are by the microphone's sheet", skips=True),
            ),
            optional=True,
        ),
        reference.state == "set",
    )


def _source(now: Situation) -> Iterator[tuple[Step, bool]]:
    there = now.source
    first = next(iter(there.names), 1)
    others = [number for number in there.names if number != first]
    known = bool(there.recorded)
    for number in others[:1] if not known else others:
        names = f"{there.names[first].lower()} and {there.names[number].lower()}"
        yield (
            Step(
                key=f"feed:{number}" if known else "source",
                stage="source",
                part="feeds",
                name=f"Record the wires of {names}" if known else "Find out what the source does",
                why="these wires were not recorded yet" if known else "most factory sources change what they play",
                does=f"clip the leads to the wires of {names}, let the source play the track, and it is recorded",
                choices=(
                    Choice(
                        name="Record the wires",
                        requests=(
                            Request(path=_at(now, "source/record"), body={"inputs": [first, number]}, waits=True),
                        ),
                    ),
                    Choice(name="No such wire" if known else "The source is flat", skips=True),
                ),
                optional=known,
            ),
            number in there.recorded,
        )
    if there.exchanged:
        one, other = there.exchanged
        yield (
            Step(
                key="put-right",
                stage="source",
                part="feeds",
                name=f"Put inputs {one} and {other} right",
                why=f"{there.names[one]} and {there.names[other].lower()} carry each other's side",
                does="what the two are for changes places, and every channel hears the other of them",
                choices=(Choice(name="Put them right", requests=(Request(path=_at(now, "source/put-right")),)), SKIP),
            ),
            False,
        )
    if known:
        yield (
            Step(
                key="straighten",
                stage="source",
                part="feeds",
                name="Straighten the source",
                why=f"its feeds stray {there.far_db:.1f} dB from flat, or from each other in time",
                does="level, polarity, delay and tone of every input, so that the processor gets what was recorded",
                choices=(
                    Choice(
                        name="Straighten",
                        requests=(_edits(now, there.straightens, "Source straightened"),) if there.straightens else (),
                    ),
                    SKIP,
                ),
            ),
            not there.straightens,
        )


def _take(now: Situation, channel: str, method: str = "sweep") -> Request:
    body = {"channels": [channel], "purpose": "driver", "method": method}
    return Request(path=_at(now, "takes"), body=body, waits=True)


def _drivers(now: Situation) -> Iterator[tuple[Step, bool]]:
    for channel in now.queue:
        name = now.layout.driver(channel).name
        yield (
            Step(
                key=f"take:{channel}",
                stage="drivers",
                part="record",
                channel=channel,
                name=f"Record {name}",
                why="there is no take of it yet",
                does=f"plays a sweep through {name} alone and records it: hold the microphone where the head is",
                choices=(Choice(name=f"Record {name}", requests=(_take(now, channel),)), SKIP),
            ),
            channel in now.takes,
        )
    yield from _doubts(now)
    for one in now.remedies:
        yield (
            Step(
                key=f"remedy:{one.about}",
                stage="drivers",
                part="record",
                channel=one.about,
                name=one.action,
                why=f"{one.says}: {one.evidence}",
                does="turns its polarity in the processor; the wires stay as they are",
                choices=(Choice(name=one.action, requests=(_edits(now, one.edits, one.action),)), SKIP),
            ),
            False,
        )
    for channel in now.queue:
        name = now.layout.driver(channel).name
        heard = channel in now.takes and now.takes[channel].moving
        yield (
            Step(
                key=f"moving:{channel}",
                stage="drivers",
                part="record",
                channel=channel,
                name=f"Record {name} with a moving microphone",
                why="one spot has dips of its own: level and bands go by the place",
                does=f"plays pink noise through {name} alone while you move the microphone round both ears",
                choices=(Choice(name=f"Record {name}, moving", requests=(_take(now, channel, "moving"),)), SKIP),
                optional=True,
            ),
            heard,
        )


def _doubts(now: Situation) -> Iterator[tuple[Step, bool]]:
    """Takes in force that may not show what they should: one step for each that is doubted, one for hum in several."""
    humming = []
    for channel, one in now.takes.items():
        name = now.layout.driver(channel).name
        worst = next((each for each in one.troubles if each.weight == "doubt"), None)
        if any(each.kind == "hum" for each in one.troubles):
            humming.append(name)
        if worst is None:
            continue
        yield (
            Step(
                key=f"doubt:{one.id}",
                stage="drivers",
                part="record",
                channel=channel,
                name=f"Record {name} again",
                why=f"{worst.says}: {worst.evidence}",
                does=f"{worst.tries}; then plays the sweep through {name} once more",
                choices=(
                    Choice(name=f"Record {name} again", requests=(_take(now, channel),)),
                    Choice(name="Keep it as it is", skips=True),
                ),
            ),
            False,
        )
    if humming:
        said = next(each for one in now.takes.values() for each in one.troubles if each.kind == "hum")
        yield (
            Step(
                key="hum",
                stage="drivers",
                part="record",
                name="Look for the hum",
                why=f"{said.says}; heard with {', '.join(humming)}",
                does=said.tries,
                choices=(Choice(name="It does not matter here", skips=True), Choice(name="Go there")),
                optional=True,
            ),
            False,
        )


def _seams(now: Situation) -> Iterator[tuple[Step, bool]]:
    if not now.layout.seams():
        return
    yield (
        Step(
            key="align",
            stage="seams",
            part="whole",
            name="Align the whole system",
            why="delays were not set" if now.crossed else "not all ways are crossed over",
            does="searches crossovers, delays and polarities of all channels at once, and sets the first proposal",
            choices=(
                Choice(name="Align everything", requests=(Request(path=_at(now, "proposals/first"), body={}),)),
                Choice(name="By hand", says="seam by seam", skips=True),
            ),
        ),
        now.crossed and now.timed,
    )


def _beside(now: Situation) -> Iterator[tuple[Step, bool]]:
    if not any(one.group in (Group.REAR, Group.CENTRE) and one.group != now.layout.main for one in now.layout.drivers):
        return
    yield (
        Step(
            key="beside",
            stage="seams",
            part="whole",
            name="Set rear and centre by the front",
            why="a rear that comes at once with the front pulls the stage back",
            does=now.beside_says or "the rear 10 ms after the front, the centre at once with it (common practice)",
            choices=(
                Choice(
                    name="Set them",
                    requests=(_edits(now, now.beside, "Rear and centre set by the front"),) if now.beside else (),
                ),
                SKIP,
            ),
            optional=True,
        ),
        not now.beside and now.crossed and now.timed,
    )


def _voiced(now: Situation, channel: str) -> bool:
    one = now.tune.channels[channel]
    return bool(one.gain_db) or any(band.kind != "all_pass" for band in one.bands)


def _voice(now: Situation) -> Iterator[tuple[Step, bool]]:
    any_voiced = any(_voiced(now, channel) for channel in now.order)
    where = now.placing
    if where is not None:
        name = now.layout.driver(where.channel).name
        yield (
            Step(
                key="place",
                stage="voice",
                channel=where.channel,
                name=f"Place the target by {name}",
                why=f"the target stands {where.off_db:+.1f} dB from where {name} needs no gain, and it sets the level "
                "for the whole",
                does=f"places it there: {where.highest_db:.1f} dB are cut at the highest peak, "
                f"{where.lowest_db:.1f} dB are missing in the lowest dip; 3 dB of boost are twice the power",
                choices=(
                    Choice(name="Place it", requests=(_edits(now, where.edits, f"Target placed by {name}"),)),
                    Choice(name="Keep its level", skips=True),
                ),
            ),
            any_voiced or abs(where.off_db) <= PLACED_DB,
        )
    for n, channel in enumerate(now.order):
        if channel not in now.takes:
            continue
        name = now.layout.driver(channel).name
        yield (
            Step(
                key=f"voice:{channel}",
                stage="voice",
                channel=channel,
                name=f"Fit {name}",
                why="the far side goes first: it sets what the near side has to match"
                if n == 0
                else "level and correction of this channel are not set yet",
                does="finds gain and bands that bring it to its share of the target; dips of the place stay",
                choices=(
                    Choice(name=f"Fit {name}", requests=(Request(path=_at(now, "fit"), body={"channels": [channel]}),)),
                    SKIP,
                ),
            ),
            _voiced(now, channel),
        )
    if len(now.takes) > 1:
        said = f"predicted ±{now.whole_db:.1f} dB about the target" if now.whole_db is not None else "not fitted yet"
        yield (
            Step(
                key="common",
                stage="voice",
                name="Fit all channels together",
                why=f"the whole is {said}",
                does="finds bands common to all channels, so that the image stays",
                choices=(
                    Choice(name="Fit all", requests=(Request(path=_at(now, "fit"), body={"channels": []}),)),
                    SKIP,
                ),
            ),
            bool(now.tune.common) or (any_voiced and now.whole_db is not None and now.whole_db <= GOOD_DB),
        )
    yield (
        Step(
            key="gains",
            stage="voice",
            name="Bring the gains down",
            why=now.over_says or "no output goes over full scale",
            does=f"lowers all outputs alike by {now.over_db:.1f} dB, and the target with them",
            choices=(
                Choice(
                    name="Bring them down",
                    requests=(_edits(now, brought_down(now.tune, now.over_db), "Gains brought down"),),
                ),
                SKIP,
            ),
        ),
        now.over_db <= LEVEL_DB,
    )


def _proof(now: Situation) -> Iterator[tuple[Step, bool]]:
    yield (
        Step(
            key="send",
            stage="proof",
            name="Send the tune",
            why=f"the processor does not do {now.unsent} of its settings yet",
            does="writes them, reads them back and compares",
            choices=(Choice(name="Send", requests=(Request(path=_at(now, "processor/send")),)), SKIP),
        ),
        now.unsent == 0,
    )
    channels = [one.id for one in now.layout.drivers]
    method = "moving" if any(one.moving for one in now.takes.values()) else "sweep"
    record = Request(
        path=_at(now, "takes"), body={"channels": channels, "purpose": "proof", "method": method}, waits=True
    )
    yield (
        Step(
            key="proof",
            stage="proof",
            name="Record the whole",
            why="the whole was not recorded yet" if now.proof is None else "the last proof is of another tune",
            does="plays all channels together and compares with prediction and target"
            + ("; move the microphone round both ears" if method == "moving" else ""),
            choices=(Choice(name="Record the whole", requests=(record,)), SKIP),
        ),
        now.proof is not None and now.proof.current,
    )
    if now.proof is not None and now.proof.current:
        yield (
            Step(
                key="apart",
                stage="proof",
                name="Record the whole again",
                why=f"measured and predicted are {now.proof.apart_db:.1f} dB apart: {now.proof.apart_says}",
                does="look at that first; then the whole is recorded once more",
                choices=(
                    Choice(name="Record again", requests=(record,)),
                    Choice(name="Keep it as it is", skips=True),
                ),
            ),
            now.proof.apart_db <= APART_DB or now.proof.repeated,
        )
        better = now.proof.better_db
        if better is not None:
            fit = Request(path=_at(now, "fit"), body={"channels": [], "measured": True})
            yield (
                Step(
                    key="measured",
                    stage="voice",
                    name="Fit what was measured",
                    why=f"the whole measures ±{now.proof.plus_minus_db:.1f} dB about the target",
                    does=f"fits the bands common to all channels to that recording: ±{better:.1f} dB are expected; "
                    "then it is sent and recorded once more",
                    choices=(Choice(name="Fit what was measured", requests=(fit,)), SKIP),
                ),
                now.proof.plus_minus_db <= FINE_DB or now.proof.plus_minus_db - better < WORTH_DB,
            )


def _handover(now: Situation) -> Iterator[tuple[Step, bool]]:
    yield (
        Step(
            key="store",
            stage="handover",
            name="Store the tune in a slot",
            why="what the processor runs is gone with its power",
            does=f"keeps it in slot {now.free}",
            choices=(
                Choice(
                    name=f"Store in slot {now.free}",
                    requests=(Request(path=_at(now, "processor/store"), body={"slot": now.free}),),
                ),
                SKIP,
            ),
        ),
        now.stored is not None,
    )
