"""The API as it is described: every answer typed, every operation in words, nothing answered off the description."""

import json
from pathlib import Path
from typing import Any

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
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.work.demo import load_demo
from imbrix.work.ground.workspace import Workspace, open_workspace

CHECKS = (not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance)
LOUD = ("/play", "/burst", "/polarity", "/analyser", "/listen", "/takes", "/check", "/calibrate", "/jig", "/impedance")


def operations(document: dict[str, Any]) -> list[tuple[str, str, dict[str, Any]]]:
    return [(path, method, one) for path, row in document["paths"].items() for method, one in row.items()]


def test_every_operation_is_described_and_every_answer_has_a_model(client: TestClient) -> None:
    document = client.get("/api/openapi.json").json()
    tags = {one["name"] for one in document["tags"]}
    for path, method, one in operations(document):
        where = f"{method} {path}"
        assert one["summary"], where
        assert one["description"], where
        assert set(one["tags"]) <= tags, where
        for status, answer in one["responses"].items():
            if status == "204":
                continue
            schemas = [json.dumps(kind["schema"], sort_keys=True) for kind in answer["content"].values()]
            assert schemas, where
            assert not {"{}", '{"type": "object"}'}.intersection(schemas), where
            if int(status) >= 400:
                assert set(answer["content"]) == {"application/problem+json"}, where
                assert "Problem" in schemas[0], where


def test_no_model_of_an_answer_takes_just_anything(client: TestClient) -> None:
    document = client.get("/api/openapi.json").json()
    loose = [
        f"{name}.{field}"
        for name, schema in document["components"]["schemas"].items()
        for field, kind in schema.get("properties", {}).items()
        if kind.get("additionalProperties") is True or not (kind.keys() - {"title", "description", "default"})
    ]
    assert loose == []


def test_the_description_is_a_page_from_our_own_files(client: TestClient) -> None:
    page = client.get("/api/docs")
    assert page.status_code == 200
    assert "http://" not in page.text.replace("http://127.0.0.1", "")
    assert "https://" not in page.text
    for name in ("swagger-ui-bundle.js", "swagger-ui.css"):
        assert f"/api/docs/files/{name}" in page.text
        assert client.get(f"/api/docs/files/{name}").status_code == 200


@pytest.fixture(scope="module")
def poked(tmp_path_factory: pytest.TempPathFactory, demo_folder: Path) -> Workspace:
    import shutil

    folder = tmp_path_factory.mktemp("poked") / "data"
    shutil.copytree(demo_folder, folder)
    space = open_workspace(folder, pace=0)
    load_demo(space)
    return space


def test_nothing_is_answered_off_the_description(poked: Workspace) -> None:
    """A bounded run of generated requests over every operation: no undocumented status, no 5xx, no answer off its
    schema. What would play for long is cut short."""
    app = create_app(poked)
    schema = schemathesis.openapi.from_asgi("/api/openapi.json", app, headers={"host": "127.0.0.1"})
    recorder = app.state.recorder

    def poke_all_of(operation: schemathesis.APIOperation) -> None:
        @hypothesis.given(case=operation.as_strategy())
        @settings(
            max_examples=6,
            deadline=None,
            derandomize=True,
            database=None,
            suppress_health_check=list(HealthCheck),
        )
        def poke(case: schemathesis.Case) -> None:
            if case.path_parameters and "slug" in case.path_parameters:
                case.path_parameters["slug"] = "wren"
            case.call_and_validate(base_url="http://127.0.0.1", checks=CHECKS, headers={"host": "127.0.0.1"})
            if any(part in operation.path for part in LOUD):
                recorder.abort()
                recorder.wait(30)

        poke()

    wrong = []
    for result in schema.get_all_operations():
        operation = result.ok()
        try:
            poke_all_of(operation)
        except Exception as error:
            said = error.exceptions[0] if isinstance(error, BaseExceptionGroup) else error
            wrong.append(f"{operation.method} {operation.path}: {said}")
    assert wrong == []
