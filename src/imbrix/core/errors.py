"""The one tree of exceptions: what Imbrix itself has to say. Anything else that is raised is a bug.

Messages are for people: what is wrong, what it means, where that is known what to do. They begin with a small letter
and have no full stop, so that they can stand within a sentence.
"""


class ImbrixError(Exception):
    """The root. `str` of it is the message."""

    def __str__(self) -> str:
        return str(self.args[0]) if self.args else type(self).__name__


class NotHereError(ImbrixError, KeyError):
    """What was asked for does not exist; the message says what."""


class ConflictError(ImbrixError):
    """What was asked for cannot be done now; the message says why."""


class StaleError(ConflictError):
    """An edit was made on a revision that is no longer the present one, and does not fit what came after it.

    `changed` are lines that say what came in between.
    """

    def __init__(self, says: str, changed: tuple[str, ...] = ()) -> None:
        super().__init__(says)
        self.changed = changed


class StoppedError(ConflictError):
    """Somebody stopped it before it was done; nothing came of it."""


class RefusedError(ConflictError):
    """A processor refuses a setting; the message says what and why."""


class InvalidError(ImbrixError, ValueError):
    """A value that cannot be; the message says which and what can."""


class TooLoudError(InvalidError):
    """A level that would clip."""


class BadFileError(InvalidError):
    """A file that cannot be used; the message says what is wrong and where."""


class UnusableError(InvalidError):
    """A recording that no take can be made of; the message says what and what to try, `kind` names the cause."""

    def __init__(self, says: str, kind: str = "unusable") -> None:
        super().__init__(says)
        self.kind = kind


class DataFolderError(ImbrixError):
    """A data folder that cannot be opened; the message says what is wrong, what is safe, and what to do."""


class DeviceLostError(ImbrixError, OSError):
    """The device disappeared or stopped while it was playing; the message says what is known of it."""


class GapError(DeviceLostError):
    """Something is missing in what was played or recorded; the device is still there."""
