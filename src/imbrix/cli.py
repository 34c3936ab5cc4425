"""One command: the demo, and the same computations on files."""

import gc
import json
import os
import socket
import threading
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from imbrix.scipy_loading import load_quickly

if TYPE_CHECKING:
    from fastapi import FastAPI

# The arrays here are small: threads inside one product only wait for each other, many times longer than they work.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

app = typer.Typer(no_args_is_help=True, add_completion=False, help="Imbrix: measure, align and equalise loudspeakers.")
Folder = Annotated[Path, typer.Option(help="Folder of the data.")]
OwnFolder = Annotated[Path | None, typer.Option(help="Folder of the data; where it is left out, the user's own.")]
Port = Annotated[int, typer.Option(help="Port on 127.0.0.1.")]
Pace = Annotated[float, typer.Option(help="How many times faster than real time the stand-ins sound; 0: at once.")]


@app.command()
def demo(folder: Folder = Path(".demo"), port: Port = 8642, pace: Pace = 1.0) -> None:
    """Serve the demonstration project, making it where it is missing."""
    _serve(folder, port, pace, with_demo=True)


@app.command()
def serve(folder: OwnFolder = None, port: Port = 8642, pace: Pace = 1.0) -> None:
    """Serve projects of one's own from a data folder, empty at first."""
    folder = folder or _own()
    typer.echo(f"The data are in {folder}")
    _serve(folder, port, pace, with_demo=False)


def _own() -> Path:
    import platformdirs

    return platformdirs.user_data_path("imbrix")


def _serve(folder: Path, port: int, pace: float, with_demo: bool) -> None:
    with _loading():
        import uvicorn

        from imbrix.api import told
        from imbrix.api.connections import Patient
        from imbrix.api.doorman import Doorman
        from imbrix.api.page import WEB
        from imbrix.store.folder import DATABASE, check, claim

    with ExitStack() as stack:
        # The port first and the folder next: a second start by mistake must not touch what the first one works on.
        listener = stack.enter_context(_bound(port))
        with _said(folder):
            folder.mkdir(parents=True, exist_ok=True)
            stack.enter_context(claim(folder))
            last = told.told(folder)
            check(folder)
            # To make the demo takes its time: nobody is to be sent to a page that waits for it.
            made = None if (folder / DATABASE).exists() else _open(folder, pace, with_demo, stack)
        doorman = Doorman(
            WEB,
            load=lambda: made or _open(folder, pace, with_demo, stack),
            give_up=lambda: setattr(server, "should_exit", True),
            told=last,
        )
        config = uvicorn.Config(
            doorman,
            http=Patient,
            log_level="warning",
            ws_max_size=1_000_000,
            ws_ping_interval=None,  # on the machine itself a lost peer shows at once, and a busy one is not lost
            server_header=False,
        )
        server = uvicorn.Server(config)
        typer.echo(f"Imbrix is at http://127.0.0.1:{port}")
        server.run(sockets=[listener])
        with _said(folder):
            if doorman.failed is not None:
                raise doorman.failed


def _open(folder: Path, pace: float, with_demo: bool, stack: ExitStack) -> "FastAPI":
    """The application over a data folder, with what ends it put on the stack."""
    with _loading():
        load_quickly()
        from imbrix.api import told
        from imbrix.api.app import create_app
        from imbrix.work.demo import load_demo
        from imbrix.work.ground.logs import log_to
        from imbrix.work.ground.workspace import open_workspace
        from imbrix.work.takes import remembered
        from imbrix.work.warm import warm

    log_to(folder)
    space = open_workspace(folder, pace)
    if with_demo and load_demo(space):
        typer.echo("The demo project was made.")
    remembered.bring(space)
    served = create_app(space, at_once=False)
    gc.freeze()  # see `warm`, which does so again with what is loaded later
    ended = threading.Event()

    def on_the_side() -> None:
        warm(space, ended)
        if not ended.is_set():
            before = told.stamp(folder)
            told.keep(folder, told.answers(served), before)

    def at_the_end() -> None:
        remembered.keep(space)
        last = told.answers(served)
        space.close()  # what SQLite does to its files then comes before they are looked at
        told.keep(folder, last)

    stack.callback(at_the_end)
    warming = threading.Thread(target=on_the_side, daemon=True)
    warming.start()
    stack.callback(warming.join, 30)  # a thread that is cut off within compiled code takes the whole process down
    stack.callback(ended.set)
    return served


