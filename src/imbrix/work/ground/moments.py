"""Moments: kept without a zone, told as UTC, so that every reader knows what they mean."""

from datetime import UTC, datetime
from typing import Annotated

from pydantic import AfterValidator


def in_utc(moment: datetime) -> datetime:
    """The moment with its zone said."""
    return moment.replace(tzinfo=UTC) if moment.tzinfo is None else moment


Moment = Annotated[datetime, AfterValidator(in_utc)]
