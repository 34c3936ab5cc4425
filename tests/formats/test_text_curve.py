"""Text curves: what is tolerated, what is refused with its line, and anything at all without a crash."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from imbrix.core.errors import BadFileError
from imbrix.formats.text_curve import read_curve, write_curve


@pytest.mark.parametrize(
    "text",
    [
        "20 80 10\n1000 85 -20\n20000 70 5\n",
        "# a comment\n* another\nfreq level phase\n20\t80\t10\n1000\t85\t-20\n20000\t70\t5\n",
        "20,80,10\n1000,85,-20\n20000,70,5",
        "20, 80.0, 10\r\n1000, 85.0, -20\r\n20000, 70.0, 5\r\n",
        '"Frequency";"dB";"deg"\n20;80;10\n1000;85;-20\n20000;70;5\n',
        "20,0;80,0;10,0\n1000,0;85,0;-20\n20000;70;5\n",
        "20,0 80,0 10,0\n1000,0 85,0 -20\n20000 70 5\n",
        "\ufeff20 80 10\n\n1000 85 -20\n20000 70 5 ; \n".replace(" ; ", ""),
        "20000 70 5\n20 80 10\n1000 85 -20\n",
        "2e1 8.0e1 1E1\n1e3 85 -20\n2e4 7e1 5\n",
    ],
)
def test_ways_of_writing_the_same_curve(text: str) -> None:
    curve = read_curve(text.encode())
    assert curve.frequencies.tolist() == [20, 1000, 20_000]
    assert curve.levels.tolist() == [80, 85, 70]
    assert curve.degrees is not None
    assert curve.degrees.tolist() == [10, -20, 5]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no row of figures"),
        ("only words here\nand here\n", "no row of figures"),
        ("100 80\n", "only 1 row"),
        ("100 80\n200 loud\n300 70\n", "line 2: 'loud' is not a number where the level should be"),
        ("100 80\nabc 70\n300 60\n", "line 2: 'abc' is not a number where the frequency should be"),
        ("100 80\n200 NaN\n", "line 2: 'NaN' is not a number"),
        ("nan 80\n200 70\n", "line 1: 'nan' is not a number"),
        ("100 80\n200 inf\n", "line 2: 'inf'"),
        ("100 80\n-200 70\n", "line 2: a frequency of -200 Hz"),
        ("0 80\n200 70\n", "line 1: a frequency of 0 Hz"),
        ("100 80\n200\n", "line 2: '200' has one figure"),
        ("100 80\n200 1e400\n", "line 2: the level 1e400 is out of any range"),
        ("100 80\n200 70\n100 60\n", "100 Hz appears more than once"),
        ("100 80\x00\n200 70\n", "not a text file"),
    ],
)
def test_what_cannot_be_read_is_refused_with_its_place(text: str, says: str) -> None:
    with pytest.raises(BadFileError, match=says.replace("(", r"\(")):
        read_curve(text.encode())


def test_a_file_beyond_the_limit_is_refused_before_it_is_read() -> None:
    with pytest.raises(BadFileError, match="9 MB"):
        read_curve(b"1 2\n" * 2_250_000)


def test_rows_without_phase_among_rows_with_phase_give_no_phase() -> None:
    assert read_curve(b"100 80 5\n200 70\n").degrees is None


@given(st.binary(max_size=400))
def test_any_bytes_give_a_curve_or_a_sentence(data: bytes) -> None:
    try:
        curve = read_curve(data)
    except BadFileError as error:
        assert len(str(error)) > 10
    else:
        assert (np.diff(curve.frequencies) > 0).all()
        assert np.isfinite(curve.levels).all()


@given(st.text(alphabet="0123456789.,;-+eE \t\n#nainfdB", max_size=200))
def test_anything_that_looks_like_figures_gives_a_curve_or_a_sentence(text: str) -> None:
    try:
        curve = read_curve(text.encode())
    except BadFileError:
        return
    assert curve.frequencies.size >= 2
    assert (curve.frequencies > 0).all()


@given(
    st.lists(st.floats(1, 1e5), min_size=2, max_size=40, unique_by=lambda f: f"{f:.6g}"),
    st.integers(0, 2**31),
)
def test_what_was_written_is_read_back(frequencies: list[float], seed: int) -> None:
    random = np.random.default_rng(seed)
    hertz = np.sort(np.array([float(f"{f:.6g}") for f in frequencies]))
    levels, degrees = random.uniform(-120, 120, hertz.size), random.uniform(-180, 180, hertz.size)
    curve = read_curve(write_curve(hertz, levels, degrees, "round trip").encode())
    assert curve.frequencies == pytest.approx(hertz)
    assert curve.levels == pytest.approx(levels, abs=1e-5)
    assert curve.degrees == pytest.approx(degrees, abs=1e-4)
