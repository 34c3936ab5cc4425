"""The command line: the same computations on files, and the document that the client is made from."""

import json
import socket
import sqlite3
import subprocess
import sys
import zipfile
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

from imbrix.api.told import told
from imbrix.cli import app
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.biquad import peaking
from imbrix.formats.text_curve import read_curve
from imbrix.formats.wav import read_wav, write_wav
from imbrix.store import folder
from imbrix.work.ground.workspace import open_workspace


def run(*arguments: object) -> str:
    result = CliRunner().invoke(app, [str(one) for one in arguments])
    assert result.exit_code == 0, result.output
    return result.output


def played(tmp_path: Path) -> np.ndarray:
    """The sweep that the command writes, as a player would play it."""
    run("sweep", tmp_path / "sweep.zip", "--length", 2**16)
    with zipfile.ZipFile(tmp_path / "sweep.zip") as package:
        assert json.loads(package.read("sweep.json"))["length"] == 2**16
        return read_wav(package.read("sweep.wav"), 48_000)[:, 0]


def test_a_sweep_is_written_and_its_recording_becomes_a_curve(tmp_path: Path) -> None:
    from scipy.signal import sosfilt, sosfreqz

    sweep = played(tmp_path)
    section = np.array([peaking(1000, 6, 2, 48_000)])
    noise = 1e-6 * np.random.default_rng(0).standard_normal(sweep.size)
    both = np.stack((0.5 * sosfilt(section, sweep) + noise, sweep), axis=1)
    (tmp_path / "recording.wav").write_bytes(write_wav(both, 48_000))
    run("take", tmp_path / "recording.wav", tmp_path / "out.txt", "--package", tmp_path / "sweep.zip")
    curve = read_curve((tmp_path / "out.txt").read_bytes())
    truth = 20 * np.log10(0.5 * np.abs(sosfreqz(section, worN=curve.frequencies, fs=48_000)[1]))
    assert curve.frequencies.size > 0.9 * log_grid().size
    assert curve.levels == pytest.approx(truth, abs=0.1)
    assert curve.degrees is not None


def test_without_a_loopback_the_curve_has_no_phase(tmp_path: Path) -> None:
    sweep = played(tmp_path)
    (tmp_path / "recording.wav").write_bytes(write_wav(0.5 * sweep, 48_000))
    run("take", tmp_path / "recording.wav", tmp_path / "out.txt", "--package", tmp_path / "sweep.zip")
    assert read_curve((tmp_path / "out.txt").read_bytes()).degrees is None


def test_a_file_that_is_no_recording_ends_with_a_sentence(tmp_path: Path) -> None:
    (tmp_path / "letter.wav").write_text("dear reader")
    result = CliRunner().invoke(app, ["take", str(tmp_path / "letter.wav"), str(tmp_path / "out.txt")])
    assert result.exit_code == 1
    assert "not a WAV file" in result.output
    assert not (tmp_path / "out.txt").exists()


def test_the_openapi_document_names_every_route(tmp_path: Path) -> None:
    run("openapi", tmp_path / "deep" / "openapi.json")
    paths = json.loads((tmp_path / "deep" / "openapi.json").read_text())["paths"]
    assert "/api/projects/{slug}/takes/upload" in paths
    assert all(path.startswith("/api/") for path in paths)


def test_a_folder_of_ones_own_begins_empty_and_takes_a_first_project(tmp_path: Path, monkeypatch) -> None:
    """`serve` makes no demo; without a folder named it is the user's own."""
    import uvicorn
    from starlette.testclient import TestClient

    seen: list[list[dict]] = []

    def look(server, sockets: object) -> None:
        with TestClient(server.config.app, base_url="http://127.0.0.1") as client:
            seen.append(client.get("/api/projects").json()["projects"])
            if not seen[-1]:
                assert client.post("/api/projects", json={"name": "First"}).json() == {"slug": "first"}

    monkeypatch.setattr(uvicorn.Server, "run", look)
    monkeypatch.setattr("imbrix.work.warm.PAGE_S", 0)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "home"))
    said = run("serve")
    assert str(tmp_path / "home" / "imbrix") in said
    run("serve")
    assert [len(one) for one in seen] == [0, 1]
    assert "/api/projects/first" in told(tmp_path / "home" / "imbrix")
    (tmp_path / "file").write_text("no folder")
    result = CliRunner().invoke(app, ["serve", "--folder", str(tmp_path / "file" / "data")])
    assert result.exit_code == 1
    assert "cannot be used: Not a directory" in result.output


