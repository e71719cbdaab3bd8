"""What hosts write at the values of their letters, in eight languages, and what each is taken for."""

from __future__ import annotations

from tests.letters.labels import LABELS, read_one

SEEDS = 150


def test_a_plain_letter_is_read_in_every_language_whatever_its_labels_are() -> None:
    every = [one for seed in range(1, SEEDS + 1) for one in read_one(seed)]
    assert {one.language for one in every} == set(LABELS) and len(every) > 800
    wrong = [one for one in every if one.found not in ("", one.truth) and not one.doubted]
    silent = [one for one in every if not one.found]
    assert not wrong, wrong[:5]
    assert len(silent) <= len(every) // 100, silent[:5]
