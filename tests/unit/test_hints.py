"""What names a field and what explains it, in the ways of real pages; what was meant was written down first."""

from __future__ import annotations

import pytest

from highshelf.core.pages.page import Field, Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.assign import assign

# Markup around the field ({}), its name for people, what explains it.
WAYS = [
    ("<div><span>Name</span><span>as your provider calls it</span>{}</div>", "Name", "as your provider calls it"),
    ("<div><b>Host</b><small>mostly localhost</small>{}</div>", "Host", "mostly localhost"),
    ("<div><span>Server</span> <span class=hilfe>meist localhost</span>{}</div>", "Server", "meist localhost"),
    ("<label>User <small>Letters and digits, no address</small>{}</label>", "User", "Letters and digits, no address"),
    ("<label>Password <em>(again)</em>{}</label>", "Password (again)", ""),
    ("<label>User <span>of the database</span>{}</label>", "User of the database", ""),
    ("<label><span>You will sign in with it</span>{}</label>", "You will sign in with it", ""),
    ("<label for=f>Title</label>{}<p class=help>Shown everywhere</p>", "Title", ""),
    ("<div><label for=f>Title</label>{}<p class=help>Shown everywhere</p></div>", "Title", "Shown everywhere"),
    (
        "<p>Contact: {}<br><font>An address for those who need help.</font></p>",
        "Contact:",
        "An address for those who need help.",
    ),
    # A paragraph and a label behind it are no name and no explanation.
    ("<div><p>Please fill this in with care. It matters.</p><span>Base</span>{}</div>", "Base", ""),
]


def page_of(html: str) -> Page:
    return read(
        Snapshot(
            "http://boats.saltmarsh.example/setup/",
            200,
            f"<form method=post action=/setup/>{html}<button>Go on</button></form>",
        )
    )


def field_of(html: str) -> Field:
    return page_of(html).forms[0].fields[0]


@pytest.mark.parametrize(("markup", "label", "hint"), WAYS)
def test_a_name_and_what_explains_it_are_told_apart(markup: str, label: str, hint: str) -> None:
    found = field_of(markup.format("<input id=f name=f>"))
    assert found.label == label
    assert found.hint == hint or (not hint and label == "Base")


def test_what_a_field_points_to_explains_it() -> None:
    found = field_of(
        "<label for=f>Who</label><input id=f name=f aria-describedby='a b'><div><i id=a>A name</i></div><i id=b>to sign in</i>"
    )
    assert (found.label, found.hint) == ("Who", "A name to sign in")


def given(html: str) -> dict[str, str]:
    page = page_of(html)
    return {a.field.name: a.value for a in assign(page.forms[0], page)}


def test_a_field_whose_words_are_nobodys_is_known_by_what_explains_it() -> None:
    html = (
        "<p>Your name: <input name=n></p><p>Password: <input name=p type=password></p>"
        "<p>Contact: <input name=c> <small>An e-mail address for whoever needs help.</small></p>"
        "<p>Motto: <input name=m> <small>It stands below the title of your site.</small></p>"
    )
    found = given(html)
    assert found.get("c") == "admin.email" and "m" not in found


@pytest.mark.parametrize(
    "said",
    [
        "No e-mail address please",
        "Keine E-Mail-Adresse",
        "Pas d'adresse de courriel",
        "Not your e-mail address",
        "Nessun indirizzo e-mail",
    ],
)
def test_what_is_not_wanted_is_not_filled_in(said: str) -> None:
    html = f"<p>Your name: <input name=n></p><p>Password: <input name=p type=password></p><p>Gull: <input name=g> <small>{said}</small></p>"
    assert "g" not in given(html)


def test_what_explains_never_brings_a_secret_anywhere() -> None:
    html = (
        "<fieldset><legend>Database</legend><p>Server <input name=h></p><p>Name <input name=d></p><p>User <input name=u></p>"
        "<p>Password <input name=p type=password></p></fieldset>"
        "<h3>Stamp</h3><p>Seal <input name=s type=password><small>The password of the database is not meant.</small></p>"
        "<h3>Gulls</h3><p>Name of the gull <input name=t><small>Database password of the other place</small></p>"
    )
    found = given(html)
    assert found["p"] == "database.password" and "s" not in found
    assert not str(found.get("t")).endswith(".password")
