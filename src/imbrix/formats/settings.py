"""The tune as files: settings as JSON and CSV, and second-order-section coefficients as JSON."""

import csv
import io
import json
from typing import Any

from imbrix.core.system.layout import Layout
from imbrix.core.tune.changes import band_words, crossover_words
from imbrix.core.tune.lower import lower
from imbrix.core.tune.tune import Tune

CONVENTION = (
    "Each section is [b0, b1, b2, a0, a1, a2] of H(z) = (b0 + b1 z^-1 + b2 z^-2) / (a0 + a1 z^-1 + a2 z^-2) with "
    "a0 = 1; the a coefficients stand with the sign they have in that formula, so the difference equation "
    "subtracts them: y[n] = b0 x[n] + b1 x[n-1] + b2 x[n-2] - a1 y[n-1] - a2 y[n-2]."
)


def settings_json(tune: Tune, layout: Layout, title: str) -> str:
    """Everything set, by channel, in the units of the interface."""
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
        }
        for end in ("high_pass", "low_pass"):
            crossover = getattr(channel, end)
            row[end] = crossover and crossover.model_dump()
        row["bands"] = [band.model_dump() for band in (*channel.bands, *tune.common)]
        channels.append(row)
    return json.dumps({"title": title, "channels": channels}, indent=2)


def settings_csv(tune: Tune, layout: Layout) -> str:
    """A row for each setting: output, channel, setting, value."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["output", "channel", "setting", "value"])
    for driver in layout.drivers:
        channel = tune.channels[driver.id]
        rows = [
            ("gain dB", f"{channel.gain_db:.1f}"),
            ("polarity", "inverted" if channel.inverted else "normal"),
            ("delay ms", f"{channel.delay_s * 1e3:.4f}"),
            ("muted", "no" if tune.audible(driver.id) else "yes"),
            ("high-pass", crossover_words(channel.high_pass)),
            ("low-pass", crossover_words(channel.low_pass)),
            *((f"band {n}", band_words(band)) for n, band in enumerate((*channel.bands, *tune.common), 1)),
        ]
        table.writerows([driver.output, driver.name, *row] for row in rows)
    return out.getvalue()


def sections_json(tune: Tune, layout: Layout, rate: int, title: str) -> str:
    """Coefficients of every channel at `rate`, with factor and delay, and the sign convention stated."""
    channels = []
    for driver in layout.drivers:
        lowered = lower(tune.channels[driver.id], tune.common, rate)
        channels.append(
            {
                "output": driver.output,
                "name": driver.name,
                "factor": lowered.factor,
                "delay_samples": lowered.delay,
                "muted": not tune.audible(driver.id),
                "sections": lowered.sos.tolist(),
            }
        )
    return json.dumps({"title": title, "sample_rate": rate, "convention": CONVENTION, "channels": channels}, indent=2)
