"""The live analyser: 2^16 points, two inputs, 20 frames a second, 1/48 octave, against its FFTs and half a core."""

from timing import in_turn, report  # isort: skip

import resource
import tempfile
import time
from pathlib import Path

import numpy as np
import scipy.fft

from imbrix.api.frames import encode
from imbrix.core.measure.transfer import Transfer, TransferSettings
from imbrix.standins.places import van
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import open_workspace
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import analyser
from imbrix.work.views import growing

settings = TransferSettings(2**16)
transfer = Transfer(settings)
random = np.random.default_rng(0)
noise = random.standard_normal((settings.hop * 40, 2))
transfer.feed(np.tile(noise, (2, 1)))
block = noise[: settings.hop]
frame = noise[:, 0].astype(np.float32)[: settings.size]


def one_frame_ready_to_draw() -> None:
    transfer.feed(block)
    transfer.shown()


def bare_ffts() -> None:
    scipy.fft.rfft(frame, settings.size)
    scipy.fft.rfft(frame, settings.size)


own, ffts = in_turn(100, one_frame_ready_to_draw, bare_ffts)
report("live analyser, one frame / its two FFTs", own / ffts, 12, f"{own * 1e3:.2f} ms")
report("live analyser, share of one core at 20 frames a second", own * 20, 0.5)

# All of it in real time, from the stand-in's samples to the frame that goes over the socket.
space = open_workspace(Path(tempfile.mkdtemp()), pace=1.0)
create_project(space, van.SLUG, van.NAME, van.layout())
recorder = Recorder(space)
analyser.start(recorder, van.SLUG, (), analyser.LiveChoice(size=2**16))
while recorder.growing is None:
    time.sleep(0.01)
time.sleep(1.0)
SECONDS = 10.0
frames, drawn = 0, -1
began, used = time.monotonic(), time.process_time()
while time.monotonic() - began < SECONDS:
    live = recorder.growing
    if live.count != drawn:
        drawn = live.count
        frames += 1
        encode(growing.draw(space, live, 48), {"running": True, "channels": live.channels})
    time.sleep(0.01)
share = (time.process_time() - used) / SECONDS
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
time.sleep(10.0)
grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
recorder.abort()
recorder.wait()
report("live, stand-in to frame: share of one core", share, 0.5, f"{frames / SECONDS:.1f} frames a second")
report("live, 20 / frames a second", 20 / (frames / SECONDS), 1.05)
report("live, MB of memory grown in ten further seconds / 5", grown / 5, 1.0)
