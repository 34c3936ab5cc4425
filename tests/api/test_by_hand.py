"""A processor that nobody can talk to: what is to be typed, in the order of its screens, ticked off and kept."""

from collections.abc import Callable

import pytest
from starlette.testclient import TestClient

from imbrix.api.app import create_app
from imbrix.core.tune.changes import Change
from imbrix.core.tune.models import MODELS
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Channel
from imbrix.standins.processor import StandinProcessor
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.predict.parting import parting
from imbrix.work.processor.typed import in_order
from imbrix.work.takes.shelf import takes, through
from tests.helpers.server import BASE

HAND = f"{BASE}/processor/by-hand"
EDITS = [
    {"do": "channel", "channel": "tweeter-l", "gain_db": -4, "inverted": True},
    {"do": "crossover", "channel": "tweeter-l", "end": "high_pass", "corner_hz": 3150, "slope_db": 24},
    {"do": "band", "channel": "tweeter-l", "index": 0, "band": {"frequency_hz": 6000, "gain_db": -3, "q": 2}},
    {"do": "band", "channel": None, "index": 0, "band": {"frequency_hz": 90, "gain_db": -2, "q": 1}},
    {"do": "channel", "channel": "sub", "delay_s": 0.002},
]


def rows(state: dict) -> list[tuple[str, str, str]]:
    return [(one["channel"], one["what"], one["after"]) for one in state["link"]["unsent"]]


def begin(client: TestClient) -> list[tuple[str, str, str]]:
    assert client.post(f"{BASE}/edits", json={"edits": EDITS}).status_code == 200
    answer = client.put(HAND, json={"by_hand": True})
    assert answer.status_code == 200, answer.text
    assert answer.json()["link"]["by_hand"]
    return rows(answer.json())


def tick(client: TestClient, row: tuple[str, str, str]):
    return client.post(f"{HAND}/tick", json=dict(zip(("channel", "what", "after"), row, strict=True)))


def test_what_is_typed_comes_output_by_output_and_is_ticked_off(client: TestClient) -> None:
    asked = begin(client)
    mine = [row for row in asked if row[0] == "Tweeter L"]
    assert [what for _where, what, _says in mine][:4] == ["high-pass", "gain", "polarity", "band 1"]
    assert mine[0][2] == "Linkwitz–Riley 24 dB at 3150 Hz"
    assert asked == sorted(asked, key=lambda row: [one[0] for one in asked].index(row[0]))
    refused = client.post(f"{BASE}/processor/send")
    assert (refused.status_code, "typed by hand" in refused.json()["detail"]) == (409, True)
    for n, row in enumerate(asked):
        state = tick(client, row).json()
        assert rows(state) == asked[n + 1 :]
        assert state["stages"]["handover"] == (f"{len(asked) - n - 1} unsent" if n + 1 < len(asked) else "all sent")
    # The stand-in does what was typed into what it stands for: a take goes through it.
    assert client.delete(HAND).status_code == 405
    assert client.put(HAND, json={"by_hand": False}).json()["link"]["unsent"] == []


def test_a_tick_is_taken_back_and_a_change_comes_up_again(client: TestClient) -> None:
    asked = begin(client)
    for row in asked[:3]:
        tick(client, row)
    assert rows(client.post(f"{HAND}/untick").json()) == asked[2:]
    band = next(row for row in asked if row[1] == "band 1" and row[0] == "Tweeter L")
    tick(client, band)
    gone = [{"do": "band", "channel": "tweeter-l", "index": 0, "band": None}]
    later = client.post(f"{BASE}/edits", json={"edits": gone}).json()
    # The common band has moved up into its place; what stood there is to be typed over, the next one taken out.
    assert ("Tweeter L", "band 1", "peaking 90 Hz, -2.0 dB, Q 1.00") in rows(later)
    stale = tick(client, band)
    assert stale.status_code == 409
    assert "asks for peaking 90 Hz, -2.0 dB, Q 1.00 by now" in stale.json()["detail"]
    assert client.put(HAND, json={"by_hand": True}).status_code == 409


