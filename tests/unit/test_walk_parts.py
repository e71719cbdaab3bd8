"""The parts of the walk: what the host saw, the judgement of a page, texts to be placed, refused values, beginnings."""

from __future__ import annotations

from types import SimpleNamespace

import pytest

from highshelf.core.errors import InputError, WalkError
from highshelf.core.legs.walk import _place_file
from highshelf.core.legs.witnessing import to_text
from highshelf.core.pages.groups import group_of
from highshelf.core.pages.judgement import judge
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.values import check_settings, in_form, is_secret
from highshelf.core.walk.beginning import told_addresses
from highshelf.core.walk.decide import decide
from highshelf.core.walk.finds import told_to_remove
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import PLACED, Adapt, AskFor, Finished, Follow, Move, PlaceFile, Stuck, Submit, Turn
from highshelf.core.walk.offers import added, is_page, whole
from highshelf.core.walk.opening import mark_of, opened
from highshelf.core.walk.witness import Sight, Witness, compare
from highshelf.drivers.memory.files import MemoryFiles

HERE = "http://boats.saltmarsh.example/setup/"
VALUES = {
    "site.title": "Boat Yard",
    "admin.name": "marekoti42",
    "admin.password": "hX3-kdKdkd9aZ",
    "admin.email": "yard@saltmarsh.example",
    "database.host": "localhost",
    "database.name": "yard-20417",
    "database.user": "yardu-20417",
    "database.password": "pW-9dkdkdkdkd",
}


def page_of(html: str, status: int = 200) -> Page:
    return read(Snapshot(HERE, status, html))


def after(html: str, *history: Turn, status: int = 200, **know: object) -> Move:
    return decide(page_of(html, status), Knowledge(VALUES, HERE, **know), list(history) or [Turn("x", "Next", "")])  # type: ignore[arg-type]


# what the host saw


def test_what_any_visit_leaves_is_no_work() -> None:
    before = Sight({"index.php": (10, None)})
    now = Sight(
        {"index.php": (10, None), "cache/page.html": (5, None), "logs/php.log": (9, None), "tmp/sess_1": (3, None)}
    )
    assert compare(before, before, now).wrote == ()
    assert compare(before, before, Sight({**(now.files or {}), "config.php": (80, None)})).wrote == ("config.php",)


def test_who_was_not_asked_proves_nothing() -> None:
    assert compare(Sight(), Sight(), Sight()).made is None
    assert compare(Sight({}), Sight({}), Sight({})).made is None
    assert compare(Sight({}), Sight({}), Sight({}, tables=0)).made is False
    assert compare(Sight({}, tables=3), Sight({}), Sight({}, tables=5)).tables == 2


def test_a_success_behind_which_nothing_was_made_is_none() -> None:
    html = "<h1>Done</h1><p>Congratulations! Boat Yard is installed.</p>"
    told = after(html, witness=Witness(wrote=(), wrote_now=(), tables=0, tables_now=0))
    assert isinstance(told, Stuck) and "nothing was made" in told.why
    assert isinstance(after(html, witness=Witness(wrote=("config.php",), tables=32)), Finished)
    assert isinstance(after(html), Finished), "where nobody can be asked, words are all there is"


@pytest.mark.parametrize(
    "html",
    [
        "<h1>Finish</h1><p>Once installed, it shows your boats.</p>",
        "<h1>FATAL</h1><p>FATAL: the extension that is installed is too old, failed.</p>",
        "<p>The file is saved.</p>",
        "<ul><li><a href='a.txt'>a.txt</a></li></ul>",
        "<h1>Oops</h1><p>An error occurred.</p>",
        "<p>Boat Yard is installed.</p><table><tr><td>intl</td><td>required</td><td>missing</td></tr></table>",
        "<p>Boat Yard is installed.</p><form method=post><button disabled>Next</button></form>",
        "<ol><li>Begin</li><li>Database</li><li>Boat Yard is installed</li></ol>",
        "<nav class=steps><span>Welcome</span><span>Data</span><span>Installation complete</span></nav>",
    ],
)
def test_these_are_no_ends(html: str) -> None:
    assert isinstance(after(html), Stuck), html


