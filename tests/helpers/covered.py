"""Which lines of the program were run by the tests of `pytest -n`, where IMBRIX_COVERAGE is set: to "new", or to "more"
where what the run before met counts too.

Python 3.11 can only trace every line, each time: that costs half of what a test in process takes. SlipCover's probes
are taken out once they were met. Its own plugin does not go with `--import-mode=importlib`, hence these hooks.
"""

import json
import os
import sys
from importlib.machinery import ModuleSpec, PathFinder
from pathlib import Path
from typing import Any

import pytest

PROGRAM = "src/imbrix"
APART = ["src/imbrix/store/migrations/*"]
BEFORE = Path(".build/covered.json")

_probes: Any = None
_merged: dict[str, Any] = {}

if "IMBRIX_COVERAGE" in os.environ and "PYTEST_XDIST_WORKER" in os.environ:
    import slipcover
    from slipcover.importer import FileMatcher, SlipcoverLoader

    _probes = slipcover.Slipcover(source=[PROGRAM], omit=APART)
    _meant = FileMatcher(sources=[PROGRAM], omit=APART)

    class Probing:
        """Finds the program's modules as ever, and puts probes into them as they are loaded."""

        @staticmethod
        def find_spec(name: str, path: Any, target: Any = None) -> ModuleSpec | None:
            if name.partition(".")[0] != "imbrix":
                return None
            spec = PathFinder.find_spec(name, path, target)
            if spec is not None and spec.loader is not None and _meant.matches(spec.origin):
                spec.loader = SlipcoverLoader(_probes, spec.loader, spec.origin)
            return spec

    sys.meta_path.insert(0, Probing)  # type: ignore[arg-type]


def pytest_sessionfinish(session: pytest.Session) -> None:
    """A worker hands over what it has met."""
    if _probes is not None:
        session.config.workeroutput["coverage"] = json.dumps(_probes.get_coverage())  # type: ignore[attr-defined]


def _add(met: dict[str, Any]) -> None:
    import slipcover

    if _merged:
        slipcover.merge_coverage(_merged, met)
    else:
        _merged.update(met)


@pytest.hookimpl(optionalhook=True)
def pytest_testnodedown(node: Any) -> None:
    """What a worker has met is added to what the others have."""
    told = getattr(node, "workeroutput", {}).get("coverage")
    if told is not None:
        _add(json.loads(told))


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """A table of the files that were not run to the last line."""
    if not _merged:
        return
    import slipcover

    if os.environ["IMBRIX_COVERAGE"] == "more" and BEFORE.exists():
        _add(json.loads(BEFORE.read_text()))
    BEFORE.parent.mkdir(exist_ok=True)
    BEFORE.write_text(json.dumps(_merged))
    slipcover.print_coverage(_merged, outfile=terminalreporter, skip_covered=True)
