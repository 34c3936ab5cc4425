"""Steps of the second half: the alignment, the voice from the far side's mid on, the proof, the handover."""

from collections.abc import Iterator

from imbrix.core.plan.measuring import Steps
from imbrix.core.plan.situation import Situation
from imbrix.core.plan.step import SKIP, Align, Choice, FitTo, Listen, MakeEdits, MatchSides, Record, Send, Step, Store
from imbrix.core.predict.findings import brought_down
from imbrix.core.system.layout import Group

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


def seams(now: Situation) -> Steps:
    """The alignment of the whole."""
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
                Choice(name="Align everything", action=Align()),
                Choice(name="By hand", says="seam by seam", skips=True),
            ),
        ),
        now.crossed and now.timed,
    )


def beside(now: Situation) -> Steps:
    """Rear and centre, where there are any beside the front."""
    if not any(one.group in (Group.REAR, Group.CENTRE) and one.group != now.layout.main for one in now.layout.drivers):
        return
    yield (
        Step(
            key="beside",
            stage="seams",
            part="whole",
            name="Set rear and centre by the front",
            why="a rear that comes at once with the front pulls the stage back",
            does=now.beside_says or "the rear some 10 ms after the front, the centre with it (common practice)",
            choices=(
                Choice(name="Set them", action=MakeEdits(edits=now.beside, summary="Rear and centre set by the front")),
                SKIP,
            ),
            optional=True,
        ),
        not now.beside and now.crossed and now.timed,
    )


def _matched(now: Situation, channel: str) -> Iterator[Choice]:
    """The choice to fit a channel to its partner rather than to the target, where that is set."""
    partner = now.layout.partner(now.layout.driver(channel))
    if partner is not None and partner.id in now.takes and now.tune.channels[partner.id].voiced:
        yield Choice(
            name=f"Match it to {partner.name}",
            says="both sides alike, whatever is left of the target",
            action=FitTo(channels=(channel,), like=partner.id),
        )


def _over(now: Situation) -> str:
    """What a fit goes by, in words."""
    if now.places > 1:
        return f", in the mean of {now.places} places; dips of one place stay"
    return "; dips of the place stay"


def voice(now: Situation) -> Steps:
    """The target placed, every channel fitted from the far side's mid on, one side turned, all together, the gains."""
    any_voiced = any(now.tune.channels[channel].voiced for channel in now.order)
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
                    Choice(name="Place it", action=MakeEdits(edits=where.edits, summary=f"Target placed by {name}")),
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
                does="finds gain and bands that bring it to its share of the target" + _over(now),
                choices=(
                    Choice(name=f"Fit {name}", action=FitTo(channels=(channel,), places=now.places > 1)),
                    *_matched(now, channel),
                    SKIP,
                ),
            ),
            now.tune.channels[channel].voiced,
        )
    if now.turned is not None:
        yield (
            Step(
                key="turn",
                stage="voice",
                name=now.turned.action,
                why=now.turned.says,
                does=now.turned.evidence,
                choices=(
                    Choice(name=now.turned.action, action=MakeEdits(edits=now.turned.edits, summary=now.turned.action)),
                    SKIP,
                ),
            ),
            False,
        )
    if len(now.takes) > 1:
        said = f"predicted ±{now.whole_db:.1f} dB about the target" if now.whole_db is not None else "not fitted yet"
        yield (
            Step(
                key="common",
                stage="voice",
                name="Fit all channels together",
                why=f"the whole is {said}",
                does="finds bands common to all channels, so that the image stays"
                + (f"; in the mean of {now.places} places" if now.places > 1 else ""),
                choices=(
                    Choice(name="Fit all", action=FitTo(places=now.places > 1)),
                    SKIP,
                ),
            ),
            bool(now.tune.common)
            or now.room <= 0
            or (any_voiced and now.whole_db is not None and now.whole_db <= GOOD_DB),
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
                    action=MakeEdits(edits=brought_down(now.tune, now.over_db), summary="Gains brought down"),
                ),
                SKIP,
            ),
        ),
        now.over_db <= LEVEL_DB,
    )


SIDES_DB, SIDES_WORTH_DB = 1.2, 0.3
"""Sides that differ by no more, rms from 200 Hz to 8 kHz, are alike, and what gains less is not worth it."""
SIDE_ROUNDS = 2
"""So often each side is recorded: before they are matched, and after."""


