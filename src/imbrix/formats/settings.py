"""The tune as files: settings as JSON and CSV."""

import csv
import io
import json
from typing import Any

from imbrix.core.system.layout import Layout
from imbrix.core.tune.changes import SECOND, band_words, crossover_words
from imbrix.core.tune.routing import input_of, sources, words
from imbrix.core.tune.second import SecondSource
from imbrix.core.tune.tune import Channel, Input, Tune


def settings_json(tune: Tune, layout: Layout, inputs: int, title: str) -> str:
    """Everything set, by input and by channel, in the units of the interface; of a processor with so many inputs.

    A channel `hears` the inputs by the factors in their order.
    """
    channels = []
    for driver in layout.drivers:
        channel = tune.channels[driver.id]
        row: dict[str, Any] = {
            "output": driver.output,
            "name": driver.name,
            "gain_db": channel.gain_db,
            "polarity": "inverted" if channel.inverted else "normal",
            "delay_ms": round(channel.delay_s * 1e3, 6),
            "muted": not tune.audible(driver.id),
            "hears": list(sources(tune, driver, inputs)),
        }
        for end in ("high_pass", "low_pass"):
            crossover = getattr(channel, end)
            row[end] = crossover and crossover.model_dump()
        if channel.taps is not None:
            row["taps"] = {"says": channel.taps.says, "words": channel.taps.words}
        row["bands"] = [band.model_dump() for band in (*channel.bands, *tune.common)]
        channels.append(row)
    fed = [
        {
            "input": number,
            "gain_db": one.gain_db,
            "polarity": "inverted" if one.inverted else "normal",
            "delay_ms": round(one.delay_s * 1e3, 6),
            "bands": [band.model_dump() for band in one.bands],
        }
        for number, one in _inputs(tune, inputs)
    ]
    second = tune.second.model_dump()
    return json.dumps({"title": title, "inputs": fed, "second_source": second, "channels": channels}, indent=2)


def _inputs(tune: Tune, inputs: int) -> list[tuple[int, Input]]:
    return [(number, input_of(tune, number)) for number in range(1, inputs + 1)]


def settings_csv(tune: Tune, layout: Layout, inputs: int) -> str:
    """A row for each setting: output, channel, setting, value; those of inputs and of a second source that
    are set come last, without one."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["output", "channel", "setting", "value"])
    for driver in layout.drivers:
        channel = tune.channels[driver.id]
        rows = [
            ("hears", words(sources(tune, driver, inputs))),
            *_common_rows(channel),
            ("muted", "no" if tune.audible(driver.id) else "yes"),
            ("high-pass", crossover_words(channel.high_pass)),
            ("low-pass", crossover_words(channel.low_pass)),
            *([] if channel.taps is None else [("taps", channel.taps.words)]),
            *((f"band {n}", band_words(band)) for n, band in enumerate((*channel.bands, *tune.common), 1)),
        ]
        table.writerows([driver.output, driver.name, *row] for row in rows)
    for number, one in _inputs(tune, inputs):
        if one != Input():
            bands = ((f"band {n}", band_words(band)) for n, band in enumerate(one.bands, 1))
            table.writerows(["", f"Input {number}", *row] for row in (*_common_rows(one), *bands))
    if tune.second != SecondSource():
        table.writerows(["", SECOND, what, says] for what, says in tune.second.words.items())
    return out.getvalue()


def _common_rows(one: Channel | Input) -> list[tuple[str, str]]:
    return [
        ("gain dB", f"{one.gain_db:.1f}"),
        ("polarity", "inverted" if one.inverted else "normal"),
        ("delay ms", f"{one.delay_s * 1e3:.4f}"),
    ]
