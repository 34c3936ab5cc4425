"""Whether edits made on an older revision still fit: they do where nothing that they set was set since."""

from collections.abc import Sequence
from contextlib import suppress

from imbrix.core.errors import ImbrixError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.apply import apply
from imbrix.core.tune.changes import changes
from imbrix.core.tune.edits import Edit, ShiftGains, Step, StepSeam, StepTarget
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Channel, Tune

RELATIVE = (Step, StepSeam, StepTarget, ShiftGains)
"""Edits that mean the same wherever the setting stands."""


def clash(old: Tune, now: Tune, edits: Sequence[Edit], layout: Layout, limits: Limits | None = None) -> tuple[str, ...]:
    """What of `edits`, made on `old`, touches settings in which `now` differs from it, in words; empty where none does.

    All bands of a channel count as one setting: a band is known by its place among them.
    """
    since = _differing(old, now)
    absolute = [one for one in edits if not isinstance(one, RELATIVE)]
    if not since or not absolute:
        return ()
    wanted = _differing(now, apply(now, absolute, layout, limits))
    with suppress(ImbrixError):  # on the old tune they may make no sense: then only what they would do now counts
        wanted |= _differing(old, apply(old, absolute, layout, limits))
    both = since & wanted
    if not both:
        return ()
    said = [f"{one.channel}: {one.what} {one.before} to {one.after}" for one in changes(old, now, layout)]
    return tuple(said) or tuple(sorted(where.replace("_", " ") for where in both))


def _settings(tune: Tune) -> dict[str, object]:
    found: dict[str, object] = {
        "common": tune.common,
        "solo": tune.solo,
        "tied ways": tune.tied_ways,
        "tied sides": tune.tied_sides,
        "tied levels": tune.tied_levels,
        "tied bands": tune.tied_bands,
        "target": tune.target.curve,
        "target level": tune.target.level_db,
        "target tilt": tune.target.tilt_db,
        "target bass": (tune.target.bass_db, tune.target.bass_hz),
        "target points": tune.target.bends,
    }
    found |= {f"input {number}": one for number, one in enumerate(tune.inputs, 1)}
    found |= {f"second source {field}": getattr(tune.second, field) for field in SecondSource.model_fields}
    found |= {f"what {name} hears": factors for name, factors in tune.routing.items()}
    for name, channel in tune.channels.items():
        for field in Channel.model_fields:
            found[f"{name} {field}"] = getattr(channel, field)
    return found


def _differing(one: Tune, other: Tune) -> set[str]:
    first, second = _settings(one), _settings(other)
    return {where for where in first.keys() | second.keys() if first.get(where) != second.get(where)}
