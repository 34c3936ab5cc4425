"""Requests drawn from the API's own description: nothing is answered off it, and nothing fails."""

from itertools import islice

import hypothesis
import pytest
import schemathesis
from hypothesis import HealthCheck, settings
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from imbrix.api.app import create_app
from imbrix.work.ground.workspace import Workspace
from tests.trials.length import LONG, many

CHECKS = (not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance)
LOUD = ("/play", "/burst", "/polarity", "/analyser", "/listen", "/takes", "/check", "/calibrate", "/jig", "/impedance")

PARTS = 3
"""In so many tests, so that several workers do it."""
PATIENT_S = 300.0
"""A busy machine may take so long over an alignment of everything."""


@pytest.mark.parametrize("part", range(PARTS))
@pytest.mark.parametrize("examples", [2, pytest.param(many(6, 100), marks=pytest.mark.walk)])
def test_nothing_is_answered_off_the_description(demo: Workspace, examples: int, part: int) -> None:
    """Every operation: no undocumented status, no 5xx, no answer off its schema. What would play for long is cut."""
    app = create_app(demo)
    schema = schemathesis.openapi.from_asgi("/api/openapi.json", app, headers={"host": "127.0.0.1"})
    recorder = app.state.recorder

    def poke_all_of(operation: schemathesis.APIOperation) -> None:
        @hypothesis.given(case=operation.as_strategy())
        @settings(
            max_examples=examples,
            deadline=None,
            derandomize=not LONG,
            database=None,
            suppress_health_check=list(HealthCheck),
        )
        def poke(case: schemathesis.Case) -> None:
            if case.path_parameters and "slug" in case.path_parameters:
                case.path_parameters["slug"] = "wren"
            case.call_and_validate(
                base_url="http://127.0.0.1", checks=CHECKS, headers={"host": "127.0.0.1"}, timeout=PATIENT_S
            )
            if any(part in operation.path for part in LOUD):
                recorder.abort()
                recorder.wait(30)

        poke()

    wrong = []
    for result in islice(schema.get_all_operations(), part, None, PARTS):
        operation = result.ok()
        try:
            poke_all_of(operation)
        except Exception as error:
            said = error.exceptions[0] if isinstance(error, BaseExceptionGroup) else error
            wrong.append(f"{operation.method} {operation.path}: {said}")
    assert wrong == []
