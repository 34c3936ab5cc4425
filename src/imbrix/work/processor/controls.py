"""What the customer may turn, as it is kept with a project."""

from imbrix.core.tune.controls import Controls
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace


def controls(space: Workspace, slug: str) -> Controls | None:
    """What may be turned; None where nobody has said yet."""
    return documents.made(space, key(slug), _controls)


def _controls(found: Document | None) -> Controls | None:
    return stored(Controls, found, "the customer's controls") if found else None


def key(slug: str) -> str:
    """Where it is kept."""
    return f"customer:{slug}"
