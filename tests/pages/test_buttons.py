"""What people write on the buttons of installers, in eight languages, and which of several is pressed."""

from __future__ import annotations

from tests.pages.buttons import WORDS, press

SEEDS = 600


def test_the_button_that_leads_on_is_pressed_in_every_language_and_hardly_ever_another() -> None:
    every = [press(seed) for seed in range(1, SEEDS + 1)]
    missed = [one for one in every if one.pressed != one.right]
    wrong = [one for one in missed if one.pressed not in ("", "?")]
    assert {one.language for one in every} == set(WORDS) and {one.kind for one in every} == {
        "form",
        "links",
        "check",
        "skip",
    }
    assert len(missed) <= SEEDS // 50, missed[:5]
    assert len(wrong) <= SEEDS // 200, wrong
