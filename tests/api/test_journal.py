"""The journal: all that was done, in order and in words; of one channel; back to any point; as text."""

from starlette.testclient import TestClient

BASE = "/api/projects/wren"


def entries(client: TestClient, **asked: str) -> list[dict]:
    return client.get(f"{BASE}/journal", params=asked).json()


def edit(client: TestClient, *edits: dict) -> None:
    assert client.post(f"{BASE}/edits", json={"edits": list(edits)}).status_code == 200


def test_it_tells_what_was_done_in_order(client: TestClient) -> None:
    first = entries(client)
    assert [one["kind"] for one in first].count("take") == 14
    assert first == sorted(first, key=lambda one: one["at"])
    edit(client, {"do": "channel", "channel": "mid-l", "gain_db": -3})
    client.post(f"{BASE}/processor/send")
    client.post(f"{BASE}/processor/store", json={"slot": 2, "name": "Evening"})
    client.post(f"{BASE}/notes", json={"text": "Voices stand left", "heard": ""})
    edit(client, {"do": "channel", "channel": "tweeter-r", "gain_db": -2})
    client.post(f"{BASE}/processor/recall", json={"slot": 2, "name": ""})
    late = entries(client)[len(first) :]
    assert [one["kind"] for one in late] == ["change", "sent", "slot", "note", "change", "slot"]
    assert late[0]["channels"] == ["mid-l"]
    assert late[1]["says"] == f"Revision {late[0]['revision']} sent to the processor"
    assert late[2]["says"] == "Stored in slot 2 as Evening"
    assert late[3]["says"] == "Voices stand left"
    assert late[5]["says"] == "Slot 2 loaded"


def test_of_one_channel_it_tells_what_is_about_it_or_all(client: TestClient) -> None:
    edit(client, {"do": "channel", "channel": "mid-l", "gain_db": -3})
    edit(client, {"do": "channel", "channel": "tweeter-r", "gain_db": -2})
    edit(client, {"do": "band", "channel": None, "index": 0, "band": {"frequency_hz": 100, "gain_db": -3}})
    mine = entries(client, channel="mid-l")
    assert all(not one["channels"] or "mid-l" in one["channels"] for one in mine)
    assert [one["says"] for one in mine if one["kind"] == "change"][-2].startswith("Mid L: gain -3.0 dB")
    assert len(mine) < len(entries(client))
    assert client.get(f"{BASE}/journal", params={"channel": "nobody"}).status_code == 404


def test_any_point_can_be_gone_back_to(client: TestClient) -> None:
    before = client.get(BASE).json()["tune"]
    edit(client, {"do": "channel", "channel": "mid-l", "gain_db": -3})
    take = next(one for one in entries(client) if one["kind"] == "take")
    path = f"{BASE}/revisions/{take['revision_id']}/restore"
    after = client.post(path).json()
    assert after["tune"]["channels"] == before["channels"]
    assert after["revision"]["summary"].startswith("Back to revision")
    assert entries(client)[-1]["revision"] == after["revision"]["number"]


def test_it_leaves_as_text_with_what_was_set_aside(client: TestClient) -> None:
    take = client.get(BASE).json()["takes"][0]
    client.put(f"{BASE}/takes/{take['id']}/discarded", json={"discarded": True})
    revision = client.get(BASE).json()["revision"]["id"]
    client.put(f"{BASE}/revisions/{revision}/name", json={"name": "As it came"})
    answer = client.get(f"{BASE}/journal.txt")
    assert answer.headers["content-type"].startswith("text/plain")
    text = answer.text
    assert text.startswith("Journal of Wren book van\n\n20")
    assert f"Take {take['id']}: " in text
    assert text.count("(set aside since)") == 1
    assert '"As it came"' in text
    assert "Mid L, Tweeter" not in client.get(f"{BASE}/journal.txt", params={"channel": "sub"}).text


def test_a_revision_is_about_what_it_changed_of_the_one_it_was_made_of(client: TestClient) -> None:
    edit(client, {"do": "channel", "channel": "mid-l", "gain_db": -3})
    client.post(f"{BASE}/undo")
    edit(client, {"do": "channel", "channel": "tweeter-r", "gain_db": -2})
    assert entries(client)[-1]["channels"] == ["tweeter-r"]