def test_a_port_that_is_taken_is_said_before_anything_is_touched(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        result = CliRunner().invoke(app, ["demo", "--folder", str(tmp_path / "data"), "--port", port])
    assert result.exit_code == 1
    assert f"port {port} cannot be used" in result.output
    assert not (tmp_path / "data").exists()
    assert CliRunner().invoke(app, ["demo", "--folder", str(tmp_path), "--port", "99999"]).exit_code == 1


@pytest.mark.walk
def test_a_folder_that_another_server_has_is_left_alone(tmp_path: Path) -> None:
    with folder.claim(tmp_path):
        script = ["-c", "from imbrix.cli import app; app()", "serve", "--folder", str(tmp_path), "--port", "0"]
        second = subprocess.run([sys.executable, *script], capture_output=True, text=True, check=False, timeout=120)
    assert second.returncode == 1
    assert "another Imbrix is running" in second.stderr
    assert [one.name for one in tmp_path.iterdir()] == ["imbrix.lock"]


def test_a_damaged_folder_is_said_and_a_copy_put_back(tmp_path: Path) -> None:
    open_workspace(tmp_path, pace=0).close()
    copied = folder.copy(tmp_path, datetime(2031, 5, 1))
    (tmp_path / "imbrix.db").write_text("shopping list")
    result = CliRunner().invoke(app, ["serve", "--folder", str(tmp_path), "--port", "0"])
    assert result.exit_code == 1
    assert "is damaged (file is not a database): it was left as it is" in result.output
    assert f"the newest copy is backups/{copied.name}" in result.output
    assert (tmp_path / "imbrix.db").read_text() == "shopping list"
    assert "is the database now" in run("restore", "--folder", tmp_path)
    folder.check(tmp_path)
    kept = next(tmp_path.glob("damaged-*")) / "imbrix.db"
    assert kept.read_text() == "shopping list"
    result = CliRunner().invoke(app, ["restore", "--folder", str(tmp_path), "--copy", str(tmp_path / "no.db")])
    assert (result.exit_code, "no copy to be restored" in result.output) == (1, True)


def test_a_folder_of_a_newer_version_is_said(tmp_path: Path) -> None:
    """Which shows when the page is being served already: the server ends all the same."""
    open_workspace(tmp_path, pace=0).close()
    with sqlite3.connect(tmp_path / "imbrix.db") as database:
        database.execute("UPDATE alembic_version SET version_num = '9999'")
    result = CliRunner().invoke(app, ["serve", "--folder", str(tmp_path), "--port", "0"])
    assert result.exit_code == 1
    assert "was written by a newer Imbrix" in result.output


def test_the_start_waits_for_nothing_that_it_does_not_need() -> None:
    """Large parts of packages load at first use: each of these costs a tenth of a second and more."""
    heavy = ("scipy.signal", "scipy.optimize", "scipy.stats", "scipy.interpolate", "fpdf", "PIL", "sounddevice")
    told = "import sys, imbrix.cli, imbrix.api.app; print(*sys.modules)"
    loaded = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True).stdout.split()
    assert "imbrix.api.app" in loaded
    assert [one for one in heavy if one in loaded] == []


def test_of_scipy_a_start_loads_what_is_used() -> None:
    heavy = ("scipy.stats", "fpdf", "PIL", "sounddevice", "numpy.testing", "numpy.f2py")
    told = (
        "import sys, imbrix.cli as c; c.load_quickly(); import imbrix.api.app, imbrix.work.warm, scipy\n"
        "print('scipy.signal' in sys.modules, scipy.signal.__name__, *sys.modules)"
    )
    loaded = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True).stdout.split()
    assert loaded[:2] == ["False", "scipy.signal"]
    assert {"scipy.signal", "imbrix.api.app"} <= set(loaded)
    assert [one for one in heavy if one in loaded] == []


def test_the_page_waits_for_no_computation() -> None:
    """What answers with it is there before NumPy, FastAPI and SQLAlchemy are."""
    told = "import sys, imbrix.cli, imbrix.api.doorman, imbrix.api.told, imbrix.store.folder; print(*sys.modules)"
    loaded = subprocess.run([sys.executable, "-c", told], capture_output=True, text=True, check=True).stdout.split()
    assert "imbrix.api.doorman" in loaded
    later = ("scipy", "numpy", "fastapi", "pydantic", "sqlalchemy", "imbrix.work", "imbrix.api.app")
    assert [one for one in later if one in loaded] == []
