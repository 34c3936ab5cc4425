"""The latency of a project's chain, and the budget that it is held against."""

from imbrix.core.align.latency import Budget, Latency, latencies
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents, processors
from imbrix.work.ground.workspace import Workspace


def budget(space: Workspace, slug: str) -> Budget:
    """What the chain of a project may take: anything, where nothing else is said."""
    kept = documents.read(space, f"latency:{slug}") or {}
    found: Budget = kept.get("budget", "none")
    return found


def set_budget(space: Workspace, slug: str, wanted: Budget) -> None:
    """Choose a budget. Raises NotHereError."""
    space.layout(slug)
    documents.write(space, f"latency:{slug}", {"budget": wanted})


def chain(space: Workspace, slug: str, tune: Tune) -> list[Latency]:
    """What each channel takes, the longest first."""
    model = processors.model(space, slug)
    names = [one.id for one in space.layout(slug).drivers]
    found = latencies(space.predictor_at(model.rate), tune, names, model.latency_s)
    return sorted(found, key=lambda one: -one.total_s)
