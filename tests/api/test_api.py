"""The server: state, edits, pictures over the socket, exports, and what it refuses."""

import io
import json
import struct
import zipfile

import numpy as np
import pytest
from starlette.testclient import TestClient

from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.signal import decibels
from imbrix.formats.text_curve import read_curve
from imbrix.formats.wav import read_wav, write_wav

BASE = "/api/projects/wren"
VIEW = {"stage": "drivers", "smoothing": 6, "selection": "sub"}


def edit(client: TestClient, *edits: dict) -> dict:
    answer = client.post(f"{BASE}/edits", json={"edits": list(edits)})
    assert answer.status_code == 200, answer.text
    return answer.json()


def decode(frame: bytes) -> tuple[dict, dict[str, np.ndarray]]:
    (length,) = struct.unpack_from("<I", frame)
    head = json.loads(frame[4 : 4 + length])
    floats = np.frombuffer(frame, "<f4", offset=4 + length)
    curves = {one["id"]: floats[one["values"][0] : sum(one["values"])] for one in head["curves"]}
    return head, curves


def picture(client: TestClient, view: dict, edits: list[dict] | None = None) -> tuple[dict, dict[str, np.ndarray]]:
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as socket:
        socket.send_json({"seq": 5, "view": view, "edits": edits or []})
        while True:
            message = socket.receive()
            if message.get("bytes"):
                return decode(message["bytes"])
            told = json.loads(message["text"])
            if "error" in told:
                return told, {}


@pytest.mark.walk
def test_the_state_holds_what_the_frame_shows(client: TestClient) -> None:
    state = client.get(BASE).json()
    assert state["name"] == "Wren book van"
    assert len(state["drivers"]) == 7
    assert state["stages"]["drivers"] == "7 of 7"
    assert "grid" not in state
    assert len(client.get("/api/grid").json()) == 958
    assert state["link"]["limits"]["bands"] == 12
    assert [(one["kind"], one["about"]) for one in state["findings"]] == [
        ("reversed", "midbass-r"),
        ("impedance", "midbass-r"),
    ]


@pytest.mark.walk
def test_edits_undo_redo_and_revisions(client: TestClient) -> None:
    state = edit(client, {"do": "channel", "channel": "sub", "gain_db": -6})
    assert state["revision"]["can_undo"]
    revision = state["revision"]["id"]
    assert client.post(f"{BASE}/undo").json()["tune"]["channels"]["sub"]["gain_db"] == 0
    assert client.post(f"{BASE}/redo").json()["tune"]["channels"]["sub"]["gain_db"] == -6
    named = client.put(f"{BASE}/revisions/{revision}/name", json={"name": "soft"}).json()
    assert named[0]["name"] == "soft"
    edit(client, {"do": "neutral"})
    assert client.post(f"{BASE}/revisions/{revision}/restore").json()["tune"]["channels"]["sub"]["gain_db"] == -6


def test_the_picture_of_the_drivers(client: TestClient) -> None:
    head, curves = picture(client, VIEW)
    assert head["seq"] == 5
    assert not head["draft"]
    assert len(curves) == 7
    known = np.isfinite(curves["bare-tweeter-l"])
    assert known[-100:].all()
    assert not known[:300].any()


def test_a_draft_is_drawn_and_not_kept(client: TestClient) -> None:
    view = {"stage": "seams", "seam": "mid-tweeter-left", "smoothing": 12}
    corner = {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3000}
    head, curves = picture(client, view, [corner])
    assert head["draft"]
    assert head["tune"]["channels"]["mid-r"]["low_pass"]["corner_hz"] == 3000
    assert {"lower", "upper", "sum", "ideal", "phase", "normal", "inverted"} <= set(curves)
    inside = np.isfinite(curves["sum"])
    assert (curves["sum"][inside] <= curves["ideal"][inside] + 0.01).all()
    assert head["facts"]["loss"]["low_hz"] < 3000 < head["facts"]["loss"]["high_hz"]
    assert client.get(BASE).json()["tune"]["channels"]["mid-r"]["low_pass"] is None


@pytest.mark.walk
def test_a_seam_offer_does_what_it_promises(client: TestClient) -> None:
    edit(client, {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3000})
    offers = client.get(f"{BASE}/seams/mid-tweeter-left/offers").json()
    period_ms = 1000 / 3000
    assert abs(offers[0]["away_ms"]) < period_ms / 4
    # Farther ones are among them, half a period off and inverted, and do not come first.
    assert max(abs(one["away_ms"]) for one in offers) > period_ms / 3
    assert not offers[0]["inverted"]
    for one in offers:
        head, _ = picture(client, {"stage": "seams", "seam": "mid-tweeter-left", "smoothing": 12}, one["edits"])
        assert head["facts"]["loss"]["mean"] == pytest.approx(one["mean_db"], abs=0.02)
        assert head["facts"]["delay_ms"] == pytest.approx(one["delay_ms"], abs=1e-6)


