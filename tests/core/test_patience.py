"""What somebody waits for: its share is told to whoever watches, and it ends where somebody stops it."""

import threading

import pytest

from imbrix.core.errors import StoppedError
from imbrix.core.patience import Search, goes_on, watched


def test_a_share_is_told_to_whoever_watches_and_to_nobody_else() -> None:
    goes_on(0.5)  # nobody watches
    outer, inner = Search("all"), Search("one")
    with watched(outer):
        goes_on(0.25)
        with watched(inner):
            goes_on(0.75)
            goes_on()  # it goes on, nobody knows how far
        other = threading.Thread(target=goes_on, args=(0.9,))  # another thread is another search
        other.start()
        other.join()
    goes_on(1.0)
    assert (outer.share, inner.share) == (0.25, 0.75)


def test_what_is_stopped_ends_where_it_says_that_it_goes_on() -> None:
    search = Search("all")
    with watched(search):
        search.stopping.set()
        with pytest.raises(StoppedError, match="nothing was changed"):
            goes_on(0.5)
    assert search.share == 0.0
    goes_on(0.5)
