"""A simulated sound card: a measuring microphone, a loopback, two more microphones, and an impedance jig.

Behind it hang the processor and the cabin. It plays a block and records a block: its own response, latency,
gain, 24-bit steps and clipping at full scale are all in the samples, and so is every trouble that is switched on.
"""

from collections.abc import Iterator

import numpy as np
import soxr

from imbrix.core.errors import DeviceLostError, InvalidError
from imbrix.core.passive.network import Branch
from imbrix.core.signal.signal import FloatArray, Looped, Samples, Sided
from imbrix.standins import practice as switches
from imbrix.standins import source_wires
from imbrix.standins.cabin import Cabin
from imbrix.standins.inputs import FirstTwo, Inputs, InterfaceModel
from imbrix.standins.intrusions import Intrusions
from imbrix.standins.jig import Hangs, Hung, JigModel, JigStream
from imbrix.standins.microphones import level_meter_db_c
from imbrix.standins.paths import MIDDLE, Spot
from imbrix.standins.places.place import Place
from imbrix.standins.practice import Practice
from imbrix.standins.processor import StandinProcessor
from imbrix.standins.second_source import Player
from imbrix.standins.stream import CabinStream

BLOCK = 4096
RATES = (44_100, 48_000, 88_200, 96_000, 176_400, 192_000)
FURTHER: dict[int, Spot] = {2: (-0.09, 0.0), 3: (0.09, 0.0)}
"""Inputs with more microphones, and where these stand from the first, in metres right and forward."""
JIG_DRIVER, JIG_RESISTOR = 4, 5
METER_S = 1
KNOWN_OHM = 10.0
"""The resistor that comes with the jig for its calibration."""
LOST = 1024
"""How many samples of all inputs are gone where a buffer is lost."""
LONG_S = 8
"""Within so many seconds of a long sound what passes has passed."""


