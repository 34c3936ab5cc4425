"""What is read off a view: figures of a span, left minus right, peaks and dips, smoothing as hearing does."""

import numpy as np
import pytest

from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune import revisions
from imbrix.work.views.draw import draw
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View


def look(space: Workspace, **more: object) -> Picture:
    view = View(stage="drivers", selection="mid-l", **more)  # type: ignore[arg-type]
    return draw(space, SLUG, view, revisions.head(space, SLUG).tune)


def test_a_span_gives_mean_plus_minus_and_energy_of_every_named_curve(demo: Workspace) -> None:
    picture = look(demo, span_low_hz=4000, span_high_hz=400)  # dragged from right to left
    span = picture.facts["span"]
    assert (span["low_hz"], span["high_hz"]) == (400, 4000)
    rows = {row["label"]: row for row in span["rows"]}
    assert len(rows) == 8
    inside = (demo.grid >= 400) & (demo.grid <= 4000)
    shown = {curve.label: curve.values[inside] for curve in picture.curves if curve.pane == "main"}
    for name in ("Mid L", "Tweeter R"):
        known = shown[name][np.isfinite(shown[name])]
        assert rows[name]["mean"] == pytest.approx(known.mean())
        assert rows[name]["plus_minus"] == pytest.approx((known.max() - known.min()) / 2)
        power = 10 * np.log10(np.mean(10 ** (known / 10)) * np.log2(10))
        assert rows[name]["energy_db"] == pytest.approx(power)
    apart = shown["Mid L"] - shown["Mid R"]
    assert rows["Mid L − Mid R"]["mean"] == pytest.approx(apart.mean())


def test_without_a_span_nothing_is_read_and_a_mono_driver_has_no_other_side(demo: Workspace) -> None:
    assert "span" not in look(demo).facts
    view = View(stage="drivers", selection="sub", span_low_hz=40, span_high_hz=120)
    rows = draw(demo, SLUG, view, revisions.head(demo, SLUG).tune).facts["span"]["rows"]
    assert not any("−" in row["label"] for row in rows)


def test_peaks_and_dips_are_those_of_the_bold_curve(demo: Workspace) -> None:
    picture = look(demo)
    found = picture.facts["extremes"]
    assert found["curve"] == "bare-mid-l"
    values = next(curve.values for curve in picture.curves if curve.id == "bare-mid-l")
    for hertz, level, peak in found["at"]:
        at = int(np.argmin(np.abs(demo.grid - hertz)))
        assert values[at] == pytest.approx(level)
        around = values[max(0, at - 3) : at + 4]
        assert level == pytest.approx(np.nanmax(around) if peak else np.nanmin(around))


@pytest.mark.parametrize("stage", ["drivers", "seams", "voice", "proof"])
def test_every_view_can_be_smoothed_as_hearing_does(demo: Workspace, stage: str) -> None:
    tune = revisions.head(demo, SLUG).tune
    sharp = draw(demo, SLUG, View(stage=stage, smoothing=48), tune)
    heard = draw(demo, SLUG, View(stage=stage, smoothing="hearing"), tune)
    assert [curve.id for curve in sharp.curves] == [curve.id for curve in heard.curves]
    rough = next(c for c in sharp.curves if c.pane == "main" and np.isfinite(c.values).sum() > 800)
    smooth = next(c for c in heard.curves if c.id == rough.id)
    inside = (demo.grid > 100) & (demo.grid < 2000)
    assert np.nanstd(np.diff(smooth.values[inside], 2)) < np.nanstd(np.diff(rough.values[inside], 2))
