"""The plan of a project: what is done, what comes next and what was left out."""

from itertools import islice

from imbrix.core.errors import ConflictError, ImbrixError, NotHereError
from imbrix.core.plan.plan import plan
from imbrix.core.plan.situation import (
    BothSides,
    Image,
    InForce,
    Proof,
    Refused,
    Remedy,
    RigPart,
    Situation,
    Source,
    Spot,
)
from imbrix.core.plan.step import Step
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.headroom import peaks
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.measures import deviation
from imbrix.core.signal.signal import power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import SIDES, Layout
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.changes import changes, differ_in_common
from imbrix.core.tune.edits import Edit
from imbrix.core.tune.tune import Tune, guard, measuring
from imbrix.standins.places.shipped import SHIPPED
from imbrix.work.ground import documents, places, processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.image.bands import images
from imbrix.work.image.mending import mendings
from imbrix.work.predict.alignment import filled
from imbrix.work.predict.findings import findings
from imbrix.work.predict.fitting import measured_common
from imbrix.work.predict.known import Scene
from imbrix.work.predict.matching import matched, room, sides
from imbrix.work.predict.parting import parting
from imbrix.work.predict.placing import placing
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.predict.spots import common_places
from imbrix.work.predict.turning import turned
from imbrix.work.processor.controls import at_most
from imbrix.work.processor.link import unsent
from imbrix.work.processor.slots import locked
from imbrix.work.processor.typed import rows
from imbrix.work.rig import choices, corrections, readiness, rig
from imbrix.work.sound.recorder import Progress
from imbrix.work.source import undo
from imbrix.work.source.feeds import feeds
from imbrix.work.state.source import source_state
from imbrix.work.takes import rounds
from imbrix.work.takes.forces import counts_at, leading_place
from imbrix.work.takes.proofs import of_the_whole
from imbrix.work.takes.reading import reading
from imbrix.work.takes.shelf import Take, takes, through
from imbrix.work.takes.verdicts import troubles_of
from imbrix.work.tune.revisions import draft, head
from imbrix.work.tune.targets import placed

SOUNDING = ("take", "moving")
"""Jobs whose refusal tells of the rig: what a check of the interface finds asks for a loop first."""
BETTER: Drawer[tuple[object, ...], float | None] = Drawer("fits of what was measured", 16)
MATCHED: Drawer[tuple[object, ...], tuple[float | None, float | None]] = Drawer("what matches both sides", 16)
LOOKED_BACK = 8
"""So many of the newest recordings of the whole are looked at."""
MOST_ROUNDS = 2
"""So often the common correction is fitted to what was measured, at most."""
MOST_SPOTS = 2
"""So many more spots of a head are recorded: over drawn places the first takes a fifth off what sums below 2 kHz lose
over a head that moves, the second a seventh."""
SPAN_HZ = (40.0, 16_000.0)
STRAIGHT: Drawer[tuple[object, ...], tuple[Edit, ...]] = Drawer("what straightens", 16)


def steps_of(space: Workspace, slug: str, progress: Progress) -> tuple[Step, ...]:
    """The plan of a project; `progress` is that of the recorder. Raises NotHereError."""
    return plan(situation(space, slug, progress))


def leave_out(space: Workspace, slug: str, key: str, skipped: bool, progress: Progress) -> None:
    """Leave a step out for now, or take it in again. Raises NotHereError where the plan has none of this key."""
    if key not in {one.key for one in steps_of(space, slug, progress)}:
        raise NotHereError(f"the plan has no step {key!r}")

    def change(now: documents.Document) -> documents.Document:
        kept = [one for one in now.get("skipped", []) if one != key]
        return {"skipped": [*kept, key] if skipped else kept}

    documents.change(space, _key(slug), change)


def _key(slug: str) -> str:
    return f"plan:{slug}"


