"""Second-order sections for processors that are given coefficients: text, CSV, JSON, or a header for C."""

import csv
import io
import json
from dataclasses import dataclass
from typing import Literal

import numpy as np

from imbrix.core.signal.signal import FloatArray
from imbrix.core.system.layout import Layout
from imbrix.core.tune.fixed_point import Rounded
from imbrix.core.tune.lower import lower
from imbrix.core.tune.routing import input_of, sources
from imbrix.core.tune.tune import Input, Tune

Kind = Literal["txt", "csv", "json", "h"]
Sign = Literal["subtract", "add"]
"""Whether the difference equation subtracts a1 and a2, or adds them, their signs turned."""


@dataclass(frozen=True)
class Coefficients:
    """The sections of one output or input: `sos` (n, 6) with a0 of 1, and the same in fixed point where asked for.

    `taps` are those of its FIR filter. An output `hears` the inputs by these factors, in their order; `plain` is an
    input that does nothing.
    """

    name: str
    number: int
    of: Literal["output", "input"]
    factor: float
    delay_samples: int
    sos: FloatArray
    hears: tuple[float, ...] = ()
    muted: bool = False
    plain: bool = False
    rounded: Rounded | None = None
    taps: tuple[float, ...] = ()


def lowered(tune: Tune, layout: Layout, inputs: int, rate: int) -> list[Coefficients]:
    """Every output, then every input, of a tune at `rate` in hertz."""
    found = []
    for driver in layout.drivers:
        runs = lower(tune.channels[driver.id], tune.common, rate)
        found.append(
            Coefficients(
                driver.name,
                driver.output,
                "output",
                runs.factor,
                runs.delay,
                runs.sos,
                hears=tuple(sources(tune, driver, inputs)),
                muted=not tune.audible(driver.id),
                taps=tuple(runs.taps.tolist()),
            )
        )
    for number in range(1, inputs + 1):
        one = input_of(tune, number)
        runs = lower(one.channel, (), rate)
        name = f"Input {number}"
        found.append(Coefficients(name, number, "input", runs.factor, runs.delay, runs.sos, plain=one == Input()))
    return found


CONVENTION = (
    "Each section is [b0, b1, b2, a0, a1, a2] of H(z) = (b0 + b1 z^-1 + b2 z^-2) / (a0 + a1 z^-1 + a2 z^-2) with "
    "a0 = 1; the a coefficients stand with the sign they have in that formula, so the difference equation "
    "subtracts them: y[n] = b0 x[n] + b1 x[n-1] + b2 x[n-2] - a1 y[n-1] - a2 y[n-2]. A channel hears the inputs, each "
    "through its own sections, added up by the factors in `hears`."
)


def sections_json(tune: Tune, layout: Layout, inputs: int, rate: int, title: str) -> str:
    """Coefficients of every input and channel at `rate`, with factor and delay, and the sign convention stated."""
    channels, fed = [], []
    for one in lowered(tune, layout, inputs, rate):
        runs = {"factor": one.factor, "delay_samples": one.delay_samples}
        if one.of == "input":
            fed.append({"input": one.number, **runs, "sections": one.sos.tolist()})
            continue
        told = {"output": one.number, "name": one.name, **runs, "muted": one.muted, "hears": list(one.hears)}
        channels.append({**told, "sections": one.sos.tolist(), **({"taps": list(one.taps)} if one.taps else {})})
    whole = {"title": title, "sample_rate": rate, "convention": CONVENTION, "inputs": fed, "channels": channels}
    return json.dumps(whole, indent=2)


@dataclass(frozen=True)
class Convention:
    """How a file writes a section: the sign of a1 and a2, and whether a0, which is 1, is written too."""

    sign: Sign = "subtract"
    a0: bool = False

    @property
    def columns(self) -> tuple[str, ...]:
        """What stands in a row, in order."""
        return ("b0", "b1", "b2", *(("a0",) if self.a0 else ()), "a1", "a2")

    def row(self, section: FloatArray) -> FloatArray:
        """The values of a row (5 or 6) of a section [b0, b1, b2, a0, a1, a2], numbers or words."""
        turned = section.copy()
        if self.sign == "add":
            turned[4:] = -turned[4:]
        return turned if self.a0 else np.delete(turned, 3)

    @property
    def words(self) -> str:
        """What the signs mean."""
        sign = "-" if self.sign == "subtract" else "+"
        return f"y[n] = b0 x[n] + b1 x[n-1] + b2 x[n-2] {sign} a1 y[n-1] {sign} a2 y[n-2]" + (
            "; a0 is 1" if self.a0 else "; a0 of 1 is left out"
        )


def notes(title: str, rate: int, convention: Convention, channels: list[Coefficients]) -> list[str]:
    """What a reader of the numbers has to know, line by line."""
    lines = [
        title,
        f"For {rate} samples a second.",
        f"Each section: {', '.join(convention.columns)}; {convention.words}.",
        "Sections run in the order in which they stand; gain and polarity are the factor, delay is in samples.",
        "An output hears the inputs, each through its own sections, added up by its factors in their order; an input "
        "that is not listed passes as it is.",
    ]
    if any(one.taps for one in channels):
        lines.append("FIR taps run after the sections; they are in floating point, and in files of their own too.")
    first = next((one.rounded for one in channels if one.rounded is not None), None)
    if first is not None:
        lines.append(
            f"Integers in {first.format}: a sign, {first.format.whole} bits before the point, {first.format.fraction} "
            f"after it, words of {first.format.bits} bits, two's complement; a number is its integer times "
            f"2^-{first.format.fraction}."
        )
        lines.append("A shift says by how many bits b0, b1, b2 were halved to fit: double what comes out as often.")
    return lines


