"""The state of a project in one piece: what the frame, the band strip and the panels show beside the curves."""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from imbrix.core.align.corners import Corners
from imbrix.core.align.distances import delays
from imbrix.core.align.latency import Budget, over
from imbrix.core.errors import NotHereError
from imbrix.core.measure.ground import Nearest, nearest
from imbrix.core.predict.findings import Finding
from imbrix.core.predict.seam import loss
from imbrix.core.signal.measures import deviation
from imbrix.core.signal.signal import power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Driver, Layout, Seam
from imbrix.core.system.remarks import Remark, remarks
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.tune import Tune, guard
from imbrix.standins.places import shipped
from imbrix.store.models import ProjectRow
from imbrix.work.ground import places, processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.moments import Moment
from imbrix.work.ground.workspace import Workspace, project_row
from imbrix.work.impedance import impedance
from imbrix.work.predict.corners import corners_of
from imbrix.work.predict.distances import apart, tape
from imbrix.work.predict.findings import findings, of_impedances
from imbrix.work.predict.fitting import share
from imbrix.work.predict.known import Scene
from imbrix.work.predict.latency import budget, chain
from imbrix.work.predict.offers import two_sides
from imbrix.work.predict.scene import scene
from imbrix.work.predict.spots import spots_of
from imbrix.work.rig import readiness, rig
from imbrix.work.rig.choices import Position
from imbrix.work.rig.readiness import Part
from imbrix.work.state.link import LinkState, link_state
from imbrix.work.state.revisions import HeadState, head_state
from imbrix.work.state.rig import RigState, rig_state
from imbrix.work.state.takes import TakeState, take_states
from imbrix.work.takes import rounds
from imbrix.work.takes.bands import driver_band_of
from imbrix.work.takes.forces import chosen
from imbrix.work.takes.proofs import of_the_whole
from imbrix.work.takes.reading import arrival, onset_of, reading
from imbrix.work.takes.rounds import Round
from imbrix.work.takes.shelf import Method, Take, takes
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed, targets
from imbrix.work.views import references
from imbrix.work.views.request import Stage

NAMES: Drawer[str, str] = Drawer("names of projects", 64)
LOSSES: Drawer[tuple[object, ...], float | None] = Drawer("losses", 512)
PROOF: Drawer[tuple[object, ...], str] = Drawer("words of proof", 64)


class DriverState(BaseModel):
    """What the takes in force show of a driver, and the `places` of the microphone at which it was recorded."""

    take_id: int
    low_hz: float
    high_hz: float
    over_noise_db: float
    arrival_ms: float
    arrival_off_ms: float | None
    low_octaves: float | None
    high_octaves: float | None
    timed: bool
    clock: str
    made: Moment
    method: Method
    moving_id: int | None
    places: tuple[str, ...]


class ReferenceState(BaseModel):
    """A reference line without its points."""

    id: int
    name: str
    shown: bool
    shift_db: float


class AboutState(BaseModel):
    """What is known of a driver, and which of its impedance takes count."""

    take_id: int | None
    loaded_id: int | None
    re_ohm: float | None
    area_cm2: float | None
    least_ohm: float


class TargetName(BaseModel):
    """A target curve by its key."""

    key: str
    name: str


class LatencyState(BaseModel):
    """What the slowest channel takes, in milliseconds, and which channels take more than the budget."""

    budget: Budget
    channel: str
    total_ms: float
    processor_ms: float
    delay_ms: float
    filters_ms: float
    over: list[str]


class DistanceState(BaseModel):
    """A driver's distance by tape: the delay that follows from all of them, and by how much later than it says the
    driver's sound was measured, with what that may come from."""

    channel: str
    metres: float | None
    delay_ms: float | None
    apart_ms: float | None
    says: str


class DistancesState(BaseModel):
    """All distances, and the temperature that they were reckoned at."""

    celsius: float
    rows: list[DistanceState]


class PlaceState(places.PlaceChoice):
    """Where the project stands, with the microphone's positions there and how near it goes to a loudspeaker."""

    spots: tuple[Position, ...]
    nearest: Nearest | None


class ProjectState(BaseModel):
    """Everything about a project that is not a curve. `version` grows with every change that a window could show."""

    slug: str
    name: str
    version: int
    layout: Layout
    seams: list[Seam]
    work_order: list[str]
    corners: dict[str, Corners]
    offset_db: float
    revision: HeadState
    tune: Tune
    guarded: list[str]
    drivers: dict[str, DriverState]
    takes: list[TakeState]
    without_moving: list[str]
    fit_bands: int
    """How many bands a fit sets where nobody says."""
    rig: RigState
    place: PlaceState
    round: Round
    in_a_row: tuple[str, ...]
    distances: DistancesState
    latency: LatencyState
    references: list[ReferenceState]
    remarks: list[Remark]
    notice: str
    findings: list[Finding]
    impedance: dict[str, AboutState]
    targets: list[TargetName]
    link: LinkState
    stages: dict[Stage, str]