def test_a_fit_brings_a_channel_nearer_to_its_target(client: TestClient) -> None:
    edit(client, {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 320})
    edit(client, {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3000})
    view = {"stage": "voice", "selection": "mid-l", "smoothing": 6}
    before = picture(client, view)[0]["facts"]["deviation"]
    answer = client.post(f"{BASE}/fit", json={"channels": ["mid-l"], "limits": {"count": 6}}).json()
    after, curves = picture(client, view)
    assert after["facts"]["deviation"]["rms"] < before["rms"] / 2
    assert answer["fit"]["boost_db"] <= 3.02
    assert {f"band-{n}" for n in range(answer["fit"]["bands"])} <= set(curves)
    for before_shown, role in ((False, "faint"), (True, "bold")):
        head, _ = picture(client, {**view, "before": before_shown})
        assert next(one["role"] for one in head["curves"] if one["id"] == "uncorrected") == role


def test_comparing_with_a_revision_lays_its_curve_beside(client: TestClient) -> None:
    old = client.get(BASE).json()["revision"]["id"]
    edit(client, {"do": "gains", "by_db": -5})
    _, curves = picture(client, {"stage": "voice", "smoothing": 6, "compare": old})
    inside = np.isfinite(curves["compare"])
    assert (curves["compare"] - curves["corrected"])[inside] == pytest.approx(np.full(inside.sum(), 5.0), abs=0.01)


@pytest.mark.parametrize(
    ("view", "edits", "says"),
    [
        ({"stage": "attic"}, [], "view.stage"),
        ({**VIEW, "colour": 1}, [], "view.colour"),
        ({"stage": "seams", "seam": "none"}, [], "no seam"),
        (VIEW, [{"do": "channel", "channel": "horn", "gain_db": 1}], "no driver 'horn'"),
        ({"stage": "proof", "take": 999}, [], "no take 999"),
        ({"stage": "voice", "compare": 999}, [], "no revision 999"),
    ],
)
def test_the_socket_answers_nonsense_with_a_sentence(client: TestClient, view: dict, edits: list, says: str) -> None:
    told, _ = picture(client, view, edits)
    assert says in told["error"]


@pytest.mark.parametrize(
    ("path", "body", "status", "says"),
    [
        ("edits", {"edits": []}, 422, "edits"),
        ("edits", {"edits": [{"do": "neutral"}], "extra": 1}, 422, "extra"),
        ("edits", {"edits": [{"do": "channel", "channel": "horn", "gain_db": 1}]}, 404, "no driver 'horn'"),
        (
            "edits",
            {"edits": [{"do": "crossover", "channel": "sub", "end": "low_pass", "slope_db": 13}]},
            422,
            "no slope",
        ),
        ("takes", {"channels": ["horn"], "purpose": "driver"}, 404, "no driver 'horn'"),
        ("takes", {"channels": ["sub"], "purpose": "proof", "method": "hum"}, 422, "method"),
        ("fit", {"channels": ["sub"], "limits": {"count": 99}}, 422, "count"),
        ("fit", {"channels": ["sub"], "limits": {"least_q": 5, "most_q": 2}}, 422, "contradict"),
        ("processor/recall", {"slot": 3}, 409, "slot 3 is empty"),
        ("processor/store", {"slot": 30}, 409, "no slot 30"),
        ("redo", {}, 409, "nothing to redo"),
    ],
)
def test_what_cannot_be_done_gets_a_sentence(client: TestClient, path: str, body: dict, status: int, says: str) -> None:
    before = client.get(BASE).json()["revision"]["number"]
    answer = client.post(f"{BASE}/{path}", json=body)
    assert answer.status_code == status
    assert says in answer.json()["detail"]
    assert client.get(BASE).json()["revision"]["number"] == before


def test_an_unknown_project_is_404(client: TestClient) -> None:
    answer = client.get("/api/projects/nightingale")
    assert answer.status_code == 404
    assert "nightingale" in answer.json()["detail"]


def upload(client: TestClient, data: bytes, kind: str, channel: str = "mid-l", name: str = "f.wav") -> object:
    return client.post(
        f"{BASE}/takes/upload", data={"channel": channel, "kind": kind}, files={"file": (name, io.BytesIO(data))}
    )


