"""What a value has to look like is said when the plan is made, all faults at once."""

from __future__ import annotations

import pytest

from highshelf.core.errors import InputError
from highshelf.core.release.taken import Taken
from highshelf.core.value_rules import check_values

RIGHT = [
    ("admin.email", "keeper@saltmarsh.example"),
    ("admin.email", "kim.o'hara+shelf@mail.ferry-museum.saltmarsh.example"),
    ("site.email", "größe@häfen.example"),
    ("site.language", "en"),
    ("site.language", "pt-BR"),
    ("site.language", "zh_Hans"),
    ("site.timezone", "Europe/London"),
    ("site.timezone", "UTC"),
    ("site.timezone", "America/Argentina/Buenos_Aires"),
    ("site.currency", "EUR"),
    ("database.prefix", "k3v9_"),
    ("database.port", "3306"),
    ("database.host", "sql7.estuary.example"),
    ("database.host", "[::1]"),
    ("database.name", "c1042_diary-20533"),
    ("database.kind", "postgresql"),
    ("admin.email", "?"),
    ("site.title", "Ferry & Co: “Über uns”"),
]
WRONG = [
    ("admin.email", "keeper"),
    ("admin.email", "keeper@@saltmarsh.example"),
    ("admin.email", "keeper@localhost"),
    ("admin.email", "keeper@saltmarsh..example"),
    ("admin.email", "keeper@saltmarsh.example, kim@saltmarsh.example"),
    ("site.email", "the keeper <keeper@saltmarsh.example>"),
    ("site.language", "English"),
    ("site.language", "xx"),
    ("site.language", "en_uk"),
    ("site.timezone", "Mars/Base"),
    ("site.timezone", "London"),
    ("site.currency", "euro"),
    ("database.prefix", "9_"),
    ("database.prefix", "k-v"),
    ("database.prefix", "a" * 21),
    ("database.port", "0"),
    ("database.port", "70000"),
    ("database.port", "three"),
    ("database.port", "٣٣٠٦"),
    ("database.host", "local host"),
    ("database.name", "diary;drop"),
    ("database.kind", "oracle"),
    ("site.title", "two\nlines"),
    ("admin.password", "with a\ttab in it"),
]


@pytest.mark.parametrize(("name", "said"), RIGHT)
def test_what_is_right_is_taken(name: str, said: str) -> None:
    check_values({name: said})


@pytest.mark.parametrize(("name", "said"), WRONG)
def test_what_cannot_be_right_is_said(name: str, said: str) -> None:
    with pytest.raises(InputError, match=name):
        check_values({name: said})


def test_all_faults_are_told_at_once_and_secrets_are_not_repeated() -> None:
    with pytest.raises(InputError) as told:
        check_values({"admin.email": "keeper", "site.timezone": "London", "admin.password": "kelp\n"})
    said = told.value.message
    assert "admin.email=keeper" in said and "site.timezone=London" in said and "admin.password" in said
    assert "kelp" not in said


def test_a_password_is_as_long_as_the_release_wants_it() -> None:
    fields = [Taken("pw", "admin.password", "install.php:3", 0.9, least=12)]
    with pytest.raises(InputError, match="12 letters"):
        check_values({"admin.password": "short-one"}, fields)
    check_values({"admin.password": "long-enough-for-it"}, fields)
    check_values({"database.password": "short-one"}, fields)