def situation(space: Workspace, slug: str, progress: Progress) -> Situation:
    """All that the plan of a project depends on."""
    layout = space.layout(slug)
    tune = head(space, slug).tune
    all_takes = takes(space, slug)
    at = scene(space, slug, spatial=True)
    line = readiness.ready_line(space, slug)
    chosen = rig.rig(space)
    round_ = rounds.current(space, slug)
    troubles = troubles_of(space, slug, all_takes)
    processor = processors.processor(space, slug)
    shipped = SHIPPED.get(places.standing(space, slug).key)
    differs = len(unsent(space, slug))
    over_db, over_says = _over(layout, tune, at_most(space, slug, tune), space.predictor_at(at.rate))
    beside, beside_says = _beside(space, slug, tune)
    slots = processor.slot_names()
    by_hand = rows(space, slug) is not None
    switches = not by_hand and chosen.device != choices.FILE
    moves = chosen.device != choices.FILE and not (shipped and shipped.fixed)
    refused = progress.stage == "refused" and progress.project == slug and progress.kind in SOUNDING
    kept = locked(space, slug)
    unlocked = [n for n in range(1, processor.limits.slots + 1) if n not in kept]
    free = next((n for n in unlocked if n not in slots), max(unlocked, default=processor.limits.slots))
    return Situation(
        layout=layout,
        tune=tune,
        order=work_order(layout),
        rig=tuple(RigPart(one.key, one.name, one.state, one.says) for one in line),
        corrections={one.id: one.name for one in corrections.corrections(space) if one.pointing == chosen.pointing},
        pointing=chosen.pointing,
        harmless=rounds.fresh(layout).turns[0].channel,
        source=_source(space, slug, tune),
        takes={
            name: InForce(
                force.take.id,
                troubles.get(force.take.id, ()),
                force.moving is not None,
                frozenset(
                    each.kind
                    for one in all_takes
                    if one.purpose == "driver" and one.channels == (name,) and one.id < force.take.id
                    for each in troubles.get(one.id, ())
                ),
            )
            for name, force in at.forces.items()
        },
        queue=tuple(turn.channel for turn in round_.turns),
        switches=switches,
        by_source=chosen.plays == "source",
        moves=moves,
        asks=chosen.device == choices.BROWSER,
        spots=_spots(space, slug, all_takes) if switches and moves else (),
        places=0 if any(one.moving for one in at.forces.values()) else common_places(space, at),
        remedies=tuple(
            Remedy(one.about, one.says, one.evidence, one.action, one.remedy)
            for one in findings(space, slug, at, tune, line)
            if one.kind == "reversed" and one.action and one.remedy
        ),
        crossed=_crossed(layout, tune),
        timed=any(one.delay_s for one in tune.channels.values()),
        turned=_turned(space, slug),
        beside=beside,
        beside_says=beside_says,
        placing=placing(space, slug, at, tune),
        whole_db=_whole_db(space, slug, at, tune),
        over_db=over_db,
        over_says=over_says,
        unsent=differs,
        by_hand=by_hand,
        proof=_proof(space, slug, tune),
        image=_image(space, slug, layout, chosen.device),
        sides=_sides(space, slug, tune) if any(one.moving for one in at.forces.values()) else None,
        stored=processor.stored_in() if not differs else None,
        free=free,
        free_holds=slots.get(free, ""),
        room=processor.limits.bands - max(len(one.bands) for one in tune.channels.values()),
        refused=Refused(progress.cause, progress.message) if refused and progress.cause else None,
        skipped=frozenset((documents.read(space, _key(slug)) or {}).get("skipped", [])),
    )


def _spots(space: Workspace, slug: str, known: list[Take]) -> tuple[Spot, ...]:
    """The rig's next positions within a head's reach of the one that leads, and what was not recorded there in time;
    none where nothing leads, or what does keeps no time."""
    lead = leading_place(space, slug, known)
    timed: dict[str, set[str]] = {}
    for one in known:
        place = counts_at(one)
        if place is not None and one.timed:
            timed.setdefault(place, set()).add(one.channels[0])
    if lead not in timed:
        return ()
    near = rig.near(space, slug, lead)
    ids = [one.id for one in space.layout(slug).drivers]
    return tuple(
        Spot(one.name, tuple(name for name in ids if name not in timed.get(one.name, ()))) for one in near[:MOST_SPOTS]
    )


def _image(space: Workspace, slug: str, layout: Layout, device: str) -> Image | None:
    """What was heard of the image; None where there are no two sides, or nothing can be played from here."""
    if device == choices.FILE or not {one.side for one in layout.drivers if one.group == layout.main} >= set(SIDES):
        return None
    octaves = [one for one in images(space, slug) if one.octaves == 1.0]
    heard = sum(one.means is not None for one in octaves)
    again = sum(one.means is None and one.was is not None for one in octaves)
    mends = next((one for one in mendings(space, slug) if not one.lacks), None) if heard else None
    remedy = Remedy("", mends.says.partition(". ")[0], "", mends.title, mends.edits) if mends else None
    left = next((one.hz for one in octaves if one.means is None), octaves[0].hz)
    return Image(len(octaves), heard, again, left, remedy)


def _sides(space: Workspace, slug: str, tune: Tune) -> BothSides | None:
    """What is known of both sides; None where there is but one, or no band is left for them."""
    known = sides(space, slug, tune)
    if known is None:
        return None
    before, after = None, None
    if known.both:
        found = space.memory.of(
            MATCHED,
            (slug, *((one.id, one.details.correction) for one in known.takes.values()), tune.model_dump_json()),
            lambda: _matched(space, slug),
        )
        before, after = found
    elif room(processors.model(space, slug).bands, tune, known) <= 0:
        return None
    return BothSides(known.channels, frozenset(known.takes), known.rounds, before, after)


def _matched(space: Workspace, slug: str) -> tuple[float | None, float | None]:
    try:
        found = matched(space, slug)
    except ImbrixError:
        return None, None
    return found.before_db, found.after_db


def _turned(space: Workspace, slug: str) -> Remedy | None:
    found = turned(space, slug)
    return Remedy("", found.says, found.evidence, found.action, found.edits) if found else None


