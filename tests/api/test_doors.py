"""Who is let in, and how much: hosts, origins, headers, and the size of a request."""

import pytest
from starlette.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from imbrix.api.app import create_app
from imbrix.work.ground.workspace import Workspace

BASE = "/api/projects/wren"


def test_a_foreign_page_drives_nothing(client: TestClient) -> None:
    assert client.get(BASE, headers={"host": "evil.example"}).status_code == 403
    assert client.post(f"{BASE}/undo", headers={"origin": "http://evil.example"}).status_code == 403
    assert client.get(BASE, headers={"origin": "http://127.0.0.1"}).status_code == 200
    for headers in ({"host": "evil.example"}, {"host": "127.0.0.1", "origin": "http://127.0.0.1:9999"}):
        with pytest.raises(WebSocketDisconnect), client.websocket_connect(f"{BASE}/live", headers=headers) as socket:
            socket.receive()


@pytest.mark.parametrize(
    "headers",
    [
        *(
            {"host": host}
            for host in ("testserver", "[", "]", "[::1", "", "127.0.0.1.evil.example", "127.0.0.1:x", "[::2]")
        ),
        *({"origin": origin} for origin in ("http://[", "null", "file://", "http://127.0.0.1:81", "ftp://127.0.0.1")),
        {"sec-fetch-site": "cross-site"},
        {"sec-fetch-site": "same-site", "sec-fetch-mode": "no-cors"},
        {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"},
    ],
)
def test_odd_hosts_and_origins_are_refused_in_words(client: TestClient, headers: dict) -> None:
    refused = client.get(BASE, headers=headers)
    assert (refused.status_code, refused.json()["status"]) == (403, 403)


@pytest.mark.parametrize("host", ["localhost:8642", "[::1]:8642", "LOCALHOST", "127.0.0.1"])
def test_this_machine_is_let_in_by_each_of_its_names(client: TestClient, host: str) -> None:
    assert client.get(BASE, headers={"host": host, "origin": f"http://{host}"}).status_code == 200
    # A link on another page leads to the page, and to nothing that it could drive.
    came = {"host": host, "sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"}
    assert client.get("/wren/drivers", headers=came).status_code == 200
    assert client.post(f"{BASE}/undo", headers=came).status_code == 403


def test_every_answer_says_what_a_browser_may_do_with_it(client: TestClient) -> None:
    for path in ("/", BASE, "/api/none", "/api/docs"):
        headers = client.get(path).headers
        assert headers["x-content-type-options"] == "nosniff"
        assert "frame-ancestors 'none'" in headers["content-security-policy"]
        assert ("script-src 'self';" in headers["content-security-policy"]) == (path != "/api/docs")
        assert headers["cross-origin-resource-policy"] == "same-origin"
        assert "server" not in headers
    assert client.get(BASE).headers["cache-control"] == "no-store"


def test_200_mb_are_refused_before_they_are_read(client: TestClient) -> None:
    answer = client.post(f"{BASE}/takes/upload", content=b"x", headers={"content-length": "200000000"})
    assert answer.status_code == 413
    assert "200 MB" in answer.json()["detail"]


def test_a_request_that_is_no_file_has_a_limit_of_its_own(client: TestClient) -> None:
    answer = client.post(f"{BASE}/edits", json={"edits": [{"do": "neutral"}] * 100_000})
    assert answer.status_code == 413
    assert "the request is too large (2 MB): at most 1 MB" in answer.json()["detail"]


def test_a_body_that_hides_its_length_is_refused_as_well(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("imbrix.api.safety.MOST_FILE_BYTES", 50_000)
    client = TestClient(create_app(demo), base_url="http://127.0.0.1")
    kind = {"content-type": "multipart/form-data; boundary=x"}
    answer = client.post(f"{BASE}/takes/upload", content=(b"y" * 10_000 for _ in range(9)), headers=kind)
    assert answer.status_code == 413
    assert "too large" in answer.json()["detail"]
