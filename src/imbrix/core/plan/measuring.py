"""Steps of the first half: the rig, the source, every driver."""

from collections.abc import Iterator

from imbrix.core.evidence.verdict import Trouble
from imbrix.core.plan.situation import InForce, Remedy, Situation
from imbrix.core.plan.step import (
    SKIP,
    CheckInterface,
    Choice,
    ExchangeInputs,
    LookForDevices,
    MakeEdits,
    PutRight,
    ReadInputs,
    Record,
    RecordEach,
    RecordWires,
    Step,
    TryLevel,
    UseCorrection,
)

Steps = Iterator[tuple[Step, bool]]
"""Steps in their order, each with whether it is done."""
OF_THE_PLACE = ("hum", "noisy")
"""Troubles that last and come with the place: where several takes have one it is looked for once, not by each."""
SEVERAL = 3


def rig(now: Situation) -> Steps:
    """The device, the microphone, its level, the interface, the reference level."""
    if now.asks:
        name, does = "Open the microphone", "shows where: the browser asks whether this page may hear"
        choices = (Choice(name="Show it"), SKIP)
    else:
        name, does = "Look for the device", "looks for devices anew and opens the chosen one"
        choices = (Choice(name="Look again", action=LookForDevices()), SKIP)
    yield _part(now, "device", name, does, choices, optional=False)
    sheets = (
        Choice(name=f"Use {name}", action=UseCorrection(pointing=now.pointing, id=key))
        for key, name in now.corrections.items()
    )
    yield _part(
        now,
        "microphone",
        "Choose the microphone's correction",
        "every curve is freed of what the microphone does to it",
        (
            *sheets,
            Choice(name="Bring a file", says="the text file that came with the microphone"),
            Choice(name="Do without", says="curves show the microphone too", skips=True),
        ),
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
                choices=(Choice(name="Exchange them", action=ExchangeInputs()), SKIP),
            ),
            False,
        )
    yield _part(
        now,
        "level",
        "Try the level",
        f"listens to the quiet, then plays pink noise through {now.layout.driver(now.harmless).name}",
        (Choice(name="Try it", action=TryLevel(channel=now.harmless)), SKIP),
    )
    yield _part(
        now,
        "check",
        "Check the interface",
        "plays a sweep from its output into its input: plug the loop first",
        (Choice(name="Check it", action=CheckInterface()), SKIP),
    )
    yield _part(
        now,
        "reference",
        "Set the reference level",
        "curves are in dB SPL then",
        (
            Choice(name="By a calibrator or a meter"),
            Choice(name="Do without", says="levels are by the microphone's sheet", skips=True),
        ),
    )


def _part(
    now: Situation, key: str, name: str, does: str, choices: tuple[Choice, ...], optional: bool = True
) -> tuple[Step, bool]:
    """A part of the ready line as a step."""
    part = next(one for one in now.rig if one.key == key)
    step = Step(key=key, stage="rig", part=key, name=name, why=part.says, does=does, choices=choices, optional=optional)
    return step, part.state == "set"


def source(now: Situation) -> Steps:
    """Its wires, each recorded beside the first; what was exchanged put right; all straightened."""
    there = now.source
    if not there.names:
        return
    if there.reads:
        yield _read(now), bool(there.recorded)
    else:
        yield from _wire_by_wire(now)
    if not there.recorded:
        return
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
                choices=(Choice(name="Put them right", action=PutRight()), SKIP),
            ),
            False,
        )
    straighten = MakeEdits(edits=there.straightens, summary="Source straightened")
    yield (
        Step(
            key="straighten",
            stage="source",
            part="feeds",
            name="Straighten the source",
            why=f"its feeds stray {there.far_db:.1f} dB from flat, or from each other in time",
            does="level, polarity, delay and tone of every input, so that the processor gets what was recorded",
            choices=(Choice(name="Straighten", action=straighten), SKIP),
        ),
        not there.straightens,
    )


def _wire_by_wire(now: Situation) -> Steps:
    """Two wires to find out whether the source does anything; then every further one beside the first."""
    there = now.source
    first, *others = there.names
    if not there.recorded:
        for number in others[:1]:
            yield _wires(now, first, number, "source", "Find out what the source does", "The source is flat")
        return
    for number in others:
        name = f"Record the wire of {there.names[number].lower()}"
        yield _wires(now, first, number, f"feed:{number}", name, "There is no such wire")


