"""The API described: what stands at its head, its problems, and the page that shows it, from our own files."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.openapi.docs import get_swagger_ui_html
from fastapi.responses import HTMLResponse
from fastapi.staticfiles import StaticFiles

from imbrix import __version__
from imbrix.api.problems import Problem

ABOUT: dict[str, Any] = {
    "title": "Imbrix",
    "version": __version__,
    "summary": "Measure, cross over, align, equalise and prove multi-way systems.",
    "description": (
        "The page of Imbrix uses nothing but this. A job that plays or records is begun by a POST that answers 202 "
        "and is followed by `GET /api/progress` until its stage is kept, done, refused or aborted. Levels are in dB, "
        "delays in seconds where a name ends in `_s`, in milliseconds where it ends in `_ms`. Errors are problems "
        "(RFC 9457) whose `detail` is a sentence. `docs/client.py` records, sets, predicts, fits and exports in thirty "
        "lines."
    ),
    "openapi_tags": [
        {"name": "Projects", "description": "A system of drivers with its takes and tunes."},
        {"name": "Tune", "description": "Everything set in the processor, as revisions."},
        {"name": "Places", "description": "Where projects stand, and the demonstrations."},
        {"name": "Processor", "description": "Sending, reading back, slots."},
        {"name": "Proposals", "description": "What a search offers: never applied unasked but where asked for."},
        {"name": "Plan", "description": "What comes next, and why: a script can follow it."},
        {"name": "Takes", "description": "Measurements of drivers and of the whole."},
        {"name": "Curves", "description": "What views show, as numbers."},
        {"name": "Rig", "description": "Devices, microphone, checks. It belongs to the machine."},
        {"name": "Sound", "description": "Test signals, listening, progress."},
        {"name": "Source", "description": "What reaches the processor, and undoing what the factory did to it."},
        {"name": "Image", "description": "Where sounds stand between left and right, by ear, and what mends it."},
        {"name": "Listening", "description": "Music through the processor, two tunes as loud as each other, notes."},
        {"name": "Impedance", "description": "The jig and what it shows."},
        {"name": "Passive parts", "description": "Networks of coils, capacitors and resistors before the drivers."},
        {"name": "Files", "description": "What leaves as a file."},
        {"name": "Diagnostics", "description": "What helps when something is wrong."},
    ],
}


def install(app: FastAPI, web: Path, whole: Callable[[], None]) -> None:
    """Describe problems by their own media type, and serve the page of the description. `whole` makes the application
    so, where routes are still to come."""
    plain = app.openapi

    def described() -> dict[str, Any]:
        if app.openapi_schema is None:
            whole()
            document = plain()
            document["components"]["schemas"]["Problem"] = Problem.model_json_schema(mode="serialization")
            document["components"]["schemas"].pop("HTTPValidationError", None)
            document["components"]["schemas"].pop("ValidationError", None)
            app.openapi_schema = document
        return app.openapi_schema

    app.openapi = described  # type: ignore[method-assign]
    shown = web / "describe"
    if shown.is_dir():
        app.mount("/api/docs/files", StaticFiles(directory=shown), name="describe")

    @app.get("/api/docs", include_in_schema=False)
    def docs() -> HTMLResponse:
        return get_swagger_ui_html(
            openapi_url="/api/openapi.json",
            title="Imbrix: the API",
            swagger_js_url="/api/docs/files/swagger-ui-bundle.js",
            swagger_css_url="/api/docs/files/swagger-ui.css",
            swagger_favicon_url="data:,",
        )
