"""Ready routes: which feeds each channel hears, by what the inputs are for."""

from typing import Literal

from imbrix.core.errors import ConflictError
from imbrix.core.system.layout import Driver, Group, Side
from imbrix.core.tune.edits import Edit, SetSources
from imbrix.core.tune.routing import sources
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.source.feeds import Meant, meant

Route = Literal["sides", "front-only", "bass-all", "mono"]
SAYS: dict[Route, str] = {
    "sides": "Front and rear each hear their own side; what is mono hears both fronts, level kept",
    "front-only": "Everything hears the front: left its left, right its right, mono both, level kept",
    "bass-all": "As each its own side, and subs hear front and rear, level kept",
    "mono": "Everything hears left and right of the front, level kept",
}


def route(space: Workspace, slug: str, key: Route) -> list[Edit]:
    """The edits of a ready route. Raises ConflictError where a feed that it needs is not among the inputs."""
    numbers = {(one.group, one.side): number for number, one in reversed(meant(space, slug).items())}
    return [
        SetSources(channel=driver.id, inputs=_inputs(driver, key, numbers)) for driver in space.layout(slug).drivers
    ]


def _inputs(driver: Driver, key: Route, numbers: dict[tuple[Group, Side], int]) -> tuple[int, ...]:
    wanted = _wanted(driver, key, numbers)
    lacking = [Meant(group=group, side=side).name for group, side in wanted if (group, side) not in numbers]
    if lacking:
        raise ConflictError(f"{driver.name} should hear {' and '.join(lacking)}, but no input is for that")
    return tuple(numbers[one] for one in wanted)


def _wanted(driver: Driver, key: Route, numbers: dict[tuple[Group, Side], int]) -> list[tuple[Group, Side]]:
    own = driver.group if driver.group == Group.REAR and key in ("sides", "bass-all") else Group.FRONT
    if own == Group.REAR and (Group.REAR, "left") not in numbers:
        own = Group.FRONT
    if driver.side != "both" and key != "mono":
        return [(own, driver.side)]
    both: list[tuple[Group, Side]] = [(own, "left"), (own, "right")]
    if key == "bass-all" and driver.group == Group.SUB:
        both += [(Group.REAR, "left"), (Group.REAR, "right")]
    return both


def troubles(space: Workspace, slug: str, tune: Tune) -> list[str]:
    """What is wrong with the routes as they stand: a channel that hears nothing, or more than one whole signal."""
    said = []
    inputs = processors.model(space, slug).inputs
    for driver in space.layout(slug).drivers:
        total = sum(abs(factor) for factor in sources(tune, driver, inputs))
        if total == 0:
            said.append(f"{driver.name} hears nothing")
        elif total > 1.001:
            said.append(f"{driver.name} hears {total:.2g} times a whole signal: it is louder, and may clip")
    return said
