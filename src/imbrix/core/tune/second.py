"""The second source of a processor: it comes in by digits, as left and right, and is heard by an order of priority."""

from typing import Annotated, Literal

from pydantic import Field

from imbrix.core.value import Value

Priority = Literal["never", "before", "after"]
"""Whether it is heard never, before the wires (whenever it plays), or after them (when they are silent)."""
LEAST_DBFS, MOST_DBFS = -90.0, -10.0
SAYS: dict[Priority, str] = {"never": "never", "before": "before the wires", "after": "after the wires"}


class SecondSource(Value):
    """When the second source is heard, and how loud.

    The source that comes first is heard while its peaks are over `over_dbfs`, and for `hold_s` after: a pause between
    two songs is no end.
    """

    priority: Priority = "never"
    gain_db: Annotated[float, Field(ge=-200, le=200, allow_inf_nan=False)] = 0.0
    over_dbfs: Annotated[float, Field(ge=LEAST_DBFS, le=MOST_DBFS, allow_inf_nan=False)] = -60.0
    hold_s: Annotated[float, Field(ge=0.1, le=30, allow_inf_nan=False)] = 3.0

    @property
    def words(self) -> dict[str, str]:
        """Its settings in words; where it is never heard, no more than that."""
        if self.priority == "never":
            return {"priority": SAYS["never"]}
        return {
            "priority": SAYS[self.priority],
            "gain": f"{self.gain_db:+.1f} dB",
            "counts as sound from": f"{self.over_dbfs:.0f} dBFS",
            "holds": f"{self.hold_s:.1f} s",
        }
