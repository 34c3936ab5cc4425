"""What the customer may turn, within which range, and the tune at its end: the headroom that has to be kept for it."""

from pydantic import Field

from imbrix.core.system.layout import RANK, Group, Layout
from imbrix.core.tune.tune import Band, Tune
from imbrix.core.value import Value

LIFT_Q = 0.707


class Controls(Value):
    """What may be turned. Nought takes a control away.

    `volume_db` is how far the volume may be brought down, `bass_db` how far the bass may be turned up and down,
    `lift_db` how far everything below `lift_hz` may be lifted, `slots` whether slots may be loaded. 6 dB of bass are
    common practice, no source.
    """

    volume_db: float = Field(default=60.0, ge=0, le=80, allow_inf_nan=False)
    bass_db: float = Field(default=6.0, ge=0, le=12, allow_inf_nan=False)
    lift_db: float = Field(default=0.0, ge=0, le=12, allow_inf_nan=False)
    lift_hz: float = Field(default=60.0, ge=20, le=200, allow_inf_nan=False)
    slots: bool = True


class Turned(Value):
    """How the controls stand, in dB: the volume at most at 0, the lift at least."""

    volume_db: float = Field(default=0.0, ge=-80, le=0, allow_inf_nan=False)
    bass_db: float = Field(default=0.0, ge=-12, le=12, allow_inf_nan=False)
    lift_db: float = Field(default=0.0, ge=0, le=12, allow_inf_nan=False)


class Remote(Value):
    """The same as a processor does it: which outputs (from 1) the bass control moves, and where the lift bends."""

    turned: Turned = Turned()
    bass_outputs: tuple[int, ...] = ()
    lift_hz: float = 60.0

    @property
    def lift(self) -> Band | None:
        """The lift as a band, None where it is not turned."""
        if not self.turned.lift_db:
            return None
        return Band(kind="low_shelf", frequency_hz=self.lift_hz, gain_db=self.turned.lift_db, q=LIFT_Q)

    def gain_db(self, output: int) -> float:
        """By how much an output is turned up."""
        return self.turned.volume_db + (self.turned.bass_db if output in self.bass_outputs else 0.0)


def bass_of(layout: Layout) -> tuple[str, ...]:
    """The drivers that the bass control moves: the subs, else the lowest way of the main group."""
    subs = tuple(one.id for one in layout.drivers if one.group == Group.SUB)
    if subs:
        return subs
    main = [one for one in layout.drivers if one.group == layout.main]
    lowest = min((RANK[one.kind] for one in main), default=0)
    return tuple(one.id for one in main if RANK[one.kind] == lowest)


def within(wanted: Turned, allowed: Controls) -> Turned:
    """The nearest that is allowed."""
    return Turned(
        volume_db=max(wanted.volume_db, -allowed.volume_db),
        bass_db=min(max(wanted.bass_db, -allowed.bass_db), allowed.bass_db),
        lift_db=min(wanted.lift_db, allowed.lift_db),
    )


def turned_up(tune: Tune, layout: Layout, allowed: Controls) -> Tune:
    """The tune with everything turned up as far as it goes."""
    for name in bass_of(layout):
        if name in tune.channels:
            tune = tune.with_channel(name, gain_db=tune.channels[name].gain_db + allowed.bass_db)
    if allowed.lift_db:
        lift = Remote(turned=Turned(lift_db=allowed.lift_db), lift_hz=allowed.lift_hz).lift
        assert lift is not None
        tune = tune.model_copy(update={"common": (*tune.common, lift)})
    return tune
