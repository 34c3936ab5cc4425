"""Whether what a proposal wins holds at all places: told from the figures of each."""

import pytest

from imbrix.core.align.figures import Figures, SeamFigures, Spread
from imbrix.core.system.layouts import ready
from imbrix.work.predict.proposals import holds

SEAMS = [seam for seam in ready("front-2-sub", "left").seams() if seam.ways][:2]


def figures(*losses: tuple[float, ...]) -> Figures:
    seams = tuple(SeamFigures(seam, Spread(one), Spread(one)) for seam, one in zip(SEAMS, losses, strict=True))
    return Figures(seams, None, None, (), ())


@pytest.mark.parametrize(
    ("after", "says"),
    [
        (((1.0, 1.0, 1.0), (1.0, 1.4, 1.2)), "The seams win at each of 3 places, 0.8 to 1.0 dB."),
        (
            ((1.0, 2.5, 2.0), (1.0, 2.5, 2.0)),
            "The seams win at 1 of 3 places: that is within what the places differ by.",
        ),
        (((0.0, 0.0, 2.1), (0.0, 0.0, 2.1)), "The seams win at 2 of 3 places."),
    ],
)
def test_it_is_told_at_how_many_places_the_seams_win(after: tuple[tuple[float, ...], ...], says: str) -> None:
    assert holds(figures(*after), figures((2.0, 2.0, 2.0), (2.0, 2.0, 2.0))) == says


def test_one_place_tells_nothing_of_others() -> None:
    assert holds(figures((1.0,), (1.0,)), figures((2.0,), (2.0,))) == ""
    assert holds(figures((1.0, 1.0), (1.0, 1.0)), Figures((), None, None, (), ())) == ""