class StandinInterface:
    """Six inputs and one output that feeds the processor and the jig; 24 bit.

    The first input has the microphone in it, the second the loopback, the third and fourth two more microphones left
    and right of the first, the fifth the jig's voltage across the driver, the sixth that across its resistor.
    Converters and cabin run at the processor's rate inside; other rates are converted on the way in and out.
    """

    inputs = ("Input 1", "Input 2", "Input 3", "Input 4", "Input 5", "Input 6")

    def __init__(
        self,
        stands: Place | Cabin,
        processor: StandinProcessor,
        model: InterfaceModel | None = None,
        seed: int = 11,
        rate: int = 48_000,
    ) -> None:
        if rate not in RATES:
            raise InvalidError(f"the stand-in has no sample rate of {rate} Hz; it has {', '.join(map(str, RATES))}")
        self.stands = stands if isinstance(stands, Place) else Place(stands, (), {})
        self.processor = processor
        processor.fed = self._at_inputs
        self.model = model or InterfaceModel()
        self.practice = Practice()
        self.jig = JigModel()
        self.rate = rate
        self.leads: dict[int, int] = {}
        """By input the wire of the source (from 1) that a lead clips to it; the others hold what they always hold."""
        self.source_plays = False
        """Whether the source feeds the processor by all its wires, rather than what is played here."""
        self.source_span: tuple[float, float] | None = None
        """From and until which second of a recording the source plays, where that is not all of it."""
        self.track: FloatArray = np.zeros((1, 2))
        """What the source plays round and round (n, 2), at its own rate."""
        self.player: Player | None = None
        """What the second source plays into the processor, where it does."""
        self._metered: FloatArray | None = None
        self._clipped = self.practice
        self._random = np.random.default_rng(seed)
        self._backwards: tuple[Cabin, Cabin] | None = None

    @property
    def inner_rate(self) -> int:
        """The rate of the processor, in hertz, at which all that hangs behind it is simulated."""
        return self.processor.limits.rate

    @property
    def cabin(self) -> Cabin:
        """The space that it stands in."""
        return self.stands.cabin

    def connect(self, processor: StandinProcessor, stands: Place | None = None) -> None:
        """Let the sound run through another processor, and stand in another place."""
        self.processor = processor
        processor.fed = self._at_inputs
        self.stands = stands or self.stands

    @property
    def meter_db_c(self) -> float | None:
        """What a level meter beside the microphone shows, slow; None before anything sounded."""
        return None if self._metered is None else level_meter_db_c(self._metered, self._metered.size // METER_S)

    @property
    def full_scale_db_spl(self) -> float:
        """For tests: the sound level at 1 kHz that reaches full scale at the microphone input as it is set."""
        return self.model.full_scale_db_spl - self._gain_db

    @property
    def _gain_db(self) -> float:
        return self.model.gain_db + (switches.GAIN_CHANGE_DB if self.practice.gain_changed else 0.0)

    def play_and_record(
        self,
        samples: Samples,
        place: Spot = MIDDLE,
        moving: bool = False,
        inputs: tuple[int, ...] = (0, 1),
        block: int = BLOCK,
    ) -> Iterator[FloatArray]:
        """Play (n,) samples and yield recorded blocks (m, 6) as they come; sums to n rows.

        What the drivers do at the start of a run starts from rest: the latency is silence. `place` is where the
        microphone is held, `moving` says that a hand moves it round. Inputs beyond the second are silent unless they
        are among `inputs`, and so is the microphone where the jig's alone are. Raises DeviceLostError.
        """
        heard = self._heard(samples, place, moving, inputs, block)
        yield from _with_a_gap(heard, samples.size) if self.practice.buffer_lost else heard

    def _heard(
        self, samples: Samples, place: Spot, moving: bool, inputs: tuple[int, ...], block: int
    ) -> Iterator[FloatArray]:
        """What is recorded, by whichever way the inputs are asked for."""
        if inputs and set(inputs) <= self.leads.keys():
            yield from self._run_wires(samples.size, inputs, block)
            return
        used = sorted({0, 1, *inputs})
        if not {0, 1, *FURTHER} & set(inputs):
            yield from self._run_jig(samples, block)
            return
        if self.rate == self.inner_rate:
            yield from self._run(samples, place, moving, inputs, block)
            return
        there = _Converted(samples, self.rate, self.inner_rate)
        back = soxr.ResampleStream(self.inner_rate, self.rate, len(used), dtype="float64", quality="VHQ")

        def spread(heard: FloatArray) -> FloatArray:
            whole = np.zeros((heard.shape[0], len(self.inputs)))
            whole[:, used] = np.clip(heard, -1.0, 1.0)
            return whole

        left = samples.size
        for heard in self._run(there, place, moving, inputs, block):
            out = back.resample_chunk(np.ascontiguousarray(heard[:, used]))[:left]
            left -= out.shape[0]
            if out.shape[0]:
                yield spread(out)
        out = back.resample_chunk(np.zeros((0, len(used))), last=True)[:left]
        yield spread(np.concatenate((out, np.zeros((left - out.shape[0], len(used))))))

    def _run(
        self, samples: "Samples | _Converted", place: Spot, moving: bool, inputs: tuple[int, ...], size: int
    ) -> Iterator[FloatArray]:
        """What is recorded while the microphone listens, at the processor's rate."""
        practice, rate = self.practice, self.inner_rate
        running = self.processor.stream(len(self.cabin.seats))
        more = [n for n in FURTHER if n in inputs]
        others = [FURTHER[n] for n in more]
        spot = self._held(place)
        air = CabinStream(self.wired(), size, self._random, spot, moving, others, practice.turned_deg, rate)
        with_jig = bool({JIG_DRIVER, JIG_RESISTOR} & set(inputs))
        jig = self._jig_stream(size, rate) if with_jig else None
        beyond = [*more, *([JIG_DRIVER, JIG_RESISTOR] if jig else [])]
        further = Inputs(len(beyond), self.model, rate)
        first_two = FirstTwo(self.model, practice, self.cabin, self._random, rate)
        full_scale = 10 ** (-(self.full_scale_db_spl - 93.9794) / 20)
        noises = Intrusions(practice, min(samples.size, LONG_S * rate), self._random, rate)
        meter = np.zeros(0)
        source = self._source(samples.size, rate) if self.source_plays else None
        second = self._second(samples.size, rate)
        for first, block in self._blocks(samples, size, rate):
            size_now, played = block.shape[0], block if block.ndim == 1 else block.mean(axis=1)
            fed = self._fed(block) if source is None else source[first : first + size_now]
            digital = None if second is None else second[first : first + size_now]
            outputs = running.process(np.zeros(fed.shape) if practice.source_muted else fed, digital)
            if practice.wrong_channel and self.stands.exchanged:
                a, b = (n - 1 for n in self.stands.exchanged)
                outputs[:, [a, b]] = outputs[:, [b, a]]
            at_jig = self._jigged(jig, played) if jig else np.zeros((size_now, 0))
            for n, output in enumerate(jig.outputs if jig else ()):
                outputs[:, output - 1] += at_jig[:, 2 + n]
            everywhere = air.process(outputs) + noises.sound(first, size_now)[:, None]
            meter = np.concatenate((meter, everywhere[:, 0]))[-METER_S * rate :]
            if meter.size == METER_S * rate:
                self._metered = meter
            volts = self._microphone_input(first_two.heard(everywhere[:, 0]) * full_scale, played, first)
            whole = np.zeros((size_now, len(self.inputs)))
            whole[:, :2] = first_two.process(volts + noises.electric(first, size_now), played)
            if beyond:
                rest = np.concatenate((everywhere[:, 1:] * full_scale, at_jig[:, :2]), axis=1)
                whole[:, beyond] = further.process(rest) + self._hiss(rest.shape)
            yield _converted_to_24_bits(whole)

    def _fed(self, block: FloatArray) -> FloatArray:
        """What the processor's inputs get: all the same, or left and right by turns."""
        if block.ndim == 1:
            return block
        return np.stack([block[:, n % 2] for n in range(self.processor.limits.inputs)], axis=1)

    def _run_jig(self, samples: Samples, size: int) -> Iterator[FloatArray]:
        """What is recorded of the jig alone, which does not hang behind the processor: its rate is no matter."""
        jig = self._jig_stream(size, self.rate)
        inputs = Inputs(2, self.model, self.rate)
        for _, block in self._blocks(samples, size, self.rate):
            whole = np.zeros((block.size, len(self.inputs)))
            if jig:
                both = self._jigged(jig, block)[:, :2]
                whole[:, [JIG_DRIVER, JIG_RESISTOR]] = inputs.process(both) + self._hiss((block.size, 2))
            yield _converted_to_24_bits(whole)

    def _source(self, size: int, rate: int) -> FloatArray:
        """What the source puts on the processor's inputs (size, inputs) while it plays its track."""
        fed = source_wires.fed(self._unit(), size, rate, self.processor.limits.inputs)
        if self.source_span is not None:
            first, last = (round(each * rate) for each in self.source_span)
            fed[:first] = fed[last:] = 0.0
        return fed

    def _at_inputs(self, size: int) -> FloatArray:
        """What the processor itself reads of the source (size, inputs), by its own clock."""
        return self._source(size, self.inner_rate)

    def _unit(self) -> source_wires.Unit:
        return source_wires.Unit(self.stands.head_unit, self.practice, self.track, self._random)

    def _second(self, size: int, rate: int) -> FloatArray | None:
        """What the second source plays (size, 2), None where it does not."""
        if self.player is None or self.practice.second_unplugged:
            return None
        return self.player.plays(size, rate, self.practice.second_volume)

    def _run_wires(self, size: int, inputs: tuple[int, ...], block: int) -> Iterator[FloatArray]:
        """What is recorded of the source's wires: it plays by itself, whatever is played here."""
        blocks = self._blocks(Looped(np.zeros(block), size), block, self.rate)
        wires = tuple(self.leads[one] for one in inputs)
        for heard in source_wires.at_leads(self._unit, wires, size, self.rate, (one.size for _, one in blocks)):
            whole = np.zeros((heard.shape[0], len(self.inputs)))
            whole[:, list(inputs)] = heard
            yield _converted_to_24_bits(whole)

    def _blocks(self, samples: "Samples | _Converted", size: int, rate: int) -> Iterator[tuple[int, FloatArray]]:
        """What is played, piece by piece, with its first sample's number. Raises DeviceLostError."""
        vanish = min(round(1.5 * rate), samples.size // 2) if self.practice.device_vanishes else samples.size + 1
        for first in range(0, samples.size, size):
            if first >= vanish:
                raise DeviceLostError("the sound card is gone")
            yield first, np.round(samples[first : first + size] * 2**23) / 2**23

    def _hiss(self, shape: tuple[int, ...]) -> FloatArray:
        return 10 ** (self.model.noise_dbfs / 20) * self._random.standard_normal(shape)

    def sounding(self, output: int) -> int:
        """The output (from 1) whose driver an ear would name when `output` plays."""
        exchanged = self.stands.exchanged
        if self.practice.wrong_channel and exchanged and output in exchanged:
            return sum(exchanged) - output
        return output

    def _held(self, spot: Spot) -> Spot:
        """Where the microphone really is: nobody holds one twice in the same spot."""
        off = self.cabin.unsteady_m
        if not off:
            return spot
        x, y = self._random.normal(0, off, 2)
        return spot[0] + float(x), spot[1] + float(y)

    def _jig_stream(self, block: int, rate: int) -> JigStream | None:
        """The jig with what hangs on its clips; None where its cable is out."""
        self._clipped = self.practice
        return None if self.practice.jig_unplugged else JigStream(self.jig, self._hangs(), block, rate)

    def _jigged(self, jig: JigStream, played: FloatArray) -> FloatArray:
        """What the jig gives of a block, with what hangs on its clips by now."""
        if self.practice is not self._clipped:
            self._clipped = self.practice
            jig.clip(self._hangs())
        return jig.process(played)

    def _hangs(self) -> Hangs:
        practice, motors = self.practice, self.stands.motors
        held: dict[str, float | None] = {"nothing": None, "joined": 0.0, "resistor": KNOWN_OHM}
        if practice.clips in held:
            return held[practice.clips]
        if practice.clips == "network":
            hung = []
            for one in practice.network:
                motor = motors[one.output - 1] if one.output <= len(motors) else None
                if motor is not None:
                    wired = Branch(driver=str(one.output), steps=one.steps, inverted=one.inverted)
                    hung.append(Hung(one.output, motor.circuit, wired))
            return tuple(hung)
        at = practice.clipped_output - 1
        motor = motors[at] if at < len(motors) else None
        if motor is None:
            return None
        loaded = motor.loaded(practice.loading, practice.loading_amount / 1000)
        return (Hung(at + 1, loaded, Branch(driver=str(at + 1))),)

    def wired(self) -> Cabin:
        """The cabin, one driver's wires exchanged where that is switched on."""
        output = self.stands.backwards
        if not self.practice.wired_backwards or output is None:
            return self.cabin
        if self._backwards is None or self._backwards[0] is not self.cabin:
            self._backwards = self.cabin, self.cabin.turned_backwards(output - 1)
        return self._backwards[1]

    def _microphone_input(self, sound: FloatArray, block: FloatArray, first: int) -> FloatArray:
        practice = self.practice
        if practice.plugged == "loop":
            return block * 10 ** (self._gain_db / 20)
        if practice.microphone_unplugged or not self.model.microphone_connected:
            return np.zeros(block.size)
        if practice.plugged.startswith("calibrator"):
            level = float(practice.plugged.rsplit("-", 1)[1])
            at = np.arange(first, first + block.size) / self.inner_rate
            peak = np.sqrt(2) * 10 ** ((level - self.full_scale_db_spl) / 20)
            return peak * np.sin(2 * np.pi * 1000 * at) + 0.01 * sound
        return sound


def _converted_to_24_bits(samples: FloatArray) -> FloatArray:
    return np.clip(np.round(samples * 2**23) / 2**23, -1.0, 1.0)


def _with_a_gap(blocks: Iterator[FloatArray], size: int) -> Iterator[FloatArray]:
    """Blocks of `size` rows in all, of which some in the middle are lost; silence makes up for them at the end."""
    middle, past, left = size // 2, 0, LOST
    for block in blocks:
        here = min(left, block.shape[0] - 1) if past + block.shape[0] > middle else 0
        past, left = past + block.shape[0], left - here
        yield block[here:] if past < size else np.concatenate((block[here:], np.zeros((LOST - left, block.shape[1]))))


class _Converted:
    """Samples at another rate, converted to the inner one as they are asked for, piece after piece in order."""

    def __init__(self, samples: Samples, rate: int, inner: int) -> None:
        self.size = round(samples.size * inner / rate)
        self._samples = samples
        self._shape = (2,) if isinstance(samples, Sided) else ()
        self._stream = soxr.ResampleStream(rate, inner, 2 if self._shape else 1, dtype="float64", quality="VHQ")
        self._taken = 0
        self._ready = np.zeros((0, *self._shape))

    def __getitem__(self, piece: slice) -> FloatArray:
        first, last, _ = piece.indices(self.size)
        while self._ready.shape[0] < last - first and self._taken < self._samples.size:
            block = np.ascontiguousarray(self._samples[self._taken : self._taken + 4 * BLOCK])
            self._taken += block.shape[0]
            made = self._stream.resample_chunk(block, last=self._taken >= self._samples.size)
            self._ready = np.concatenate((self._ready, made))
        out = np.zeros((last - first, *self._shape))
        got = self._ready[: out.shape[0]]
        out[: got.shape[0]] = got
        self._ready = self._ready[out.shape[0] :]
        return out
