"""The routes of the rig, projects and sounds: what they answer, and what they refuse in words."""

import json
import time

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.formats.wav import read_wav, write_wav
from tests.helpers.job import ended

BASE = "/api/projects/wren"


def test_the_rig_is_read_changed_and_kept(client: TestClient) -> None:
    shown = client.get("/api/rig").json()
    assert [one["key"] for one in shown["ready"]] == [
        "device",
        "microphone",
        "check",
        "level",
        "reference",
        "takes",
        "jig",
    ]
    assert {one["state"] for one in shown["ready"]} == {"set"}
    changed = client.patch("/api/rig", json={"timing": "marker", "input_names": ["Left", "Wire"]}).json()
    assert changed["timing"] == "marker"
    assert changed["input_names"] == ["Left", "Wire"]
    assert changed["ready"][5]["state"] == "missing"
    assert client.get(BASE).json()["rig"]["timing"] == "marker"
    assert client.patch("/api/rig", json={"no_reference": True}).json()["reference_input"] is None
    assert client.post("/api/rig/exchange").status_code == 409
    assert client.post("/api/rig/look").status_code == 200


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "says"),
    [
        ("patch", "/api/rig", {"rate": 12_345}, 422, "does not run at 12345"),
        ("patch", "/api/rig", {"device": "card:Gone"}, 422, "no device"),
        ("patch", "/api/rig", {"moving": {"size": 1000}}, 422, "1000 points"),
        ("patch", "/api/rig", {"sweep": {"repeats": 0}}, 422, "repeats"),
        ("patch", "/api/rig", {"colour": "red"}, 422, "colour"),
        ("patch", "/api/rig", {"positions": []}, 422, "positions"),
        ("post", "/api/rig/calibrate", {"level_db": 100}, 422, "94 or 114"),
        ("post", "/api/rig/meter", {"reading_db_c": 80}, 409, "play the pink noise first"),
        ("put", "/api/rig/practice", {"hum": "loud"}, 422, "hum"),
        ("post", f"{BASE}/burst", {"channel": "horn"}, 404, "no driver 'horn'"),
        ("post", f"{BASE}/polarity", {"channel": "horn"}, 404, "no driver 'horn'"),
        ("post", f"{BASE}/level", {"channel": "horn"}, 404, "no driver 'horn'"),
        ("post", f"{BASE}/play", {"signal": {"kind": "own"}}, 409, "no file was brought in"),
        ("post", f"{BASE}/play", {"signal": {"kind": "white", "level_db": 0}}, 422, "at most"),
        ("post", f"{BASE}/correction", {"known": 1, "plain": 1}, 409, "same driver"),
        ("post", f"{BASE}/correction", {"known": 1, "plain": 99}, 404, "no take 99"),
        ("put", f"{BASE}/takes/1/correction", {"correction": 50}, 404, "no microphone correction 50"),
        ("put", f"{BASE}/takes/99/note", {"note": "x"}, 404, "no take 99"),
        ("put", f"{BASE}/round", {"turns": []}, 422, "every driver"),
        ("put", f"{BASE}/references/9", {"shown": True}, 404, "no reference line 9"),
        ("delete", f"{BASE}/references/9", None, 404, "no reference line 9"),
        ("post", "/api/projects", {"name": "A", "ready": "boat"}, 422, "no ready layout 'boat'"),
        ("post", "/api/projects", {"name": "", "ready": "free"}, 422, "name"),
        ("get", "/api/signal.wav?rate=50000", None, 422, "50000 Hz"),
        ("get", "/api/signal.wav?bits=12", None, 422, "12 bit"),
        ("get", "/api/rig/corrections/99.txt", None, 404, "no microphone correction 99"),
        ("get", "/api/projects/nowhere", None, 404, "no project 'nowhere'"),
    ],
)
def test_what_cannot_be_done_gets_a_sentence(
    client: TestClient, method: str, path: str, body: dict | None, status: int, says: str
) -> None:
    before = client.get("/api/rig").json()
    answer = client.request(method, path, json=body)
    assert answer.status_code == status, answer.text
    assert says in answer.json()["detail"]
    assert client.get("/api/rig").json() == before


def test_a_correction_file_is_brought_chosen_and_taken_out(client: TestClient) -> None:
    file = {"file": ("box 12.txt", b"# sensitivity -30 dBFS/Pa\n20 1.0\n1000 0\n20000 -3\n")}
    shown = client.post("/api/rig/corrections", files=file, data={"pointing": "source"}).json()
    assert "3 rows" in shown["understood"]
    new = shown["corrections"]["source"]
    kept = next(one for one in shown["correction_list"] if one["id"] == new)
    assert (kept["name"], kept["sensitivity"]) == ("box 12", "-30 dBFS/Pa")
    text = client.get(f"/api/rig/corrections/{new}.txt").text
    assert "20\t1.00000" in text
    bad = client.post("/api/rig/corrections", files={"file": ("x.txt", b"20 0\nfish 1\n")}, data={"pointing": "source"})
    assert bad.status_code == 422
    assert "line 2" in bad.json()["detail"]