def test_where_it_was_left_is_where_it_goes_on(client: TestClient, demo: Workspace) -> None:
    asked = begin(client)
    for row in asked[:4]:
        tick(client, row)
    again = open_workspace(demo.folder, pace=0)
    with TestClient(create_app(again), base_url="http://127.0.0.1") as other:
        assert rows(other.get(BASE).json()) == asked[4:]
    again.close()


def test_a_driver_of_another_name_is_typed_under_it_and_nothing_is_typed_back(client: TestClient) -> None:
    for row in begin(client):
        tick(client, row)
    layout = client.get(BASE).json()["layout"]
    next(one for one in layout["drivers"] if one["id"] == "sub")["name"] = "Bass box"
    assert client.put(f"{BASE}/layout", json=layout).status_code == 200
    asked = rows(client.get(BASE).json())
    assert {where for where, _what, _says in asked} == {"Bass box"}
    assert ("Bass box", "delay", "2.000 ms") in asked


def test_an_input_is_typed_and_typed_back(client: TestClient) -> None:
    for row in begin(client):
        tick(client, row)
    inverted = [{"do": "input", "input": 2, "inverted": True}]
    changed = client.post(f"{BASE}/edits", json={"edits": inverted})
    assert changed.status_code == 200, changed.text
    assert rows(changed.json()) == [("Input 2", "polarity", "inverted")]
    tick(client, ("Input 2", "polarity", "inverted"))
    back = client.post(f"{BASE}/undo", json={}).json()
    assert rows(back) == [("Input 2", "polarity", "normal")]


def test_a_device_that_holds_what_was_sent_is_asked_for_the_rest_only(client: TestClient) -> None:
    client.post(f"{BASE}/processor/send")
    client.post(f"{BASE}/edits", json={"edits": [{"do": "channel", "channel": "sub", "gain_db": -6}]})
    state = client.put(HAND, json={"by_hand": True, "as_sent": True}).json()
    assert rows(state) == [("Sub", "gain", "-6.0 dB")]
    assert client.post(f"{HAND}/untick").status_code == 409
    client.put(HAND, json={"by_hand": False})
    assert client.post(f"{HAND}/tick", json={"channel": "Sub", "what": "gain", "after": "-6.0 dB"}).status_code == 409


def test_the_plan_says_to_type_where_nothing_can_be_sent(client: TestClient) -> None:
    begin(client)
    steps = client.get(f"{BASE}/plan").json()["steps"]
    step = next(one for one in steps if one["key"] == "send")
    assert (step["name"], step["stage"]) == ("Type the changes in", "handover")


def test_a_model_says_how_its_screens_go() -> None:
    def change(where: str, what: str) -> Change:
        return Change(channel=where, what=what, before="", after="")

    found = [change(where, what) for where in ("A", "B") for what in ("gain", "high-pass", "band 1", "delay")]
    found.insert(0, change("Input 1", "gain"))
    by_screen = in_order(found, ("crossovers", "delay", "gain", "bands", "inputs"))
    assert [(one.channel, one.what) for one in by_screen] == [
        *((where, "high-pass") for where in ("A", "B")),
        *((where, "delay") for where in ("A", "B")),
        *((where, "gain") for where in ("A", "B")),
        *((where, "band 1") for where in ("A", "B")),
        ("Input 1", "gain"),
    ]
    by_place = in_order(found, ())
    assert [one.channel for one in by_place] == ["Input 1", *"AAAABBBB"]
    assert [one.what for one in by_place][1:5] == ["high-pass", "gain", "delay", "band 1"]
    assert MODELS  # models without the field are read as they were


def typed_wrong(monkeypatch: pytest.MonkeyPatch, output: int, change: Callable[[Channel], Channel]) -> None:
    """A device in which a setting of one output (from 1) stands otherwise than the person believes."""
    asked = StandinProcessor.registers

    def registers(self: StandinProcessor, outputs: int) -> list[OutputRegister]:
        found = list(asked(self, outputs))
        one = found[output - 1]
        found[output - 1] = one.model_copy(update={"channel": change(one.channel)})
        return found

    monkeypatch.setattr(StandinProcessor, "registers", registers)


