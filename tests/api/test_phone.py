"""The phone page's own listener: codes, tokens, rates, and nothing else to be reached through it."""

from collections.abc import Iterator

import httpx
import pytest
from starlette.testclient import TestClient

from imbrix.core.errors import ConflictError
from imbrix.work.handover import phones as letting
from imbrix.work.handover.phones import NotLetInError, Phones, TooOftenError

CUSTOMER = "/api/projects/wren/customer"
ELSEWHERE = "127.0.0.2"
"""Another address of this machine."""


@pytest.fixture
def opened(client: TestClient) -> Iterator[dict]:
    state = client.post(f"{CUSTOMER}/phones", json={"host": ELSEWHERE, "port": 0})
    assert state.status_code == 200, state.text
    client.app.state.phones.wait()
    yield state.json()
    client.app.state.phones.close()


def phone(opened: dict, code: str | None = None) -> httpx.Client:
    """A phone that was let in by a code."""
    made = httpx.Client(base_url=opened["address"], timeout=20)
    answer = made.post("/pair", json={"code": code or opened["code"]["code"], "name": "Test"})
    assert answer.status_code == 200, answer.text
    made.headers["authorization"] = f"Bearer {answer.json()['token']}"
    return made


def test_a_phone_is_let_in_by_a_code_and_turns_what_it_may(client: TestClient, opened: dict) -> None:
    assert opened["code"]["link"].startswith(f"{opened['address']}/#")
    assert opened["code"]["picture"].startswith("data:image/svg+xml")
    one = phone(opened)
    state = one.get("/state").json()
    assert state["name"] == "Wren book van"
    assert state["turned"] == {"volume_db": 0.0, "bass_db": 0.0, "lift_db": 0.0}
    assert one.post("/turn", json={"bass_db": 9.0}).json()["turned"]["bass_db"] == 6.0
    assert one.post("/turn", json={"volume_db": -12.0}).json()["turned"] == {
        "volume_db": -12.0,
        "bass_db": 6.0,
        "lift_db": 0.0,
    }
    assert client.get(CUSTOMER).json()["turned"]["volume_db"] == -12.0
    # Two phones at once agree.
    other = phone(client.post(f"{CUSTOMER}/code").json())
    other.post("/turn", json={"bass_db": -2.0})
    assert one.get("/state").json()["turned"] == other.get("/state").json()["turned"]
    assert [each["name"] for each in client.get(CUSTOMER).json()["phones"]] == ["Test", "Test"]


def test_a_code_holds_once_and_for_a_while() -> None:
    now = [0.0]
    known = Phones(lambda: now[0])
    code = known.new_code().text
    assert known.let_in(code.lower(), "One")
    with pytest.raises(NotLetInError, match="does not hold"):
        known.let_in(code, "Two")
    code = known.new_code().text
    now[0] += letting.CODE_S
    with pytest.raises(NotLetInError):
        known.let_in(code, "Late")
    for _ in range(letting.MOST_PHONES - 1):
        known.let_in(known.new_code().text, "More")
    with pytest.raises(ConflictError, match="phones are in already"):
        known.let_in(known.new_code().text, "Too many")


def test_twenty_wrong_codes_lock(client: TestClient, opened: dict) -> None:
    with httpx.Client(base_url=opened["address"], timeout=20) as stranger:
        said = [stranger.post("/pair", json={"code": "WRONG"}) for _ in range(letting.MOST_WRONG)]
        assert {one.status_code for one in said} == {401}
        assert "too many wrong codes" in said[-1].json()["detail"]
        right = stranger.post("/pair", json={"code": opened["code"]["code"]})
        assert right.status_code == 401
    assert client.get(CUSTOMER).json()["code"] is None
    phone(client.post(f"{CUSTOMER}/code").json())


def test_a_token_taken_back_stops_at_once(client: TestClient, opened: dict) -> None:
    one = phone(opened)
    (known,) = client.get(CUSTOMER).json()["phones"]
    assert client.delete(f"{CUSTOMER}/phones/{known['id']}").json()["phones"] == []
    assert one.post("/turn", json={"bass_db": 1.0}).status_code == 401
    assert client.delete(f"{CUSTOMER}/phones/{known['id']}").status_code == 404
    two = phone(client.post(f"{CUSTOMER}/code").json())
    client.delete(f"{CUSTOMER}/phones")
    with pytest.raises(httpx.TransportError):
        two.get("/state")
    assert client.get(CUSTOMER).json()["address"] == ""


