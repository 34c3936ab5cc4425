"""Curves that grow while a job runs: of a moving microphone, of the live analyser, of an input."""

import numpy as np

from imbrix.core.look.phase import wrapped_degrees
from imbrix.core.measure.moving import Running
from imbrix.core.signal.signal import FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import Fraction, smooth
from imbrix.work.ground.workspace import NOMINAL_FULL_SCALE, Workspace
from imbrix.work.predict.watching import HeardNetwork
from imbrix.work.rig import corrections, rig
from imbrix.work.sound.recorder import Growing
from imbrix.work.source.live import HeardFeed
from imbrix.work.takes.analyser import CLEAR_COHERENCE, Heard
from imbrix.work.takes.listening import HeardInput
from imbrix.work.views import input as one_input
from imbrix.work.views.picture import Picture


def draw(space: Workspace, growing: Growing, smoothing: Fraction) -> Picture:
    """The picture of what a job has heard so far, in dB SPL at the common drive."""
    match growing.heard:
        case Running():
            return _moving(space, growing.channels, growing.heard, smoothing)
        case Heard():
            return _live(space, growing.channels, growing.heard, smoothing)
        case HeardInput():
            return one_input.running(growing.heard)
        case HeardFeed():
            return _feed(space, growing.heard, smoothing)
        case HeardNetwork():
            return _network(space, growing.heard, smoothing)
    raise TypeError(f"nobody draws a {type(growing.heard).__name__}")


def _moving(space: Workspace, channels: tuple[str, ...], now: Running, smoothing: Fraction) -> Picture:
    """The curve of a moving-microphone take under way, with its confidence band, in dB SPL."""
    picture = Picture()
    values = power_decibels(np.maximum(smooth(np.nan_to_num(now.power), space.grid, smoothing), 0)) + space.offset_db
    values += rig.full_scale(space) - NOMINAL_FULL_SCALE
    correction = rig.rig(space).correction
    if correction is not None:
        values -= decibels(corrections.on_grid(space, correction))
    values = np.where(np.isfinite(now.power), values, np.nan)
    half = np.interp(np.log(space.grid), np.log(now.bands_hz), now.band_db)
    channel = channels[0] if len(channels) == 1 else ""
    picture.add("running", values, "running", label=f"{now.count} averages", channel=channel)
    picture.add("running-low", values - half, "edge", channel=channel)
    picture.add("running-high", values + half, "edge", channel=channel)
    return picture


def _feed(space: Workspace, heard: HeardFeed, smoothing: Fraction) -> Picture:
    """A wire of the source now, as it comes and with what its input does."""
    picture = Picture()

    def level(values: FloatArray) -> FloatArray:
        power = np.where(np.isfinite(values), 10 ** (np.nan_to_num(values) / 10), 0.0)
        return power_decibels(np.maximum(smooth(power, space.grid, smoothing), 0))

    picture.add("live-comes", level(heard.comes), "edge")
    picture.add("live", level(heard.does), "live", label="now")
    return picture


def _network(space: Workspace, heard: HeardNetwork, smoothing: Fraction) -> Picture:
    """What hangs on the jig now: how it sounds, and below what the amplifier would see."""
    picture = Picture()
    values = power_decibels(np.maximum(smooth(heard.power, space.grid, smoothing), 0)) + heard.level_db
    picture.add("live", values + space.offset_db, "live", label="now")
    picture.add("live-ohms", np.abs(heard.ohms), "live", label="now", pane="lower")
    return picture


def _live(space: Workspace, channels: tuple[str, ...], heard: Heard, smoothing: Fraction) -> Picture:
    """The live curve, faded where the coherence is low; below it phase and coherence, and the running impulse in per
    cent of its peak."""
    drawn = Picture()
    shown, held = heard.shown, heard.held
    power = smooth(np.nan_to_num(np.abs(shown.response) ** 2), space.grid, smoothing)
    adds = space.offset_db + rig.full_scale(space) - NOMINAL_FULL_SCALE
    correction = rig.rig(space).correction
    microphone = (
        np.ones(space.grid.size, dtype=complex) if correction is None else corrections.on_grid(space, correction)
    )
    values = power_decibels(np.maximum(power, 0)) + adds - decibels(microphone)
    agree = smooth(shown.coherence, space.grid, smoothing)
    clear = (agree >= CLEAR_COHERENCE) & np.isfinite(shown.response)
    channel = channels[0] if len(channels) == 1 else ""
    drawn.add("live", np.where(clear, values, np.nan), "live", label="live", channel=channel)
    drawn.add("live-unclear", np.where(clear, np.nan, values), "edge", channel=channel)
    if held is not None:
        most = power_decibels(np.maximum(smooth(np.nan_to_num(held) ** 2, space.grid, smoothing), 0)) + adds
        drawn.add("live-held", np.where(held > 0, most - decibels(microphone), np.nan), "compare", label="highest")
    known = np.isfinite(shown.response)
    turned = smooth(np.where(known, shown.response / microphone, 0), space.grid, smoothing)
    drawn.add("live-phase", np.where(clear, wrapped_degrees(turned), np.nan), "live", label="phase", pane="live-phase")
    drawn.add("live-coherence", agree, "live", label="coherence", pane="live-coherence")
    seconds, taps = heard.impulse
    share = 100 * taps / max(float(np.abs(taps).max()), 1e-30)
    drawn.add("live-impulse", share, "live", label="impulse", pane="live-impulse", x=seconds * 1e3)
    drawn.facts["settled"] = heard.settled
    return drawn