def with_corner(channel: Channel) -> Channel:
    assert channel.high_pass is not None
    end = channel.high_pass.model_copy(update={"corner_hz": channel.high_pass.corner_hz * 0.7})
    return channel.model_copy(update={"high_pass": end})


@pytest.mark.parametrize(
    ("change", "named"),
    [
        (with_corner, "the high-pass of Tweeter L stood at Linkwitz–Riley 24 dB at 2"),
        (
            lambda one: one.model_copy(update={"gain_db": one.gain_db - 6}),
            "or the gain of Tweeter L stood at -10.0 dB instead of -4.0 dB",
        ),
        (lambda one: one.model_copy(update={"bands": ()}), "band 1 of Tweeter L"),
        (
            lambda one: one.model_copy(update={"delay_s": 0.0012}),
            "the delay of Tweeter L stood at 1.2",
        ),
        (lambda one: one.model_copy(update={"delay_s": 0.0001}), ""),
        (
            lambda one: one.model_copy(update={"inverted": False}),
            "polarity of Tweeter L stood at normal instead of inv",
        ),
        (lambda one: one, ""),
    ],
    ids=["corner", "gain", "band", "delay", "put back", "polarity", "right"],
)
def test_a_value_that_was_typed_wrong_is_named_by_a_take_of_its_channel(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, change: Callable[[Channel], Channel], named: str
) -> None:
    for row in begin(client):
        tick(client, row)
    typed_wrong(monkeypatch, 6, change)
    taken = client.post(f"{BASE}/takes", json={"channels": ["tweeter-l"], "purpose": "proof"})
    assert taken.status_code == 202
    client.app.state.recorder.wait(60)  # type: ignore[attr-defined]
    space = client.app.state.space  # type: ignore[attr-defined]
    found = parting(space, "wren", takes(space, "wren")[0])
    assert found is not None
    assert (named in found.says) if named else "looks as if" not in found.says, found.says


def test_what_was_typed_is_what_a_proof_goes_through_after_a_restart(client: TestClient, demo: Workspace) -> None:
    for row in begin(client):
        tick(client, row)
    asked = client.get(BASE).json()["tune"]["channels"]["tweeter-l"]
    again = open_workspace(demo.folder, pace=0)  # the stand-in has lost its registers, the device has not
    with TestClient(create_app(again), base_url="http://127.0.0.1") as other:
        state = other.get(BASE).json()
        assert (state["link"]["unsent"], state["link"]["all_muted"]) == ([], False)
        other.post(f"{BASE}/takes", json={"channels": ["tweeter-l"], "purpose": "proof"})
        other.app.state.recorder.wait(60)  # type: ignore[attr-defined]
        newest = takes(again, "wren")[0]
        assert newest.purpose == "proof"
        went = through(again, newest).channels["tweeter-l"]
        assert (went.gain_db, went.high_pass.corner_hz) == (asked["gain_db"], 3150)  # type: ignore[union-attr]
    again.close()


def test_a_slot_keeps_what_is_typed_and_gives_it_back(client: TestClient) -> None:
    asked = begin(client)
    early = client.post(f"{BASE}/processor/store", json={"slot": 1, "name": "Early"})
    assert early.status_code == 409
    assert f"{len(asked)} settings are not typed in yet" in early.json()["detail"]
    for row in asked:
        tick(client, row)
    assert client.post(f"{BASE}/processor/store", json={"slot": 1, "name": "Typed"}).status_code == 200
    client.post(f"{BASE}/edits", json={"edits": [{"do": "channel", "channel": "sub", "gain_db": -9}]})
    tick(client, ("Sub", "gain", "-9.0 dB"))
    # The device loads its slot: what the tune asks for beyond that is to be typed again.
    assert rows(client.post(f"{BASE}/processor/recall", json={"slot": 1}).json()) == [("Sub", "gain", "-9.0 dB")]
