"""What a fresh server does on the side."""

import gc
import shutil
from datetime import datetime
from pathlib import Path
from threading import Event

import pytest

from imbrix.standins.places.van import SLUG
from imbrix.work import warm
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.predict.scene import scene
from imbrix.work.takes import reading, remembered


def test_a_fresh_server_copies_its_database_and_spares_the_collector_what_stays(
    demo: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(warm, "PAGE_S", 0.0)
    before, stays = gc.get_freeze_count(), [[n] for n in range(5000)]
    warm.warm(demo)
    assert gc.get_freeze_count() >= before + len(stays)
    assert any(datetime.now().strftime("%Y-%m-%d") in one.name for one in demo.folder.rglob("*.db*"))


def test_the_next_start_finds_what_every_page_shows(
    demo_folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    shutil.copytree(demo_folder, tmp_path / "demo")
    (tmp_path / "demo" / remembered.NAME).unlink()
    monkeypatch.setattr(warm, "PAGE_S", 0.0)
    for read in (True, False):
        space = open_workspace(tmp_path / "demo", pace=0)
        remembered.bring(space)
        if not read:
            monkeypatch.setattr(reading, "arrays", lambda *_: pytest.fail("a recording was read"))
        warm.warm(space)
        assert scene(space, SLUG).takes
        space.close()


def test_an_end_need_not_wait_for_what_the_next_start_can_do(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(warm, "PAGE_S", 1e6)
    ended = Event()
    ended.set()
    warm.warm(demo, ended)
    assert not list(demo.folder.rglob("imbrix-*.db"))
