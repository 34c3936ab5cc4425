"""A sound card through a real PortAudio, on a sound system whose output comes back on its microphone."""

import json
import os
import subprocess
import sys

import numpy as np
import pytest

from tests.helpers.loop import RATE, comes_back, lacking, looped

PLAY = """
import json, sys
import numpy as np
from imbrix.core.errors import DeviceLostError
from imbrix.devices import soundcard

found, why = soundcard.cards()
if not found:
    sys.exit(why)
card = next(one for one in found if one.name == "default")
made = soundcard.SoundCard(card, 48_000)
noise = np.random.default_rng(5).uniform(-0.25, 0.25, 4 * 48_000)
lost = []
for _ in range(6):
    try:
        heard = np.concatenate(list(made.play_and_record(noise)))
        break
    except DeviceLostError as error:
        lost.append(str(error))
np.save(sys.argv[1], np.stack((noise, heard[:, 0])))
print(json.dumps({"inputs": card.inputs, "rates": card.rates, "lost": lost, "latency_s": made.latency_s}))
"""


@pytest.mark.walk
@pytest.mark.skipif(bool(lacking()), reason=lacking() or "all is there")
def test_what_a_card_plays_it_hears_without_a_gap(tmp_path) -> None:
    pytest.importorskip("sounddevice", reason="PortAudio cannot be had here", exc_type=(ImportError, OSError))
    with looped() as loop:
        for _ in range(6):
            done = subprocess.run(
                [sys.executable, "-c", PLAY, str(tmp_path / "heard.npy")],
                env={**os.environ, **loop.sees},
                capture_output=True,
                text=True,
                timeout=120,
            )
            assert done.returncode == 0, done.stderr[-2000:]
            told = json.loads(done.stdout.splitlines()[-1])
            assert RATE in told["rates"]
            assert 0 < told["latency_s"] < 1
            # A sound server on a machine that has no time puts silence in without a word to the card or to us; a take
            # finds that between its markers. What has to come back whole does so at one of these times.
            if comes_back(*np.load(tmp_path / "heard.npy")):
                return
    raise AssertionError("what was played never came back whole")
