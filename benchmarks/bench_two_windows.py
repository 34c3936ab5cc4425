"""Two windows: how long after one's edit was answered the other has heard of it, over a real socket."""

import json
import shutil
import socket
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx
import websockets.sync.client as ws
from timing import report

from imbrix.work.demo import load_demo
from imbrix.work.ground.workspace import open_workspace

folder = Path(tempfile.mkdtemp())
space = open_workspace(folder, pace=0)
load_demo(space)
space.close()
with socket.socket() as free:
    free.bind(("127.0.0.1", 0))
    port = free.getsockname()[1]
server = subprocess.Popen(
    [sys.executable, "-m", "imbrix.cli", "demo", "--folder", str(folder), "--port", str(port)],
    stdout=subprocess.DEVNULL,
)
http = httpx.Client(base_url=f"http://127.0.0.1:{port}/api/projects/wren", timeout=60)
while True:
    try:
        http.get("")
        break
    except httpx.TransportError:
        time.sleep(0.05)

heard: dict[int, float] = {}
address = f"ws://127.0.0.1:{port}/api/projects/wren/live?window=other"
with ws.connect(address, origin=f"http://127.0.0.1:{port}") as live:

    def listen() -> None:
        for message in live:
            told = json.loads(message) if isinstance(message, str) else {}
            if "changed" in told:
                heard[told["changed"]] = time.perf_counter()

    threading.Thread(target=listen, daemon=True).start()
    time.sleep(0.5)
    late, asked = [], []
    for _ in range(40):
        step = {"edits": [{"do": "step", "channel": "sub", "gain_db": -0.1}]}
        began = time.perf_counter()
        version = http.post("/edits", json=step).json()["version"]
        asked.append(time.perf_counter() - began)
        time.sleep(0.15)
        late.append(heard[version] - began)
server.kill()
shutil.rmtree(folder)
worst = sorted(late)[-2]
report(
    "one window's edit heard in the other / 200 ms", worst / 0.2, 1, f"median {statistics.median(late) * 1e3:.0f} ms"
)
report("an edit, sent and answered / 50 ms", statistics.median(asked) / 0.05, 1)
