"""Complex prediction: what channels, sides and the whole will do with a tune.

Curves of a system stack into one (channels, frequencies) array; a sum is one line of numpy. The digital
filter is evaluated, not its analogue parent, so the drawing is true up to half the sample rate.
"""

from collections.abc import Iterable

import numpy as np

from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.tune.lower import delay_samples, factor, fed, filters, taps_of
from imbrix.core.tune.tune import Band, Channel, Tune

Key = tuple[Channel, tuple[Band, ...]]
_BLOCK = 64
_NOTHING = np.array([1.0, 0, 0, 1.0, 0, 0])


class Predictor:
    """Responses of channel settings on fixed `frequencies` (n,) for a processor at `rate`.

    Remembers the channels it has seen: when one changes, only that one is computed.
    """

    def __init__(self, frequencies: FloatArray, rate: int, remember: int = 512) -> None:
        angle = 2.0 * np.pi * frequencies / rate
        self.frequencies = frequencies
        self.rate = rate
        self._cosine = np.cos(angle)
        self._sine = np.sin(angle)
        self._exponent = -1j * angle
        self._seen: dict[Key, ComplexArray] = {}
        self._remember = remember
        self._turns = np.exp(np.outer(self._exponent, np.arange(_BLOCK)))

    def taps(self, values: FloatArray) -> ComplexArray:
        """Response (n,) of FIR taps (t,).

        In blocks of 64, each a product with the same turns: the sum of a polynomial's pieces (W. G. Horner 1819).
        """
        blocks = -(-values.size // _BLOCK)
        padded = np.zeros(blocks * _BLOCK)
        padded[: values.size] = values
        pieces = self._turns @ padded.reshape(blocks, _BLOCK).T
        on = np.exp(_BLOCK * self._exponent)
        total = np.zeros(self.frequencies.size, dtype=complex)
        for n in range(blocks - 1, -1, -1):
            total = total * on + pieces[:, n]
        return total

    def sections(self, sos: np.ndarray) -> ComplexArray:
        """Response (c, n) of stacks of sections (c, s, 6).

        c0 + c1 z^-1 + c2 z^-2 = z^-1 ((c0 + c2) cos w + c1 + j (c0 - c2) sin w) on the unit circle; the factors
        z^-1 of numerator and denominator cancel, which leaves real products only.
        """
        return self._product(sos[..., :3]) / self._product(sos[..., 3:])

    def _product(self, coefficients: np.ndarray) -> ComplexArray:
        """Product over the sections (c, s, 3) of their polynomials (c, n): a few at a time, to stay in the cache."""
        count, deep, _ = coefficients.shape
        some = max(1, 16 // count)
        total: ComplexArray | None = None
        for first in range(0, deep, some):
            part = coefficients[:, first : first + some, :, None]
            c0, c1, c2 = part[:, :, 0], part[:, :, 1], part[:, :, 2]
            factors = np.empty((*c0.shape[:2], self.frequencies.size), dtype=complex)
            np.multiply(c0 + c2, self._cosine, out=factors.real)
            factors.real += c1
            np.multiply(c0 - c2, self._sine, out=factors.imag)
            piece = np.multiply.reduce(factors, axis=1)
            total = piece if total is None else np.multiply(total, piece, out=total)
        assert total is not None
        return total

    def channels(self, wanted: Iterable[Channel], common: tuple[Band, ...] = ()) -> ComplexArray:
        """Responses (c, n) of channels with filters, gain, polarity and delay; muting is left to the sum."""
        keys = [(channel, common) for channel in wanted]
        rows = [self._seen.get(key) for key in keys]  # hashing a channel is dear: once for each
        missing = [n for n, row in enumerate(rows) if row is None]
        if missing:
            if len(self._seen) > self._remember:
                self._seen.clear()
            computed = self._compute([keys[n] for n in missing])
            for n, row in zip(missing, computed, strict=True):
                rows[n] = self._seen[keys[n]] = row
        return np.array(rows, dtype=complex).reshape(len(keys), self.frequencies.size)

    def channel(self, channel: Channel, common: tuple[Band, ...] = ()) -> ComplexArray:
        """Response (n,) of one channel."""
        return self.channels([channel], common)[0]

    def through(self, tune: Tune, names: Iterable[str]) -> ComplexArray:
        """Responses (c, n) from what is played into all inputs alike to the outputs of the channels named."""
        names = list(names)
        responses = self.channels([tune.channels[name] for name in names], tune.common)
        for row, name in zip(responses, names, strict=True):
            feeds = fed(tune, name)
            if feeds:
                row *= sum(amount * self.channel(one.channel) for amount, one in feeds)
        return responses

    def _compute(self, keys: list[Key]) -> ComplexArray:
        rows = [filters(channel, common, self.rate) for channel, common in keys]
        deep = max(1, *(len(row) for row in rows))
        sos = np.empty((len(keys), deep, 6))
        sos[:] = _NOTHING
        for stack, row in zip(sos, rows, strict=True):
            if row:
                stack[: len(row)] = row
        delays = np.array([delay_samples(channel, self.rate) for channel, _ in keys], dtype=float)
        factors = np.array([factor(channel) for channel, _ in keys])
        responses = self.sections(sos)
        responses *= factors[:, None]
        if delays.any():
            responses *= np.exp(delays[:, None] * self._exponent)
        for row, (channel, _) in zip(responses, keys, strict=True):
            taps = taps_of(channel, self.rate)
            if taps.size:
                row *= self.taps(taps)
        return responses


def combine(responses: ComplexArray, audible: Iterable[bool]) -> ComplexArray:
    """The complex sum (n,) of those rows of (c, n) that are audible."""
    return np.asarray(list(audible), dtype=float) @ responses
