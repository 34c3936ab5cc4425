"""Connections as the server takes them: headers have a limit, and what is begun and not ended is cut off."""

import socket
import threading
import time
from collections.abc import Iterator

import httpx
import pytest
import uvicorn

from imbrix.api import connections
from imbrix.api.connections import Patient


async def answering(scope: dict, receive, send) -> None:
    if scope["type"] == "http":
        body = b""
        more = True
        while more:
            message = await receive()
            body += message.get("body", b"")
            more = message.get("more_body", False)
        await send({"type": "http.response.start", "status": 200, "headers": [(b"content-length", b"2")]})
        await send({"type": "http.response.body", "body": b"ok"})


@pytest.fixture
def address(monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[str, int]]:
    monkeypatch.setattr(connections, "PATIENCE_S", 0.5)
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    listener.listen()  # who comes before the server does waits for it
    config = uvicorn.Config(answering, http=Patient, lifespan="off", log_level="warning")
    server = uvicorn.Server(config)
    serving = threading.Thread(target=server.run, kwargs={"sockets": [listener]})
    serving.start()
    yield listener.getsockname()
    server.should_exit = True
    serving.join()


def test_an_ordinary_request_is_answered_and_its_connection_kept(address: tuple[str, int]) -> None:
    with httpx.Client(base_url=f"http://127.0.0.1:{address[1]}") as http:
        assert [http.post("/", content=b"x" * 300_000).text for _ in range(3)] == ["ok"] * 3


@pytest.mark.parametrize(
    "head",
    [b"x-long: " + b"a" * 2_000_000 + b"\r\n", b"".join(b"x-%d: 1\r\n" % n for n in range(20_000))],
    ids=["long", "many"],
)
def test_headers_beyond_measure_are_refused(address: tuple[str, int], head: bytes) -> None:
    with socket.create_connection(address, timeout=30) as one:
        try:
            one.sendall(b"GET / HTTP/1.1\r\nhost: 127.0.0.1\r\n" + head + b"\r\n")
            said = one.recv(4096)
        except ConnectionError:
            said = b""
    assert not said.startswith(b"HTTP/1.1 200")


@pytest.mark.parametrize(
    "begun",
    [b"", b"GET / HTTP/1.1\r\nhost: 127", b"POST / HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: 100\r\n\r\nhalf"],
    ids=["nothing", "half a head", "half a body"],
)
def test_a_request_that_does_not_end_is_cut_off(address: tuple[str, int], begun: bytes) -> None:
    with socket.create_connection(address, timeout=30) as one:
        one.sendall(begun)
        while one.recv(4096):  # it is closed, or this times out
            pass


def test_a_body_that_comes_slowly_is_taken(address: tuple[str, int]) -> None:
    with socket.create_connection(address, timeout=30) as one:
        one.sendall(b"POST / HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: 12\r\n\r\n")
        for _ in range(12):
            time.sleep(0.1)  # longer than patience in all, shorter each
            one.sendall(b"x")
        assert one.recv(4096).startswith(b"HTTP/1.1 200")
