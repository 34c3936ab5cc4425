"""What differs between two tunes, in words a tuner reads."""

from collections.abc import Mapping

from imbrix.core.system.layout import Layout
from imbrix.core.tune.routing import input_of, sources, words
from imbrix.core.tune.tune import Band, Channel, Crossover, Tune
from imbrix.core.value import Value

_SHAPE = {"butterworth": "Butterworth", "linkwitz-riley": "Linkwitz–Riley", "bessel": "Bessel"}


ROUTED = 2
"""Inputs from which on a default routing no longer differs."""
NONE = "none"
"""A band that is not there."""
SECOND = "Second source"
_OF_AN_INPUT = ("gain", "polarity", "delay")


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
    linear = f", linear phase in {end.taps} taps" if end.taps else ""
    return f"{_SHAPE[end.shape]} {end.slope_db} dB at {end.corner_hz:g} Hz{linear}"


def _channel_rows(channel: Channel, audible: bool) -> dict[str, str]:
    return {
        "gain": f"{channel.gain_db:+.1f} dB",
        "polarity": "inverted" if channel.inverted else "normal",
        "delay": f"{channel.delay_s * 1e3:.3f} ms",
        "sound": "plays" if audible else "muted",
        "high-pass": crossover_words(channel.high_pass),
        "low-pass": crossover_words(channel.low_pass),
    } | ({} if channel.taps is None else {"taps": channel.taps.words})


def band_words(band: Band) -> str:
    """`peaking 1000 Hz, +3.0 dB, Q 2.00`."""
    kind = "first-order all-pass" if band.kind == "all_pass_1" else band.kind.replace("_", " ")
    gain = f", {band.gain_db:+.1f} dB" if band.has_gain else ""
    q = "" if band.kind == "all_pass_1" else f", Q {band.q:.2f}"
    return f"{kind} {band.frequency_hz:.0f} Hz{gain}{q}{', off' if band.off else ''}"


def _bands(bands: tuple[Band, ...]) -> dict[str, str]:
    return {f"band {n}": band_words(band) for n, band in enumerate(bands, 1)}


def settings(tune: Tune, layout: Layout, inputs: int | None = None) -> dict[tuple[str, str], str]:
    """Every setting of the processor in words, by where it stands (an output by its driver's name, or an input) and
    what it is. `inputs` says how many inputs are told; those that the tune sets, where it is left out."""
    found: dict[tuple[str, str], str] = {}
    for driver in layout.drivers:
        one = tune.channels[driver.id]
        rows = _channel_rows(one, tune.audible(driver.id)) | _bands((*one.bands, *tune.common))
        rows["hears"] = words(sources(tune, driver, ROUTED))
        found |= {(driver.name, what): says for what, says in rows.items()}
    for number in range(1, (len(tune.inputs) if inputs is None else inputs) + 1):
        fed = input_of(tune, number)
        rows = {what: says for what, says in _channel_rows(fed.channel, True).items() if what in _OF_AN_INPUT}
        found |= {(f"Input {number}", what): says for what, says in (rows | _bands(fed.bands)).items()}
    return found | {(SECOND, what): says for what, says in tune.second.words.items()}


def differences(before: Mapping[tuple[str, str], str], after: Mapping[tuple[str, str], str]) -> list[Change]:
    """What differs between settings in words, in the order of `after`, then what only `before` has."""
    keys = list(dict.fromkeys((*after, *before)))
    places = list(dict.fromkeys(where for where, _what in keys))
    keys.sort(key=lambda key: places.index(key[0]))
    return [
        Change(channel=where, what=what, before=before.get((where, what), NONE), after=after.get((where, what), NONE))
        for where, what in keys
        if before.get((where, what), NONE) != after.get((where, what), NONE)
    ]


def changes(before: Tune, after: Tune, layout: Layout) -> list[Change]:
    """Every setting of the processor in which `after` differs from `before`."""
    inputs = max(len(before.inputs), len(after.inputs))
    return differences(settings(before, layout, inputs), settings(after, layout, inputs))


SHIFT_DB = 0.06
"""Gains are kept in steps: a shift of all of them may differ by so much from channel to channel."""


def differ_in_bands(one: Tune, other: Tune) -> bool:
    """Whether two tunes do the same but for bands and gains: delays, polarities, corners and all-passes are alike."""

    def bare(tune: Tune) -> dict[str, Channel]:
        return {
            name: each.model_copy(update={"gain_db": 0.0, "bands": each.all_passes})
            for name, each in tune.channels.items()
        }

    return bare(one) == bare(other)


def differ_in_common(one: Tune, other: Tune) -> bool:
    """Whether two tunes do the same but for what is common to all channels: its bands, and a shift of all gains."""

    def bare(tune: Tune) -> dict[str, Channel]:
        return {name: each.model_copy(update={"gain_db": 0.0}) for name, each in tune.channels.items()}

    if bare(one) != bare(other):
        return False
    shifts = [other.channels[name].gain_db - each.gain_db for name, each in one.channels.items()]
    return max(shifts) - min(shifts) <= SHIFT_DB
