"""A project as one file: a zip of JSON documents and NumPy arrays, and a manifest that says what it holds.

Written as a stream, its manifest last. What is read is believed in nothing: names, sizes and sums are checked before
a member is used. `docs/formats.md` describes what stands in it.
"""

import ast
import hashlib
import io
import json
import re
import zipfile
import zlib
from collections.abc import Iterator
from typing import Any, BinaryIO

import numpy as np
from pydantic import Field, ValidationError

from imbrix.core.errors import BadFileError
from imbrix.core.value import Value

FORMAT = "imbrix project"
VERSION = 1
MANIFEST = "manifest.json"
ARRAY = re.compile(r"takes/(\d{1,9})/([a-z]{1,20})\.npy")
DOCUMENTS = ("project.json", "revisions.json", "takes.json", "targets.json", "corrections.json", "documents.json")
MOST_MEMBERS = 40_000
MOST_DOCUMENT_BYTES, MOST_ARRAY_BYTES = 64_000_000, 120_000_000
MOST_SAMPLE = 1e9
"""No sample, ratio or ohm that is kept is larger."""
HEADER = re.compile(rb"\x93NUMPY\x01\x00")


class Member(Value):
    """Size and sum of a member."""

    bytes: int = Field(ge=0, le=MOST_ARRAY_BYTES)
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class Manifest(Value):
    """What a file says it is and holds. `sound` is whether takes have their raw sound."""

    format: str
    version: int = Field(ge=1, le=1_000_000)
    program: str = Field(default="", max_length=40)
    sound: bool = True
    members: dict[str, Member] = Field(max_length=MOST_MEMBERS)


class _Stream(io.RawIOBase):
    """What a zip is written to: keeps what was written until it is taken."""

    def __init__(self) -> None:
        self._pieces: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._pieces.append(bytes(data))
        return len(data)

    def take(self) -> bytes:
        pieces, self._pieces = b"".join(self._pieces), []
        return pieces


def written(members: Iterator[tuple[str, bytes]], program: str, sound: bool = True) -> Iterator[bytes]:
    """The file piece by piece, from its members' names and contents; none is held longer than it takes to write it."""
    stream = _Stream()
    known: dict[str, Member] = {}
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as package:
        for name, content in members:
            # Samples pack badly: it would take three times as long and save a third.
            kind = zipfile.ZIP_STORED if name.endswith(".npy") else zipfile.ZIP_DEFLATED
            package.writestr(name, content, kind)
            known[name] = Member(bytes=len(content), sha256=hashlib.sha256(content).hexdigest())
            yield stream.take()
        manifest = Manifest(format=FORMAT, version=VERSION, program=program, sound=sound, members=known)
        package.writestr(MANIFEST, manifest.model_dump_json(indent=1))
    yield stream.take()


def document(value: object) -> bytes:
    """A JSON document as a member's content."""
    return json.dumps(value, ensure_ascii=False, allow_nan=False, indent=1).encode()


class ProjectFile:
    """A file that was brought, with its manifest read. Raises BadFileError for one that is none, or not whole."""

    def __init__(self, file: BinaryIO) -> None:
        try:
            self._zip = zipfile.ZipFile(file)
        except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
            raise BadFileError(f"this is not a project file, or its end is missing: {error}") from None
        names = [one.filename for one in self._zip.infolist()]
        if len(names) > MOST_MEMBERS or len(set(names)) < len(names):
            raise BadFileError("this is not a project file: it has too many members, or two of one name")
        self.manifest = self._manifest()
        missing = [name for name in (*DOCUMENTS, *self.manifest.members) if name not in names]
        if missing:
            raise BadFileError(f"the project file is not whole: {missing[0]} is missing")
        strange = [name for name in self.manifest.members if name not in DOCUMENTS and not ARRAY.fullmatch(name)]
        if strange:
            raise BadFileError(f"the project file holds something that belongs to no project: {strange[0][:60]!r}")

    def _manifest(self) -> Manifest:
        try:
            content = json.loads(self._content(MANIFEST, MOST_DOCUMENT_BYTES))
        except (KeyError, ValueError, RecursionError):
            raise BadFileError("this is not a project file: it has no manifest that can be read") from None
        if not isinstance(content, dict) or content.get("format") != FORMAT:
            raise BadFileError("this is not a project file: its manifest says so")
        version = content.get("version")
        if isinstance(version, int) and version > VERSION:
            raise BadFileError(
                f"the project file is of version {version}, this Imbrix reads up to {VERSION}: open it with a newer one"
            )
        try:
            return Manifest.model_validate(content)
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in first["loc"])
            raise BadFileError(f"the manifest of the project file is damaged ({where}: {first['msg']})") from None

    def _content(self, name: str, most: int) -> bytes:
        try:
            if self._zip.getinfo(name).file_size > most:
                raise BadFileError(f"{name} of the project file is larger than {most / 1e6:.0f} MB")
            with self._zip.open(name) as member:
                return member.read(most + 1)
        except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError) as error:
            raise BadFileError(f"{name} of the project file is damaged: {error}") from None

    def content(self, name: str) -> bytes:
        """A member as it was written. Raises BadFileError where its size or sum is another."""
        said = self.manifest.members.get(name)
        if said is None:
            raise BadFileError(f"the project file is not whole: {name} is missing")
        content = self._content(name, MOST_ARRAY_BYTES if name.endswith(".npy") else MOST_DOCUMENT_BYTES)
        if len(content) != said.bytes or hashlib.sha256(content).hexdigest() != said.sha256:
            raise BadFileError(f"{name} of the project file was changed after it was written")
        return content

    def document(self, name: str) -> Any:
        """A JSON document. Raises BadFileError."""

        def no(constant: str) -> None:
            raise ValueError(f"{constant} is no number here")

        try:
            return json.loads(self.content(name), parse_constant=no)
        except (ValueError, RecursionError) as error:
            raise BadFileError(f"{name} of the project file cannot be read: {error}") from None

    def arrays(self) -> list[tuple[int, str, str]]:
        """Take, role and member's name of every array."""
        found = ((ARRAY.fullmatch(name), name) for name in self.manifest.members)
        return [(int(match[1]), match[2], name) for match, name in found if match]

    def array(self, name: str) -> bytes:
        """An array (float32, one or two dimensions) as NumPy's own format holds it. Raises BadFileError."""
        content = self.content(name)
        values = _samples(content)
        if values is None:
            raise BadFileError(f"{name} of the project file is no array of samples")
        with np.errstate(invalid="ignore"):
            if np.isinf(values).any() or (np.abs(values) > MOST_SAMPLE).any():
                raise BadFileError(f"{name} of the project file holds values that no measurement has")
        return content


def _samples(content: bytes) -> np.ndarray | None:
    """The values of an array in NumPy's format, version 1.0, read without trust in what its head says; None where it
    is none of ours."""
    if not HEADER.match(content) or len(content) < 10:
        return None
    begin = 10 + int.from_bytes(content[8:10], "little")
    try:
        head = ast.literal_eval(content[10:begin].decode("latin-1"))
        shape = head["shape"]
        plain = head["descr"] == "<f4" and head["fortran_order"] is False and len(shape) in (1, 2)
    except (ValueError, SyntaxError, KeyError, TypeError, MemoryError, RecursionError):
        return None
    if not plain or any(not isinstance(one, int) or one < 1 for one in shape):
        return None
    size = int(np.prod([float(one) for one in shape]))
    if len(content) - begin != 4 * size:
        return None
    return np.frombuffer(content, "<f4", offset=begin)