def written(kind: Kind, title: str, rate: int, convention: Convention, channels: list[Coefficients]) -> str:
    """A file of a kind."""
    head = notes(title, rate, convention, channels)
    if kind == "json":
        return _json(head, rate, convention, channels)
    if kind == "csv":
        return _csv(convention, channels)
    return _header(head, convention, channels) if kind == "h" else _text(head, convention, channels)


def _rows(one: Coefficients, convention: Convention) -> list[list[str]]:
    if one.rounded is not None:
        return [[str(value) for value in convention.row(row)] for row in one.rounded.words]
    return [[f"{value:.17g}" for value in convention.row(row)] for row in one.sos]


def _words(one: Coefficients) -> str:
    """What goes with the sections of one."""
    said = [f"factor {one.factor:.9g}", f"delay {one.delay_samples} samples"]
    if one.hears:
        said.append(f"hears {_hears(one)}")
    return ", ".join([*said, *(["muted"] if one.muted else [])])


def _hears(one: Coefficients) -> str:
    return " ".join(f"{factor:.9g}" for factor in one.hears)


def _shift(one: Coefficients, n: int) -> int:
    return 0 if one.rounded is None else int(one.rounded.shifts[n])


def _text(head: list[str], convention: Convention, channels: list[Coefficients]) -> str:
    lines = [f"# {line}" for line in head]
    for one in channels:
        lines += ["", f"# {one.of} {one.number}, {one.name}: {_words(one)}"]
        for n, row in enumerate(_rows(one, convention)):
            shift = _shift(one, n)
            lines.append("  ".join(row) + (f"  # shift {shift}" if shift else ""))
        if one.taps:
            lines += [f"# {len(one.taps)} FIR taps", *(f"{value:.9g}" for value in one.taps)]
    return "\n".join(lines) + "\n"


def _csv(convention: Convention, channels: list[Coefficients]) -> str:
    """A row for each section; what has none gets one row without a section. FIR taps have files of their own."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    of_all = ["of", "number", "name", "factor", "delay samples", "hears", "muted"]
    table.writerow([*of_all, "section", "shift", *convention.columns])
    for one in channels:
        muted = "yes" if one.muted else "no"
        start = [one.of, one.number, one.name, f"{one.factor:.9g}", one.delay_samples, _hears(one), muted]
        rows = _rows(one, convention)
        for n, row in enumerate(rows):
            table.writerow([*start, n + 1, _shift(one, n), *row])
        if not rows:
            table.writerow([*start, "", "", *[""] * len(convention.columns)])
    return out.getvalue()


def _json(head: list[str], rate: int, convention: Convention, channels: list[Coefficients]) -> str:
    found = []
    for one in channels:
        of_one = {
            one.of: one.number,
            "name": one.name,
            "factor": one.factor,
            "delay_samples": one.delay_samples,
            **({"hears": one.hears, "muted": one.muted} if one.of == "output" else {}),
            "sections": [
                convention.row(row).tolist() for row in (one.sos if one.rounded is None else one.rounded.words)
            ],
        }
        if one.taps:
            of_one["taps"] = list(one.taps)
        if one.rounded is not None:
            of_one |= {"format": str(one.rounded.format), "shifts": one.rounded.shifts.tolist()}
        found.append(of_one)
    whole = {"notes": head, "sample_rate": rate, "columns": convention.columns, "channels": found}
    return json.dumps(whole, indent=2)


def _header(head: list[str], convention: Convention, channels: list[Coefficients]) -> str:
    first = next((one.rounded for one in channels if one.rounded is not None), None)
    word = "double" if first is None else next(f"int{size}_t" for size in (16, 32, 64) if first.format.bits <= size)
    width = len(convention.columns)
    lines = [*(f"/* {line.replace('*/', '* /')} */" for line in head), "#ifndef SECTIONS_H", "#define SECTIONS_H", ""]
    lines += [] if first is None else ["#include <stdint.h>", ""]
    for one in channels:
        called = f"{one.of}_{one.number}"
        rows = _rows(one, convention)
        lines.append(f"/* {one.name.replace('*/', '* /')}: {_words(one)} */")
        lines.append(f"#define {called.upper()}_SECTIONS {len(rows)}")
        lines.append(f"static const double {called}_factor = {one.factor:.17g};")
        lines.append(f"static const unsigned {called}_delay = {one.delay_samples};")
        if rows:
            lines.append(f"static const {word} {called}_sections[{len(rows)}][{width}] = {{")
            lines += ["    { " + ", ".join(row) + " }," for row in rows]
            lines.append("};")
            if first is not None:
                shifts = ", ".join(str(_shift(one, n)) for n in range(len(rows)))
                lines.append(f"static const int {called}_shifts[{len(rows)}] = {{ {shifts} }};")
        if one.taps:
            lines.append(f"#define {called.upper()}_TAPS {len(one.taps)}")
            values = ", ".join(f"{value:.9g}" for value in one.taps)
            lines.append(f"static const double {called}_taps[{len(one.taps)}] = {{ {values} }};")
        lines.append("")
    return "\n".join([*lines, "#endif", ""])