def test_a_new_project_is_begun_and_its_system_changed(client: TestClient) -> None:
    ready = client.get("/api/projects").json()
    assert {one["key"] for one in ready["ready"]} == {
        "bookshelf-2",
        "front-2-sub",
        "front-3-sub",
        "front-3-rear-sub",
        "four-way",
        "whole-car",
        "in-ear-3",
        "free",
    }
    made = client.post("/api/projects", json={"name": "Two ways", "ready": "bookshelf-2", "seat": "right"}).json()
    shown = client.get(f"/api/projects/{made['slug']}").json()
    assert [one["id"] for one in shown["layout"]["drivers"]] == ["midbass-l", "midbass-r", "tweeter-l", "tweeter-r"]
    layout = shown["layout"]
    layout["drivers"][0]["output"] = 2
    said = client.post("/api/layout/remarks", json=layout).json()
    assert said[0] == {"says": "Midbass L and Midbass R share output 2", "bars": True, "ways_out": []}
    refused = client.put(f"/api/projects/{made['slug']}/layout", json=layout)
    assert refused.status_code == 409
    assert client.get(f"/api/projects/{made['slug']}").json()["layout"]["drivers"][0]["output"] == 1
    assert client.put(f"/api/projects/{made['slug']}/name", json={"name": "Shelf"}).json()["name"] == "Shelf"


def test_practice_switches_are_set_and_belong_to_the_stand_in(client: TestClient) -> None:
    shown = client.put("/api/rig/practice", json={"hum": True}).json()
    assert shown["practice"]["hum"]
    assert set(shown["switches"]) <= set(shown["practice"])
    client.patch("/api/rig", json={"device": "file"})
    assert client.get("/api/rig").json()["practice"] is None
    assert client.put("/api/rig/practice", json={}).status_code == 409


def test_with_files_the_marker_may_stand_on_a_channel_of_its_own(client: TestClient) -> None:
    client.patch("/api/rig", json={"device": "file", "timing": "marker", "anchor": "mid-r"})
    assert read_wav(client.get(f"{BASE}/stimulus.wav").content, 48_000).shape[1] == 1
    assert client.patch("/api/rig", json={"marker_output": "second"}).json()["marker_output"] == "second"
    both = read_wav(client.get(f"{BASE}/stimulus.wav").content, 48_000)
    assert both.shape[1] == 2
    assert not (both[:, 0].astype(bool) & both[:, 1].astype(bool)).any()
    # Brought back as a microphone beside the loudspeakers would hear both: one recording, kept by its marker.
    client.post(f"{BASE}/takes", json={"channels": ["mid-l"], "purpose": "driver"})
    while client.get("/api/progress").json()["stage"] != "waiting":
        pass
    heard = write_wav(both.sum(axis=1), 48_000)
    assert client.post(f"{BASE}/takes/bring", files={"file": ("a.wav", heard)}).status_code == 200
    ended(client, "kept")


def test_with_files_a_take_waits_and_is_brought_by_upload(client: TestClient) -> None:
    client.patch("/api/rig", json={"device": "file"})
    stimulus = read_wav(client.get(f"{BASE}/stimulus.wav").content, 48_000)[:, 0]
    assert client.post(f"{BASE}/takes/bring", files={"file": ("a.wav", write_wav(stimulus, 48_000))}).status_code == 409
    client.post(f"{BASE}/takes", json={"channels": ["mid-l"], "purpose": "driver", "note": "in the yard"})
    while client.app.state.recorder.progress.stage != "waiting":
        time.sleep(0.01)
    heard = np.concatenate(list(client.space.standin.play_and_record(stimulus)))
    bad = client.post(f"{BASE}/takes/bring", files={"file": ("a.wav", b"RIFFnothing")})
    assert bad.status_code == 422
    client.post(f"{BASE}/takes/bring", files={"file": ("a.wav", write_wav(heard, 48_000, "FLOAT"))})
    ended(client, "kept")
    newest = client.get(BASE).json()["takes"][0]
    assert (newest["note"], newest["clock"], newest["troubles"]) == ("in the yard", "loopback", [])


