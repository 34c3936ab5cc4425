"""Steps of the first half: the rig, the source, every driver."""

from collections.abc import Iterator

from imbrix.core.plan.asking import SKIP, asked, at, take
from imbrix.core.plan.situation import Situation
from imbrix.core.plan.step import Choice, Request, Step


def rig(now: Situation) -> Iterator[tuple[Step, bool]]:
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
                    requests=(Request(path=at(now, "level"), body={"channel": now.harmless}, waits=True),),
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


def source(now: Situation) -> Iterator[tuple[Step, bool]]:
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
                            Request(path=at(now, "source/record"), body={"inputs": [first, number]}, waits=True),
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
                choices=(Choice(name="Put them right", requests=(Request(path=at(now, "source/put-right")),)), SKIP),
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
                        requests=(asked(now, there.straightens, "Source straightened"),) if there.straightens else (),
                    ),
                    SKIP,
                ),
            ),
            not there.straightens,
        )


def drivers(now: Situation) -> Iterator[tuple[Step, bool]]:
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
                choices=(Choice(name=f"Record {name}", requests=(take(now, channel),)), SKIP),
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
                choices=(Choice(name=one.action, requests=(asked(now, one.edits, one.action),)), SKIP),
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
                choices=(Choice(name=f"Record {name}, moving", requests=(take(now, channel, "moving"),)), SKIP),
                optional=True,
                state="later" if now.moves else "not needed",
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
        again = Choice(name=f"Record {name} again", requests=(take(now, channel),))
        keep = Choice(name="Keep it as it is", skips=True)
        stays = worst.kind in one.known
        yield (
            Step(
                key=f"doubt:{one.id}",
                stage="drivers",
                part="record",
                channel=channel,
                name=f"Keep the take of {name}" if stays else f"Record {name} again",
                why=f"{worst.says}: {worst.evidence}",
                does=f"the take before had it too: {worst.tries}, or keep it and know it"
                if stays
                else f"{worst.tries}; then plays the sweep through {name} once more",
                choices=(keep, again) if stays else (again, keep),
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
