"""Tables of checks in eight languages: what is red is seen, and what one can do without blocks nobody."""

from __future__ import annotations

from tests.pages.rows import LAYOUTS, WORDS, rows

SEEDS = 400


def test_how_a_requirement_stands_is_read_in_every_language_and_layout() -> None:
    every = [row for seed in range(1, SEEDS + 1) for row in rows(seed)]
    assert {row.language for row in every} == set(WORDS) and {row.layout for row in every} == set(LAYOUTS)
    wrong = [row for row in every if row.wrong]
    missed = [row for row in every if row.found != row.truth]
    assert len(wrong) <= len(every) // 500, wrong[:5]
    assert len(missed) <= len(every) // 20, missed[:5]