def test_praise_that_stood_on_an_earlier_page_praises_nothing() -> None:
    from highshelf.core.walk.moves import signature_of

    html = "<p>Boat Yard is installed.</p>"
    assert isinstance(after(html), Finished)
    assert isinstance(after(html, stood=frozenset({signature_of("Boat Yard is installed.")})), Stuck)


def test_an_empty_page_is_explained_by_the_log() -> None:
    told = after("", status=500, witness=Witness(log=("PHP Fatal error: out of memory in schema.php",)))
    assert isinstance(told, Stuck) and "out of memory" in told.why
    assert isinstance(after("<script>x()</script><div id=app></div>"), Stuck)
    assert "needs-javascript" in getattr(after("<script>x()</script><div id=app></div>"), "why", "")


def test_an_installer_that_is_shut_behind_its_work_has_ended() -> None:
    made = Witness(wrote=("settings.php",), tables=3)
    shut = "<p>This diary stays closed while the folder install is here.</p>"
    assert isinstance(after(shut, status=503, witness=made), Finished)
    assert isinstance(after(shut, status=503, witness=Witness(wrote=(), tables=0)), Stuck)
    assert isinstance(after("<p>An error occurred.</p>", status=503, witness=made), Stuck)
    assert isinstance(after(shut, status=500, witness=made), Stuck)


def test_a_form_that_came_back_beside_praise_is_opened_anew_once() -> None:
    form = "<form method=post><button>Perform the update</button></form>"
    first = after(form)
    assert isinstance(first, Submit)
    sent = Turn(first.signature, first.button, "", first.form)
    again = after("<p class=success>Update done</p>" + form, sent)
    assert isinstance(again, Follow)
    told = after("<p class=success>Update done</p>" + form, sent, Turn(again.signature, again.label, ""))
    assert isinstance(told, Stuck) and "same page again" in told.why


# the judgement


@pytest.mark.parametrize(
    ("html", "topic", "outcome"),
    [
        ("<p class=error>Warning: the connection is not encrypted</p><form><input name=x></form>", "options", ""),
        (
            "<p class=error>Access denied</p><form method=post><label>Database user<input name=u></label></form>",
            "database",
            "failure",
        ),
        ("<p>Everything is already installed.</p>", "already installed", ""),
        ("<pre>&lt;?php return [];</pre><p>Save as config.php</p>", "hand-placed configuration", ""),
        (
            "<p class=error>Cannot create the file conf/a.php.</p><a href='?get=1'>Download it</a>",
            "hand-placed configuration",
            "failure",
        ),
        (
            "<h2>Log in</h2><form method=post><input name=u><input type=password name=p><button>Log in</button></form>",
            "login",
            "",
        ),
        (
            "<form method=post><label>Setup password<input type=password name=s></label><button>Sign in</button></form>",
            "login",
            "",
        ),
        (
            "<form method=post><label>Language<select name=l><option>en</select></label><button>Next</button></form>",
            "language",
            "",
        ),
    ],
)
def test_a_page_is_judged_as_a_whole(html: str, topic: str, outcome: str) -> None:
    judged = judge(page_of(html))
    assert (judged.topic, judged.outcome) == (topic, outcome), judged


# texts to be placed