def test_sounds_are_written_played_and_brought(client: TestClient) -> None:
    wave = client.get("/api/signal.wav?kind=multitone&seconds=0.5&rate=44100&bits=16")
    assert read_wav(wave.content, 44_100).shape == (22_050, 2)
    own = client.post("/api/signal", files={"file": ("own.wav", write_wav(np.ones(4800) * 0.1, 48_000))}).json()
    assert own == {"name": "own.wav", "seconds": 0.1}
    for path, body in (
        ("play", {"channels": ["sub"], "signal": {"kind": "own", "seconds": 0.2}}),
        ("burst", {"channel": "mid-l"}),
        ("polarity", {"channel": "mid-l"}),
        ("level", {"channel": "mid-r"}),
    ):
        assert client.post(f"{BASE}/{path}", json=body).status_code == 202
        ended(client, "done")


def test_the_round_and_references_go_through_the_routes(client: TestClient) -> None:
    shown = client.get(BASE).json()["round"]
    turned = client.put(f"{BASE}/round", json={**shown, "turns": shown["turns"][::-1]}).json()["round"]
    assert turned["turns"][0]["channel"] == "tweeter-r"
    assert client.post(f"{BASE}/round/restart").json()["round"]["turns"][0]["state"] == "waiting"
    made = client.post(f"{BASE}/references", files={"file": ("sheet.txt", b"100 80\n10000 82\n")}).json()
    (one,) = client.get(BASE).json()["references"]
    assert (made["id"], made["name"]) == (one["id"], "sheet")
    assert made["understood"].startswith("2 rows of frequency and value")
    view = {"stage": "drivers", "selection": "mid-l"}
    body = {"view": view, "curve": "bare-mid-l", "low_hz": 300, "high_hz": 3000}
    aligned = client.post(f"{BASE}/references/{one['id']}/align", json=body).json()
    assert aligned["references"][0]["shift_db"] != 0
    wrong = client.post(f"{BASE}/references/{one['id']}/align", json={**body, "curve": "nothing"})
    assert wrong.status_code == 404
    bad = client.post(f"{BASE}/references", files={"file": ("sheet.txt", b"100\n")})
    assert bad.status_code == 422
    wave = {"file": ("i.wav", write_wav(np.eye(1, 2000, 50)[0], 48_000))}
    assert client.post(f"{BASE}/references", files=wave).status_code == 201
    assert len(client.get(BASE).json()["references"]) == 2
    assert client.delete(f"{BASE}/references/{one['id']}").json()["references"][0]["name"] == "i"


def test_a_moving_microphone_is_drawn_while_it_moves(client: TestClient) -> None:
    import json
    import struct

    client.space.pace = 12.0
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as live:
        client.post(f"{BASE}/takes", json={"channels": ["mid-l"], "purpose": "driver", "method": "moving"})
        counts = []
        while True:
            message = live.receive()
            if message.get("bytes"):
                (length,) = struct.unpack_from("<I", message["bytes"])
                head = json.loads(message["bytes"][4 : 4 + length])
                assert head["running"]
                assert head["channels"] == ["mid-l"]
                counts.append(int(head["curves"][0]["label"].split()[0]))
                live.send_text("drawn")
            elif '"kept"' in message.get("text", ""):
                break
    assert len(counts) > 5
    assert counts == sorted(counts)
    newest = client.get(BASE).json()["takes"][0]
    assert newest["method"] == "moving"
    assert newest["averages"] == 100


def test_the_live_analyser_runs_is_asked_and_stopped_through_the_routes(client: TestClient) -> None:
    assert client.post(f"{BASE}/analyser/delay").status_code == 409
    refused = client.post(f"{BASE}/analyser", json={"choice": {"size": 1000}})
    assert refused.status_code == 422
    assert "1000 points" in refused.json()["detail"]
    client.space.pace = 8.0
    assert client.post(f"{BASE}/analyser", json={"channels": ["mid-l"], "choice": {"size": 4096}}).status_code == 202
    assert client.post(f"{BASE}/analyser", json={}).status_code == 409
    assert client.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"}).status_code == 409
    recorder = client.app.state.recorder
    deadline = time.monotonic() + 30
    while recorder.progress.averages < 20 and time.monotonic() < deadline:
        time.sleep(0.01)
    for ask in ("delay", "reset"):
        assert client.post(f"{BASE}/analyser/{ask}").status_code == 200
    assert client.post(f"{BASE}/analyser/sing").status_code == 422
    client.post(f"{BASE}/takes/abort")
    ended(client, "done")
    assert all(client.space.processor.read(output).channel.muted for output in range(1, 8))