def test_a_finger_turns_no_faster(client: TestClient, opened: dict) -> None:
    now = [0.0]
    known = Phones(lambda: now[0])
    token = known.let_in(known.new_code().text, "One")
    for _ in range(letting.PER_SECOND):
        known.known(token)
    with pytest.raises(TooOftenError):
        known.known(token)
    now[0] += 1.0
    known.known(token)


@pytest.mark.parametrize(
    "path",
    [
        "/api/projects",
        "/api/projects/wren",
        "/api/openapi.json",
        "/docs",
        "/assets/x.js",
        "/..%2f..%2fapp.py",
        "/drivers",
    ],
)
def test_nothing_else_is_reached_through_it(opened: dict, path: str) -> None:
    one = phone(opened)
    assert one.get(path).status_code == 404
    assert one.post(path, json={}).status_code in (404, 405)


def test_who_is_not_let_in_sees_the_door_only(client: TestClient, opened: dict) -> None:
    with httpx.Client(base_url=opened["address"], timeout=20) as stranger:
        page = stranger.get("/")
        assert page.status_code == 200
        assert page.headers["content-security-policy"].startswith("default-src 'none'")
        assert "server" not in page.headers
        for name in ("page.js", "page.css"):
            assert stranger.get(f"/{name}").status_code == 200
        assert stranger.get("/state").status_code == 401
        assert stranger.post("/turn", json={"bass_db": 1}).status_code == 401
        assert stranger.post("/slot", json={"slot": 1}).status_code == 401
        assert stranger.get("/state", headers={"authorization": "Bearer " + "x" * 190}).status_code == 401
        assert stranger.get("/", headers={"host": "elsewhere.test"}).status_code == 403
        assert stranger.get("/", headers={"origin": "http://elsewhere.test"}).status_code == 403
        assert stranger.post("/pair", content=b"x" * 10_000).status_code == 413
        assert stranger.post("/pair", json={"code": 3}).status_code == 422
    assert client.get("/api/projects", headers={"host": ELSEWHERE}).status_code == 403


def test_slots_are_loaded_where_they_may_be(client: TestClient, opened: dict) -> None:
    client.post("/api/projects/wren/processor/send")
    client.post("/api/projects/wren/processor/store", json={"slot": 2, "name": "Evening"})
    one = phone(opened)
    assert one.get("/state").json()["slots"] == {"2": "Evening"}
    assert one.post("/slot", json={"slot": 2}).json()["slot"] == 2
    assert one.post("/slot", json={"slot": 3}).status_code == 409
    client.put(f"{CUSTOMER}/controls", json={"slots": False, "bass_db": 0})
    assert one.get("/state").json()["slots"] == {}
    assert one.post("/slot", json={"slot": 2}).status_code == 409
    assert one.post("/turn", json={"bass_db": 3}).json()["turned"]["bass_db"] == 0


def test_what_cannot_be_listened_on_is_said(client: TestClient, opened: dict) -> None:
    for body, status, says in (
        ({"host": ELSEWHERE, "port": 0}, 409, "let in already"),
        ({"host": "nowhere", "port": 0}, 409, "let in already"),
    ):
        answer = client.post(f"{CUSTOMER}/phones", json=body)
        assert (answer.status_code, says in answer.json()["detail"]) == (status, True)
    client.delete(f"{CUSTOMER}/phones")
    assert client.post(f"{CUSTOMER}/code").status_code == 409
    for host, status, says in (
        ("nowhere", 422, "is no address"),
        ("0.0.0.0", 422, "every address"),
        ("203.0.113.9", 409, "cannot be used"),
    ):
        answer = client.post(f"{CUSTOMER}/phones", json={"host": host, "port": 0})
        assert (answer.status_code, says in answer.json()["detail"]) == (status, True)
