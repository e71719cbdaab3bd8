"""Which files are nobody's business, and the rules that shut them: put behind what stood there and taken out again, byte for byte."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from highshelf.core.tidy.shutting import LISTS, by_folder, nobodys_business, told, with_rule, without_rule

THERE = [
    *("index.php", "readme.txt", "composer.json", "data/tides.sqlite", "sql/make.sql", "logs/today.log", "config.php"),
    *("config.php.bak", ".htaccess", "assets/app.js", "assets/config.json", "old/config.json", ".env", "docs/readme.txt"),
]  # fmt: skip


def test_what_nobody_should_fetch() -> None:
    released = [p for p in THERE if not p.startswith("old/")]
    found = nobodys_business(
        [*THERE, "LICENSE.txt", "css/look.css.gz"], ["readme.txt", "LICENSE.txt"], [*released, "css/look.css.gz"]
    )
    assert found[:2] == [".env", "composer.json"]
    # What a release brings for its pages' scripts stays open; the same, made later, may be anything.
    assert set(found) == {
        *("readme.txt", "composer.json", "data/tides.sqlite", "sql/make.sql", "logs/today.log", "config.php"),
        *("config.php.bak", "old/config.json", ".env"),
    }


def test_a_name_that_something_else_below_has_too_is_left_alone() -> None:
    assert by_folder(["readme.txt", "sql/make.sql"], THERE) == {"sql": ["make.sql"]}
    assert by_folder(["readme.txt", "docs/readme.txt"], THERE) == {"docs": ["readme.txt"], "": ["readme.txt"]}


@given(
    st.binary(max_size=200), st.lists(st.sampled_from(["a.sql", "b (1).db", "c.log", LISTS]), min_size=1, unique=True)
)
def test_rules_come_behind_and_go_again(before: bytes, names: list[str]) -> None:
    now = with_rule(before, names)
    assert now.startswith(before) and without_rule(now, names) == before
    assert without_rule(with_rule(without_rule(now, names), names), names) == before


def test_a_checkout_is_not_hidden_by_its_first_file() -> None:
    assert by_folder([".git/HEAD", "a.sql"], [".git/HEAD", "a.sql"]) == {"": ["a.sql"]}


def test_what_was_written_behind_a_rule_stays() -> None:
    now = with_rule(b"RewriteEngine On\n", ["a.sql"]) + b"# the application's own\n"
    assert without_rule(now, ["a.sql"]) == b"RewriteEngine On\n# the application's own\n"
    assert b"a\\.sql" in now


def test_what_became_of_them_is_told() -> None:
    assert told({"": ["a"], "sql": ["b"]}, ["c"]) == "shut to visitors: a, sql/b; still fetched by anybody: c"
    assert told({"": [LISTS]}, []) == "folders are not listed any more"
    assert told({}, [LISTS]) == "folders are still listed" and told({}, []) == ""
