"""What people write at the fields of installers, in eight languages, and what each is taken for."""

from __future__ import annotations

from tests.pages.labels import LABELS, read_form

SEEDS = 500


def test_what_a_field_is_for_is_read_in_every_language_and_hardly_ever_taken_for_another() -> None:
    every = [one for seed in range(1, SEEDS + 1) for one in read_form(seed)]
    wrong = [one for one in every if one.found not in ("", one.truth)]
    silent = [one for one in every if not one.found]
    assert {one.language for one in every} == set(LABELS) and len(every) > 2_000
    assert len(wrong) <= len(every) // 1_000, wrong[:5]
    assert len(silent) <= len(every) // 100, silent[:5]
    secrets = ("database.password", "admin.password")
    assert not [one for one in wrong if one.found in secrets and one.truth in secrets]