@pytest.mark.parametrize(
    ("text", "said", "name"),
    [
        ("&lt;?php\nreturn ['a' => 1];", "could not write etc/settings.php. Put this text there:", "etc/settings.php"),
        (
            "[db]\nname = x\nhost = y",
            "Please create /srv/customers/k/www/boats/etc/settings.ini with this content",
            "etc/settings.ini",
        ),
        ("A_NAME=x\nB_NAME=y", "Cannot write .env; save this as .env", ".env"),
        ('{"a": 1}', "The file settings.json is not writable. Save this as settings.json", "etc/settings.json"),
        ("a: x\nb: y", "Save the following content as etc/settings.yml", "etc/settings.yml"),
    ],
)
def test_a_text_that_could_not_be_written_is_placed_where_the_page_says(text: str, said: str, name: str) -> None:
    html = f"<p>{said}</p><textarea>{text}</textarea><form method=post><button>Go on</button></form>"
    move = after(html, folders=frozenset({"", "etc"}), samples=("etc/settings.sample.json",))
    assert isinstance(move, PlaceFile) and move.name == name, move


def test_names_in_phps_noise_are_not_the_file() -> None:
    noise = "<b>Warning</b>: fopen(x): failed in /srv/www/lib/tools.php on line 4<br>"
    move = after(f"{noise}<p>Cannot write conf/app.php:</p><pre>&lt;?php\n$a = 1;</pre>")
    assert isinstance(move, PlaceFile) and move.name == "conf/app.php"


def test_a_text_behind_a_link_or_in_a_frame_is_fetched() -> None:
    told = "<p>Cannot create the configuration file. Save it as conf/app.php</p>"
    for offer in ("<a href='?save=1'>Download the file</a>", "<iframe src='?save=1'></iframe>"):
        move = after(told + offer + "<form method=post><button>Finish</button></form>")
        assert isinstance(move, PlaceFile) and move.source == HERE + "?save=1" and move.name == "conf/app.php"


def test_a_snippet_is_added_and_a_whole_file_replaces() -> None:
    assert added("<?php\n$a = 1;\n?>\n", "$b = 2;") == "<?php\n$a = 1;\n$b = 2;\n?>\n"
    assert added("<?php\n$a = 1;\n", "$b = 2;") == "<?php\n$a = 1;\n$b = 2;\n"
    assert added("<?php\n$b = 2;\n", "$b = 2;") == "<?php\n$b = 2;\n"
    assert added("<?php // old", "<?php return [];") == "<?php return [];"
    assert added("", "$b = 2;") == whole("$b = 2;") == "<?php\n$b = 2;\n"
    assert added("", "A=1\nB=2\n") == "A=1\nB=2\n"


def test_a_page_in_place_of_a_file_is_no_file() -> None:
    assert is_page("<!DOCTYPE html><html>Sign in</html>") and is_page("<!-- x -->\n<html lang=en>")
    assert (
        not is_page("<?php\nreturn ['html' => '<html>'];")
        and not is_page("<?xml version='1.0'?><html/>")
        and not is_page("a: 1")
    )


class _Placing:
    """As much of a job as placing an offered file needs: files in memory, what stood there, what was written."""

    def __init__(self, stood: dict[str, bytes], seen: tuple[str, ...]) -> None:
        from highshelf.core.places import Place
        from tests.unit.fakes import DictJournal

        self._files = MemoryFiles()
        self._files.make_folder("www")
        for name, content in stood.items():
            self._files.write(f"www/{name}", content)
        self.journal, self.place = DictJournal(), Place("www", "", HERE)
        self.values = {"walk.sight-stood": to_text(Sight(dict.fromkeys(seen, (1, None))))}
        self.contents = SimpleNamespace(paths=lambda: {"index.php"})

    def files(self) -> MemoryFiles:
        return self._files


def test_a_file_that_stood_there_before_the_walk_is_never_written_over() -> None:
    job = _Placing({"config.php": b"<?php // the customer's own"}, ("config.php",))
    move = PlaceFile("config.php", "<?php return [];", "x")
    with pytest.raises(WalkError, match="stood there before"):
        _place_file(job, None, move, page_of(""), {"history": []})  # type: ignore[arg-type]
    assert job.files().read("www/config.php") == b"<?php // the customer's own"


# refused values

ACCOUNT = (
    "<h2>Administrator</h2><form method=post><label>Login name<input name=l required></label>"
    "<label>Password<input type=password name=p></label><label>Password again<input type=password name=q></label>"
    "<label>E-mail<input type=email name=m></label><button>Next</button></form>"
)


