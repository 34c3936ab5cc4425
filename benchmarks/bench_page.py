"""The start of an installed demo to a page with curves, and the redraws while a corner is dragged."""

import compileall
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from timing import report  # isort: skip

from imbrix.work.demo import load_demo
from imbrix.work.ground.workspace import open_workspace
from tests.ui.browser import Page, start_chromium

PACKAGES = "import numpy, scipy.fft, sqlalchemy.orm, fastapi, uvicorn, typer"


def seconds_to_packages() -> float:
    """How long this machine takes to load the packages that any server of this make needs."""
    begun = time.perf_counter()
    subprocess.run([sys.executable, "-c", PACKAGES], check=True)
    return time.perf_counter() - begun


def seconds_to_curves(folder: Path, port: int) -> float:
    """From the command to curves in the browser."""
    begun = time.perf_counter()
    command = [sys.executable, "-m", "imbrix.cli", "demo", "--folder", str(folder), "--port", str(port)]
    server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert server.stdout
    server.stdout.readline()  # the line that it prints as it begins to listen
    page = Page(driver, f"http://127.0.0.1:{port}")
    while True:
        try:
            page.open()
            break
        except Exception:
            if time.perf_counter() - begun > 60:
                raise
    taken = time.perf_counter() - begun
    server.send_signal(signal.SIGINT)  # as a person ends it: what the takes showed is kept
    server.wait()
    return taken


folder = Path(tempfile.mkdtemp())
space = open_workspace(folder, pace=0)
load_demo(space)
space.close()
driver = start_chromium()
compileall.compile_dir(ROOT / "src" / "imbrix", quiet=1)  # as `make demo` leaves it
packages = min(seconds_to_packages() for _ in range(3))
first = seconds_to_curves(folder, 8799)
curves = min(seconds_to_curves(folder, 8800 + n) for n in range(3))
driver.quit()
shutil.rmtree(folder)
report("start to a page with curves / loading its packages alone", curves / packages, 3, f"{curves:.2f} s")
print(f"  the first start over recordings that it has not read before: {first:.2f} s")

run = subprocess.run(
    [sys.executable, "-m", "pytest", "-q", "-s", "-p", "no:xdist", "tests/ui/test_interface.py", "-k", "redraws"],
    cwd=ROOT,
    capture_output=True,
    text=True,
)
found = re.search(r"redraws: (\d+), median ([\d.]+) ms, 95 % ([\d.]+) ms", run.stdout)
assert found, run.stdout[-2000:]
report("95 % of redraws / 50 ms", float(found[3]) / 50, 1, found[0])
