"""The base of all documents: immutable, and unknown fields are refused."""

from pydantic import BaseModel, ConfigDict


class Value(BaseModel):
    """An immutable document that refuses unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", json_schema_serialization_defaults_required=True)