@pytest.mark.parametrize(
    ("complaint", "value", "how"),
    [
        ("The login name must be a valid e-mail address.", "admin.name", "address"),
        ("Der Anmeldename muss eine E-Mail-Adresse sein.", "admin.name", "address"),
        ("The password is too short, at least 32 characters.", "admin.password", "long 32"),
        ("Das Passwort darf nur Buchstaben und Ziffern enthalten.", "admin.password", "plain 16"),
        ("Your password must have at most 12 letters.", "admin.password", "long 12"),
        ("marekoti42 is not allowed here", "admin.name", "letters 8"),
    ],
)
def test_a_refused_value_is_given_in_another_form_once(complaint: str, value: str, how: str) -> None:
    sent = after(ACCOUNT)
    assert isinstance(sent, Submit)
    turn = Turn(sent.signature, sent.button, "", sent.form)
    for look in ("<p class=error>{}</p>", "<p>{}</p>"):
        move = after(look.format(complaint) + ACCOUNT, turn)
        assert isinstance(move, Adapt) and (move.value, move.how) == (value, how), move
        assert complaint in move.why
    tried = frozenset(
        f"{value} {way}" for way in ("address", how, "letters 8", "long 28", "plain 16", "plain 32", "plain 12")
    )
    assert isinstance(after(f"<p class=error>{complaint}</p>" + ACCOUNT, turn, tried=tried), AskFor)


def test_a_database_login_is_never_changed_by_a_complaint() -> None:
    form = (
        "<h2>Database</h2><form method=post><label>Database user<input name=u></label>"
        "<label>Database password<input type=password name=p></label><button>Next</button></form>"
    )
    sent = after(form)
    assert isinstance(sent, Submit)
    told = after(
        "<p class=error>Access denied for user 'yardu-20417'</p>" + form, Turn(sent.signature, "", "", sent.form)
    )
    assert isinstance(told, Stuck) and "Access denied" in told.why


def test_other_forms_of_a_value() -> None:
    assert len(in_form("long 32", "x")) == 32 and in_form("plain 16", "x").isalnum()
    assert in_form("letters 8", "x").isalpha() and in_form("address", "x", mail="a@b.example") == "a@b.example"
    assert in_form("with port", "db", port="3307") == "db:3307" and in_form("number", "localhost") == "127.0.0.1"


# secrets, groups, ways on


def filled(html: str) -> dict[str, str]:
    move = after(html)
    assert isinstance(move, Submit), move
    return dict(move.filled)


def test_other_peoples_secrets_are_never_filled() -> None:
    fields = "<label>Host<input name=h value=localhost></label><label>User<input name=u></label><label>Password<input type=password name=p></label>"
    for heading in ("Outgoing mail", "LDAP", "Import from another program", "Database administrator (root password)"):
        html = f"<form method=post><h3>Site</h3><label>Title of the site<input name=t></label><fieldset><legend>{heading}</legend>{fields}</fieldset><button>Next</button></form>"
        assert filled(html) == {"t": "site.title"}, heading
    current = "<form method=post><h3>Account</h3><label>Current password<input type=password name=c></label><label>Title of the site<input name=t></label><button>Next</button></form>"
    assert filled(current) == {"t": "site.title"}


def test_a_word_that_opens_the_installer_is_asked_for_or_made_up() -> None:
    door = "<form method=post><label>Setup password<input type=password name=s></label><button>Sign in</button></form>"
    asked = after(door)
    assert isinstance(asked, AskFor) and asked.value == "setup.password" and not asked.make
    twice = door.replace("<button>", "<label>Setup password again<input type=password name=r></label><button>")
    made = after(twice)
    assert isinstance(made, AskFor) and made.make


