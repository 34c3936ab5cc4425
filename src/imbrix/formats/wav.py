"""WAV files in and out (RIFF WAVE, by libsndfile), other sample rates converted by soxr."""

import io

import numpy as np
import soundfile
import soxr

from imbrix.core.errors import BadFileError
from imbrix.core.signal.signal import FloatArray

MOST_BYTES = 64_000_000
MOST_SECONDS = 120.0
AFTER_SAMPLES = (b"LIST", b"bext", b"id3 ", b"cue ", b"iXML", b"fact", b"JUNK")
MOST_PEAK = 1e6
"""So many times full scale (120 dB over it) no file holds that means sound."""


def read_wav(data: bytes, rate: int) -> FloatArray:
    """Samples (n, channels) at `rate`, converted where the file has another rate. Raises BadFileError."""
    samples, found = read_wav_as_it_is(data)
    if found != rate:
        count = len(samples)
        samples = np.asarray(soxr.resample(samples, found, rate, quality="VHQ"))
        if len(samples) == 0:
            raise BadFileError(f"the sound lasts {1e6 * count / found:.1f} us: less than a sample at {rate} Hz")
    return samples


def read_wav_as_it_is(data: bytes) -> tuple[FloatArray, int]:
    """Samples (n, channels) and their sample rate in hertz. Raises BadFileError."""
    if len(data) > MOST_BYTES:
        raise BadFileError(f"the file has {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are taken")
    if len(data) < 44 or data[:4] not in (b"RIFF", b"RIFX", b"RF64") or data[8:12] != b"WAVE":
        raise BadFileError("this is not a WAV file: it does not begin with a RIFF WAVE header")
    try:
        with soundfile.SoundFile(io.BytesIO(_closed(data))) as sound:
            if not 8000 <= sound.samplerate <= 384_000:
                raise BadFileError(f"a sample rate of {sound.samplerate} Hz; 8000 to 384000 are taken")
            if sound.channels > 8:
                raise BadFileError(f"{sound.channels} channels; at most 8 are taken")
            if sound.frames / sound.samplerate > MOST_SECONDS:
                raise BadFileError(
                    f"the recording lasts {sound.frames / sound.samplerate:.0f} s; "
                    f"at most {MOST_SECONDS:.0f} s are taken"
                )
            samples = sound.read(dtype="float64", always_2d=True)
            found = sound.samplerate
    except soundfile.LibsndfileError as error:
        raise BadFileError(f"this WAV file cannot be read: {error.error_string.rstrip('.')}") from None
    if samples.shape[0] == 0:
        raise BadFileError("the WAV file holds no samples")
    if not np.isfinite(samples).all():
        first = int(np.argmin(np.isfinite(samples).all(axis=1)))
        raise BadFileError(f"sample {first + 1} is not a number: the file is damaged")
    if np.abs(samples).max() > MOST_PEAK:
        raise BadFileError(f"a sample of {np.abs(samples).max():.1g} times full scale: the file is damaged")
    return np.asarray(samples), int(found)


def _closed(data: bytes) -> bytes:
    """A file with the size of its samples put in, where a recorder that was cut off left it open: 0, or all ones."""
    at = 12
    while at + 8 <= len(data) and data[:4] == b"RIFF":
        name, size = data[at : at + 4], int.from_bytes(data[at + 4 : at + 8], "little")
        after = at + 8
        if name == b"data":
            left = len(data) - after
            open_end = size > left or (size == 0 and data[after : after + 4] not in AFTER_SAMPLES)
            if not open_end or left <= 0:
                return data
            sizes = (len(data) - 8).to_bytes(4, "little"), left.to_bytes(4, "little")
            return data[:4] + sizes[0] + data[8 : at + 4] + sizes[1] + data[after:]
        at = after + size + size % 2
    return data


def write_wav(samples: FloatArray, rate: int, subtype: str = "PCM_24") -> bytes:
    """Samples (n,) or (n, channels) as WAV; `subtype` FLOAT keeps values beyond full scale."""
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype=subtype)
    return out.getvalue()