@contextmanager
def _loading() -> Iterator[None]:
    """While what is made is there to stay: to look through it for garbage takes a tenth of the start."""
    gc.disable()
    try:
        yield
    finally:
        gc.enable()


def _bound(port: int) -> socket.socket:
    """The port of this machine, taken. Ends with a sentence where it cannot be."""
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except (OSError, OverflowError) as error:
        why = getattr(error, "strerror", None) or error
        typer.echo(f"port {port} cannot be used ({why}): Imbrix may be running there; --port takes another", err=True)
        raise typer.Exit(1) from None
    return listener


@contextmanager
def _said(folder: Path) -> Iterator[None]:
    """Ends with a sentence where a data folder cannot be opened."""
    from imbrix.core.errors import ImbrixError

    try:
        yield
    except Exception as error:
        from sqlalchemy.exc import DBAPIError  # a third of a second: the page is there before it

        if not isinstance(error, OSError | ImbrixError | DBAPIError):
            raise
        why = getattr(error, "orig", None) or getattr(error, "strerror", None) or error
        typer.echo(f"the data folder {folder} cannot be used: {why}", err=True)
        raise typer.Exit(1) from None


@app.command()
def restore(folder: OwnFolder = None, copy: Annotated[Path | None, typer.Option(help="Which copy.")] = None) -> None:
    """Put the newest copy of the database back, or another one; what was there is kept beside it."""
    from imbrix.store.folder import claim
    from imbrix.store.folder import restore as put_back

    folder = folder or _own()
    with _said(folder), claim(folder):
        source, aside = put_back(folder, copy, datetime.now())
    typer.echo(f"{source} is the database now; what was there is kept in {aside}")


@app.command()
def openapi(out: Path) -> None:
    """Write the OpenAPI document from which the front end's client is generated."""
    import tempfile

    from imbrix.api.app import create_app
    from imbrix.work.ground.workspace import open_workspace

    with tempfile.TemporaryDirectory() as folder:
        document = create_app(open_workspace(Path(folder))).openapi()
    out.parent.mkdir(parents=True, exist_ok=True)
    out.write_text(json.dumps(document, indent=1))


@app.command()
def sweep(out: Path, length: int = 2**17, level_db: float = -24.0) -> None:
    """Write the sweep with its description as a zip."""
    from imbrix.core.measure.sweep import SweepSettings
    from imbrix.formats.sweep_package import write_package

    out.write_bytes(write_package(SweepSettings(length=length, level_db=level_db)))


@app.command()
def take(recording: Path, out: Path, package: Path | None = None) -> None:
    """Turn a recording of a sweep (WAV; second channel: loopback) into a response as text.

    The sweep is that of a package, or of its sweep.json; without one it is the sweep that `imbrix sweep` writes.
    """
    import numpy as np

    load_quickly()
    from imbrix.core.errors import ImbrixError
    from imbrix.core.measure.reading import check_recording, read_recording
    from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
    from imbrix.core.signal.grid import log_grid
    from imbrix.core.signal.signal import decibels
    from imbrix.formats.sweep_package import read_package
    from imbrix.formats.text_curve import write_curve
    from imbrix.formats.wav import read_wav

    read = package or recording
    try:
        settings = read_package(package.read_bytes()) if package else SweepSettings()
        read = recording
        samples = read_wav(recording.read_bytes(), settings.rate)
        check_recording(samples[:, 0], settings.rate, settings.length / settings.rate)
        timed = samples.shape[1] > 1
        reference = samples[:, 1] if timed else exponential_sweep(settings).samples
        shows = read_recording(samples[:, 0], reference, settings.rate, timed)
    except (ImbrixError, OSError) as error:
        typer.echo(f"{read}: {error}", err=True)
        raise typer.Exit(1) from None
    values = np.nan_to_num(shows.response)
    levels = np.where(np.isfinite(shows.response), decibels(values), np.nan)
    out.write_text(write_curve(log_grid(), levels, np.degrees(np.angle(values)) if timed else None, recording.name))


if __name__ == "__main__":
    app()