@pytest.mark.parametrize(
    "way",
    [
        "<a href='?step=2'>Hoist the sails</a><a href='https://docs.saltmarsh.example/'>Help</a>",
        "<button type=button onclick=\"location.href='?step=2'\">Hoist the sails</button>",
        "<ol><li><a href='?step=0'>One</a></li><li>Two</li><li>Three</li></ol><a href='?step=2'>Hoist the sails</a>",
    ],
)
def test_the_one_way_into_the_installer_is_taken_whatever_it_says(way: str) -> None:
    move = after(f"<title>Installation</title>{way}")
    assert isinstance(move, Follow) and move.url == HERE + "?step=2"


def test_a_page_of_the_finished_application_is_left_alone() -> None:
    html = "<title>Boats</title><h1>Boats</h1><form method=post action='/modify'><input type=hidden name=a value=1></form><a href='/send'>Send e-mail</a>"
    page = read(Snapshot("http://boats.saltmarsh.example/", 200, html))
    assert isinstance(decide(page, Knowledge(VALUES, HERE), [Turn("x", "", "")]), Stuck | Finished)


def test_known_by_their_choices_presets_and_places() -> None:
    html = (
        "<h2>Database</h2><form method=post><label>Storage<select name=k><option value=pgsql>PostgreSQL<option value=my>MySQL</select></label>"
        "<label>Zorvel<input name=a value=localhost></label><label>Database name<input name=n></label><label>Quib<input name=b></label>"
        "<label>Password<input type=password name=p></label><button>Next</button></form>"
    )
    move = decide(page_of(html), Knowledge({**VALUES, "database.kind": "mariadb"}, HERE), [])
    assert isinstance(move, Submit)
    assert dict(move.filled) == {
        "k": "database.kind",
        "a": "database.host",
        "n": "database.name",
        "b": "database.user",
        "p": "database.password",
    }
    assert dict(move.fields)["k"] == "my"


def test_an_address_that_is_only_told_is_an_address() -> None:
    page = page_of("<p>Nothing here yet. Please run install/index.php first.</p>")
    assert told_addresses(page) == [HERE + "install/index.php"]
    assert told_addresses(page_of("<p>Read readme.php</p>")) == []


def test_what_was_placed_may_be_tried_again() -> None:
    form = "<form method=post><button>Try again to install</button></form>"
    sent = after("<form method=post><button>Install</button></form>")
    assert isinstance(sent, Submit)
    placed = Turn("file", PLACED + "config.php", "")
    again = after(
        "<form method=post><button>Install</button></form>", Turn(sent.signature, "Install", "", sent.form), placed
    )
    assert isinstance(again, Submit) and form


GATE = (
    "<title>Installation</title><p>{}</p><form method=post><label>User<input name=u></label>"
    "<label>Password<input type=password name=p></label><button>Sign in</button></form>"
)


@pytest.mark.parametrize(
    "told",
    [
        "Sign in first: the login is keeper, the password is ebb-tide-4.",
        "Zuerst anmelden: Benutzername keeper, Passwort ebb-tide-4.",
        "Connectez-vous d'abord : identifiant keeper, mot de passe ebb-tide-4.",
        "Prima accedi: utente “keeper”, password “ebb-tide-4”.",
    ],
)
def test_a_login_that_everybody_is_told_opens_the_installer(told: str) -> None:
    move = decide(page_of(GATE.format(told)), Knowledge(VALUES, HERE), [])
    assert isinstance(move, Submit) and dict(move.fields) == {"u": "keeper", "p": "ebb-tide-4"} and move.filled == ()
    again = after(GATE.format(told), Turn(move.signature, move.button, "", move.form))
    assert isinstance(again, Stuck) and "refused" in again.why


def test_a_login_that_nobody_is_told_gets_nothing_of_ours_and_is_no_end() -> None:
    for told in ("Please sign in with your user name and password.", ""):
        page = page_of(GATE.format(told))
        assert isinstance(decide(page, Knowledge(VALUES, HERE), []), Stuck)
        followed = decide(page, Knowledge(VALUES, HERE), [Turn("x", "Go on", "")])
        assert isinstance(followed, Stuck) and "before anything else" in followed.why
        given = decide(page, Knowledge(VALUES, HERE), [Turn("x", "Go on", "", gave=True)])
        assert isinstance(given, Finished)


