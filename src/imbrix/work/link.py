"""The link to the processor: send, read back, compare, slots."""

from imbrix.core.changes import Change, changes
from imbrix.core.layout import Layout
from imbrix.core.register import OutputRegister, RefusedError
from imbrix.core.tune import Tune
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.tuning import head


def registers(tune: Tune, layout: Layout) -> dict[int, OutputRegister]:
    """What each output has to be set to for a tune; a channel silenced by another's solo is muted."""
    return {
        driver.output: OutputRegister(
            channel=tune.channels[driver.id].model_copy(update={"muted": not tune.audible(driver.id)}),
            common=tune.common,
        )
        for driver in layout.drivers
    }


def write_all(desk: Desk, wanted: dict[int, OutputRegister]) -> None:
    """Write registers so that nothing sounds half set: mute, set, and only then let play."""
    for output in wanted:
        now = desk.processor.read(output)
        desk.processor.write(output, now.with_mute(True))
    for output, register in wanted.items():
        desk.processor.write(output, register.with_mute(True))
    for output, register in wanted.items():
        desk.processor.write(output, register)


def read_back(desk: Desk, layout: Layout, like: Tune) -> Tune:
    """The tune that the processor holds, its common bands joined to each channel's own where they differ."""
    found = {driver.id: desk.processor.read(driver.output) for driver in layout.drivers}
    commons = {register.common for register in found.values()}
    if commons == {like.common}:
        channels = {name: register.channel for name, register in found.items()}
        return Tune(channels=channels, common=like.common)
    channels = {
        name: register.channel.model_copy(update={"bands": (*register.channel.bands, *register.common)})
        for name, register in found.items()
    }
    return Tune(channels=channels)


def unsent(desk: Desk, slug: str) -> list[Change]:
    """What the present revision says and the processor does not do yet, found by reading it back."""
    layout = desk.layout(slug)
    tune = head(desk, slug).tune
    return changes(read_back(desk, layout, tune), tune, layout)


def send(desk: Desk, slug: str) -> list[Change]:
    """Send the present revision, read it back, and return what differs afterwards (nothing, when all is well).

    Raises ConflictError while a take runs, or with the processor's words where it refuses.
    """
    if not desk.device.acquire(blocking=False):
        raise ConflictError("a take is being recorded: send when it has ended")
    try:
        wanted = registers(head(desk, slug).tune, desk.layout(slug))
        write_all(desk, wanted)
    except RefusedError as error:
        raise ConflictError(f"the processor refuses: {error}") from None
    finally:
        desk.device.release()
    return unsent(desk, slug)


def mute_all(desk: Desk, slug: str) -> None:
    """Silence every output as it stands."""
    for driver in desk.layout(slug).drivers:
        desk.processor.write(driver.output, desk.processor.read(driver.output).with_mute(True))


def store(desk: Desk, slot: int, name: str) -> None:
    """Keep what the processor runs in one of its slots."""
    try:
        desk.processor.store(slot, name)
    except RefusedError as error:
        raise ConflictError(f"the processor refuses: {error}") from None


def recall(desk: Desk, slot: int) -> None:
    """Let the processor load a slot."""
    if desk.device.locked():
        raise ConflictError("a take is being recorded: load a slot when it has ended")
    try:
        desk.processor.recall(slot)
    except RefusedError as error:
        raise ConflictError(f"the processor refuses: {error}") from None
