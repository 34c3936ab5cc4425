"""Places: image sources against a room of someone else's making, tubes against closed forms, and drawn vehicles."""

import numpy as np
import pyroomacoustics
import pytest

from imbrix.core.errors import NotHereError
from imbrix.core.look.directivity import piston
from imbrix.core.measure.reading import read_recording
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import decibels
from imbrix.core.system.layout import Group, Kind
from imbrix.core.system.layouts import READY, make
from imbrix.core.tune.models import MODELS
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Channel
from imbrix.standins.cabin import Cabin, Seat
from imbrix.standins.inputs import InterfaceModel
from imbrix.standins.interface import StandinInterface
from imbrix.standins.paths import MIDDLE, Air, RoomPath, ScatteredPath, Shoebox, TubePath
from imbrix.standins.places import coach, drawn, helmet, room, shipped, van
from imbrix.standins.places.place import Place, wired
from imbrix.standins.processor import StandinProcessor
from imbrix.standins.stream import CabinStream

RATE = 48_000
AIR = Air(round(0.3 * RATE), RATE, speed_of_sound(20.0))
RANDOM = np.random.default_rng(1)


def built(key: str) -> Place:
    layout = shipped.SHIPPED[key].layout()
    return shipped.make(key, wired(layout.drivers), layout.seat)


def test_image_sources_are_those_of_a_room_of_someone_elses_making() -> None:
    """Against pyroomacoustics: an empty rectangular room whose walls keep their share at all frequencies."""
    walls = (0.8, 0.86, 0.7, 0.84, 0.6, 0.75)
    ours = RoomPath(Shoebox((4.2, 5.6, 2.6), walls, bounce_hz=1e12), (0.9, 4.1, 1.0), (2.0, 2.0, 1.1))
    found = ours.impulse(MIDDLE, AIR, RANDOM, radius_m=0.0)
    names = ("west", "east", "south", "north", "floor", "ceiling")
    materials = {name: pyroomacoustics.Material(1 - one**2) for name, one in zip(names, walls, strict=True)}
    theirs = pyroomacoustics.ShoeBox(ours.room.size, fs=RATE, materials=materials, max_order=12, air_absorption=False)
    theirs.set_sound_speed(AIR.speed)
    theirs.add_source(ours.source)
    theirs.add_microphone(ours.head)
    theirs.compute_rir()
    late = pyroomacoustics.constants.get("frac_delay_length") // 2
    known = theirs.rir[0][0][late:]
    size = round(0.03 * RATE)
    spectra = [np.fft.rfft(one[:size]) for one in (found, known)]
    hertz = np.fft.rfftfreq(size, 1 / RATE)
    inside = (hertz > 200) & (hertz < 16_000)
    scale = np.vdot(spectra[1][inside], spectra[0][inside]) / np.vdot(spectra[1][inside], spectra[1][inside])
    left = spectra[0][inside] - scale * spectra[1][inside]
    assert np.linalg.norm(left) < 0.03 * np.linalg.norm(spectra[0][inside])
    assert np.abs(scale) == pytest.approx(1.0, abs=0.01)


def test_a_rooms_direct_sound_comes_when_and_as_loud_as_its_distance_says() -> None:
    deaf = RoomPath(Shoebox((40, 50, 30), (0.0,) * 6), (10, 30, 15), (11, 27, 15.5))
    found = deaf.impulse(MIDDLE, AIR, RANDOM, radius_m=0.0)
    hertz = np.array([100.0, 1000.0, 8000.0])
    at = np.exp(-2j * np.pi * hertz[:, None] / RATE * np.arange(found.size)) @ found
    expected = np.exp(-2j * np.pi * hertz * deaf.distance_m / AIR.speed) / deaf.distance_m
    assert at == pytest.approx(expected, rel=1e-3)


def test_a_loudspeaker_that_is_turned_falls_on_its_axis_as_a_piston_does() -> None:
    deaf = RoomPath(Shoebox((40, 50, 30), (0.0,) * 6), (10, 30, 15), (11, 27, 15))
    hertz = np.array([500.0, 2000.0, 6000.0])
    there = [deaf.impulse(MIDDLE, AIR, RANDOM, 0.06, degrees) for degrees in (0.0, 40.0)]
    levels = [np.exp(-2j * np.pi * hertz[:, None] / RATE * np.arange(one.size)) @ one for one in there]
    assert np.abs(levels[1] / levels[0]) == pytest.approx(np.abs(piston(hertz, 40.0, 0.06)), rel=1e-3)