def test_what_follows_from_other_values_needs_no_question() -> None:
    html = (
        "<h2>Administrator</h2><form method=post><label>First name<input name=f required></label><label>Surname<input name=s required></label>"
        "<label>Country<select name=c required><option value=''>Choose<option value=DE>Deutschland<option value=GB>United Kingdom</select></label>"
        "<label>Currency<select name=m><option value=USD selected>USD<option value=GBP>GBP</select></label><button>Next</button></form>"
    )
    move = decide(page_of(html), Knowledge({**VALUES, "admin.fullname": "Kelda Salt Marsh"}, HERE), [])
    assert isinstance(move, Submit)
    assert dict(move.fields) == {"f": "Kelda", "s": "Salt Marsh", "c": "GB", "m": "USD"}


def test_a_step_that_shows_how_far_it_is_is_waited_for() -> None:
    html = "<meta http-equiv=refresh content='2; url=?step=7'><p>Table 3 of 12</p>"
    history = [Turn("x", "Next", "")]
    for number in range(25):
        move = after(html, *history)
        assert isinstance(move, Follow) and move.wait_seconds == (2.0 if number else 0.0)
        history.append(Turn(move.signature, move.label, ""))
    assert isinstance(after(html, *history), Stuck), "not for ever"
    fresh = "<meta http-equiv=refresh content=5><form method=post><label>Database name<input name=n></label><button>Next</button></form>"
    assert isinstance(after(fresh), Submit), "a form is not waited away"


@pytest.mark.parametrize(
    "unseen",
    [
        "<div class='alert alert-danger' style='display: none'>The connection failed.</div>",
        "<div class=invalid-feedback>Access denied.</div>",
        "<p hidden>Congratulations, it is installed.</p>",
        "<a class='btn btn-success' href='?again'>Install now</a>",
        "<div class='row no-gutters'><span>Boats</span> <span>optional</span></div>",
        "<span class='badge badge-success'>version 8.2</span>",
    ],
)
def test_what_nobody_sees_and_what_only_has_a_colour_says_nothing(unseen: str) -> None:
    form = "<form method=post><label>Database name<input name=n></label><button>Next</button></form>"
    judged = judge(page_of(f"<h1>Database</h1>{unseen}{form}"))
    assert (judged.topic, judged.outcome) == ("database", ""), judged
    seen = "<div class='alert alert-danger'>The connection failed.</div>"
    assert judge(page_of(f"<h1>Database</h1>{seen}{form}")).outcome == "failure"


def test_words_at_a_field_count_once_it_is_refused() -> None:
    field = "<form method=post><div><label>Login name<input name=l class='{}'></label><div class=invalid-feedback>The name is not allowed.</div></div></form>"
    assert judge(page_of(field.format("form-control"))).outcome == ""
    assert judge(page_of(field.format("form-control is-invalid"))).outcome == "failure"


# places that PHP may not write to


PLACES = {
    "folders": frozenset({"", "data", "data/cache", "etc", "lib"}),
    "files": frozenset({"index.php", "lib/cache.php", "etc/own.ini"}),
    "root": "html/diary",
    "samples": ("etc/settings.sample.php",),
}
ROW = "<table><tr><td>PHP</td><td>required</td><td>OK</td></tr><tr><td>{}</td><td>required</td><td>not writable</td></tr></table>"