def project_state(space: Workspace, slug: str) -> ProjectState:
    """Everything about a project that is not a curve. Raises NotHereError, for one that is still being made too."""
    if slug in space.making:
        raise NotHereError(f"the project {slug!r} is still being made")
    round_ = rounds.current(space, slug)
    version = space.version
    layout = space.layout(slug)
    now = head(space, slug)
    all_takes = takes(space, slug)
    at = scene(space, slug)
    line = readiness.ready_line(space, slug)
    link = link_state(space, slug)
    spots = spots_of(space, at)
    known = {name: _driver(space, slug, one, at, tuple(spots[name])) for name, one in at.takes.items()}
    found = [*findings(space, slug, at, now.tune, line), *of_impedances(space, slug, layout, all_takes)]
    return ProjectState(
        slug=slug,
        name=_name(space, slug),
        version=version,
        layout=layout,
        seams=list(layout.seams()),
        work_order=list(work_order(layout)),
        corners=corners_of(space, slug, at),
        offset_db=space.offset_db,
        revision=head_state(now),
        tune=now.tune.brief,
        guarded=[one.id for one in layout.drivers if _guarded(one, now.tune)],
        drivers=known,
        takes=take_states(space, slug),
        fit_bands=share(processors.model(space, slug)),
        without_moving=sorted(name for name, mine in chosen(space, slug).items() if mine.get("moving") == 0),
        rig=rig_state(space, line, places.place(space, slug)),
        place=_place(space, slug),
        round=round_,
        in_a_row=rounds.waiting(round_),
        distances=_distances(space, slug, at),
        latency=_latency(space, slug, now.tune),
        references=[
            ReferenceState(id=one.id, name=one.name, shown=one.shown, shift_db=one.shift_db)
            for one in references.references(space, slug)
        ],
        remarks=remarks(layout, link.limits.outputs),
        notice=space.notice,
        findings=found,
        impedance=_impedance(space, slug, all_takes),
        targets=[TargetName(key=key, name=curve.name) for key, curve in targets(space, slug).items()],
        link=link,
        stages=_stages(space, slug, at, now.tune, all_takes, len(link.unsent), line),
    )


def _latency(space: Workspace, slug: str, tune: Tune) -> LatencyState:
    chosen = budget(space, slug)
    found = chain(space, slug, tune)
    longest = found[0]
    return LatencyState(
        budget=chosen,
        channel=longest.channel,
        total_ms=longest.total_s * 1e3,
        processor_ms=longest.processor_s * 1e3,
        delay_ms=longest.delay_s * 1e3,
        filters_ms=longest.filters_s * 1e3,
        over=[one.channel for one in over(found, chosen)],
    )


def _distances(space: Workspace, slug: str, at: Scene) -> DistancesState:
    kept = tape(space, slug)
    late, strays = delays(kept.metres, kept.celsius), apart(space, slug, at)
    rows = [
        DistanceState(
            channel=one.id,
            metres=kept.metres.get(one.id),
            delay_ms=late[one.id] * 1e3 if one.id in late else None,
            apart_ms=strays[one.id].seconds * 1e3 if one.id in strays else None,
            says=strays[one.id].says if one.id in strays else "",
        )
        for one in at.layout.drivers
    ]
    return DistancesState(celsius=kept.celsius, rows=rows)


def _name(space: Workspace, slug: str) -> str:
    def read() -> str:
        with space.session() as session:
            return project_row(session, slug).name

    return space.recall(NAMES, slug, (ProjectRow,), read)


def _place(space: Workspace, slug: str) -> PlaceState:
    key = places.standing(space, slug).key
    one = shipped.SHIPPED.get(key)
    height = rig.rig(space).height_m or (one.height_m if one else None)
    on_stands = key == places.NOWHERE or (one is not None and one.height_m is not None)
    return PlaceState(
        **places.told(key).model_dump(),
        spots=rig.spots(space, slug),
        nearest=nearest(height) if height and on_stands else None,
    )


def _guarded(driver: Driver, tune: Tune) -> bool:
    return driver.fragile and tune.channels[driver.id].high_pass == guard(driver)


