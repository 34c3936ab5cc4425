"""What differs between two tunes, in words a tuner reads."""

from imbrix.core.system.layout import Layout
from imbrix.core.tune.routing import input_of, sources, words
from imbrix.core.tune.tune import Band, Channel, Crossover, Input, Tune
from imbrix.core.value import Value

_SHAPE = {"butterworth": "Butterworth", "linkwitz-riley": "Linkwitz–Riley", "bessel": "Bessel"}


ROUTED = 2
"""Inputs from which on a default routing no longer differs."""


class Change(Value):
    """One difference: where, what, from and to."""

    channel: str
    what: str
    before: str
    after: str


def crossover_words(end: Crossover | None) -> str:
    """`Linkwitz–Riley 24 dB at 3100 Hz`, or `off`."""
    if end is None:
        return "off"
    return f"{_SHAPE[end.shape]} {end.slope_db} dB at {end.corner_hz:g} Hz"


def _channel_rows(channel: Channel, audible: bool) -> dict[str, str]:
    return {
        "gain": f"{channel.gain_db:+.1f} dB",
        "polarity": "inverted" if channel.inverted else "normal",
        "delay": f"{channel.delay_s * 1e3:.3f} ms",
        "sound": "plays" if audible else "muted",
        "high-pass": crossover_words(channel.high_pass),
        "low-pass": crossover_words(channel.low_pass),
    }


def band_words(band: Band) -> str:
    """`peaking 1000 Hz, +3.0 dB, Q 2.00`."""
    kind = "first-order all-pass" if band.kind == "all_pass_1" else band.kind.replace("_", " ")
    gain = f", {band.gain_db:+.1f} dB" if band.has_gain else ""
    q = "" if band.kind == "all_pass_1" else f", Q {band.q:.2f}"
    return f"{kind} {band.frequency_hz:.0f} Hz{gain}{q}{', off' if band.off else ''}"


def _band_rows(before: tuple[Band, ...], after: tuple[Band, ...], name: str) -> list[Change]:
    found = []
    for n in range(max(len(before), len(after))):
        old = band_words(before[n]) if n < len(before) else "none"
        new = band_words(after[n]) if n < len(after) else "none"
        if old != new:
            found.append(Change(channel=name, what=f"band {n + 1}", before=old, after=new))
    return found


def changes(before: Tune, after: Tune, layout: Layout) -> list[Change]:
    """Every setting of the processor in which `after` differs from `before`."""
    found: list[Change] = []
    for driver in layout.drivers:
        old, new = before.channels[driver.id], after.channels[driver.id]
        rows = zip(
            _channel_rows(old, before.audible(driver.id)).items(),
            _channel_rows(new, after.audible(driver.id)).values(),
            strict=True,
        )
        found += [
            Change(channel=driver.name, what=what, before=was, after=now) for (what, was), now in rows if was != now
        ]
        found += _band_rows((*old.bands, *before.common), (*new.bands, *after.common), driver.name)
        was, now = (words(sources(tune, driver, ROUTED)) for tune in (before, after))
        if was != now:
            found.append(Change(channel=driver.name, what="hears", before=was, after=now))
    for number in range(1, max(len(before.inputs), len(after.inputs)) + 1):
        found += _input_changes(input_of(before, number), input_of(after, number), f"Input {number}")
    return found


def _input_changes(before: Input, after: Input, name: str) -> list[Change]:
    kept = ("gain", "polarity", "delay")
    old, new = (_channel_rows(one.channel, True) for one in (before, after))
    rows = [
        Change(channel=name, what=what, before=old[what], after=new[what]) for what in kept if old[what] != new[what]
    ]
    return rows + _band_rows(before.bands, after.bands, name)


SHIFT_DB = 0.06
"""Gains are kept in steps: a shift of all of them may differ by so much from channel to channel."""


def differ_in_common(one: Tune, other: Tune) -> bool:
    """Whether two tunes do the same but for what is common to all channels: its bands, and a shift of all gains."""

    def bare(tune: Tune) -> dict[str, Channel]:
        return {name: each.model_copy(update={"gain_db": 0.0}) for name, each in tune.channels.items()}

    if bare(one) != bare(other):
        return False
    shifts = [other.channels[name].gain_db - each.gain_db for name, each in one.channels.items()]
    return max(shifts) - min(shifts) <= SHIFT_DB
