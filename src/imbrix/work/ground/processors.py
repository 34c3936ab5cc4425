"""The processor of each project: its model, and the stand-in that runs it."""

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.predict.predict import Predictor
from imbrix.core.system.remarks import remarks
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.models import MODELS, STOCK
from imbrix.core.tune.tune import Tune
from imbrix.standins.processor import StandinProcessor
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace, lost_memory


def model(space: Workspace, slug: str) -> Limits:
    """The model of a project's processor; the stock one where none was chosen. Raises NotHereError."""
    space.layout(slug)
    return documents.made(space, f"processor:{slug}", _read)


def _read(found: Document | None) -> Limits:
    return STOCK if found is None else stored(Limits, found, "a model of a processor")


def processor(space: Workspace, slug: str) -> StandinProcessor:
    """The processor of a project. Projects for which none was chosen share the first one, as all did once."""
    wanted = model(space, slug)
    if documents.read(space, f"processor:{slug}") is None:
        return space.processor
    with space.lock:
        known = space.processors.get(slug)
        if known is None or known.limits != wanted:
            known = space.processors[slug] = StandinProcessor(space.folder / f"processor-{slug}.json", wanted)
            space.notice = lost_memory(known) or space.notice
        return known


def in_use(space: Workspace) -> tuple[str, StandinProcessor]:
    """The processor that the sound runs through now, and the project that has it; empty for the shared one."""
    for slug, one in space.processors.items():
        if one is space.standin.processor:
            return slug, one
    return "", space.processor


def playable(space: Workspace, slug: str, tune: Tune) -> Tune:
    """A tune as a project's processor can play it: a guard, say, with the nearest slope that it has."""
    return model(space, slug).fitted(tune)


def predictor(space: Workspace, slug: str) -> Predictor:
    """What predicts a channel's response through a project's processor."""
    return space.predictor_at(model(space, slug).rate)


def models(space: Workspace) -> dict[str, Limits]:
    """All models by key: those that ship, and a person's own, keyed `own-N`."""
    return {**MODELS, **documents.made(space, "models", _own)}


def _own(found: Document | None) -> dict[str, Limits]:
    return {key: stored(Limits, value, "a model of a processor") for key, value in (found or {}).items()}


def one_model(space: Workspace, key: str) -> Limits:
    """A model by its key. Raises NotHereError."""
    found = models(space).get(key)
    if found is None:
        raise NotHereError(f"there is no processor model {key!r}")
    return found


def key_of(space: Workspace, slug: str) -> str:
    """The key of a project's model; empty where it is no longer among them."""
    wanted = model(space, slug)
    return next((key for key, one in models(space).items() if one == wanted), "")


def add(space: Workspace, wanted: Limits) -> str:
    """Keep a model of a person's own; returns its key, the one it has already where it is the same."""
    for key, one in models(space).items():
        if one == wanted:
            return key
    made: list[str] = []

    def put(known: Document) -> Document:
        made.append(next(key for n in range(1, len(known) + 2) if (key := f"own-{n}") not in known))
        return {**known, made[0]: wanted.model_dump(mode="json")}

    documents.change(space, "models", put)
    return made[0]


def remove(space: Workspace, key: str) -> None:
    """Forget a model of a person's own; projects that have it keep it. Raises NotHereError, ConflictError."""
    one_model(space, key)
    if key in MODELS:
        raise ConflictError("this model ships with the program")
    documents.change(space, "models", lambda known: {name: one for name, one in known.items() if name != key})


def choose(space: Workspace, slug: str, key: str) -> None:
    """Give a project another model of processor, with nothing in its memory.

    The tune stays as it is; what of it does not fit is said by `Limits.refusals`. Raises NotHereError, and
    ConflictError where the system has drivers on outputs that the model does not have or while something is recorded.
    """
    wanted = one_model(space, key)
    if wanted == model(space, slug):
        return
    with space.idle("a recording is running: change the processor when it has ended"), space.lock:
        barred = [one.says for one in remarks(space.layout(slug), wanted.outputs) if one.bars]
        if barred:
            raise ConflictError(f"{wanted.name}: {'; '.join(barred)}")
        give(space, slug, wanted)
    space.changed()


def give(space: Workspace, slug: str, wanted: Limits) -> None:
    """Let a project have a processor of its own, fresh from the box."""
    with space.lock:
        if space.standin.processor is space.processors.pop(slug, None):
            space.standin.connect(space.processor)  # what was taken away sounds no more
        (space.folder / f"processor-{slug}.json").unlink(missing_ok=True)
        documents.write(space, f"processor:{slug}", wanted.model_dump(mode="json"))