def test_impedance_over_http(client: TestClient) -> None:
    before = client.get(BASE).json()["impedance"]["mid-l"]["take_id"]
    clipped = {"clips": "driver", "clipped_output": 4}
    assert client.put("/api/rig/practice", json=clipped).status_code == 200
    assert client.post(f"{BASE}/impedance", json={"channel": "mid-l"}).status_code == 202
    client.app.state.recorder.wait()  # type: ignore[attr-defined]
    now = client.get(BASE).json()["impedance"]["mid-l"]["take_id"]
    assert now > before
    text = client.get(f"{BASE}/takes/{now}/impedance.txt")
    assert text.text.startswith("# Mid L, impedance")
    form = {"channel": "mid-r", "loading": "mass", "amount": "3"}
    brought = client.post(f"{BASE}/impedance/upload", data=form, files={"file": ("other.txt", text.content)})
    assert brought.json()["id"] == now + 1
    assert client.get(BASE).json()["impedance"]["mid-r"]["loaded_id"] == now + 1
    bad = client.post(f"{BASE}/impedance/upload", data=form, files={"file": ("bad.txt", b"20 4\n30 x\n")})
    assert bad.status_code == 422
    assert "line 2" in bad.json()["detail"]
    known = {"re_ohm": 3.6, "area_cm2": 53, "least_ohm": 4}
    assert client.put(f"{BASE}/about/mid-l", json=known).json()["impedance"]["mid-l"]["re_ohm"] == 3.6
    assert client.put(f"{BASE}/about/mid-l", json={"re_ohm": -1}).status_code == 422
    assert client.put(f"{BASE}/about/nobody", json=known).status_code == 404
    assert client.get(f"{BASE}/takes/1/impedance.txt").status_code == 404
    assert client.post("/api/jig/forget").json()["jig_done"] is None
    assert client.post("/api/jig/short").status_code == 202
    client.app.state.recorder.wait()  # type: ignore[attr-defined]
    assert "joined" in client.app.state.recorder.progress.message  # type: ignore[attr-defined]


def test_an_input_over_http(client: TestClient) -> None:
    body = {"input": 1, "sound": "pink", "record_s": 0.5}
    assert client.post(f"{BASE}/listen", json=body).status_code == 202
    client.app.state.recorder.wait()  # type: ignore[attr-defined]
    take = next(one for one in client.get(BASE).json()["takes"] if one["purpose"] == "raw")
    assert (take["input"], take["channels"]) == (1, [])
    assert client.get(f"{BASE}/takes/{take['id']}/input.wav").content[:4] == b"RIFF"
    assert client.get(f"{BASE}/takes/1/input.wav").status_code == 404
    assert client.get("/api/logs").json() == []
    assert client.get("/api/logs/level-x.csv").status_code == 404
    assert client.post(f"{BASE}/listen", json={"input": 77}).status_code == 409
    assert client.post(f"{BASE}/listen", json={"record_s": 10_000}).status_code == 422


def test_frames_wait_until_the_last_one_was_drawn(client: TestClient) -> None:
    """A slow browser sees fewer frames and never old ones: nothing is queued for it."""
    client.space.pace = 8.0  # type: ignore[attr-defined]
    assert client.post(f"{BASE}/listen", json={}).status_code == 202
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as live:
        while live.receive().get("bytes") is None:
            pass
        said = [live.receive() for _ in range(3)]  # progress goes on meanwhile
        assert all(one.get("bytes") is None for one in said)
        live.send_text("drawn")
        while live.receive().get("bytes") is None:
            pass
    client.post(f"{BASE}/takes/abort")
    client.app.state.recorder.wait()  # type: ignore[attr-defined]


@pytest.mark.walk
def test_figures_come_seldom_to_one_who_does_not_say_that_they_were_seen(client: TestClient) -> None:
    """Ten a second would wait in a busy page's queue, before what a person does."""
    client.space.pace = 8.0  # type: ignore[attr-defined]
    assert client.post(f"{BASE}/listen", json={}).status_code == 202
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as live:

        def figures() -> dict:
            while "progress" not in (text := live.receive().get("text") or ""):
                pass
            return json.loads(text)["progress"]

        while figures()["stage"] != "playing":
            pass
        began = time.monotonic()
        for _ in range(3):
            figures()
        assert time.monotonic() - began > 2.5
        before = figures()["version"]
        live.send_text("seen")
        assert figures()["version"] > before
    client.post(f"{BASE}/takes/abort")
    client.app.state.recorder.wait()  # type: ignore[attr-defined]


def test_takes_that_are_no_responses_are_not_read_as_such(client: TestClient) -> None:
    ohms = client.get(BASE).json()["impedance"]["mid-l"]["take_id"]
    for file in ("response.txt", "impulse.wav"):
        answer = client.get(f"{BASE}/takes/{ohms}/{file}")
        assert answer.status_code == 409, file
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as live:
        for view in ({"stage": "drivers", "selection": "mid-l", "below": "distortion", "take": ohms}, {"stage": "rig"}):
            live.send_json({"seq": 1, "view": view})
            while (message := live.receive()).get("bytes") is None:
                assert "error" not in message.get("text", "")
        live.send_json({"seq": 2, "view": {"stage": "proof", "take": ohms}})
        while "none of the whole" not in (live.receive().get("text") or ""):
            pass
