"""The customer's controls: what may be turned, how it stands, and turning it."""

from imbrix.core.errors import ConflictError
from imbrix.core.tune.controls import Controls, Remote, Turned, bass_of, within
from imbrix.work.ground import documents, processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import slots
from imbrix.work.processor.controls import controls, key
from imbrix.work.processor.link import put_aside


def allow(space: Workspace, slug: str, wanted: Controls) -> None:
    """Say what may be turned; what is turned further comes back to its end. Raises NotHereError, ConflictError."""
    space.layout(slug)
    _free(space, slug)
    documents.write(space, key(slug), wanted.model_dump(mode="json"))
    turn(space, slug, turned(space, slug))


def allowed_of(space: Workspace, slug: str) -> Controls:
    """What may be turned; where nobody has said, what is offered at first."""
    return controls(space, slug) or Controls()


def turned(space: Workspace, slug: str) -> Turned:
    """How the controls stand."""
    return processors.processor(space, slug).remote.turned


def turn(space: Workspace, slug: str, wanted: Turned) -> Turned:
    """Turn the controls, as far as they may be; where they stand then. Raises ConflictError while a take runs."""
    _free(space, slug)
    layout, allowed = space.layout(slug), allowed_of(space, slug)
    stands = within(wanted, allowed)
    outputs = tuple(layout.driver(name).output for name in bass_of(layout))
    processors.processor(space, slug).turn(Remote(turned=stands, bass_outputs=outputs, lift_hz=allowed.lift_hz))
    return stands


def _free(space: Workspace, slug: str) -> None:
    if put_aside(space, slug).outputs:
        raise ConflictError("a take is being recorded: turn it when that has ended")


def load(space: Workspace, slug: str, slot: int) -> None:
    """Load a slot; the controls stay where they are. Raises ConflictError where slots are not the customer's."""
    if not allowed_of(space, slug).slots:
        raise ConflictError("slots are not to be changed from here")
    before = turned(space, slug)
    slots.recall(space, slug, slot)
    turn(space, slug, before)
