"""What the customer may turn, as it is kept with a project, and the headroom that it asks for."""

from imbrix.core.tune.controls import Controls, turned_up
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace


def controls(space: Workspace, slug: str) -> Controls | None:
    """What may be turned; None where nobody has said yet."""
    return documents.made(space, key(slug), _controls)


def _controls(found: Document | None) -> Controls | None:
    return stored(Controls, found, "the customer's controls") if found else None


def at_most(space: Workspace, slug: str, tune: Tune) -> Tune:
    """A tune with what the customer may turn up turned up, where that was said: what is to stay under full scale."""
    allowed = controls(space, slug)
    return tune if allowed is None else turned_up(tune, space.layout(slug), allowed)


def key(slug: str) -> str:
    """Where it is kept."""
    return f"customer:{slug}"
