"""Which program computed: the same as long as its modules and what it computes with are."""

import hashlib
from pathlib import Path

import pytest

from imbrix import program


def test_another_module_or_another_package_is_another_program(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    told = program.fingerprint.__wrapped__
    monkeypatch.setattr(program, "__file__", str(tmp_path / "program.py"))
    (tmp_path / "core").mkdir()
    (tmp_path / "core" / "gain.py").write_text("GAIN_DB = 3.0")
    (tmp_path / "core" / "notes.txt").write_text("no module")
    first = told()
    (tmp_path / "core" / "notes.txt").write_text("other notes")
    assert told() == first
    (tmp_path / "core" / "gain.py").write_text("GAIN_DB = 3.1")
    second = told()
    monkeypatch.setattr(program, "version", lambda name: f"{name} 99")
    assert len({first, second, told()}) == 3
    assert len(first) == hashlib.sha256().digest_size * 2


def test_what_runs_is_not_exchanged_with_its_files(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    first = program.fingerprint()
    monkeypatch.setattr(program, "__file__", str(tmp_path / "program.py"))
    assert program.fingerprint() == first
