"""What leaves a project as files: settings, sections, responses, impulses, sweeps."""

from dataclasses import replace
from typing import Annotated

from fastapi import APIRouter, Path, Query
from fastapi.responses import JSONResponse, Response, StreamingResponse

from imbrix.api.answers import download, file_of
from imbrix.api.at import AtSpace, Id, Slug
from imbrix.api.problems import RESPONSES
from imbrix.api.schemas import SweepIn
from imbrix.core.tune.fixed_point import Format
from imbrix.formats import wav
from imbrix.formats.coefficients import Convention, Kind, Sign
from imbrix.formats.taps import TapsKind
from imbrix.work.handover import coefficients, exports, journal, project_out, report
from imbrix.work.handover.taps import taps_file
from imbrix.work.rig import rig
from imbrix.work.takes import given, recording

router = APIRouter(prefix="/api/projects/{slug}", tags=["Files"], responses=RESPONSES, default_response_class=Response)


@router.get("/export/{which}", summary="The tune as a file", responses=file_of("application/json", "text/csv"))
def get_export(slug: Slug, which: exports.Sheet, space: AtSpace) -> Response:
    """Settings as JSON or CSV, or second-order sections as JSON with their sign convention."""
    kind = "text/csv" if which.endswith("csv") else "application/json"
    return download(exports.sheet(space, slug, which), f"{slug}-{which}", kind)


MEDIA = {"txt": "text/plain", "csv": "text/csv", "json": "application/json", "h": "text/x-c"}
Fixed = Annotated[
    str, Query(pattern=r"^(Q?\d{1,2}\.\d{1,2})?$", description="Qm.n as `2.30`; empty for floating point")
]


@router.get("/coefficients.{kind}", summary="The tune as coefficients", responses=file_of(*MEDIA.values()))
def get_coefficients(
    slug: Slug, kind: Kind, space: AtSpace, sign: Sign = "subtract", a0: bool = False, fixed: Fixed = ""
) -> Response:
    """Second-order sections of every output, and of inputs that are set; the conventions are stated in the file.

    A fixed-point format that a section does not fit, or in which it would not be stable, is refused.
    """
    wanted = Format.read(fixed) if fixed else None
    text = coefficients.file(space, slug, kind, Convention(sign, a0), wanted)
    return download(text, f"{slug}-sections.{kind}", MEDIA[kind])


@router.get(
    "/coefficients/effect", summary="What fixed point does to the tune", response_class=JSONResponse, tags=["Files"]
)
def get_effect(slug: Slug, space: AtSpace, fixed: Fixed = "2.30") -> list[coefficients.Effect]:
    """By output the largest error from 20 Hz to 20 kHz, or why the format cannot hold it."""
    return coefficients.effects(space, slug, Format.read(fixed or "2.30"))


TAPS_MEDIA = {"wav": "audio/wav", "csv": "text/csv", "txt": "text/plain", "f32": "application/octet-stream"}


@router.get("/taps/{channel}.{kind}", summary="FIR taps of a channel", responses=file_of(*TAPS_MEDIA.values()))
def get_taps(slug: Slug, channel: Annotated[str, Path(max_length=60)], kind: TapsKind, space: AtSpace) -> Response:
    """As the processor runs them, at its rate: float WAV, CSV, text, or raw float32 in little-endian order."""
    return download(taps_file(space, slug, channel, kind), f"{slug}-{channel}-taps.{kind}", TAPS_MEDIA[kind])


@router.get("/takes/{take_id}/response.txt", summary="A response as text", responses=file_of("text/plain"))
def get_response(slug: Slug, take_id: Id, space: AtSpace) -> Response:
    """Of a driver bare, of a proof as it was measured."""
    return download(exports.response_text(space, slug, take_id), f"{slug}-take-{take_id}.txt", "text/plain")


@router.get("/takes/{take_id}/impulse.wav", summary="An impulse response", responses=file_of("audio/wav"))
def get_impulse(slug: Slug, take_id: Id, space: AtSpace) -> Response:
    """As 32-bit float WAV, its first sample at time zero, filters included."""
    return download(exports.impulse_wav(space, slug, take_id), f"{slug}-take-{take_id}.wav", "audio/wav")


@router.get("/sweep.zip", summary="The sweep with its description", responses=file_of("application/zip"))
def get_sweep(slug: Slug, wanted: Annotated[SweepIn, Query()], space: AtSpace) -> Response:
    """To be played and recorded elsewhere: the rig's, but for what is asked for."""
    space.layout(slug)
    settings = replace(rig.rig(space).sweep_settings, **wanted.model_dump(exclude_none=True))
    return download(given.package(space, settings), "sweep.zip", "application/zip")


@router.get("/stimulus.wav", summary="What a take plays", responses=file_of("audio/wav"))
def get_stimulus(slug: Slug, space: AtSpace) -> Response:
    """As the rig is set, for the device *Files*."""
    parts = recording.schedule(space, slug)
    samples = parts.apart() if recording.on_second_output(space) else parts.samples()
    return download(wav.write_wav(samples, parts.sweep.rate), f"{slug}-take.wav", "audio/wav")


@router.get("/journal", summary="What was done", response_class=JSONResponse)
def get_journal(slug: Slug, space: AtSpace, channel: Annotated[str, Query(max_length=60)] = "") -> list[journal.Entry]:
    """In order, in words, from the first take to the last: of all channels, or of one. Any revision of it can be gone
    back to (`POST .../revisions/{revision_id}/restore`)."""
    return journal.journal(space, slug, channel)


@router.get("/journal.txt", summary="What was done, as text", responses=file_of("text/plain"))
def get_journal_text(slug: Slug, space: AtSpace, channel: Annotated[str, Query(max_length=60)] = "") -> Response:
    """A line for each entry, under its day."""
    return download(journal.as_text(space, slug, channel), f"{slug}-journal.txt", "text/plain")


@router.get("/project.imbrix", summary="The whole project as one file", responses=file_of("application/zip"))
def get_project_file(slug: Slug, space: AtSpace, sound: bool = True) -> StreamingResponse:
    """Takes with their raw sound, revisions, targets, notes, the models of place and processor: nothing is left out.

    Without `sound`, responses stand in the place of recordings: a fraction of the size, and nothing to be read anew.
    """
    named = {"Content-Disposition": f'attachment; filename="{slug}.imbrix"'}
    return StreamingResponse(project_out.file_of(space, slug, sound), media_type="application/zip", headers=named)


@router.get("/report.html", summary="A report for the customer", responses=file_of("text/html"))
def get_report(
    slug: Slug,
    space: AtSpace,
    shop: Annotated[str, Query(max_length=80)] = "",
    customer: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """Before and after, what was done and how it is set, in plain words; a page that prints."""
    return Response(report.page(space, slug, shop, customer), media_type="text/html")


@router.get("/report.pdf", summary="The report as a PDF", responses=file_of("application/pdf"))
def get_report_pdf(
    slug: Slug,
    space: AtSpace,
    shop: Annotated[str, Query(max_length=80)] = "",
    customer: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """The same on pages of A4, to be sent or kept."""
    return download(report.document(space, slug, shop, customer), f"{slug}-report.pdf", "application/pdf")