def _beside(space: Workspace, slug: str, tune: Tune) -> tuple[tuple[Edit, ...], str]:
    """What sets rear and centre by the front, nothing where they are set so, and that in words."""
    try:
        found = filled(space, slug)
    except ConflictError:
        return (), ""
    if draft(space, slug, tune, found.edits) == tune:
        return (), ""
    says = (one.replace(" comes ", " ", 1) for one in found.says)
    return found.edits, "; ".join(one[0].lower() + one[1:] for one in says)


def _over(layout: Layout, tune: Tune, most: Tune, predictor: Predictor) -> tuple[float, str]:
    """By how much outputs go over full scale, what the customer may turn up included, or a gain over nought, in dB; and
    which does most."""
    found = []
    for driver in layout.drivers:
        gain, worst = tune.channels[driver.id].gain_db, peaks(most, driver.id, predictor).worst_db
        found.append((gain, f"the gain of {driver.name} is {gain:+.1f} dB"))
        turned = "" if most == tune else " with the customer's controls turned up"
        found.append((worst, f"{driver.name} peaks {worst:+.1f} dB over full scale{turned}"))
    return max(found)


def _crossed(layout: Layout, tune: Tune) -> bool:
    """Whether every two ways that meet are crossed over, by more than a guard."""
    for seam in layout.seams():
        if seam.ways is None:
            continue
        for name in seam.uppers:
            one = tune.channels[name].high_pass
            if one is None or one == guard(layout.driver(name)):
                return False
        if any(tune.channels[name].low_pass is None for name in seam.lowers):
            return False
    return True


def _source(space: Workspace, slug: str, tune: Tune) -> Source:
    known = source_state(space, slug)
    recorded = frozenset(one.number for one in known.inputs if one.feed is not None)
    heard = undo.heard(space, slug) | recorded | {1, 2}
    straightened = {one.number for one in known.inputs if one.straightens}
    edits: tuple[Edit, ...] = ()
    if recorded and known.input_bands and not recorded <= straightened:
        there = tuple((n, one.take.id, one.meant) for n, one in feeds(space, slug).items())
        key = (slug, there, head(space, slug).id, processors.key_of(space, slug))

        def find() -> tuple[Edit, ...]:
            wanted = undo.straightened(space, slug)
            return () if draft(space, slug, tune, wanted) == tune else tuple(wanted)

        edits = space.memory.of(STRAIGHT, key, find)
    return Source(
        names={one.number: one.name for one in known.inputs if one.number in heard},
        recorded=recorded,
        exchanged=known.exchanged,
        straightens=edits,
        reads=known.reads,
        far_db=max((one.feed.off_db for one in known.inputs if one.feed is not None), default=0.0),
    )


def _whole_db(space: Workspace, slug: str, at: Scene, tune: Tune) -> float | None:
    """The plus/minus of the predicted whole about the target, as a place hears it."""
    if not at.ids:
        return None
    power = whole_power(at, space.grid, predicted(space, at, tune), tune, 6.0)
    if not power.any():
        return None
    found = deviation(power_decibels(power) + space.offset_db, placed(space, slug, tune), space.grid, *SPAN_HZ)
    return found.plus_minus if found else None


def _proof(space: Workspace, slug: str, tune: Tune) -> Proof | None:
    """The newest recording of all channels together."""
    layout = space.layout(slug)
    newest = list(islice(of_the_whole(space, slug), LOOKED_BACK))
    if not newest:
        return None
    one, *older = newest
    wanted = processors.playable(space, slug, measuring(tune, layout, set(tune.channels)))

    def went(each: Take) -> Tune:
        """What a take went through; inputs do nothing to what is played here."""
        return through(space, each).model_copy(update={"inputs": wanted.inputs})

    current = not changes(went(one), wanted, layout)
    before = [each for each in older if each.method == one.method]
    shown = reading(space, one).response
    levels = power_decibels(smooth_power(shown, space.grid, 6.0)) + space.offset_db
    strays = deviation(levels, placed(space, slug, tune), space.grid, *SPAN_HZ)
    apart = parting(space, slug, one)
    # Fitted to what was measured twice already: a third time gains nothing.
    fitted = sum(differ_in_common(went(each), wanted) for each in before) >= MOST_ROUNDS
    return Proof(
        current=current,
        plus_minus_db=strays.plus_minus if strays else 0.0,
        apart_db=apart.rms_db if apart else 0.0,
        apart_says=apart.says if apart else "",
        repeated=any(not changes(went(each), wanted, layout) for each in before),
        better_db=_better(space, slug, one, tune) if current and one.levels_only and not fitted else None,
    )


def _better(space: Workspace, slug: str, one: Take, tune: Tune) -> float | None:
    """What a fit to a recording of the whole would leave of plus/minus about the target."""

    def find() -> float | None:
        try:
            found = measured_common(space, slug, FitLimits())
        except ImbrixError:
            return None
        strays = deviation(found.after_db, placed(space, slug, tune), space.grid, *SPAN_HZ)
        return strays.plus_minus if strays else None

    return space.memory.of(BETTER, (slug, one.id, one.details.correction, tune.model_dump_json()), find)
