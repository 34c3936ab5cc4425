"""Text curves: what is tolerated, what is refused with its line, and anything at all without a crash."""

import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from imbrix.core.errors import BadFileError
from imbrix.formats.text_curve import read_curve, read_levels, write_curve


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
        ("0 80\n200 70\n", "only 1 row of figures in the file (left out: line 1 at 0 Hz)"),
        ("100 80 5\n200 70 loud\n", "line 2: 'loud' is not a number where the phase should be"),
        ("100 80\n200 --\n300 70\n", "line 2: '--' is not a number where the level should be"),
        ("100 80\nand more\n300 70\n", "line 2: 'and more' stands among rows and is none"),
        ("1,000 80.5\n2,000 70.5\n", "no row of figures"),
        ("100 80\n200 70\n100 80\n100 60\n", "100 Hz appears more than once"),
        ("100 80\n200\n", "line 2: '200' has one figure"),
        ("100 80\n200 1e400\n", "line 2: the level 1e400 is out of any range"),
        ("100 80\n200 70\n100 60\n", "100 Hz appears more than once"),
        ("100 80\x00\n200 70\n", "not a text file"),
    ],
)
def test_what_cannot_be_read_is_refused_with_its_place(text: str, says: str) -> None:
    with pytest.raises(BadFileError, match=re.escape(says)):
        read_curve(text.encode())


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (
            "20,5\t80,25\n1000\t85\n".encode("utf-16"),
            "2 rows of frequency and value, tabs between them, decimal commas",
        ),
        ("20.5\t80.25\n1000\t85\n".encode("utf-16-be").join((b"\xfe\xff", b"")), "tabs between them, decimal points"),
        (b'"20.5","80.25"\n"1000","85"\n', "commas between them, decimal points"),
        (b'"20,5";"80,25"\n"1000";"85"\n', "semicolons between them, decimal commas"),
        (b'"20.5"\t80.25\n"1000"\t85\n', "tabs between them"),
        (b"20.5 80.25\n1000 85\nend of file\n\x1a", "left out: what stands after the rows, from line 3 on"),
        (b"2\n20.5 80.25\n1000 85\n", "left out: line 1, '2'"),
        (b"20 Hz to 20 kHz, smoothed\n20.5 80.25\n1000 85\n", "left out: line 1, '20 Hz to 20 kHz, smoothed'"),
        (b"20.5 Hz 80.25 dB\n1 kHz 85 dB\n", "blanks between them"),
        (b"20.5Hz;80.25 dBSPL\n1kHz;85 dBSPL\n", "semicolons between them"),
        (b"| Hz | dB |\n|----|----|\n| 20.5 | 80.25 |\n| 1000 | 85 |\n", "bars between them"),
        (b"20.5 80.25\n1000 85\n20.5 80.25\n", "left out: 1 row that stood there twice"),
        (b"0 0\n20.5 80.25\n1000 85\n", "left out: line 1 at 0 Hz"),
        (b"5;\n10;NaN\n20.5;80.25\n1000;85\n", "left out: line 1, '5;', line 2 without a level"),
        (b"Hz,dB,remark\n20.5,80.25,fine\n1000,85,louder\n", "2 rows of frequency and value, commas between them"),
    ],
)
def test_what_people_have_is_taken_and_said(data: bytes, says: str) -> None:
    curve = read_curve(data)
    assert curve.frequencies.tolist() == [20.5, 1000]
    assert curve.levels.tolist() == [80.25, 85]
    assert curve.degrees is None
    assert says in curve.understood


def test_a_minus_of_typesetters_is_a_minus() -> None:
    assert read_curve("20 \u221280\n1000 \u22125\n".encode()).levels.tolist() == [-80, -5]


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


@pytest.mark.parametrize(
    ("text", "says"),
    [("20 80\n1000 1e8\n", "the level is 1e+08 at 1000 Hz"), ("20 80 1e9\n1000 80 0\n", "the phase is 1e+09 at 20 Hz")],
)
def test_levels_beyond_all_sound_are_refused(text: str, says: str) -> None:
    with pytest.raises(BadFileError, match=re.escape(says)):
        read_levels(text.encode())
    assert read_levels(b"20 -80 10\n1000 120 0\n").levels.tolist() == [-80, 120]
