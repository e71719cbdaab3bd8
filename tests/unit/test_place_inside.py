"""Where a part of a release stands, and which part stands there: one way and back."""

from __future__ import annotations

import pytest

from highshelf.core.places import Place

ADDRESS = "http://ferry.saltmarsh.example/"
SHAPES = [
    Place("www", "", ADDRESS),
    Place("www", "diary", ADDRESS + "diary/"),
    Place("", "", ADDRESS),
    Place("www", "", ADDRESS, web="public", apart="tidebook"),
    Place("sites/birds/www", "", ADDRESS, web="public", split=True),
    Place("www", "", ADDRESS, web="public", split=True),
]


@pytest.mark.parametrize("place", SHAPES, ids=str)
@pytest.mark.parametrize("inside", ["index.php", "public/index.php", "lib/tide/book.php", ".env"])
def test_a_path_of_the_release_comes_back(place: Place, inside: str) -> None:
    assert place.inside(place.path(inside)) == inside


def test_what_lies_elsewhere_is_no_part_of_it() -> None:
    assert Place("www", "diary", ADDRESS).inside("www/other/index.php") is None
    assert Place("www", "diary", ADDRESS).inside("www/diary-old/index.php") is None
    assert Place("www", "", ADDRESS, web="public", apart="tidebook").inside("www/index.php") is None
    assert Place("www", "diary", ADDRESS).inside("www/diary") == ""
