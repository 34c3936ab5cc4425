"""What is read from the wires of head units drawn from numbers, against what these know of themselves.

    python benchmarks/survey_source.py [UNITS] [FIRST]

Each unit's wires are recorded in turn against the first while it plays the track round and round by a clock of its own;
what was read, and what straightening leaves, is compared with the truth.
"""

import sys
import time

import numpy as np
from counting import Wrong

from imbrix.core.errors import UnusableError
from imbrix.core.predict.predict import Predictor
from imbrix.core.source import track
from imbrix.core.source.between import between
from imbrix.core.source.straighten import inverse, tone
from imbrix.core.source.wires import GRID, read_wires
from imbrix.core.tune.tune import Channel
from imbrix.standins.head_unit import RATE, HeadUnit, drawn

RECORDER = 48_000
NEAR_DB, NEAR_S, NEAR_RATIO, LEAVES_DB = 0.2, 5e-6, 0.02, {10: 1.0, 30: 0.5}


def main(units: int, first: int) -> None:
    began, found = time.monotonic(), Wrong()
    for seed in range(first, first + units):
        judge(drawn(seed), np.random.default_rng(seed), found.count)
    found.show(f"{units} units from {first} on, {time.monotonic() - began:.0f} s")


def judge(unit: HeadUnit, random: np.random.Generator, count) -> None:
    sound = track.track(RATE)
    size = round(2.1 * track.schedule(RECORDER).size)
    for number in range(2, len(unit.wires) + 1):
        name = f"{unit.name}, wire {number}"
        try:
            found = read_wires(unit.play(sound, size, RECORDER, (1, number), random), RECORDER)
        except UnusableError as error:
            count("refused", True, f"{name}: {error}")
            continue
        count("refused", False, name)
        one, other = unit.wires[0], unit.wires[number - 1]
        wire = found.wires[1]
        meant = "both" if min(other.mix) > 0 else ("left" if other.mix[0] else "right")
        count("side", wire.side != meant, f"{name}: {wire.side}, not {meant}")
        clear = np.isfinite(wire.response) & (wire.over_noise_db >= 30)
        off = np.abs(20 * np.log10(np.abs(wire.response[clear] / unit.truth(number, GRID)[clear]))).max()
        count(f"response within {NEAR_DB} dB", off > NEAR_DB, f"{name}: {off:.2f} dB")
        lies = between(found.wires[0].response, wire.response)
        if lies is None:
            count("compared", True, name)
            continue
        count("polarity", lies.inverted != (one.inverted != other.inverted), name)
        late = abs(lies.delay_s - (other.delay_s - one.delay_s))
        count("delay within 5 us", late > NEAR_S, f"{name}: {late * 1e6:.1f} us")
        true = [(*p, False) for p in other.passes] + [(*p, True) for p in one.passes]
        same = len(true) == len(lies.passes) and all(
            any(p.order == 2 and p.ahead == ahead and abs(p.frequency_hz / hertz - 1) < NEAR_RATIO for p in lies.passes)
            for hertz, _, ahead in true
        )
        count("all-passes", not same, f"{name}: {true}, found {lies.passes}")
        shown = tone(wire.response)
        for bands, most in LEAVES_DB.items():
            made = inverse(shown, bands, RATE)
            does = Predictor(GRID, RATE).channel(Channel(gain_db=made.gain_db, bands=made.bands))
            left = tone(unit.truth(number, GRID) * does)
            inside = (shown.low_hz <= GRID) & (shown.high_hz >= GRID)
            levels = left.levels[inside]
            rest = float(np.ptp(levels) / 2)
            count(f"straight within {most} dB by {bands} bands", rest > most, f"{name}: {rest:.2f} dB")


if __name__ == "__main__":
    main(*[int(one) for one in sys.argv[1:3]] or [40], *([300] if len(sys.argv) < 3 else []))
