"""What a take shows: microphone and interface divided out, and of a driver the processor's filters as well."""

import logging
from dataclasses import replace

import numpy as np
import scipy.fft

from imbrix.core.errors import ImbrixError
from imbrix.core.evidence.band import DriverBand, Points, driver_band, points
from imbrix.core.evidence.combs import dips_db, reflections
from imbrix.core.evidence.onset import LEAST_OVER_DB, Onset, onset
from imbrix.core.measure.reading import EARLY_S, Reading, Shown, read_impulse, read_recording
from imbrix.core.measure.recording import read_schedule
from imbrix.core.measure.sweep import deconvolve
from imbrix.core.signal import response
from imbrix.core.signal.measures import usable_band, without_filters
from imbrix.core.signal.signal import ComplexArray, FloatArray, Impulse, ratio
from imbrix.core.source.heard import read_heard
from imbrix.core.system.layout import Driver
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import NOMINAL_FULL_SCALE, Workspace
from imbrix.work.rig import checked, corrections
from imbrix.work.takes.shelf import Details, Method, Take, arrays, takes, through

READINGS: Drawer[int, Reading] = Drawer("readings", 64, by_take=True)
SHOWN: Drawer[int, Shown] = Drawer("what takes show", 1024, by_take=True)
CONTRADICTED = 4.0
"""By so much worse a curve fits with a resonance than without it where the two do not belong together."""
LOG = logging.getLogger("imbrix.takes")
SICK: Drawer[int, str] = Drawer("sick takes", 4096, by_take=True)
BARE: Drawer[int, ComplexArray] = Drawer("bare responses", 1024, by_take=True)
BANDS: Drawer[int, DriverBand] = Drawer("usable bands", 1024, by_take=True)
DIPS: Drawer[int, FloatArray] = Drawer("dips of the place", 256, by_take=True)
PLAYS_ON = 1.5
"""So far beyond its band a driver still tells what reflections there are."""
ONSETS: Drawer[int, tuple[Onset | None]] = Drawer("onsets", 1024, by_take=True)
IMPULSES: Drawer[int, Impulse] = Drawer("impulses", 32, by_take=True)


def reading(space: Workspace, one: Take) -> Shown:
    """What a take shows, computed once and remembered: microphone and interface divided out, at its own level."""
    return space.memory.of(SHOWN, one.id, lambda: _whole(space, one).shown)


def raw_impulse(space: Workspace, one: Take) -> Impulse:
    """The impulse response of a take as it was recorded, with all that microphone and interface add."""
    return _whole(space, one).impulse


def _whole(space: Workspace, one: Take) -> Reading:
    def make() -> Reading:
        data, rate = arrays(space, one.id)
        return mended(space, one.details, one.method, one.timed, _read(one, data, rate))

    return space.memory.of(READINGS, one.id, make)


def mended(space: Workspace, details: Details, method: Method, timed: bool, shows: Reading) -> Reading:
    """A reading with the microphone's correction and the interface's own response divided out, and its level set."""
    if method in ("text", "impulse"):
        return shows
    values = shows.response * ratio(details.matched_db)
    if details.correction is not None:
        values = values / corrections.on_grid(space, details.correction)
    if details.check is not None:
        own = checked.check_curve(space, details.check, against_reference=timed and details.clock == "loopback")
        values = values if own is None else values / (own if timed else np.abs(own))
    if details.full_scale_db_spl is not None:
        values = values * ratio(details.full_scale_db_spl - NOMINAL_FULL_SCALE)
    return replace(shows, response=values)


def mended_impulse(space: Workspace, one: Take) -> Impulse:
    """The impulse response of a take with microphone and interface divided out, computed once.

    What they add is held constant beyond 20 Hz and 20 kHz.
    """
    return space.memory.of(IMPULSES, one.id, lambda: _mended_impulse(space, one))


def _mended_impulse(space: Workspace, one: Take) -> Impulse:
    shows = raw_impulse(space, one)
    if one.method == "impulse":
        return shows
    hertz = scipy.fft.rfftfreq(shows.samples.size, 1 / shows.rate)
    adds = np.ones(hertz.size, dtype=complex)
    at = np.clip(hertz, space.grid[0], space.grid[-1])
    if one.details.correction is not None:
        adds *= corrections.correction(space, one.details.correction).curve.on(at)
    if one.details.check is not None:
        own = checked.check_curve(space, one.details.check, against_reference=one.clock == "loopback")
        if own is not None:
            adds *= np.interp(at, space.grid, own.real) + 1j * np.interp(at, space.grid, own.imag)
    if one.details.full_scale_db_spl is not None:
        adds /= ratio(one.details.full_scale_db_spl - NOMINAL_FULL_SCALE)
    adds /= ratio(one.details.matched_db)
    samples = scipy.fft.irfft(scipy.fft.rfft(shows.samples) / adds, shows.samples.size)
    return Impulse(samples, shows.rate, shows.zero)


def _read(one: Take, data: dict[str, FloatArray], rate: int) -> Reading:
    if one.method == "source" and "source" in data:
        sides = data["source"][::2] + 1j * data["source"][1::2]
        right = sides[1] if len(sides) > 1 else None
        return read_heard(data["microphone"], rate, sides[0], right, is_anchor=one.timed and right is None).driver
    if one.method in ("text", "moving", "average", "source"):
        values = data["response"][0] + 1j * data["response"][1]
        silent = Impulse(np.zeros(2), rate)
        over = data["over"] if "over" in data else np.full(values.size, 120.0)
        return Reading(values, over, 0.0, one.timed, silent)
    if one.method == "impulse":
        return read_impulse(Impulse(data["impulse"], rate, round(EARLY_S * rate)), one.timed)
    if one.details.quiet_s or one.details.marker:
        by_loopback = one.timed and one.details.clock == "loopback"
        return read_schedule(data["microphone"], data["reference"] if by_loopback else None, one.details.schedule(rate))
    if one.timed:
        return read_recording(data["microphone"], data["reference"], rate, timed=True)
    return untimed(data["microphone"], data["reference"], rate)


