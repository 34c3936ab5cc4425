"""The real server in a process of its own, over a real socket, to be killed and started again."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import httpx

BASE = "/api/projects/wren"


class Server:
    """The real server in a process of its own, to be killed."""

    def __init__(self, folder: Path, pace: float = 1.0) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.folder = folder
        self.pace = pace
        self.start()

    def start(self, ready: str = BASE) -> None:
        command = [sys.executable, "-m", "imbrix.cli", "demo", "--folder", str(self.folder), "--port", str(self.port)]
        self.process = subprocess.Popen([*command, "--pace", str(self.pace)], stdout=subprocess.DEVNULL)
        self.http = httpx.Client(base_url=f"http://127.0.0.1:{self.port}", timeout=120)
        deadline = time.monotonic() + 180
        while time.monotonic() < deadline:
            with suppress(httpx.TransportError):
                if self.http.get(ready).status_code == 200:
                    return
            time.sleep(0.05)
        self.kill()
        raise AssertionError("the server did not start")

    def kill(self) -> None:
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()
        self.http.close()

    def state(self) -> dict:
        return self.http.get(BASE).json()


@contextmanager
def serving(demo_folder: Path, folder: Path, pace: float = 1.0) -> Iterator[Server]:
    """A server on a copy of the demo, killed at the end."""
    shutil.copytree(demo_folder, folder)
    made = Server(folder, pace)
    try:
        yield made
    finally:
        made.kill()
