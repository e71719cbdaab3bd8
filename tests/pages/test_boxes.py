"""Boxes of installers in eight languages: terms are an operator's to accept, offers nobody asked for are left out, the rest stays."""

from __future__ import annotations

from tests.pages.boxes import BOXES, boxes


def test_what_becomes_of_a_box_follows_from_what_it_says() -> None:
    every = list(boxes())
    assert {one.language for one in every} == set(BOXES) and len(every) > 150
    assert not [one for one in every if one.truth == "agree" and one.found != "agree"], (
        "nobody's terms are accepted unasked"
    )
    missed = [one for one in every if one.found != one.truth]
    assert len(missed) <= len(every) // 50, missed
