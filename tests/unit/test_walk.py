"""The next move, on pages in several languages and of several kinds."""

from __future__ import annotations

import pytest

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.decide import decide
from highshelf.core.walk.ending import blame_of
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import AskFor, Finished, Follow, Move, PlaceFile, Stuck, Submit, Turn, signature_of
from highshelf.core.walk.witness import Witness

HERE = "http://boats.saltmarsh.example/"
VALUES = {
    "site.title": "Boat Yard",
    "site.address": HERE,
    "site.email": "yard@saltmarsh.example",
    "site.language": "en",
    "admin.name": "marekoti42",
    "admin.password": "hX3-kdKdkd9aZ",
    "admin.email": "yard@saltmarsh.example",
    "database.kind": "mariadb",
    "database.host": "localhost",
    "database.port": "3306",
    "database.name": "yard-20417",
    "database.user": "yardu-20417",
    "database.password": "pW-9dkdkdkdkd",
    "database.prefix": "k3v_",
}


def move(html: str, *history: str, status: int = 200, **know: object) -> Move:
    page = read(Snapshot(HERE + "setup/", status, html))
    return decide(page, Knowledge(VALUES, HERE, **know), [Turn(s, "", "") for s in history])  # type: ignore[arg-type]


def sent(html: str) -> dict[str, str]:
    made = move(f"<form method=post>{html}<button>Continue</button></form>")
    assert isinstance(made, Submit), made
    return dict(made.filled)


MAIL = "<form method=post><label>E-mail <input type=email name=m></label>{}<button>Continue</button></form>"


@pytest.mark.parametrize("known", ["admin.email", "site.email", ""])
def test_an_empty_mail_address_is_asked_for_unless_one_is_known(known: str) -> None:
    values = {n: v for n, v in VALUES.items() if not n.endswith("email")}
    if known:
        values[known] = "keeper@saltmarsh.example"
    page = read(Snapshot(HERE, 200, MAIL.format("")))
    made = decide(page, Knowledge(values, HERE), [])
    if known == "admin.email":
        assert isinstance(made, Submit) and ("m", "keeper@saltmarsh.example") in made.fields
    else:
        assert isinstance(made, AskFor) and made.value == "admin.email"


def test_a_mail_address_that_may_stay_empty_stays_empty() -> None:
    page = read(Snapshot(HERE, 200, MAIL.replace("E-mail", "E-mail (optional)").format("")))
    values = {n: v for n, v in VALUES.items() if not n.endswith("email")}
    made = decide(page, Knowledge(values, HERE), [])
    assert isinstance(made, Submit) and ("m", "") in made.fields


def test_a_german_database_form_is_filled() -> None:
    assert sent(
        """<h2>Datenbank</h2><label for=a>Datenbankserver</label><input id=a name=f1><label for=b>Datenbankname</label><input id=b name=f2>
        <label for=c>Benutzername</label><input id=c name=f3><label for=d>Passwort</label><input id=d name=f4 type=text>
        <label for=e>Tabellenpräfix</label><input id=e name=f5>"""
    ) == {
        "f1": "database.host",
        "f2": "database.name",
        "f3": "database.user",
        "f4": "database.password",
        "f5": "database.prefix",
    }


def test_a_french_administrator_form_is_filled_with_repetitions() -> None:
    assert sent(
        """<h2>Compte administrateur</h2><label>Nom d’utilisateur <input name=n></label><label>Mot de passe <input type=password name=p></label>
        <label>Confirmez le mot de passe <input type=password name=q></label><label>Courriel <input type=email name=m></label>"""
    ) == {"n": "admin.name", "p": "admin.password", "q": "admin.password", "m": "admin.email"}


def test_a_spanish_form_with_database_and_administrator_keeps_both_passwords_apart() -> None:
    assert sent(
        """<fieldset><legend>Base de datos</legend><label>Servidor <input name=s></label><label>Nombre de la base de datos <input name=b></label>
        <label>Usuario <input name=u></label><label>Contraseña <input type=password name=c></label></fieldset>
        <fieldset><legend>Cuenta de administrador</legend><label>Usuario <input name=au></label>
        <label>Contraseña <input type=password name=ac></label></fieldset>"""
    ) == {
        "s": "database.host",
        "b": "database.name",
        "u": "database.user",
        "c": "database.password",
        "au": "admin.name",
        "ac": "admin.password",
    }


def test_a_field_called_name_is_the_login_when_its_label_says_so() -> None:
    html = "<table><tr><td>MySQL login:</td><td><input name=name></td></tr><tr><td>MySQL password:</td><td><input name=pass></td></tr></table>"
    assert sent(html) == {"name": "database.user", "pass": "database.password"}


def test_names_alone_are_enough() -> None:
    assert sent("<input name=dbHost><input name=db_name><input name='db[user]'><input name=dbpwd type=password>") == {
        "dbHost": "database.host",
        "db_name": "database.name",
        "db[user]": "database.user",
        "dbpwd": "database.password",
    }