def sweep_recording(rate: int = 48_000, loopback: bool = True, gain: float = 0.5) -> bytes:
    import soxr

    stimulus = np.concatenate((exponential_sweep(SweepSettings()).samples, np.zeros(9600)))
    heard = gain * np.concatenate((np.zeros(240), stimulus))[: stimulus.size]
    random = np.random.default_rng(0)
    heard = heard + 1e-5 * random.standard_normal(heard.size)
    both = np.stack((heard, stimulus), axis=1) if loopback else heard[:, None]
    return write_wav(soxr.resample(both, 48_000, rate) if rate != 48_000 else both, rate)


@pytest.mark.parametrize(("rate", "loopback"), [(48_000, True), (44_100, True), (48_000, False)])
def test_a_recording_made_elsewhere_becomes_a_take(client: TestClient, rate: int, loopback: bool) -> None:
    answer = upload(client, sweep_recording(rate, loopback), "recording")
    assert answer.status_code == 201, answer.text
    state = client.get(BASE).json()
    read = state["drivers"]["mid-l"]
    assert answer.json() == {"id": read["take_id"], "name": "f.wav", "understood": ""}
    assert read["timed"] is loopback
    if loopback:
        assert read["arrival_ms"] == pytest.approx(5.0, abs=0.02)
    _, curves = picture(client, {"stage": "drivers", "smoothing": 12})
    expected = 20 * np.log10(0.5) + state["offset_db"]
    middle = curves["bare-mid-l"][100:-60]
    assert middle == pytest.approx(np.full(middle.size, expected), abs=0.1)


@pytest.mark.parametrize(
    ("data", "kind", "status", "says"),
    [
        (b"not a sound", "recording", 422, "not a WAV file"),
        (write_wav(np.zeros(48_000 * 4), 48_000), "recording", 422, "hears nothing"),
        (write_wav(0.1 * np.ones(4800), 48_000), "recording", 422, "lasts 0.10 s"),
        (write_wav(np.sign(np.sin(np.arange(48_000 * 4) / 9)), 48_000), "recording", 422, "clips"),
        (
            write_wav(1e-3 * np.random.default_rng(1).standard_normal(190_000), 48_000),
            "recording",
            422,
            "none of the sweeps",
        ),
        (write_wav(np.zeros(4800), 48_000), "impulse", 422, "silent"),
        (b"100 80\n200 loud\n", "text", 422, "line 2"),
        (b"100 80\n", "text", 422, "only 1 row"),
        (b"100 80\n100 81\n", "text", 422, "more than once"),
        (b"30000 80\n40000 81\n", "text", 422, "between 20 Hz and 20 kHz"),
        (b"x", "poem", 422, "kind"),
    ],
    ids=lambda value: "file" if isinstance(value, bytes) else str(value),
)
def test_bad_files_get_a_sentence_and_leave_nothing(
    client: TestClient, data: bytes, kind: str, status: int, says: str
) -> None:
    before = client.get(BASE).json()["takes"]
    answer = upload(client, data, kind)
    assert answer.status_code == status
    assert says in answer.json()["detail"]
    assert client.get(BASE).json()["takes"] == before


def test_a_response_goes_out_and_comes_back_the_same(client: TestClient) -> None:
    state = client.get(BASE).json()
    take = state["drivers"]["mid-l"]["take_id"]
    text = client.get(f"{BASE}/takes/{take}/response.txt").text
    assert read_curve(text.encode()).degrees is not None
    before = picture(client, {"stage": "drivers", "smoothing": None})[1]["bare-mid-l"]
    assert upload(client, text.encode(), "text", name="mid.txt").status_code == 201
    after = picture(client, {"stage": "drivers", "smoothing": None})[1]["bare-mid-l"]
    both = np.isfinite(before) & np.isfinite(after)
    assert both.sum() > 700
    assert after[both] == pytest.approx(before[both], abs=0.01)


def test_an_impulse_goes_out_and_comes_back_the_same(client: TestClient) -> None:
    take = client.get(BASE).json()["drivers"]["mid-r"]["take_id"]
    wav = client.get(f"{BASE}/takes/{take}/impulse.wav").content
    arrival = client.get(BASE).json()["drivers"]["mid-r"]["arrival_ms"]
    before = picture(client, {"stage": "drivers", "smoothing": 12})[1]["bare-mid-r"]
    answer = upload(client, wav, "impulse", "mid-r")
    assert answer.status_code == 201, answer.text
    assert client.get(BASE).json()["drivers"]["mid-r"]["arrival_ms"] == pytest.approx(arrival, abs=0.01)
    after = picture(client, {"stage": "drivers", "smoothing": 12})[1]["bare-mid-r"]
    inside = slice(350, 850)
    assert after[inside] == pytest.approx(before[inside], abs=0.3)


