"""What all requests have in common."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Number = Annotated[int, Field(ge=0, le=2**53)]
"""The number of a row."""
ChannelId = Annotated[str, Field(max_length=60)]


class Request(BaseModel):
    """What a request may hold: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")