@pytest.mark.parametrize(
    ("html", "paths", "passing"),
    [
        (ROW.format("data/cache"), ("data/cache",), ()),
        (ROW.format("Folder ./data/"), ("data",), ()),
        (ROW.format("/srv/www/u1/html/diary/data/cache"), ("data/cache",), ()),
        (ROW.format("/srv/www/u1/html/diary"), ("",), ("",)),
        (ROW.format("etc/settings.php"), ("etc",), ("etc",)),
        (ROW.format("settings.php"), ("etc",), ("etc",)),
        (ROW.format("etc/own.ini"), ("etc/own.ini",), ("etc/own.ini",)),
        (ROW.format("uploads/new"), None, None),
        (ROW.format("/etc/passwd"), None, None),
        (ROW.format("../../../tmp"), None, None),
        ("<p class=error>Could not write to data/cache. Please check.</p>", ("data/cache",), ()),
        ("<p class=error>In das Verzeichnis data/cache kann nicht geschrieben werden.</p>", ("data/cache",), ()),
        ("<br><b>Warning</b>: mkdir(/srv/www/u1/html/diary/data/cache/a): Permission denied in <b>/srv/www/u1/html/diary/lib/cache.php</b> on line <b>3</b><br>",
         ("data/cache/a",), ()),
        ("<p>We write to data/cache every day.</p>", None, None),
        ("<p class=error>The password is not valid.</p>", None, None),
    ],
)  # fmt: skip
def test_what_a_page_says_cannot_be_written_is_opened_and_nothing_else(
    html: str, paths: tuple[str, ...] | None, passing: tuple[str, ...] | None
) -> None:
    found = opened(page_of("<h1>Install</h1>" + html), Knowledge(VALUES, HERE, **PLACES), blocked=True)  # type: ignore[arg-type]
    assert (None if found is None else found.paths) == paths
    assert (None if found is None else found.passing) == passing


def test_places_are_opened_step_by_step_and_no_further_than_they_may_be() -> None:
    page, tried, steps = page_of("<h1>Install</h1>" + ROW.format("data/cache")), set(), []
    while (found := opened(page, Knowledge(VALUES, HERE, **PLACES, tried=frozenset(tried)), blocked=True)) is not None:  # type: ignore[arg-type]
        steps.append(found.step)
        tried |= {mark_of(p, found.step) for p in found.paths}
    assert steps == [1, 2, 3]
    own = Knowledge(VALUES, HERE, **PLACES, most_open=1, tried=frozenset({mark_of("data/cache", 1)}))  # type: ignore[arg-type]
    assert opened(page, own, blocked=True) is None, "where PHP is the login's own user, nobody else has to write"
    # On a page that leads on all the same, what did not turn the row green is open for a while only.
    know = Knowledge(VALUES, HERE, **PLACES, tried=frozenset(tried))  # type: ignore[arg-type]
    vain = opened(page, know, blocked=False)
    assert vain is not None and (vain.paths, vain.step) == (("data/cache",), 0)
    know = Knowledge(VALUES, HERE, **PLACES, tried=frozenset({*tried, mark_of("data/cache", 0)}))  # type: ignore[arg-type]
    assert opened(page, know, blocked=False) is None


@pytest.mark.parametrize(
    ("html", "red"),
    [
        ("<ul><li class='ok'>PHP 8</li><li class='ok'>gd</li><li class='error'>imap</li><li class='warning'>intl</li></ul>", ["imap"]),
        ("<dl><dt>PHP 8</dt><dd>Found</dd><dt>imap</dt><dd>Not found. It cannot be set up without it.</dd></dl>", ["imap"]),
        ("<ul><li class='item'>News</li><li class='item active'>Home</li></ul>", []),
        ("<div><p class='intro'>Welcome.</p><p class='note'>Read this.</p></div>", []),
        ("<ul><li class='step done'>Language</li><li class='step'>Database</li></ul>", []),
    ],
)  # fmt: skip
def test_rows_that_tell_their_state_by_class_or_as_terms_are_read(html: str, red: list[str]) -> None:
    page = page_of("<h1>Install</h1>" + html)
    assert [c.label for c in page.checks if not c.fine and c.required is not False] == red


def test_an_installer_that_wants_to_be_removed_is_known_by_its_own_words() -> None:
    page = page_of("<h1>Done</h1><p>Please delete the folder “setup” now.</p><p>See install.txt.</p>")
    assert told_to_remove(page, ["setup", "install.txt", "admin/install.php"]) == ["setup"]


