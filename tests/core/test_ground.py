"""The microphone before a loudspeaker on its stand."""

import numpy as np
import pytest

from imbrix.core.errors import InvalidError
from imbrix.core.measure.ground import nearest
from imbrix.core.signal.response import speed_of_sound


@pytest.mark.parametrize("height", [0.3, 0.9, 1.0, 1.6])
def test_the_floors_reflection_comes_by_the_mirror(height: float) -> None:
    """Closed form: source and microphone at one height, the image as far below the floor."""
    found = nearest(height)
    assert found.distance_m == pytest.approx(height / 1.5)
    mirrored = np.linalg.norm(np.subtract((0, -height), (found.distance_m, height)))
    assert found.gate_s == pytest.approx((mirrored - found.distance_m) / speed_of_sound())
    assert found.under_db == pytest.approx(10.0, abs=0.01)  # the same at every height: sqrt(1 + 9) to 1
    assert found.from_hz * found.gate_s == pytest.approx(1.0)


@pytest.mark.parametrize("height", [0.0, -1.0, 200.0, float("nan")])
def test_a_height_that_is_none_is_refused(height: float) -> None:
    with pytest.raises(InvalidError, match="height"):
        nearest(height)
