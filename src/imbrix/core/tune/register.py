"""What one output of a processor is set to, as it is written and read back."""

from pydantic import Field

from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Band, Channel, Factor, Input
from imbrix.core.value import Value


class OutputRegister(Value):
    """Settings of one output, the common correction with them, and the inputs that it hears. A fresh output is mute.

    `sources` are the factors of the inputs in order; an output that was never routed, None, hears all of them in equal
    parts. `second` are those of left and right of the second source.
    """

    channel: Channel = Channel(muted=True)
    common: tuple[Band, ...] = ()
    sources: tuple[Factor, ...] | None = None
    second: tuple[Factor, ...] = (0.5, 0.5)

    @property
    def sounding(self) -> tuple[Channel, tuple[Band, ...]]:
        """What of it the filters follow: all but mute and routing."""
        return self.channel.model_copy(update={"muted": False}), self.common

    def with_mute(self, muted: bool) -> "OutputRegister":
        """The same settings, silent or not."""
        return self.model_copy(update={"channel": self.channel.model_copy(update={"muted": muted})})


class Registers(Value):
    """What a processor is set to: outputs and inputs by number, from 1, and its second source; what is left out stays
    as it is."""

    outputs: dict[int, OutputRegister] = Field(default_factory=dict)
    inputs: dict[int, Input] = Field(default_factory=dict)
    second: SecondSource | None = None