def test_the_kind_of_database_is_chosen_whatever_stands_first() -> None:
    made = move(
        "<form method=post><label for=k>Database type</label><select id=k name=k><option value=pgsql>PostgreSQL<option value=mysqli>MySQL</select>"
        "<button>Next</button></form>"
    )
    assert isinstance(made, Submit)
    assert ("k", "mysqli") in made.fields


def test_decoys_are_not_pressed_and_the_pressed_button_is_sent() -> None:
    made = move(
        """<form method=post><input type=hidden name=op value=3><button name=go value=back>Back</button><button name=go value=test>Send test mail</button>
        <button name=go value=reset>Restart</button><button name=go value=on>Weiter</button></form>"""
    )
    assert isinstance(made, Submit)
    assert made.fields == (("op", "3"), ("go", "on"))


def test_a_check_button_is_pressed_only_when_nothing_else_leads_on() -> None:
    both = "<form method=post><input name=a value=1><button name=t>Test the connection</button><button name=n>Next</button></form>"
    gated = "<form method=post><input name=a value=1><button name=t>Test the connection</button><button name=n disabled>Next</button></form>"
    first, second = move(both), move(gated)
    assert isinstance(first, Submit) and first.button == "Next"
    assert isinstance(second, Submit) and second.button == "Test the connection"


def test_the_same_form_with_the_same_values_is_never_sent_twice() -> None:
    html = '<form method=post action="?s=1"><input type=hidden name=csrf value="{}"><input type=hidden name=step value=one><button>Next</button></form>'
    first = move(html.format("a1b2c3d4e5f6a7b8c9d0e1f2"))
    assert isinstance(first, Submit)
    again = move(html.format("ffffeeee11112222333344445555"), first.signature)
    assert isinstance(again, Stuck)


def test_a_first_form_that_restarts_the_wizard_is_passed_by() -> None:
    first = move(
        "<form method=post><input type=hidden name=op value=test><label>Database name <input name=db></label><button>Test configuration</button></form>"
    )
    assert isinstance(first, Submit)
    html = """<form method=post><input type=hidden name=op value=test><label>Database name <input name=db value=yard></label><button>Test configuration</button></form>
    <form method=post><input type=hidden name=op value=schema><button>Initialize database</button></form>
    <form method=post><input type=hidden name=op value=skip><button>Skip initialization</button></form>"""
    second = move(html, first.signature)
    assert isinstance(second, Submit)
    assert ("op", "schema") in second.fields


def test_a_licence_is_accepted_only_after_an_operator_accepted_its_text() -> None:
    html = "<form method=post><label><input type=checkbox name=ok> I agree to the licence of the yard</label><button>Next</button></form>"
    asked = move(html)
    assert isinstance(asked, AskFor) and asked.must_accept
    made = move(html, accepted=frozenset({asked.must_accept}))
    assert isinstance(made, Submit)
    assert ("ok", "on") in made.fields


def test_a_required_field_nobody_knows_becomes_a_question() -> None:
    asked = move(
        "<form method=post><label>Number of moorings <input name=moorings required></label><button>Next</button></form>"
    )
    assert isinstance(asked, AskFor)
    assert asked.value == "field.moorings"
    assert "Number of moorings" in asked.text


def test_a_value_the_operator_wants_to_be_asked_for_is_asked_for() -> None:
    values = {k: v for k, v in VALUES.items() if k != "site.title"}
    page = read(
        Snapshot(
            HERE,
            200,
            "<form method=post><label>Site title <input name=t value=Default></label><button>Next</button></form>",
        )
    )
    asked = decide(page, Knowledge(values, HERE, asks=frozenset({"site.title"})), [])
    assert isinstance(asked, AskFor) and asked.value == "site.title"


def test_sample_data_statistics_and_tls_are_unticked() -> None:
    made = move(
        """<form method=post><label><input type=checkbox name=s checked> Install sample data</label>
        <label><input type=checkbox name=t checked> Use SSL for the database</label>
        <label><input type=checkbox name=u checked> Check for updates</label><button>Next</button></form>"""
    )
    assert isinstance(made, Submit)
    assert [n for n, _ in made.fields] == ["u"]


def test_a_port_that_is_not_the_usual_one_goes_where_the_installer_has_room_for_it() -> None:
    html = "<form method=post><h2>Database</h2><label>Host <input name=h></label>{}<button>Next</button></form>"
    values = {**VALUES, "database.port": "3307"}
    alone = decide(read(Snapshot(HERE, 200, html.format(""))), Knowledge(values, HERE), [])
    both = decide(
        read(Snapshot(HERE, 200, html.format("<label>Port <input name=p></label>"))), Knowledge(values, HERE), []
    )
    assert isinstance(alone, Submit) and dict(alone.fields)["h"] == "localhost:3307"
    assert isinstance(both, Submit) and dict(both.fields) == {"h": "localhost", "p": "3307"}


