"""The API as it is described: every answer typed, every operation in words, nothing answered off the description."""

import json
from typing import Any

from starlette.testclient import TestClient


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
