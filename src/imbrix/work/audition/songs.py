"""The music that a person listens to: files of one's own, kept in the data folder, and two pieces that ship."""

import io
import re
import secrets
from pathlib import Path

import numpy as np
import soundfile
import soxr

from imbrix.core.audition.match import spectrum
from imbrix.core.errors import BadFileError, ConflictError, NotHereError
from imbrix.core.measure.stimuli import faded, shaped_noise
from imbrix.core.signal.signal import FloatArray
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace

MOST_BYTES, MOST_SECONDS, MOST_SONGS = 64_000_000, 480.0, 100
MOST_SAMPLES = 100_000_000
"""Of all channels: eight minutes of two at 96 kHz. A packed file of little size may hold many times more."""
FULL_DBFS = -3.0
"""The peak that every piece is brought to: how loud it plays is said by the level."""
SHIPPED_S, SHIPPED_RATE = 12.0, 48_000
KEY = "songs"
PIECES: Drawer[tuple[int, int], FloatArray] = Drawer("music", 1)
SPECTRA: Drawer[int, FloatArray] = Drawer("spectra of music", 64)


class Song(Value):
    """A piece of music by its number; those from 1 are a person's own."""

    id: int
    name: str
    seconds: float


PINK = Song(id=-1, name="Pink noise, both sides alike", seconds=SHIPPED_S)
PLUCKED = Song(id=-2, name="Plucked strings from left to right", seconds=SHIPPED_S)


def songs(space: Workspace) -> tuple[Song, ...]:
    """All pieces: one's own first, in the order in which they were brought, then those that ship."""
    return (*documents.made(space, KEY, _own), PLUCKED, PINK)


def song(space: Workspace, number: int) -> Song:
    """A piece by its number. Raises NotHereError."""
    for one in songs(space):
        if one.id == number:
            return one
    raise NotHereError(f"there is no piece of music {number}")


def bring(space: Workspace, data: bytes, name: str) -> Song:
    """Keep a file of one's own: WAV, FLAC, Ogg or what else libsndfile reads. Raises BadFileError, ConflictError."""
    if len(data) > MOST_BYTES:
        raise BadFileError(f"the file has {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are taken")
    try:
        with soundfile.SoundFile(io.BytesIO(data)) as sound:
            if not 8000 <= sound.samplerate <= 384_000 or not 1 <= sound.channels <= 8:
                raise BadFileError(f"{sound.channels} channels at {sound.samplerate} Hz: this is no music")
            if sound.frames > MOST_SECONDS * sound.samplerate:
                raise BadFileError(f"the piece is longer than the {MOST_SECONDS / 60:.0f} minutes that are taken")
            if sound.frames * sound.channels > MOST_SAMPLES:
                raise BadFileError(
                    f"{sound.frames / sound.samplerate:.0f} s of {sound.channels} channels at {sound.samplerate} Hz "
                    "are more than is read here: two channels at 48 or 96 kHz are enough"
                )
            samples, rate = sound.read(dtype="float32", always_2d=True), int(sound.samplerate)
    except soundfile.LibsndfileError as error:
        raise BadFileError(f"this cannot be read as music: {error.error_string.rstrip('.')}") from None
    if samples.shape[0] < rate or not np.isfinite(samples).all() or not np.abs(samples).max() > 0:
        raise BadFileError("the piece is silent, damaged, or shorter than a second")
    two = samples[:, :2] if samples.shape[1] > 1 else np.repeat(samples, 2, axis=1)
    # The file first, and without holding anybody up: a name without one would be a piece that cannot be played.
    path = _folder(space) / f"{secrets.token_hex(8)}.flac"
    path.parent.mkdir(exist_ok=True)
    # Packed in memory: libsndfile does not tell a full disk from other faults.
    packed = io.BytesIO()
    loud = two / np.abs(two).max() * 10 ** (FULL_DBFS / 20)
    soundfile.write(packed, loud, rate, format="FLAC", subtype="PCM_24")
    kept: list[Song] = []

    def change(now: Document) -> Document:
        known = list(now.get("songs", []))
        if len(known) >= MOST_SONGS:
            raise ConflictError(f"there are {MOST_SONGS} pieces already: take one away first")
        number = int(now.get("last", 0)) + 1
        kept.append(Song(id=number, name=_clean(name), seconds=round(two.shape[0] / rate, 6)))
        return {"last": number, "songs": [*known, {**kept[-1].model_dump(), "file": path.name}]}

    try:
        path.write_bytes(packed.getbuffer())
        documents.change(space, KEY, change)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return kept[-1]