def test_a_list_that_must_be_chosen_from_is_asked_for_with_its_choices() -> None:
    html = (
        "<form method=post><label>Estuary <select name=e required><option value=''>choose<option value=n>North<option value=s>South</select></label>"
        "<button>Next</button></form>"
    )
    asked = move(html)
    assert isinstance(asked, AskFor)
    assert asked.options == ("North", "South")
    answered = decide(read(Snapshot(HERE, 200, html)), Knowledge({**VALUES, "field.e": "South"}, HERE), [])
    assert isinstance(answered, Submit) and ("e", "s") in answered.fields


def test_a_search_form_is_not_a_way_on() -> None:
    assert isinstance(
        move("<form><input name=searchterm placeholder='Search text'><button></button></form>", "x"), Stuck | Finished
    )


def test_a_mere_link_leads_on() -> None:
    made = move('<p>Welcome</p><a href="../">Back</a> <a href="?run=1">Run the installation</a>')
    assert isinstance(made, Follow)
    assert made.url.endswith("?run=1")


def test_no_form_goes_to_another_host() -> None:
    made = move(
        '<form method=post action="http://elsewhere.example/register"><input name=email type=email><button>Continue</button></form>'
    )
    assert isinstance(made, Stuck)


def test_a_configuration_shown_as_text_is_put_in_place() -> None:
    made = move(
        "<p>Copy this text into <code>settings.inc.php</code> and press nothing.</p><textarea>&lt;?php define('A', 1);</textarea>",
        "x",
    )
    assert isinstance(made, PlaceFile)
    assert (made.name, made.content) == ("settings.inc.php", "<?php define('A', 1);")


@pytest.mark.parametrize(
    ("html", "status", "part"),
    [
        (
            "<p class=error>Access denied for user yard</p><form method=post><button disabled>Next</button></form>",
            200,
            "Access denied",
        ),
        ("<h1>Oops</h1>", 500, "status 500"),
        ("Fatal error: Uncaught Error: boom in /a.php on line 3", 200, "PHP stopped"),
        (
            "<table><tr><td>mbstring</td><td>required</td><td class=bad>missing</td></tr></table><form><button disabled>Next</button></form>",
            200,
            "red: mbstring",
        ),
    ],
)
def test_where_there_is_no_way_on_the_reason_is_told(html: str, status: int, part: str) -> None:
    made = move(html, "x", status=status)
    assert isinstance(made, Stuck)
    assert part in made.why


def test_a_warning_that_stood_there_before_blames_nothing() -> None:
    html = '<p class="error">Files above 16 MB fail.</p><p class="ok">Installation finished successfully.</p>'
    assert isinstance(move(html, "x"), Finished)
    assert isinstance(
        move(
            '<p class="error">Files above 16 MB fail.</p>',
            "x",
            stood=frozenset({signature_of("Files above 16 MB fail.")}),
            witness=Witness(wrote=("config.php",)),
        ),
        Finished,
    )


@pytest.mark.parametrize(
    ("complaint", "blamed"),
    [
        ("SQLSTATE[HY000] [1045] Access denied for user 'a'@'b' (using password: YES)", "database.password"),
        ("Unknown database 'yard'", "database.name"),
        ("php_network_getaddresses: cannot connect to host", "database.host"),
    ],
)
def test_a_refusal_blames_the_value_it_means(complaint: str, blamed: str) -> None:
    assert blamed in blame_of(complaint)


MOORED = (
    '<form method=get><input type=submit name=again value="Start again"></form><form method=post>'
    "<input type=hidden name=f{} value=1>{}<input type=submit name=go[1] value=Back>"
    '<input type=submit name=go[3] value="{}"></form>'
)


def test_a_licence_key_is_filled_and_asked_for_when_nobody_filed_one() -> None:
    page = read(
        Snapshot(
            HERE,
            200,
            MOORED.format("1a2b3c4d5e", "<tr><td>Licence key</td><td><input name=k></td></tr>", "Check the key"),
        )
    )
    with_key = decide(page, Knowledge({"licence.key": "MRG-1"}, HERE), [])
    assert isinstance(with_key, Submit) and with_key.filled == (("k", "licence.key"),)
    without = decide(page, Knowledge(VALUES, HERE), [])
    assert isinstance(without, AskFor) and without.value == "licence.key" and without.secret


def test_a_box_is_known_by_the_words_behind_it() -> None:
    made = move(
        MOORED.format("1a2b3c4d5e", "<input type=checkbox name=a value=1> I have read this and agree<br>", "Go on")
    )
    assert isinstance(made, AskFor) and made.must_accept


def test_a_field_whose_name_changes_does_not_make_another_page_of_the_same() -> None:
    first, again = (
        move(MOORED.format(name, "<input name=host value=x>", "Go on")) for name in ("1a2b3c4d5e", "99ffee0011")
    )
    assert isinstance(first, Submit) and isinstance(again, Submit)
    assert first.button == "Go on" and first.signature == again.signature