def _impedance(space: Workspace, slug: str, all_takes: list[Take]) -> dict[str, AboutState]:
    """By driver: the impedance take that counts, and what is known of the driver."""
    known = impedance.here(space, slug, all_takes)
    none = impedance.Here(None, None)
    return {
        name: AboutState(
            take_id=one.free.id if one.free else None,
            loaded_id=one.loaded.id if one.loaded else None,
            re_ohm=what.re_ohm,
            area_cm2=what.area_cm2,
            least_ohm=what.least_ohm,
        )
        for name, what, one in (
            (name, what, known.get(name, none)) for name, what in impedance.about(space, slug).items()
        )
    }


def _driver(space: Workspace, slug: str, one: Take, at: Scene, places: tuple[str, ...]) -> DriverState:
    shows = reading(space, one)
    ends, comes = driver_band_of(space, slug, one, at.forces), onset_of(space, slug, one)
    low, high = ends.low_hz, ends.high_hz
    inside = (space.grid >= low) & (space.grid <= high)
    moving = at.forces[one.channels[0]].moving
    return DriverState(
        take_id=one.id,
        low_hz=low,
        high_hz=high,
        over_noise_db=float(np.median(shows.over_noise_db[inside])),
        arrival_ms=arrival(space, slug, one) * 1e3,
        arrival_off_ms=comes.off_s * 1e3 if comes is not None and comes.sure else None,
        low_octaves=_known(ends.low_octaves),
        high_octaves=_known(ends.high_octaves),
        timed=one.timed,
        clock=one.clock,
        made=one.created,
        method=one.method,
        moving_id=moving.id if moving else None,
        places=places,
    )


def _known(octaves: float) -> float | None:
    return round(octaves, 2) if np.isfinite(octaves) else None


def _stages(
    space: Workspace,
    slug: str,
    at: Scene,
    tune: Tune,
    all_takes: Sequence[Take],
    differs: int,
    line: Sequence[Part],
) -> dict[Stage, str]:
    """A word of state for each stage."""
    losses = [lost for seam in at.layout.seams() if (lost := _lost(space, at, seam, tune)) is not None]
    corrected = sum(bool(channel.bands) for channel in tune.channels.values())
    total = len(at.layout.drivers)
    wrong = [one.name for one in line if one.state == "stale"]
    good = sum(one.state == "set" for one in line)
    return {
        "rig": f"{wrong[0].lower()} stale" if wrong else f"{good} of {len(line)} set",
        "source": _source_word(all_takes, tune),
        "drivers": f"{len(at.ids)} of {total}",
        "seams": f"{max(losses):.1f} dB lost" if losses else "—",
        "voice": f"{corrected} of {total} set" if corrected else "—",
        "proof": _proof_word(space, slug, tune),
        "handover": f"{differs} unsent" if differs else "all sent",
    }


def _source_word(all_takes: Sequence[Take], tune: Tune) -> str:
    feeds = {n for one in all_takes if one.purpose == "feed" and not one.discarded for n in one.details.feeds}
    straight = sum(one.straightens for one in tune.inputs)
    if not feeds:
        return "—"
    return f"{straight} of {len(feeds)} straight" if straight else f"{len(feeds)} feed{'s' if len(feeds) > 1 else ''}"


def _lost(space: Workspace, at: Scene, seam: Seam, tune: Tune) -> float | None:
    """The mean loss at a seam of two ways, remembered for what makes it up."""
    if not seam.ways:
        return None
    members = (*seam.lowers, *seam.uppers)
    if not set(members) <= set(at.ids):
        return None

    def find() -> float | None:
        sides = two_sides(space, at, seam, tune)
        found = loss(*sides, space.grid) if sides else None
        return found.mean if found else None

    takes_here = tuple((at.takes[name].id, at.takes[name].details.correction) for name in members)
    set_here = tuple((tune.channels[name], tune.routing.get(name)) for name in members)
    key = (seam.id, takes_here, set_here, tune.common, tune.inputs)
    return space.memory.of(LOSSES, key, find)


def _proof_word(space: Workspace, slug: str, tune: Tune) -> str:
    """How the newest recording of the whole lies about the target: that of a part says nothing of it."""
    one = next(of_the_whole(space, slug), None)
    if one is None:
        return "—"

    def find() -> str:
        known = np.nan_to_num(reading(space, one).response)
        values = power_decibels(smooth_power(known, space.grid, 6)) + space.offset_db
        found = deviation(values, placed(space, slug, tune), space.grid, 40, 16_000)
        return f"±{found.plus_minus:.1f} dB" if found else "—"

    return space.memory.of(PROOF, (one.id, one.details.correction, tune.target), find)
