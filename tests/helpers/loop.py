"""A sound system without a sound card: what is played on it comes back on its microphone, through a real PulseAudio.

`make test` installs PulseAudio where it may; where there is none, tests that need it are skipped and say so.
"""

import os
import shutil
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from scipy.signal import coherence

RATE = 48_000
ALSA = """
pcm.!default { type pulse }
ctl.!default { type pulse }
"""


def lacking() -> str:
    """What is missing for a loop; empty where all is there."""
    missing = [one for one in ("pulseaudio", "pactl") if shutil.which(one) is None]
    return f"{' and '.join(missing)} cannot be had here" if missing else ""


class Loop:
    """A private sound server with one output, whose left side comes back on a microphone of one channel."""

    def __init__(self, folder: Path) -> None:
        self.socket = folder / "native"
        (folder / "asound.conf").write_text(ALSA)
        self.sees = {
            "PULSE_SERVER": f"unix:{self.socket}",
            "PULSE_COOKIE": str(folder / "cookie"),
            "ALSA_CONFIG_PATH": f"/usr/share/alsa/alsa.conf:{folder / 'asound.conf'}",
        }
        modules = [
            f"module-native-protocol-unix socket={self.socket} auth-anonymous=1",
            f"module-null-sink sink_name=loop rate={RATE} channels=2 format=float32le",
        ]
        command = [
            "pulseaudio",
            "-n",
            "--daemonize=no",
            "--exit-idle-time=-1",
            "--use-pid-file=no",
            "--log-level=error",
        ]
        where = {**os.environ, "XDG_RUNTIME_DIR": str(folder), "HOME": str(folder)}
        self.process = subprocess.Popen(
            [*command, *(f"--load={one}" for one in modules)], env=where, stderr=subprocess.DEVNULL
        )
        deadline = time.monotonic() + 30
        while self._told("info").returncode and time.monotonic() < deadline:
            time.sleep(0.05)
        self.plug()

    def _told(self, *words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(["pactl", *words], env={**os.environ, **self.sees}, capture_output=True, text=True)

    def plug(self) -> None:
        """Plug the microphone in."""
        done = self._told(
            *("load-module", "module-remap-source", "master=loop.monitor", "source_name=microphone"),
            *("channels=1", "channel_map=mono", "master_channel_map=front-left", "remix=no"),
            "source_properties=device.description=Tabletop",
        )
        assert done.returncode == 0, done.stderr
        self._told("set-default-source", "microphone")
        self._module = done.stdout.strip()

    def unplug(self) -> None:
        """Pull the microphone out."""
        self._told("unload-module", self._module)

    def end(self) -> None:
        """Stop the sound server."""
        self.process.kill()
        self.process.wait()


@contextmanager
def looped() -> Iterator[Loop]:
    """A loop while it is needed."""
    with tempfile.TemporaryDirectory(prefix="loop-") as folder:  # the path of a socket has to be short
        made = Loop(Path(folder))
        try:
            yield made
        finally:
            made.end()


def delays(played: np.ndarray, heard: np.ndarray) -> list[int]:
    """By how many samples what was played (n,) is late in what was heard (n,), second by second from the second on."""

    def late(at: int) -> int:
        size = 2 * RATE
        one, other = heard[at : at + RATE], played[at : at + RATE]
        cross = np.fft.irfft(np.fft.rfft(one, size) * np.conj(np.fft.rfft(other, size)), size)
        return int(np.argmax(cross[:RATE]))

    return [late(at) for at in range(RATE, played.size - RATE, RATE)]


def comes_back(played: np.ndarray, heard: np.ndarray) -> bool:
    """Whether all that was played (n,) is in what was heard (n,) from the second second on, by one delay."""
    found = set(delays(played, heard))
    if len(found) > 1:
        return False
    delay = found.pop()
    # A delay has a fraction of a sample, and converters have an end: what they leave of the noise is all the same one.
    hertz, alike = coherence(played[RATE : played.size - delay], heard[RATE + delay :], RATE, nperseg=2**14)
    return bool(alike[(hertz > 50) & (hertz < 18_000)].min() > 0.999)