def test_a_tube_between_two_reflecting_ends_rings_at_half_waves() -> None:
    tube = TubePath(0.022, (0.7, 0.6), bounce_hz=23_900.0)
    made = tube.impulse(MIDDLE, Air(RATE, RATE, 343.0, lead=64), RANDOM)
    hertz = np.linspace(2000, 18_000, 3201)
    level = np.abs(np.exp(-2j * np.pi * hertz[:, None] / RATE * np.arange(2000)) @ made[:2000])
    assert hertz[np.argmax(level)] == pytest.approx(343.0 / (2 * 0.022), rel=0.02)
    # Closed form of both ends: standing over falling wave, (1 + r1 r2) / (1 - r1 r2).
    assert level.max() / level.min() == pytest.approx((1 + 0.42) / (1 - 0.42), rel=0.05)


def test_what_the_chain_reads_in_a_tiny_space_is_the_truth_in_level_and_time() -> None:
    place = built("helmet")
    for rate in (48_000, 96_000):
        limits = MODELS["eight-by-twelve" if rate == 96_000 else "two-by-six"]
        processor = StandinProcessor(limits=limits)
        processor.write(4, OutputRegister(channel=Channel()))
        interface = StandinInterface(place, processor, InterfaceModel(noise_dbfs=-120, colours=False))
        sweep = exponential_sweep(SweepSettings())
        heard = np.concatenate(list(interface.play_and_record(sweep.samples, block=32_768)))
        shows = read_recording(heard[:, 0], heard[:, 1], RATE, True)
        grid = log_grid()
        full_scale = 20e-6 * 10 ** (interface.full_scale_db_spl / 20)
        inside = (grid > 150) & (grid < 12_000)
        ratio = shows.response[inside] / (place.cabin.truth(3, grid[inside]) / full_scale)
        assert np.abs(decibels(np.abs(ratio))).max() < 0.2
        assert np.abs(np.degrees(np.angle(ratio))).max() < 3.0


def test_every_place_seats_any_ready_system_and_its_own() -> None:
    systems = [make(one.ways) for one in READY]
    for key, one in shipped.SHIPPED.items():
        for layout in (one.layout(), *systems):
            place = shipped.make(key, wired(layout.drivers), layout.seat)
            assert len(place.cabin.seats) == len(place.motors) == len(layout.drivers)
            assert all(place.cabin.seats)
            assert all(place.motors)
            assert place.backwards is not None


def test_the_van_is_its_own_seven_for_its_own_system() -> None:
    own, place = van.cabin(), built("van")
    assert place.cabin.seats == own.seats
    assert place.motors == van.MOTORS
    assert np.array_equal(place.cabin.impulse(3), own.impulse(3))
    assert place.says == {
        "wrong_channel": "Mid L and Tweeter L hang on each other's outputs",
        "front_and_rear_exchanged": "Front and rear wires of the source are exchanged",
        "wired_backwards": "Mid L is wired backwards",
        "wires_exchanged": "Wires 1 and 2 of the source are exchanged",
        "wire_inverted": "Wire 2 of the source is inverted",
        "track_stops": "The source's track is stopped halfway",
        "chime": "A chime sounds while the source plays",
    }


def test_each_place_has_its_honest_defect() -> None:
    assert built("van").cabin.seat(2).wired_backwards
    hung = built("coach").wiring
    assert [hung[n].name for n in (11, 12)] == ["Rear R", "Rear L"]
    grid = np.array([60.0, 1000.0])
    levels = {n: decibels(built("helmet").cabin.truth(n, grid)) for n in (0, 1)}
    leaks = [levels[n][1] - levels[n][0] for n in (0, 1)]
    assert leaks[0] == pytest.approx(leaks[1] + decibels(np.hypot(1, helmet.LEAK_HZ / 60)), abs=1.0)
    buzzing = [one for one in built("room").cabin.seats if one and one.buzz]
    assert len(buzzing) == 1