def _read(now: Situation) -> Step:
    return Step(
        key="source",
        stage="source",
        part="feeds",
        name="Find out what the source does",
        why="most factory sources change what they play",
        does="let the source play the track: the processor tells what reaches all of its inputs at once",
        choices=(
            Choice(name="Read the inputs", action=ReadInputs()),
            Choice(name="The source is flat", skips=True),
        ),
        optional=bool(now.source.recorded),
    )


def _wires(now: Situation, first: int, number: int, key: str, name: str, without: str) -> tuple[Step, bool]:
    names = f"{now.source.names[first].lower()} and {now.source.names[number].lower()}"
    known = bool(now.source.recorded)
    step = Step(
        key=key,
        stage="source",
        part="feeds",
        name=name,
        why="this wire was not recorded yet" if known else "most factory sources change what they play",
        does=f"clip the leads to the wires of {names}, let the source play the track, and it is recorded",
        choices=(
            Choice(name="Record the wires", action=RecordWires(inputs=(first, number))),
            Choice(name=without, skips=True),
        ),
        optional=known,
    )
    return step, number in now.source.recorded


def drivers(now: Situation) -> Steps:
    """A take of each; what is doubted, what is wired backwards; all from further spots; each by a moving microphone."""
    # The first is recorded by itself: what is wrong with the rig shows in it, and is mended before the rest is made.
    yield from _doubts(now)
    left = tuple(one for one in now.queue if one not in now.takes and f"take:{one}" not in now.skipped)
    if now.switches and now.takes and len(left) > 1:
        name = f"Record the other {len(left)}"
        yield _each(now, "each", name, left, "nobody has to stand by"), False
    for channel in now.queue:
        name = now.layout.driver(channel).name
        step = _driver(
            f"take:{channel}",
            channel,
            f"Record {name}",
            "there is no take of it yet",
            f"let the source play the track: {name} is recorded through it; hold the microphone where the head is"
            if now.by_source
            else f"plays a sweep through {name} alone and records it: hold the microphone where the head is",
            (Choice(name=f"Record {name}", action=Record(channels=(channel,))), SKIP),
        )
        yield step, channel in now.takes
    humming = {channel: each for channel, one in now.takes.items() for each in one.troubles if each.kind == "hum"}
    if humming and not any(each.weight == "doubt" for each in humming.values()):  # that was asked about above
        yield _hum(now, humming), False
    for remedy in now.remedies:
        yield _remedy(remedy), False
    yield from _spots(now)
    still = tuple(one for one in now.queue if one in now.takes and not now.takes[one].moving)
    still = tuple(one for one in still if f"moving:{one}" not in now.skipped)
    if now.switches and now.moves and len(still) > 1:
        yield _each_moving(now, still), False
    for channel in now.queue:
        name = now.layout.driver(channel).name
        step = _driver(
            f"moving:{channel}",
            channel,
            f"Record {name} with a moving microphone",
            "one spot has dips of its own: level and bands go by the place",
            f"{_noise(now)} through {name} alone while you move the microphone round both ears",
            (Choice(name=f"Record {name}, moving", action=Record(channels=(channel,), method="moving")), SKIP),
        )
        values = {"optional": True, "state": "later" if now.moves else "not needed"}
        yield step.model_copy(update=values), channel in now.takes and now.takes[channel].moving


def _noise(now: Situation) -> str:
    return "let the source play pink noise" if now.by_source else "plays pink noise"


def _each(now: Situation, key: str, name: str, channels: tuple[str, ...], why: str, place: str = "") -> Step:
    """Several drivers in one go, each for itself."""
    at = f", {place.lower()}" if place else ""
    where = f"put the microphone there: {place}" if place else "leave the microphone where it is"
    return _driver(
        key,
        "",
        f"{name} in a row{at}",
        why,
        f"{where}; {'the source plays the track' if now.by_source else 'plays a sweep'} through each driver alone, "
        "again where a noise spoils it",
        (
            Choice(name=name, action=RecordEach(channels=channels, place=place)),
            Choice(name="Leave it out" if place else "One at a time", skips=True),
        ),
    )


def _spots(now: Situation) -> Steps:
    """All drivers that were recorded, from further spots of the head, before anything is aligned."""
    left_out = False
    known = tuple(one for one in now.queue if one in now.takes)
    for spot in now.spots if len(known) > 1 else ():
        key = f"spot:{spot.name}"
        missing = tuple(one for one in known if one in spot.missing)
        name = f"Record the other {len(missing)}" if 0 < len(missing) < len(known) else f"Record all {len(known)}"
        why = "a head moves: what suits one spot alone comes apart at the next"
        step = _each(now, key, name, missing or known, why, spot.name)
        needless = left_out or (now.crossed and now.timed)
        yield step.model_copy(update={"optional": True, "state": "not needed" if needless else "later"}), not missing
        left_out = left_out or key in now.skipped


