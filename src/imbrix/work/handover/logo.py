"""The logo that stands on reports: one for all projects of a data folder."""

import base64

from imbrix.core.errors import BadFileError, NotHereError
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace

MOST_BYTES = 300_000
MOST_PIXELS = 4000
KINDS = {b"\x89PNG\r\n\x1a\n": "image/png", b"\xff\xd8\xff": "image/jpeg"}
"""What a file of each kind begins with."""
KEY = "logo"


def bring(space: Workspace, data: bytes) -> None:
    """Keep a picture as the logo, in the place of the one before. Raises BadFileError."""
    kind = next((kind for begins, kind in KINDS.items() if data.startswith(begins)), None)
    if kind is None:
        raise BadFileError("a logo is a PNG or a JPEG picture: this file begins like neither")
    if len(data) > MOST_BYTES:
        raise BadFileError(f"the picture has {len(data) / 1e3:.0f} kB; at most {MOST_BYTES / 1e3:.0f} kB are taken")
    if kind == "image/png":
        if len(data) < 24 or data[12:16] != b"IHDR":
            raise BadFileError("this PNG is cut off before its size")
        wide, high = (int.from_bytes(data[at : at + 4], "big") for at in (16, 20))
        if not (0 < wide <= MOST_PIXELS and 0 < high <= MOST_PIXELS):
            raise BadFileError(f"a picture of {wide} by {high} pixels; at most {MOST_PIXELS} each way are taken")
    documents.write(space, KEY, {"kind": kind, "data": base64.b64encode(data).decode()})


def remove(space: Workspace) -> None:
    """Report without one from now on."""
    documents.remove(space, KEY)


def logo(space: Workspace) -> tuple[bytes, str]:
    """The picture and its media type. Raises NotHereError."""
    found = documents.read(space, KEY)
    if found is None:
        raise NotHereError("there is no logo")
    return base64.b64decode(found["data"]), found["kind"]


def uri(space: Workspace) -> str:
    """The picture for a page that has to stand alone; empty without one."""
    found = documents.read(space, KEY)
    return f"data:{found['kind']};base64,{found['data']}" if found else ""
