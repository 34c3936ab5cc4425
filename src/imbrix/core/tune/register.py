"""What one output of a processor is set to, as it is written and read back."""

from imbrix.core.tune.tune import Band, Channel
from imbrix.core.value import Value


class OutputRegister(Value):
    """Settings of one output, the common correction with them. A fresh output is mute."""

    channel: Channel = Channel(muted=True)
    common: tuple[Band, ...] = ()

    def with_mute(self, muted: bool) -> "OutputRegister":
        """The same settings, silent or not."""
        return self.model_copy(update={"channel": self.channel.model_copy(update={"muted": muted})})