def test_what_is_loose_rattles_once_it_swings_and_not_before() -> None:
    place = built("room")
    layout = room.layout()
    loose, sound = layout.driver("midbass-l").output, layout.driver("midbass-r").output

    def harmonics(output: int, hertz: float, level_db: float) -> float:
        """What lies above the fifth harmonic, under the tone, in dB."""
        stream = CabinStream(place.cabin, RATE)
        tone = 10 ** (level_db / 20) * np.sin(2 * np.pi * hertz * np.arange(RATE) / RATE)
        drive = np.zeros((RATE, len(layout.drivers)))
        drive[:, output - 1] = tone
        heard = stream.process(drive)[RATE // 2 :, 0]
        spectrum = np.abs(np.fft.rfft(heard * np.hanning(heard.size)))
        bins = np.fft.rfftfreq(heard.size, 1 / RATE)
        return float(decibels(np.linalg.norm(spectrum[bins > 5.5 * hertz]) / spectrum.max()))

    assert harmonics(loose, 128, -20) > harmonics(sound, 128, -20) + 20
    assert harmonics(loose, 128, -48) < harmonics(loose, 128, -20) - 15
    assert harmonics(loose, 700, -20) < harmonics(loose, 128, -20) - 15


def test_a_passive_part_joins_two_ways_behind_one_output() -> None:
    place = built("coach")
    output = coach.layout().driver("rear-midbass-l").output
    seat = place.cabin.seat(output - 1)
    assert seat.passive is not None
    grid = np.array([seat.driver.roll_off_hz * 4])
    alone = Cabin((Seat(seat.driver, seat.path),), gain_db=0)
    assert decibels(place.cabin.truth(output - 1, grid)) > decibels(alone.truth(0, grid)) + 10


@pytest.mark.parametrize("seed", range(12))
def test_drawn_vehicles_are_plausible_and_the_same_for_the_same_number(seed: int) -> None:
    layout = make(READY[seed % len(READY)].ways, "right" if seed % 2 else "left")
    place = drawn.place(seed, wired(layout.drivers), layout.seat)
    again = drawn.place(seed, wired(layout.drivers), layout.seat)
    assert place == again
    assert place != drawn.place(seed + 1, wired(layout.drivers), layout.seat)
    for driver in layout.drivers:
        seat = place.cabin.seat(driver.output - 1)
        assert isinstance(seat.path, ScatteredPath)
        assert seat.path.reflections[0][0] >= 0.1
        for extra, level_db, _ in seat.path.reflections:
            under = 20 * np.log10((seat.path.distance_m + extra) / seat.path.distance_m) - level_db
            assert 2.99 <= under <= 15.01
        low, high = drawn.RANGES[driver.kind].resonance_hz
        assert 0.94 * low <= seat.driver.resonance_hz <= 1.06 * high
    for kind in Kind:
        pair = [
            place.cabin.seat(one.output - 1) for one in layout.drivers if (one.group, one.kind) == (Group.FRONT, kind)
        ]
        if len(pair) == 2:
            assert pair[0].driver.resonance_hz == pytest.approx(pair[1].driver.resonance_hz, rel=0.11)
            assert pair[0].driver.sensitivity_db == pytest.approx(pair[1].driver.sensitivity_db, abs=1.7)
            assert pair[0] != pair[1]


def test_a_hand_that_is_not_steady_hears_another_spot_each_time() -> None:
    layout = van.layout()
    place = drawn.place(5, wired(layout.drivers), layout.seat)
    place.cabin.unsteady_m = 0.01
    processor = StandinProcessor()
    processor.write(6, OutputRegister(channel=Channel()))
    interface = StandinInterface(place, processor)
    pulse = np.zeros(8192)
    pulse[100] = 0.5
    first, second = (np.concatenate(list(interface.play_and_record(pulse)))[:, 0] for _ in range(2))
    assert np.abs(first - second).max() > 0.05 * np.abs(first).max()


def test_a_place_that_is_none_is_refused() -> None:
    for key in ("nowhere", "drawn-", "drawn-x", "drawn--3", "drawn-10000000", "drawn-٣"):
        with pytest.raises(NotHereError):
            shipped.make(key, wired(van.layout().drivers), "left")
    assert shipped.name("drawn-17") == "Vehicle drawn from number 17"