def _each_moving(now: Situation, channels: tuple[str, ...]) -> Step:
    step = _driver(
        "each-moving",
        "",
        "Record all with a moving microphone",
        "one spot has dips of its own",
        f"{_noise(now)} through each driver alone: move the microphone round both ears until the last has sounded",
        (
            Choice(name="Record them, moving", action=RecordEach(channels=channels, method="moving")),
            Choice(name="One at a time", skips=True),
        ),
    )
    return step.model_copy(update={"optional": True})


def _driver(key: str, channel: str, name: str, why: str, does: str, choices: tuple[Choice, ...]) -> Step:
    return Step(
        key=key, stage="drivers", part="record", channel=channel, name=name, why=why, does=does, choices=choices
    )


def _doubts(now: Situation) -> Steps:
    """Takes that may not show what they should, one by one; what the place does to several of them, once for all."""
    left = {}
    for channel, one in now.takes.items():
        worst = next((each for each in one.troubles if each.weight == "doubt"), None)
        if worst is not None:
            left[channel] = worst
    kept = {channel for channel in left if f"doubt:{now.takes[channel].id}" in now.skipped}
    for kind in OF_THE_PLACE:
        shared = {channel: each for channel, each in left.items() if each.kind == kind and channel not in kept}
        if now.switches and len(shared) >= SEVERAL:
            yield _shared(now, kind, shared), False
            left = {channel: each for channel, each in left.items() if channel not in shared}
    for channel, worst in left.items():
        yield _doubted(now, channel, now.takes[channel], worst), False


def _shared(now: Situation, kind: str, shared: dict[str, Trouble]) -> Step:
    """What several takes have of the place: looked for, then recorded again, or kept where that did not help."""
    count, worst = len(shared), next(iter(shared.values()))
    again = Choice(name=f"Record the {count} again", action=RecordEach(channels=tuple(shared)))
    keep = Choice(name="Keep them as they are", skips=True)
    # The first of them: one that is recorded anew by itself is no reason to ask about all the others once more.
    key = f"doubts:{kind}:{min(now.takes[channel].id for channel in shared)}"
    why = f"{worst.says}, in {count} takes: {worst.evidence}"
    if any(kind in one.known for one in now.takes.values()):
        does = f"takes before had it too: {worst.tries}, or keep them and know it"
        return _driver(key, "", f"Keep the {count} takes", why, does, (keep, again))
    does = f"{worst.tries}; then the {count} are recorded again in a row"
    return _driver(key, "", f"Record {count} drivers again", why, does, (again, keep))


def _doubted(now: Situation, channel: str, one: InForce, worst: Trouble) -> Step:
    """A take that may not show what it should: recorded once more, kept where the one before had the same."""
    name = now.layout.driver(channel).name
    again = Choice(name=f"Record {name} again", action=Record(channels=(channel,)))
    keep = Choice(name="Keep it as it is", skips=True)
    why = f"{worst.says}: {worst.evidence}"
    key = f"doubt:{one.id}"
    if worst.kind in one.known:
        does = f"the take before had it too: {worst.tries}, or keep it and know it"
        return _driver(key, channel, f"Keep the take of {name}", why, does, (keep, again))
    does = f"{worst.tries}; then {name} is recorded once more"
    return _driver(key, channel, f"Record {name} again", why, does, (again, keep))


def _hum(now: Situation, humming: dict[str, Trouble]) -> Step:
    said = next(iter(humming.values()))
    names = ", ".join(now.layout.driver(channel).name for channel in humming)
    choices = (Choice(name="It does not matter here", skips=True), Choice(name="Look at the takes"))
    step = _driver("hum", "", "Look for the hum", f"{said.says}; heard with {names}", said.tries, choices)
    return step.model_copy(update={"optional": True})


def _remedy(one: Remedy) -> Step:
    return _driver(
        f"remedy:{one.about}",
        one.about,
        one.action,
        f"{one.says}: {one.evidence}",
        "turns its polarity in the processor; the wires stay as they are",
        (Choice(name=one.action, action=MakeEdits(edits=one.edits, summary=one.action)), SKIP),
    )
