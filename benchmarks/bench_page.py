"""The start of an installed demo to a page with curves, and the redraws while a corner is dragged."""

import re
import shutil
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

folder = Path(tempfile.mkdtemp())
space = open_workspace(folder, pace=0)
load_demo(space)
space.sessions.kw["bind"].dispose()
driver = start_chromium()
port = 8799
begun = time.perf_counter()
server = subprocess.Popen(
    [sys.executable, "-m", "imbrix.cli", "demo", "--folder", str(folder), "--port", str(port)],
    stdout=subprocess.PIPE,
    text=True,
)
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
report("start to a page with curves / 5 s", (time.perf_counter() - begun) / 5, 1)
driver.quit()
server.kill()
shutil.rmtree(folder)

run = subprocess.run(
    [sys.executable, "-m", "pytest", "-q", "-s", "-p", "no:xdist", "tests/ui/test_interface.py", "-k", "redraws"],
    cwd=ROOT,
    capture_output=True,
    text=True,
)
found = re.search(r"redraws: (\d+), median ([\d.]+) ms, 95 % ([\d.]+) ms", run.stdout)
assert found, run.stdout[-2000:]
report("95 % of redraws / 50 ms", float(found[3]) / 50, 1, found[0])
