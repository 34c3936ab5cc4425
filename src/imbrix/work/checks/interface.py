"""The interface check: output looped into input, played five times, told line by line."""

import numpy as np

from imbrix.core.errors import InvalidError, UnusableError
from imbrix.core.measure.loop import read_loop, verdict
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.signal import FloatArray
from imbrix.work.checks.listening import with_sound
from imbrix.work.processor.hold import silenced
from imbrix.work.rig import checked, choices
from imbrix.work.sound.recorder import Recorder

RUNS = 5
QUIET_S = 0.5


def start_interface_check(recorder: Recorder) -> None:
    """Play five short sweeps through the looped interface and say line by line what it does."""
    space = recorder.space
    chosen = with_sound(space)
    settings = SweepSettings(5.0, 0.48 * chosen.rate, 2**15, chosen.sweep.level_db, 0.3, chosen.rate)
    quiet = round(QUIET_S * chosen.rate)
    stimulus = np.concatenate((np.zeros(quiet), exponential_sweep(settings).samples))

    def job() -> None:
        runs = []
        with silenced(space):  # the output is still on the processor as well
            for n in range(RUNS):
                recorder.say(message=f"Run {n + 1} of {RUNS}")
                runs.append(recorder.play(stimulus, clip=False))
        recorder.say(stage="computing", message="")
        try:
            _stop_if_exchanged(runs[0])
            found = read_loop(runs, stimulus, quiet, chosen.rate)
        except InvalidError as error:
            if isinstance(error, UnusableError):
                raise
            raise UnusableError(str(error), "loop") from None
        lines = verdict(found)
        made = choices.now()
        done = choices.CheckDone(
            made=made,
            device=chosen.device,
            rate=chosen.rate,
            lines=tuple(lines),
            latency=float(found.latencies.mean()),
            noise_dbfs=found.noise_dbfs,
        )
        checked.keep_check(space, done, found.response, found.against_reference)
        recorder.say(stage="done", done=1.0, seconds_left=0.0, result={"made": made})

    recorder.start("check", job)


def _stop_if_exchanged(run: FloatArray) -> None:
    microphone, reference = (float(np.abs(run[:, n]).max()) for n in (0, 1))
    if microphone < 1e-3 < reference:
        raise UnusableError(
            "only the reference input hears the output: the loop cable is in the other input, or the two are exchanged",
            "exchanged",
        )