def test_a_field_named_by_the_operator_gets_what_they_say() -> None:
    """By its own name, whatever it would be taken for; a box too; and it can be asked for."""
    html = (
        "<h1>Install</h1><form method=post><label>Database name <input name=base></label><label>Colour <select name=tint>"
        "<option value=1>Red</option><option value=2>Blue</option></select></label><label>Tides <input type=checkbox name=tides value=y></label>"
        "<label>Berths <input name=berths></label><button>Next</button></form>"
    )
    given = {"field.base": "other_db", "field.tint": "Blue", "field.tides": "yes"}
    move = decide(page_of(html), Knowledge({**VALUES, **given}, HERE), [Turn("x", "Next", "")])
    assert isinstance(move, Submit)
    assert dict(move.fields) == {"base": "other_db", "tint": "2", "tides": "y", "berths": ""}
    assert ("base", "field.base") in move.filled
    asked = decide(page_of(html), Knowledge(VALUES, HERE, asks=frozenset({"field.berths"})), [Turn("x", "Next", "")])
    assert isinstance(asked, AskFor) and asked.value == "field.berths"


def test_settings_may_name_a_field_and_are_sealed() -> None:
    check_settings({"field.db[host]": "x", "site.country": "Netherlands", "admin.firstname": "Marit"})
    assert is_secret("field.api_key") and not is_secret("site.country")
    with pytest.raises(InputError, match=r"field\.<x>, host\.php"):
        check_settings({"field.<x>": "1", "host.php": "8"})


def test_a_database_that_nobody_planned_is_asked_for() -> None:
    html = (
        "<h1>Install</h1><form method=post><fieldset><legend>Database</legend><label>Server <input name=h value=localhost></label>"
        "<label>Database name <input name=n></label><label>User <input name=u></label><label>Password <input type=password name=p></label>"
        "</fieldset>{}<button>Next</button></form>"
    )
    none = {n: v for n, v in VALUES.items() if not n.startswith("database.")}
    asked = decide(page_of(html.format("")), Knowledge(none, HERE), [Turn("x", "Next", "")])
    assert isinstance(asked, AskFor) and asked.value == "database.name" and "no database was planned" in asked.text
    given = {**none, "database.name": "d1", "database.user": "u1"}
    asked = decide(page_of(html.format("")), Knowledge(given, HERE), [Turn("x", "Next", "")])
    assert isinstance(asked, AskFor) and asked.value == "database.password" and asked.secret
    by_file = html.format(
        "<select name=k><option value=sqlite selected>SQLite file</option><option value=my>MySQL</option></select>"
    )
    assert isinstance(decide(page_of(by_file), Knowledge(none, HERE), [Turn("x", "Next", "")]), Submit)


@pytest.mark.parametrize(
    ("said", "group"),
    [
        ("FTP password", "hosting"),
        ("Zugang zum Webspace", "hosting"),
        ("Mot de passe du compte FTP", "hosting"),
        ("Database of your web space", "database"),
        ("Datenbank Ihres Webspace", "database"),
        ("Conta de convidado", "somebody"),
        ("Test user", "somebody"),
        ("Administrator", "admin"),
    ],
)
def test_whose_login_a_heading_speaks_of(said: str, group: str) -> None:
    assert group_of(said) == group


@pytest.mark.parametrize(
    ("title", "short"),
    [
        ("The Estuary Ferry Museum", "Estuary"),
        ("Saltings Choir", "Saltings"),
        ("Kelda's Boat Diary", "Keldas"),
        ("Bootswerft-Vereinigung", "Bootswerft"),
        ("St. Ola", "StOla"),
        ("", ""),
    ],
)
def test_a_short_name_is_the_first_word_that_says_something(title: str, short: str) -> None:
    assert Knowledge({"site.title": title}, "http://a.example/").value("site.shortname") == (short or None)
