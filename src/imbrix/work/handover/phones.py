"""Phones that may turn the customer's controls: let in by a code that is shown once and expires, and sent away again.

All of it is forgotten with the server: a phone is let in anew then.
"""

import hashlib
import secrets
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

from imbrix.core.errors import ConflictError, ImbrixError, NotHereError

LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Those that nobody takes for another."""
CODE_LETTERS = 8
CODE_S = 300.0
MOST_WRONG = 20
"""After so many wrong codes nobody is let in until a new code is made."""
MOST_PHONES = 8
PER_SECOND = 20
"""So many requests a second from one phone; no finger turns faster."""


class NotLetInError(ImbrixError):
    """Who asks has no leave; the message says why."""


class TooOftenError(ImbrixError):
    """Who asks asks too often."""


@dataclass
class Phone:
    """A phone that was let in, and when it asked last."""

    id: int
    name: str
    token: str
    """Its hash: the token itself is on the phone alone."""
    asked: deque[float] = field(default_factory=lambda: deque(maxlen=PER_SECOND))


@dataclass(frozen=True)
class Code:
    """A code and until when it holds, by the clock of `Phones`."""

    text: str
    until: float


class Phones:
    """Who has been let in. `clock` tells the seconds."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = threading.Lock()
        self._code: Code | None = None
        self._wrong = 0
        self._last = 0
        self._phones: dict[int, Phone] = {}

    def new_code(self) -> Code:
        """A code for one phone; the one before holds no longer, and wrong ones are forgotten."""
        with self._lock:
            text = "".join(secrets.choice(LETTERS) for _ in range(CODE_LETTERS))
            self._code, self._wrong = Code(text, self._clock() + CODE_S), 0
            return self._code

    def code(self) -> Code | None:
        """The code that holds now."""
        with self._lock:
            return self._held()

    def left_s(self) -> float:
        """How long it still holds, in seconds."""
        one = self.code()
        return 0.0 if one is None else one.until - self._clock()

    def _held(self) -> Code | None:
        if self._code is not None and (self._clock() >= self._code.until or self._wrong >= MOST_WRONG):
            self._code = None
        return self._code

    def let_in(self, code: str, name: str) -> str:
        """A token for a phone that knows the code, which holds no longer then. Raises NotLetInError, ConflictError."""
        with self._lock:
            held = self._held()
            if held is None or not secrets.compare_digest(code.upper().encode(), held.text.encode()):
                self._wrong += 1
                if self._wrong >= MOST_WRONG:
                    self._code = None
                    raise NotLetInError("too many wrong codes: ask for a new one")
                raise NotLetInError("this code does not hold: ask for a new one")
            if len(self._phones) >= MOST_PHONES:
                raise ConflictError(f"{MOST_PHONES} phones are in already: send one away first")
            self._code = None
            token = secrets.token_urlsafe(32)
            self._last += 1
            self._phones[self._last] = Phone(self._last, name.strip()[:40] or f"Phone {self._last}", _hash(token))
            return token

    def known(self, token: str) -> Phone:
        """The phone of a token, which asks now. Raises NotLetInError, TooOftenError."""
        hashed = _hash(token)
        with self._lock:
            one = next((each for each in self._phones.values() if secrets.compare_digest(each.token, hashed)), None)
            if one is None:
                raise NotLetInError("this phone is not let in")
            now = self._clock()
            if len(one.asked) == PER_SECOND and now - one.asked[0] < 1.0:
                raise TooOftenError("too often: a little slower")
            one.asked.append(now)
            return one

    def all(self) -> list[Phone]:
        """Those that are in."""
        with self._lock:
            return list(self._phones.values())

    def send_away(self, number: int) -> None:
        """Take a phone's leave back, at once. Raises NotHereError."""
        with self._lock:
            if self._phones.pop(number, None) is None:
                raise NotHereError(f"there is no phone {number}")

    def send_all_away(self) -> None:
        """Take the leave of all back, and the code."""
        with self._lock:
            self._phones.clear()
            self._code = None


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
