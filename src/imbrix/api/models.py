"""Models of processors: those that ship, and a person's own."""

from typing import Annotated

from fastapi import APIRouter, File, Path, UploadFile
from fastapi.responses import Response
from pydantic import BaseModel

from imbrix.api.answers import download, file_of
from imbrix.api.at import AtSpace
from imbrix.api.problems import RESPONSES
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.models import MODELS
from imbrix.formats.processor_model import read_model, write_model
from imbrix.work.ground import processors

router = APIRouter(prefix="/api/models", tags=["Processor"], responses=RESPONSES)
Key = Annotated[str, Path(description="The model's key, as `GET /api/models` lists it.", max_length=60)]


class ModelState(BaseModel):
    """A model of processor; `ships` says that it came with the program."""

    key: str
    ships: bool
    limits: Limits


class ModelMade(BaseModel):
    """The model that a file held: its key, by which a project is given it."""

    key: str
    name: str


@router.get("", summary="All models of processors")
def get_models(space: AtSpace) -> list[ModelState]:
    """Those that ship first."""
    found = processors.models(space).items()
    return [ModelState(key=key, ships=key in MODELS, limits=limits) for key, limits in found]


@router.post("", summary="Bring a model in")
def post_model(space: AtSpace, file: Annotated[UploadFile, File()]) -> ModelMade:
    """A JSON file as `docs/formats.md` describes it. What is wrong with one is told with its line."""
    wanted = read_model(file.file.read())
    return ModelMade(key=processors.add(space, wanted), name=wanted.name)


@router.get("/{key}.json", summary="A model as a file", responses=file_of("application/json"), response_class=Response)
def get_model(key: Key, space: AtSpace) -> Response:
    """The same file that brings it in, without loss."""
    return download(write_model(processors.one_model(space, key)), f"{key}.json", "application/json")


@router.delete("/{key}", status_code=204, summary="Remove a model of one's own", response_class=Response)
def delete_model(key: Key, space: AtSpace) -> Response:
    """Projects that have it keep it."""
    processors.remove(space, key)
    return Response(status_code=204)
