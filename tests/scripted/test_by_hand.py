"""Scripted installers by hand, walked in real Chromium: some of them here, all with HIGHSHELF_WHOLE=1 or the module itself."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from highshelf.drivers.browser.chromium import Browsers
from tests.scripted.by_hand import TRUTH, walk
from tests.support import WHOLE

# Veils and panes; fields that are only there once a list is opened; terms in a dialog; a form drawn anew at each key.
SOME = ("net-loft", "sail-loft", "ferry-bell", "pilot-gig")


@pytest.fixture(scope="module")
def browsers() -> Iterator[Browsers]:
    made = Browsers()
    yield made
    made.close()


@pytest.mark.parametrize("name", list(TRUTH) if WHOLE else SOME)
def test_it_finishes_and_everything_arrives_where_it_belongs(browsers: Browsers, name: str) -> None:
    found, wrong = walk(browsers, name)
    assert (found.how, wrong, found.outside) == ("finished", [], []), found.moves
