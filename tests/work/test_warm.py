"""What a fresh server does on the side."""

import gc
from datetime import datetime

import pytest

from imbrix.work import warm
from imbrix.work.ground.workspace import Workspace


def test_a_fresh_server_copies_its_database_and_spares_the_collector_what_stays(
    demo: Workspace, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(warm, "PAGE_S", 0.0)
    before, stays = gc.get_freeze_count(), [[n] for n in range(5000)]
    warm.warm(demo)
    assert gc.get_freeze_count() >= before + len(stays)
    assert any(datetime.now().strftime("%Y-%m-%d") in one.name for one in demo.folder.rglob("*.db*"))