def _sides(now: Situation) -> Steps:
    """Both sides recorded, each for itself, and brought together."""
    both = now.sides
    if both is None:
        return
    for side, channels in both.channels.items():
        yield (
            Step(
                key=f"side:{side}",
                stage="proof",
                name=f"Record the {side} side",
                why="how far left and right are apart is known of single drivers only",
                does=f"plays all of the {side} side and nothing else; move the microphone round both ears",
                choices=(
                    Choice(
                        name=f"Record the {side} side",
                        action=Record(channels=channels, purpose="proof", method="moving"),
                    ),
                    SKIP,
                ),
                optional=True,
            ),
            side in both.recorded or both.rounds.get(side, 0) >= SIDE_ROUNDS,
        )
    if both.apart_db is not None and both.after_db is not None:
        yield (
            Step(
                key="sides",
                stage="voice",
                name="Match both sides",
                why=f"left and right measure {both.apart_db:.1f} dB rms apart from 200 Hz to 8 kHz: sounds wander with "
                "their pitch",
                does=f"sets bands of opposite gains, half on each side, so that their sum stays: {both.after_db:.1f} "
                "dB are expected; narrow dips are left alone",
                choices=(Choice(name="Match them", action=MatchSides()), SKIP),
            ),
            both.apart_db <= SIDES_DB or both.apart_db - both.after_db < SIDES_WORTH_DB,
        )


def proof(now: Situation) -> Steps:
    """The tune sent and recorded, and what that asks for."""
    send = Step(
        key="send",
        stage="proof",
        name="Send the tune",
        why=f"the processor does not do {now.unsent} of its settings yet",
        does="writes them, reads them back and compares",
        choices=(Choice(name="Send", action=Send()), SKIP),
    )
    by_hand = {
        "stage": "handover",
        "name": "Type the changes in",
        "does": "shows them large, in the order of the device's screens; tick each off as you type it",
        "choices": (Choice(name="Show the list"), SKIP),
    }
    yield send.model_copy(update=by_hand) if now.by_hand else send, now.unsent == 0
    moving = any(one.moving for one in now.takes.values())
    yield from _sides(now)
    everyone = tuple(one.id for one in now.layout.drivers)
    record = Record(channels=everyone, purpose="proof", method="moving" if moving else "sweep")
    yield (
        Step(
            key="proof",
            stage="proof",
            name="Record the whole",
            why="the whole was not recorded yet" if now.proof is None else "the last proof is of another tune",
            does="plays all channels together and compares with prediction and target"
            + ("; move the microphone round both ears" if moving else ""),
            choices=(Choice(name="Record the whole", action=record), SKIP),
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
                    Choice(name="Record again", action=record),
                    Choice(name="Keep it as it is", skips=True),
                ),
            ),
            now.proof.apart_db <= APART_DB or now.proof.repeated,
        )
        better = now.proof.better_db
        if better is not None:
            yield (
                Step(
                    key="measured",
                    stage="voice",
                    name="Fit what was measured",
                    why=f"the whole measures ±{now.proof.plus_minus_db:.1f} dB about the target",
                    does=f"fits the bands common to all channels to that recording: ±{better:.1f} dB are expected; "
                    "then it is sent and recorded once more",
                    choices=(Choice(name="Fit what was measured", action=FitTo(measured=True)), SKIP),
                ),
                now.proof.plus_minus_db <= FINE_DB or now.proof.plus_minus_db - better < WORTH_DB,
            )


def image(now: Situation) -> Steps:
    """What a person hears between the sides, and what mends it."""
    if now.image is None:
        return
    heard = now.image
    if heard.mends is not None:
        yield (
            Step(
                key="image-mends",
                stage="proof",
                part="image",
                name=heard.mends.action,
                why=heard.mends.says,
                does="sets it half on each side; then it is sent, and those bands are heard again",
                choices=(
                    Choice(name="Take it", action=MakeEdits(edits=heard.mends.edits, summary=heard.mends.action)),
                    SKIP,
                ),
                optional=True,
            ),
            False,
        )
    left = heard.bands - heard.heard
    yield (
        Step(
            key="image",
            stage="proof",
            part="image",
            name="Hear where sounds stand",
            why=f"{heard.again} bands sound otherwise since the tune was changed"
            if heard.again
            else "no microphone tells where a sound stands between the loudspeakers",
            does=f"{left} bands of noise from both sides: press where each stands; off the centre is level, in two is "
            "phase",
            choices=(Choice(name="Listen", action=Listen(hz=heard.next_hz)), SKIP),
            optional=True,
        ),
        left <= 0,
    )


def handover(now: Situation) -> Steps:
    """The tune kept in the processor."""
    instead = f", in the place of {now.free_holds}" if now.free_holds else ""
    yield (
        Step(
            key="store",
            stage="handover",
            name="Store the tune in a slot",
            why="what the processor runs is gone with its power",
            does=f"keeps it in slot {now.free}{instead}",
            choices=(Choice(name=f"Store in slot {now.free}", action=Store(slot=now.free)), SKIP),
        ),
        now.stored is not None,
    )
