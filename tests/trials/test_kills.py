"""Kills at moments of chance: whatever was answered as saved is there again, and nothing is half done."""

import io
import sqlite3
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest

from tests.helpers.server import BASE, Server, serving
from tests.trials.length import dice, many

CURVE = b"20 80\n200 85\n2000 82\n20000 70\n"
IDLE = ("idle", "kept", "done", "refused", "aborted")


@pytest.fixture
def server(demo_folder: Path, tmp_path: Path) -> Iterator[Server]:
    with serving(demo_folder, tmp_path / "data", pace=8) as made:
        yield made


class Hand:
    """Does one kind of thing again and again, and keeps what was answered as saved."""

    def __init__(self, server: Server, number: int) -> None:
        self.http = httpx.Client(base_url=f"{server.http.base_url}", timeout=60)
        self.number = number
        self.saved: list[tuple[str, Any]] = []
        self.turn = 0

    def edit(self) -> None:
        gain = -(self.number * 100 + self.turn) % 39 - 1
        # Both in one edit: a half of it would show.
        edit = {"do": "channel", "channel": "sub", "gain_db": gain, "delay_s": -gain / 48_000}
        made = self.http.post(f"{BASE}/edits", json={"edits": [edit]})
        self.keep(made, lambda state: ("revision", state["revision"]["number"]))

    def bring(self) -> None:
        data = {"channel": "mid-l", "kind": "text"}
        made = self.http.post(f"{BASE}/takes/upload", data=data, files={"file": ("c.txt", io.BytesIO(CURVE))})
        self.keep(made, lambda answer: ("take", answer["id"]))

    def record(self) -> None:
        made = self.http.post(f"{BASE}/takes", json={"channels": ["sub"], "purpose": "driver"})
        while made.status_code == 202:
            told = self.http.get("/api/progress").json()
            if told["stage"] in IDLE:
                if told["stage"] == "kept":
                    self.saved.append(("take", told["take_id"]))
                return

    def send(self) -> None:
        self.http.post(f"{BASE}/processor/send")
        slot = 1 + self.turn % 2
        self.http.post(f"{BASE}/processor/store", json={"slot": slot, "name": f"{self.number}-{self.turn}"})

    def aim(self) -> None:
        made = self.http.post(f"{BASE}/targets", files={"file": (f"t{self.turn}.txt", io.BytesIO(CURVE))})
        self.keep(made, lambda answer: ("target", answer["key"]))

    def begin(self) -> None:
        made = self.http.post("/api/projects", json={"name": f"P {self.number} {self.turn}", "ready": "front-3-sub"})
        self.keep(made, lambda answer: ("project", answer["slug"]))

    def rig(self) -> None:
        high = 1 + (self.number + self.turn) % 50 / 100
        made = self.http.patch("/api/rig", json={"height_m": high, "output_names": [f"at {high}"]})
        self.keep(made, lambda _answer: ("height", high))

    def keep(self, made: httpx.Response, what: Any) -> None:
        if made.status_code < 300:
            self.saved.append(what(made.json()))

    def work(self, action: str) -> None:
        """Until the server is gone."""
        try:
            while True:
                getattr(self, action)()
                self.turn += 1
        except (httpx.TransportError, RuntimeError):
            return


def half_done(folder: Path) -> list[str]:
    """What is not whole in the database of a folder."""
    with sqlite3.connect(folder / "imbrix.db") as file:
        checked = [row[0] for row in file.execute("PRAGMA integrity_check")]
        foreign = [f"{row[0]} {row[1]} refers to nothing" for row in file.execute("PRAGMA foreign_key_check")]
        bare = "SELECT id FROM take WHERE NOT EXISTS (SELECT 1 FROM array WHERE take_id = take.id)"
        empty = [f"take {row[0]} has no array" for row in file.execute(bare)]
        headless = [
            f"project {row[0]} has no head" for row in file.execute("SELECT slug FROM project WHERE head_id IS NULL")
        ]
    file.close()
    return [line for line in (*checked, *foreign, *empty, *headless) if line != "ok"]


def missing(server: Server, saved: list[tuple[str, Any]]) -> list[tuple[str, Any]]:
    """What was answered as saved and is not there."""
    state = server.state()
    there: dict[str, Any] = {
        "take": {one["id"] for one in state["takes"]},
        "target": {one["key"] for one in state["targets"]},
        "project": {one["slug"] for one in server.http.get("/api/projects").json()["projects"]},
        "revision": range(1, state["revision"]["number"] + 1),
    }
    gone = [(kind, one) for kind, one in saved if kind in there and one not in there[kind]]
    # Of a setting only the last counts, or the one after it, that was under way.
    rig, heights = state["rig"], [one for kind, one in saved if kind == "height"]
    if heights and not (
        round(100 * (rig["height_m"] - heights[-1])) % 50 <= 1 and rig["output_names"][0] == f"at {rig['height_m']}"
    ):
        gone.append(("height", (heights[-1], rig["height_m"], rig["output_names"])))
    sub = state["tune"]["channels"]["sub"]
    if round(sub["delay_s"] * 48_000) != max(0, -round(sub["gain_db"])):
        gone.append(("half an edit", (sub["gain_db"], sub["delay_s"])))
    return gone


@pytest.mark.walk
def test_nothing_that_was_answered_is_lost(server: Server) -> None:
    by = dice("kills")
    actions = ["edit", "bring", "record", "send", "aim", "begin", "rig"]
    for number in range(many(4, 100)):
        chosen = by.sample(actions, 2)
        hands = [Hand(server, number) for _ in chosen]
        pairs = zip(hands, chosen, strict=True)
        threads = [threading.Thread(target=hand.work, args=(action,)) for hand, action in pairs]
        for thread in threads:
            thread.start()
        threads[0].join(by.uniform(0.05, 1.5))
        server.kill()
        for thread in threads:
            thread.join()
        where = f"kill {number} while {chosen}"
        assert half_done(server.folder) == [], where
        server.start()
        assert missing(server, [one for hand in hands for one in hand.saved]) == [], where