def untimed(microphone: FloatArray, stimulus: FloatArray, rate: int) -> Reading:
    """Without a common clock the arrival means nothing: it is put a little after time zero."""
    impulse = deconvolve(microphone, stimulus, rate, zero=0)
    shift = round(response.arrival(impulse) * rate) - round(EARLY_S * rate)
    rolled = Impulse(np.roll(impulse.samples, -shift), rate, round(EARLY_S * rate))
    return read_impulse(rolled, timed=False)


def bare(space: Workspace, one: Take) -> ComplexArray:
    """The take (n,) with the processor's filters divided out; NaN where it shows nothing."""
    return space.memory.of(BARE, one.id, lambda: without_filters(reading(space, one).response, filters(space, one)))


def sick(space: Workspace, one: Take) -> str:
    """Why a take that is kept cannot be read; empty where it can. One sick take must not make a project unreadable."""

    def look() -> str:
        try:
            bare(space, one) if one.purpose == "driver" else reading(space, one)
        except ImbrixError as error:
            return str(error)
        except Exception:
            LOG.exception("take %d cannot be read", one.id)
            return "what is kept of it is damaged"
        return ""

    return space.memory.of(SICK, one.id, look)


def filters(space: Workspace, one: Take) -> ComplexArray:
    """The response (n,) of the processor's channel that a driver's take went through."""
    return space.predictor_at(one.details.processor_rate).through(through(space, one), one.channels[:1])[0]


def band_shown(space: Workspace, slug: str, one: Take) -> DriverBand:
    """The band that a driver plays of itself as one take of it shows it, and how sure its ends are."""
    driver = space.layout(slug).driver(one.channels[0])
    resonance = resonance_of(space, slug, driver.id)

    def find() -> DriverBand:
        try:
            shown = points(bare(space, one), space.grid, reading(space, one).over_noise_db)
            if shown is not None:
                return _likelier(shown, driver, resonance)
        except (ArithmeticError, ValueError):
            # An odd take must not make its project unreadable: its band is then as little sure as can be.
            LOG.exception("the band of take %d was not found", one.id)
        low, high = usable_band(bare(space, one), space.grid)
        return DriverBand(low, high, np.inf, np.inf, np.inf)

    stamp = (driver.kind.value, driver.passive_to or "", resonance or 0.0)
    return space.memory.of(BANDS, one.id, find, stamp)


def onset_of(space: Workspace, slug: str, one: Take) -> Onset | None:
    """When the direct sound of a driver's take arrives, and which way it moves first; None where that is not known."""
    if not (one.timed and one.has_impulse and one.purpose == "driver"):
        return None

    ends = band_shown(space, slug, one).ends_hz

    def find() -> tuple[Onset | None]:
        shows = reading(space, one)
        try:
            return (onset(bare(space, one), space.grid, shows.over_noise_db, ends, shows.arrival_s),)
        except (ArithmeticError, ValueError):
            LOG.exception("the arrival of take %d was not found", one.id)
            return (None,)

    return space.memory.of(ONSETS, one.id, find, (one.details.correction or 0, *ends))[0]


def place_dips(space: Workspace, slug: str, one: Take, smoothing: float) -> FloatArray:
    """What of a take's dips (n,) belongs to the place, in dB, zero or less: nothing where that cannot be told."""
    comes = onset_of(space, slug, one)
    if comes is None or not comes.likely:
        return np.zeros(space.grid.size)

    low, high = band_shown(space, slug, one).ends_hz

    def find() -> FloatArray:
        span = low, min(high * PLAYS_ON, float(space.grid[-1]))
        known = np.where(reading(space, one).over_noise_db >= LEAST_OVER_DB, bare(space, one), np.nan)
        return dips_db(reflections(known, space.grid, span, comes), space.grid, smoothing)

    return space.memory.of(DIPS, one.id, find, (smoothing, comes.seconds, low, high))


def arrival(space: Workspace, slug: str, one: Take) -> float:
    """When the direct sound of a take arrives, in seconds: as `onset_of` has it where that is likely, else by the peak
    of the envelope."""
    found = onset_of(space, slug, one)
    return found.seconds if found is not None and found.likely else reading(space, one).arrival_s


def _likelier(shown: Points, driver: Driver, resonance: float | None) -> DriverBand:
    """The band by the resonance, unless the curve excludes that: in a closed tube a driver plays below it."""
    plain = driver_band(shown, driver.kind, driver.passive_to)
    if resonance is None:
        return plain
    found = driver_band(shown, driver.kind, driver.passive_to, resonance)
    return found if found.misfit < plain.misfit + CONTRADICTED else plain


def resonance_of(space: Workspace, slug: str, channel: str) -> float | None:
    """The resonance in hertz that the newest impedance of a driver as it is shows; None where there is none."""
    for one in takes(space, slug):
        mine = one.purpose == "impedance" and one.channels == (channel,) and not one.discarded
        if mine and one.details.found is not None and one.details.loading == "as it is":
            return one.details.found.circuit.fs
    return None
