"""What installers say when a step is over, in eight languages: success is never read where there is none."""

from __future__ import annotations

from highshelf.core.pages.saying import said
from tests.pages.sentences import SENTENCES, judged


def test_what_a_page_says_has_happened_is_read_in_every_language() -> None:
    every = list(judged())
    assert {one.language for one in every} == set(SENTENCES) and len(every) > 400
    assert not [one for one in every if one.wrong]
    missed = [one for one in every if not one.right]
    assert len(missed) <= len(every) // 50, missed


def test_words_are_weighed_together() -> None:
    assert said("The installation could not be completed.") == "failed"
    assert said("The installation was completed without errors.") == "done"
    assert said("Once the installation is complete, delete the folder.") == "supposed"
    assert said("Warning: the connection is not secure.") == ""
    assert said("The prefix cannot be changed later.") == ""
    assert said("") == said("x" * 1000) == ""
