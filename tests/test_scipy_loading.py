"""SciPy without what it loads and is never used here: it computes the same, and the rest is there when asked for."""

import subprocess
import sys

import numpy as np
import pytest


def told(script: str) -> list[str]:
    """What a script that loads SciPy in our way prints, in a process of its own."""
    whole = f"from imbrix.scipy_loading import load_quickly; load_quickly()\n{script}"
    return subprocess.run([sys.executable, "-c", whole], capture_output=True, text=True, check=True).stdout.split()


def test_its_docstrings_are_not_written_anew() -> None:
    """Which took half of its time; what it computes is the same."""
    found = told(
        "import scipy.signal as s; sos = s.butter(2, 1000, fs=48000, output='sos')\n"
        "print('Array API' in s.sosfilt.__doc__, *s.sosfilt(sos, [1.0, 0.0, 0.0]))"
    )
    assert found[0] == "False"
    # The first three samples of what a Butterworth of the second order does, by its difference equation.
    wide = np.tan(np.pi * 1000 / 48000)
    below = 1 + np.sqrt(2) * wide + wide**2
    b0, a1, a2 = wide**2 / below, 2 * (wide**2 - 1) / below, (1 - np.sqrt(2) * wide + wide**2) / below
    second = 2 * b0 - a1 * b0
    wanted = [b0, second, b0 - a1 * second - a2 * b0]
    assert [float(one) for one in found[1:]] == pytest.approx(wanted, rel=1e-12)


def test_its_statistics_come_when_they_are_used() -> None:
    script = (
        "import sys, numpy as np, scipy.signal as s; print('scipy.stats' in sys.modules)\n"
        "curve = np.exp(-0.5 * ((np.arange(100) - 40) / 4) ** 2)\n"
        "print(*s.find_peaks_cwt(curve, np.arange(2, 8)), 'scipy.stats' in sys.modules)\n"
        "import scipy.stats; print(round(scipy.stats.norm.cdf(0), 3))"
    )
    assert told(script) == ["False", "40", "True", "0.5"]


def test_numpy_is_whole_afterwards() -> None:
    script = (
        "import sys, numpy as np; print('numpy.testing' in sys.modules)\n"
        "print('f2py' in np.__all__, 'testing' in dir(np), np.testing.assert_equal(1, 1))"
    )
    assert told(script) == ["False", "True", "True", "None"]


def test_it_comes_when_it_is_used_and_once_for_all_who_ask() -> None:
    script = (
        "import sys, scipy, scipy.fft, threading\n"
        "print('scipy.signal' in sys.modules)\n"
        "found = []; asked = [threading.Thread(target=lambda: found.append(scipy.signal.sosfilt)) for _ in range(8)]\n"
        "[one.start() for one in asked]; [one.join() for one in asked]\n"
        "print(len(found), len(set(map(id, found))), 'scipy.stats' in sys.modules, 'numpy.testing' in sys.modules)\n"
        "print(any('imbrix' in str(one) for one in sys.meta_path), scipy.signal.__spec__.name)"
    )
    assert told(script) == ["False", "8", "1", "False", "False", "False", "scipy.signal"]


def test_what_is_loaded_already_stays_as_it_is() -> None:
    script = (
        "import sys; sys.argv = []; import scipy.signal as s, scipy.stats as t\n"
        "from imbrix.scipy_loading import load_quickly; load_quickly()\n"
        "print(sys.modules['scipy.signal'] is s, sys.modules['scipy.stats'] is t)"
    )
    told = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True).stdout.split()
    assert told == ["True", "True"]
