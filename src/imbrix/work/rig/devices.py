"""The audio devices that there are, and what is wrong with the one that was chosen."""

from imbrix.core.errors import ConflictError
from imbrix.core.value import Value
from imbrix.devices import browser, soundcard
from imbrix.standins.interface import RATES, StandinInterface
from imbrix.standins.practice import Practice
from imbrix.work.ground import places
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.ports import PlayAndRecord
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig.choices import BROWSER, FILE, STANDIN, Rig
from imbrix.work.rig.rig import rig, standin

CARDS: Drawer[str, tuple[list[soundcard.Card], str]] = Drawer("sound cards", 1)


class Device(Value):
    """One device of the audio port."""

    id: str
    name: str
    inputs: int
    outputs: int
    rates: tuple[int, ...]


def devices(space: Workspace) -> tuple[list[Device], str]:
    """All devices of the audio port, and why there are no sound cards where there are none."""
    cards, why = space.memory.of(CARDS, "", soundcard.cards)
    inputs = len(StandinInterface.inputs)
    return [
        Device(id=STANDIN, name="Stand-in (simulated place)", inputs=inputs, outputs=1, rates=RATES),
        _browser(space),
        Device(id=FILE, name="Files: play and record elsewhere", inputs=2, outputs=1, rates=RATES),
        *[
            Device(id=f"card:{one.name}", name=one.name, inputs=one.inputs, outputs=one.outputs, rates=one.rates)
            for one in cards
        ],
    ], why


def _browser(space: Workspace) -> Device:
    """The browser's microphone and output; while no window has them open, as many inputs as it had."""
    opened, chosen = space.browser.opened, rig(space)
    known = chosen.known_inputs if chosen.device == BROWSER else 1
    return Device(
        id=BROWSER,
        name=f"Browser: {opened.label}" if opened else "Browser: its microphone and output",
        inputs=opened.inputs if opened else known,
        outputs=browser.OUTPUTS,
        rates=browser.RATES,
    )


def device(space: Workspace, wanted: str) -> Device | None:
    """One device, or None."""
    return next((one for one in devices(space)[0] if one.id == wanted), None)


def trouble(space: Workspace, again: bool = False, slug: str = "") -> str:
    """What is wrong with the chosen device, before any take; empty when all is as it was left. `again`: look anew.

    For a project of that `slug` it is asked too whether the stand-in has anything to play in.
    """
    chosen = rig(space)
    if chosen.device == STANDIN and (nowhere := places.trouble(space, slug)):
        return nowhere
    if again and chosen.device.startswith("card:"):
        space.memory.forget(CARDS, "")
    found = device(space, chosen.device)
    if found is None:
        name = chosen.device.removeprefix("card:")
        return f"{name}, the device chosen before, is not there: plug it in, or choose another"
    opened = space.browser.opened
    if chosen.device == BROWSER and opened is None:
        return "no window has its microphone open: open it in Rig, Device"
    if chosen.device not in (STANDIN, FILE) and found.inputs != chosen.known_inputs:
        return (
            f"{found.name} had {chosen.known_inputs} inputs and now has {found.inputs}: "
            "look at which input is which and choose them again"
        )
    if chosen.device != FILE and chosen.rate not in found.rates:
        return f"{found.name} no longer runs at {chosen.rate} Hz: choose another sample rate"
    if chosen.device == BROWSER and opened is not None and opened.rate != chosen.rate:
        return f"the window's microphone is open at {opened.rate} Hz, but the rig says {chosen.rate} Hz: open it again"
    if chosen.rate != space.interface.rate:
        return (
            f"the device runs at {space.interface.rate} Hz, but the rig says {chosen.rate} Hz: "
            "choose the sample rate again"
        )
    return ""


def processed(space: Workspace) -> str:
    """What the browser does to the sound that it could not be told to leave alone; empty where there is nothing."""
    opened = space.browser.opened
    if rig(space).device != BROWSER or opened is None or not opened.processing:
        return ""
    return (
        f"the browser does not put off {' and '.join(opened.processing)}: what is recorded is not what sounds. "
        "Try another microphone or browser"
    )


def opened(space: Workspace, wanted: Rig, found: Device) -> PlayAndRecord:
    """The device that a rig asks for, ready to play."""
    if wanted.device in (STANDIN, FILE):
        space.standin.rate = wanted.rate
        return space.standin
    if wanted.device == BROWSER:
        return browser.BrowserDevice(space.browser, wanted.rate, found.inputs, wanted.output)
    cards, _ = space.memory.of(CARDS, "", soundcard.cards)
    card = next(card for card in cards if card.name == found.name)
    return soundcard.SoundCard(card, wanted.rate, wanted.output)


def open_interface(space: Workspace) -> None:
    """Open the device that was chosen before; where it is gone, the stand-in stays and `trouble` says so."""
    chosen = rig(space)
    found = device(space, chosen.device)
    if found is not None and (chosen.device == FILE or chosen.rate in found.rates):
        space.interface = opened(space, chosen, found)


def open_browser(space: Workspace) -> None:
    """A window has opened its microphone: where the rig asks for it, it is what plays and records from now on."""
    if rig(space).device == BROWSER:
        open_interface(space)
    space.changed()


def look_again(space: Workspace) -> None:
    """Look for devices anew, and open the one that was chosen where it is there again."""
    space.memory.forget(CARDS, "")
    open_interface(space)
    space.changed()


def practise(space: Workspace, wanted: Practice) -> None:
    """Set the stand-in's plugs and troubles. Raises ConflictError where another device is in use."""
    simulated = standin(space)
    if simulated is None:
        raise ConflictError("the practice switches belong to the stand-in: choose it under Device")
    simulated.practice = wanted
    space.changed()