def test_the_sweep_package_holds_the_sweep_and_its_figures(client: TestClient) -> None:
    data = client.get(f"{BASE}/sweep.zip", params={"length": 2**16, "level_db": -30}).content
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        description = json.loads(package.read("sweep.json"))
        samples = read_wav(package.read("sweep.wav"), 48_000)[:, 0]
    assert description["length"] == 2**16
    assert decibels(np.abs(samples).max()) == pytest.approx(-30, abs=0.05)


def test_a_target_of_ones_own_is_loaded_and_drawn(client: TestClient) -> None:
    text = b"20 6\n1000 0\n20000 -6\n"
    answer = client.post(f"{BASE}/targets", files={"file": ("my slope.txt", io.BytesIO(text))}).json()
    assert answer.pop("understood") == "3 rows of frequency and value, blanks between them, decimal points"
    assert answer in client.get(BASE).json()["targets"]
    assert answer["name"] == "my slope"
    edit(client, {"do": "target", "curve": answer["key"], "level_db": 80})
    _, curves = picture(client, {"stage": "voice"})
    assert curves["target"][0] == pytest.approx(86, abs=0.1)
    narrow = client.post(f"{BASE}/targets", files={"file": ("n.txt", io.BytesIO(b"100 1\n150 2\n"))})
    assert narrow.status_code == 422
    assert "two octaves" in narrow.json()["detail"]


def test_send_store_and_load(client: TestClient) -> None:
    edit(client, {"do": "channel", "channel": "sub", "gain_db": -6})
    assert client.post(f"{BASE}/processor/send").json()["link"]["unsent"] == []
    stored = client.post(f"{BASE}/processor/store", json={"slot": 2, "name": "first"}).json()
    assert stored["link"]["slots"] == {"2": "first"}
    edit(client, {"do": "channel", "channel": "sub", "gain_db": -9})
    client.post(f"{BASE}/processor/send")
    loaded = client.post(f"{BASE}/processor/recall", json={"slot": 2, "name": ""}).json()
    assert [one["after"] for one in loaded["link"]["unsent"]] == ["-9.0 dB"]


@pytest.mark.parametrize("which", ["settings.json", "settings.csv", "sections.json"])
def test_exports_are_downloads(client: TestClient, which: str) -> None:
    answer = client.get(f"{BASE}/export/{which}")
    assert answer.status_code == 200
    assert "attachment" in answer.headers["content-disposition"]
    assert client.get(f"{BASE}/export/secrets.txt").status_code == 422


def test_neutral_is_one_revision_and_leaves_the_processor_silent(client: TestClient) -> None:
    edit(client, {"do": "channel", "channel": "sub", "gain_db": -6})
    state = client.post(f"{BASE}/neutral").json()
    assert state["link"]["all_muted"]
    assert {one["what"] for one in state["link"]["unsent"]} == {"sound"}
    assert client.post(f"{BASE}/undo").json()["tune"]["channels"]["sub"]["gain_db"] == -6


def test_a_take_through_the_api_reports_on_the_socket(client: TestClient) -> None:
    with client.websocket_connect(f"{BASE}/live", headers={"host": "127.0.0.1"}) as socket:
        assert client.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"}).status_code == 202
        stages = []
        while not stages or stages[-1] not in ("kept", "refused"):
            told = json.loads(socket.receive_text())
            stages += [told["progress"]["stage"]] if "progress" in told else []
    assert stages[-1] == "kept"
    assert client.get(BASE).json()["takes"][0]["channels"] == ["sub"]


def test_a_proof_take_is_compared_with_its_own_prediction(client: TestClient) -> None:
    edit(client, {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3000})
    client.post(f"{BASE}/processor/send")
    client.post(f"{BASE}/takes", json={"channels": ["mid-l", "tweeter-l"], "purpose": "proof"})
    client.app.state.recorder.wait()
    edit(client, {"do": "gains", "by_db": -12})  # the prediction stays that of what was recorded
    head, curves = picture(client, {"stage": "proof", "smoothing": 12, "low_hz": 200, "high_hz": 16_000})
    assert head["facts"]["take"]["channels"] == ["mid-l", "tweeter-l"]
    assert head["facts"]["prediction"]["rms"] < 0.2
    assert {"measured", "predicted", "target", "difference"} <= set(curves)
