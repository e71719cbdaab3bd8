"""The garden's installers drawn by scripts: three of them here, sixty by `python -m tests.garden.rendered`."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from highshelf.drivers.browser.chromium import Browsers
from tests.garden.rendered import dress_of, walk


@pytest.fixture(scope="module")
def browsers() -> Iterator[Browsers]:
    made = Browsers()
    yield made
    made.close()


# Shadow trees with lists of their own; waits that say so, with dialogs; spans that are links, and boxes behind their labels.
@pytest.mark.parametrize("seed", [102, 408, 118])
def test_what_a_script_draws_is_walked_to_its_end(browsers: Browsers, seed: int) -> None:
    found = walk(browsers, seed)
    assert found.how == "finished", (dress_of(seed), found.why, found.moves)
    assert (found.misplaced, found.outside, found.overwritten) == ([], [], [])
