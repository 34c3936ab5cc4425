"""Changing the rig: all is checked before anything is switched, so that a refused change leaves it as it was."""

from typing import Any

from imbrix.core.errors import ConflictError, InvalidError
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import corrections
from imbrix.work.rig.choices import FILE, Rig, standard_names
from imbrix.work.rig.devices import Device, device, opened
from imbrix.work.rig.rig import changed, keep, rig

OF_THE_DEVICE = {"device", "rate", "microphone_input", "reference_input", "output"}


def change(space: Workspace, values: dict[str, Any]) -> Rig:
    """Change choices by name. Raises InvalidError where a value is impossible, ConflictError while a take runs."""
    if not OF_THE_DEVICE & values.keys():
        with space.lock:
            return keep(space, _checked(space, changed(rig(space), values)))
    with space.idle("a recording is running: change the devices when it has ended"), space.lock:
        return _switch(space, values)


def _switch(space: Workspace, values: dict[str, Any]) -> Rig:
    before = rig(space)
    wanted = changed(before, {name: value for name, value in values.items() if name in OF_THE_DEVICE | {"input_names"}})
    found = device(space, wanted.device)
    if found is None:
        raise InvalidError(f"there is no device {wanted.device!r} on this machine")
    fitted = _fitted(before, wanted, found, "input_names" in values)
    others = {name: value for name, value in values.items() if name not in OF_THE_DEVICE | {"input_names"}}
    after = _checked(space, changed(fitted, others))
    used = space.interface, space.standin.rate
    space.interface = opened(space, after, found)
    try:
        return keep(space, after)
    except BaseException:
        space.interface, space.standin.rate = used
        raise


def _fitted(before: Rig, after: Rig, found: Device, named: bool) -> Rig:
    """A rig fitted to the device that it names. Raises InvalidError where the two do not go together."""
    if after.device != FILE and after.rate not in found.rates:
        raise InvalidError(f"{found.name} does not run at {after.rate} Hz")
    inputs = found.inputs
    if after.device != before.device:
        names = standard_names(after.device, inputs)
        after = after.model_copy(
            update={
                "input_names": after.input_names if named else names,
                "microphone_input": 0,
                "reference_input": 1 if inputs > 1 else None,
                "output": None,
                "timing": _timing(after, inputs),
                "output_names": ("To the processor", *[f"Output {n + 1}" for n in range(1, found.outputs)]),
            }
        )
    for what, number in (("microphone", after.microphone_input), ("reference", after.reference_input)):
        if number is not None and not 0 <= number < inputs:
            raise InvalidError(f"{found.name} has {inputs} inputs: there is no input {number + 1} for the {what}")
    if after.output is not None and not 0 <= after.output < found.outputs:
        raise InvalidError(f"{found.name} has {found.outputs} outputs: there is no output {after.output + 1}")
    if after.microphone_input == after.reference_input:
        raise InvalidError("the microphone and the reference cannot be on the same input")
    return after.model_copy(update={"known_inputs": inputs})


def _timing(before: Rig, inputs: int) -> str:
    """What keeps the time on a device with so many inputs: no loopback has room on one alone."""
    if inputs == 1 and before.timing == "loopback":
        return "marker"
    if inputs > 1 and before.timing == "marker" and not before.anchor:
        return "loopback"
    return before.timing


def _checked(space: Workspace, after: Rig) -> Rig:
    for wanted in after.corrections.values():
        if wanted is not None:
            corrections.correction(space, wanted)
    return after


def exchange_inputs(space: Workspace) -> Rig:
    """Take the microphone for the reference and the reference for the microphone. Raises ConflictError."""
    now_set = rig(space)
    if now_set.reference_input is None:
        raise ConflictError("there is no reference input to exchange with")
    names = list(now_set.input_names)
    a, b = now_set.microphone_input, now_set.reference_input
    if max(a, b) < len(names):
        names[a], names[b] = names[b], names[a]
    return change(space, {"microphone_input": b, "reference_input": a, "input_names": tuple(names)})
