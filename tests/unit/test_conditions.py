"""Fields that only some can fill, and logins that are addresses, in eight languages; written down before any was read."""

from __future__ import annotations

import pytest

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.assign import assign
from highshelf.core.walk.decide import decide
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import AskFor, Submit

HERE = "http://garden.saltmarsh.example/"
PAGE = (
    "<html><head><title>Set-up</title></head><body><h1>{head}</h1><form method=post><p><label for=a>{label}</label> <input id=a name=zz></p>"
    "{more}<button>Continue</button></form></body></html>"
)
SECRETS = "<p>Password <input type=password name=p></p><p>Repeat <input type=password name=q></p>"
SOME = (
    "Licence key (if you bought one)",
    "Licence key, if you have it",
    "Licence key (paid version)",
    "Lizenzschlüssel (falls Sie einen gekauft haben)",
    "Lizenzschlüssel, sofern vorhanden",
    "Clé de licence (si vous en avez acheté une)",
    "Clave de licencia (si dispone de una)",
    "Chiave di licenza (se ne hai una)",
    "Chave de licença (se comprou uma)",
    "Licentiesleutel (indien gekocht)",
    "Klucz licencyjny (jeśli kupiono)",
)
ADDRESSES = (
    "Adres e-mail (będzie loginem)",
    "E-mail address (will be your login)",
    "E-Mail (dient als Login)",
    "Courriel (servira d’identifiant)",
    "Email (sarà il nome utente)",
    "E-mailadres (ook uw gebruikersnaam)",
    "Login (your e-mail address)",
    "Benutzername (Ihre E-Mail-Adresse)",
    "Your e-mail, also your login",
)


def test_a_key_that_everybody_has_is_asked_for() -> None:
    page = read(Snapshot(HERE + "setup/", 200, PAGE.format(head="Licence", label="Licence key", more="")))
    move = decide(page, Knowledge({}, HERE), [])
    assert isinstance(move, AskFor)
    assert move.value == "licence.key"


@pytest.mark.parametrize("label", SOME)
def test_a_key_that_only_some_have_stays_empty(label: str) -> None:
    page = read(Snapshot(HERE + "setup/", 200, PAGE.format(head="Licence", label=label, more="")))
    move = decide(page, Knowledge({}, HERE), [])
    assert isinstance(move, Submit)
    assert dict(move.fields)["zz"] == ""


@pytest.mark.parametrize("label", ADDRESSES)
def test_a_login_that_is_an_address_gets_one(label: str) -> None:
    page = read(Snapshot(HERE + "setup/", 200, PAGE.format(head="Administrator", label=label, more=SECRETS)))
    assert next(a.value for a in assign(page.forms[0], page)) == "admin.email"


def test_a_login_that_is_no_address_stays_a_name() -> None:
    page = read(
        Snapshot(HERE + "setup/", 200, PAGE.format(head="Administrator", label="Login (not your e-mail)", more=SECRETS))
    )
    assert next(a.value for a in assign(page.forms[0], page)) == "admin.name"
