"""Logins that an installer tells instead of asking for them."""

from __future__ import annotations

import pytest

from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.decide import decide
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.logins import told_name, told_password
from highshelf.core.walk.moves import Submit

SITE = "http://ferry.saltmarsh.example/"
ASKS = (
    '<form method="post" action="/setup/"><label>Password <input name="p" type="password"></label>'
    '<label>Repeat <input name="q" type="password"></label><button>Go on</button></form>'
)


def page(body: str) -> Page:
    return read(
        Snapshot(SITE + "setup/", 200, f"<html><head><title>Setup</title></head><body><h1>First user</h1>{body}</body>")
    )


@pytest.mark.parametrize(
    ("sentence", "name"),
    [
        ("Choose a password for the user admin.", "admin"),
        ("Your user name: skipper", "skipper"),
        ("The user name is always “root”; please give it a password.", "root"),
        ("Wählen Sie ein Passwort für den Benutzer <b>verwalter</b>.", "verwalter"),
        ("Choisissez le mot de passe de l'utilisateur « maitre ».", "maitre"),
        ("Elija una contraseña para el usuario jefe.", "jefe"),
        ("L'utente sarà <b>capo</b>. Scegliere la password.", "capo"),
        ("Wybierz hasło dla użytkownika 'szef'.", "szef"),
        ("Choose a password for the user account.", ""),
        ("Choose a password for the administrator. You need it to log in.", ""),
        ("Enter the password that the user will need.", ""),
        ("Please choose a good password for your account, at least ten letters.", ""),
    ],
)
def test_whom_a_password_is_for_stands_in_a_sentence(sentence: str, name: str) -> None:
    assert told_name(page(f"<p>{sentence}</p>{ASKS}")) == name


def test_a_name_that_is_asked_for_is_not_told() -> None:
    named = ASKS.replace("<label>Password", '<label>User name <input name="u"></label><label>Password', 1)
    assert told_name(page(f"<p>Choose a password for the user admin.</p>{named}")) == ""


@pytest.mark.parametrize("shut", ["readonly", "disabled"])
def test_a_field_that_nobody_may_change_tells_the_name_and_keeps_it(shut: str) -> None:
    fixed = ASKS.replace(
        "<label>Password", f'<label>User name <input name="u" value="warden" {shut}></label><label>Password', 1
    )
    shown = page(fixed)
    assert told_name(shown) == "warden"
    know = Knowledge(
        {"admin.name": "marekoti42", "admin.password": "Hx7-kelp.Ferry29qZ"}, SITE, ("/setup/",), frozenset()
    )
    move = decide(shown, know, [])
    assert isinstance(move, Submit)
    sent = dict(move.fields)
    assert sent["p"] == sent["q"] == "Hx7-kelp.Ferry29qZ" and sent.get("u", "warden") == "warden"
    assert "admin.name" not in {value for _, value in move.filled}


@pytest.mark.parametrize(("shown", "password"), [("k3v9-Lamp77", "k3v9-Lamp77"), ("********", ""), ("••••••••", "")])
def test_stars_in_a_field_that_nobody_may_change_are_no_password(shown: str, password: str) -> None:
    fixed = ASKS.replace('name="p" type="password"', f'name="p" type="password" value="{shown}" readonly', 1)
    assert told_password(page(fixed)) == password


@pytest.mark.parametrize(
    ("sentence", "password"),
    [
        ("Your password is k3v9-Lamp77.", "k3v9-Lamp77"),
        ("Das Passwort lautet: <code>Ab3dEf7g</code>", "Ab3dEf7g"),
        ("Le mot de passe est : tR5-uuQ9", "tR5-uuQ9"),
        ("The password is stored encrypted.", ""),
        ("Ihr Kennwort ist verschlüsselt gespeichert.", ""),
        ("Your password must have at least 10 letters.", ""),
    ],
)
def test_a_password_that_the_installer_made_is_kept(sentence: str, password: str) -> None:
    assert told_password(page(f"<p>The installation is complete.</p><p>{sentence}</p>")) == password