def take_away(space: Workspace, number: int) -> None:
    """Take a piece of one's own off the list, and its file with it. Raises NotHereError."""
    if song(space, number).id < 1:
        raise NotHereError("the pieces that ship stay")
    path = _path(space, number)
    documents.change(
        space, KEY, lambda now: {**now, "songs": [one for one in now.get("songs", []) if one["id"] != number]}
    )
    path.unlink(missing_ok=True)


def samples(space: Workspace, number: int, rate: int) -> FloatArray:
    """A piece as samples (n, 2) at a rate. Raises NotHereError, BadFileError where its file is gone."""
    wanted = song(space, number)
    return space.memory.of(PIECES, (wanted.id, rate), lambda: _read(space, wanted, rate))


def spectrum_of(space: Workspace, number: int) -> FloatArray:
    """The power of a piece (n,) on the grid of the workspace."""
    return space.memory.of(
        SPECTRA, number, lambda: spectrum(samples(space, number, SHIPPED_RATE), SHIPPED_RATE, space.grid)
    )


def _read(space: Workspace, wanted: Song, rate: int) -> FloatArray:
    if wanted.id == PINK.id:
        return _pink(rate)
    if wanted.id == PLUCKED.id:
        return _plucked(rate)
    try:
        found, own = soundfile.read(_path(space, wanted.id), dtype="float32", always_2d=True)
    except (OSError, soundfile.LibsndfileError):
        raise BadFileError(f"the file of {wanted.name!r} cannot be read any more: bring it again") from None
    return found if own == rate else np.asarray(soxr.resample(found, own, rate, quality="HQ"))


def _pink(rate: int) -> FloatArray:
    noise = shaped_noise(round(SHIPPED_S * rate), rate, -18.0, channels=2)
    return faded(noise[:, 0], rate, 0.05)[:, None] * np.ones((1, 2))


def _plucked(rate: int) -> FloatArray:
    """Strings plucked one after another, from low on the left to high on the right and back.

    A string is a delay whose ends lose their treble (K. Karplus and A. Strong, Computer Music Journal 7, 1983).
    """
    semitones = [0, 7, 12, 16, 19, 24, 28, 31, 36, 31, 28, 24, 19, 16, 12, 7] * 2
    notes = {one: _string(65.406 * 2 ** (one / 12), rate, seed=one) for one in set(semitones)}
    out = np.zeros((round(SHIPPED_S * rate), 2))
    for n, semitone in enumerate(semitones):
        first = round(n * SHIPPED_S / len(semitones) * rate)
        note = notes[semitone][: out.shape[0] - first]
        side = (semitone / 36 - 0.5) * np.pi / 2 + np.pi / 4
        out[first : first + note.size] += note[:, None] * np.array([np.cos(side), np.sin(side)])
    fade = round(0.05 * rate)
    out[-fade:] *= np.linspace(1, 0, fade)[:, None]
    return np.asarray(out / np.abs(out).max() * 10 ** (FULL_DBFS / 20))


def _string(hertz: float, rate: int, seed: int) -> FloatArray:
    """A string that rings for two seconds (n,)."""
    length, ring = round(rate / hertz), round(2.0 * rate)
    string = np.random.default_rng(seed).uniform(-1, 1, length)
    periods = []
    for _ in range(ring // length + 1):
        periods.append(string)
        string = 0.498 * (string + np.roll(string, 1))
    return np.concatenate(periods)[:ring]


def _clean(name: str) -> str:
    """A file's name as the name of a piece."""
    plain = re.sub(r"\.[A-Za-z0-9]{2,4}$", "", name).strip()
    return plain[:80] or "Untitled"


def _own(found: Document | None) -> tuple[Song, ...]:
    return tuple(Song(id=one["id"], name=one["name"], seconds=one["seconds"]) for one in (found or {}).get("songs", []))


def _path(space: Workspace, number: int) -> Path:
    """The file of a piece of one's own."""
    known = (documents.read(space, KEY) or {}).get("songs", [])
    return _folder(space) / next(one["file"] for one in known if one["id"] == number)


def _folder(space: Workspace) -> Path:
    return space.folder / "music"
