"""Reading pages of all kinds. None of these pages is an application's."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from highshelf.core.pages.page import Page
from highshelf.core.pages.purposes import says_login
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.finds import shown_once
from highshelf.core.walk.logins import published_login

URL = "http://boats.saltmarsh.example/setup/index.php?step=2"


def page(html: str, status: int = 200, **headers: str) -> Page:
    return read(Snapshot(URL, status, html, headers))


@pytest.mark.parametrize(
    "html",
    [
        '<label for="x">Harbour</label><input id="x" name="h">',
        '<label for="h">Harbour</label><input name="h">',
        '<label>Harbour <input name="h"></label>',
        '<dl><dt>Harbour</dt><dd><input name="h"></dd><dt>Other</dt><dd><input name="o"></dd></dl>',
        '<table><tr><td>Harbour</td><td><input name="h"></td></tr><tr><td>Other</td><td><input name="o"></td></tr></table>',
        '<div><label>Harbour</label><input name="h"></div><div><label>Other</label><input name="o"></div>',
        '<fieldset><label>Harbour</label><select name="h"><option>a</option></select></fieldset>',
        '<input name="h" placeholder="Harbour">',
        '<input name="h" aria-label="Harbour">',
        '<p>Harbour <input name="h"></p>',
    ],
)
def test_labels_are_found_where_installers_put_them(html: str) -> None:
    field = page(f"<form method=post>{html}</form>").forms[0].fields[0]
    assert field.label.strip(" :") == "Harbour"


def test_a_form_knows_where_it_goes_and_what_is_pressed() -> None:
    form = page(
        """<base href="/setup/"><form action="go.php" method="POST" enctype="multipart/form-data" id="f">
        <input type="hidden" name="step" value="3"><input type="checkbox" name="sample" checked>
        <select name="kind"><option value="1">one<option value="2" selected>two</select><textarea name="t">words</textarea>
        <button name="back" value="1">Back</button><input type="submit" name="next[4]" value="Next" disabled>
        </form><input form="f" name="outside" value="here"><button form="f" type="button" onclick="location.href='x.php'">Skip</button>"""
    ).forms[0]
    assert (form.action, form.method, form.multipart) == ("http://boats.saltmarsh.example/setup/go.php", "post", True)
    values = {f.name: f.value for f in form.fields}
    assert values == {"step": "3", "sample": "on", "kind": "2", "t": "words", "outside": "here"}
    assert [(b.label, b.disabled) for b in form.buttons] == [("Back", False), ("Next", True), ("Skip", False)]
    assert form.buttons[2].target.endswith("/setup/x.php")


@pytest.mark.parametrize(
    ("html", "tone"),
    [
        ('<p class="alert alert-danger">Access denied for user</p>', "complaint"),
        ('<div role="alert">Name and word do not belong together</div>', "complaint"),
        ('<span style="color: red">Die Verbindung ist fehlgeschlagen</span>', "complaint"),
        ('<font color="red">Connexion refusée: erreur</font>', "complaint"),
        ('<div class="alert alert-success" role="alert">Update done</div>', "success"),
        ('<div class="msg">The installation was completed successfully.</div>', "success"),
        ('<div class="alert alert-warning" role="alert">Files above 16 MB cannot be stored.</div>', None),
        ('<p class="text">You will be asked for a password that is required later.</p>', None),
    ],
)
def test_notices_have_the_tone_their_marks_and_words_say(html: str, tone: str | None) -> None:
    notices = page(html).notices
    assert [n.tone for n in notices] == ([tone] if tone else [])


def test_checks_tell_red_from_optional() -> None:
    checks = page(
        """<table><tr><th>What</th><th>Need</th><th>State</th></tr>
        <tr><td>PHP 8.1</td><td>required</td><td class="good">yes</td></tr>
        <tr><td>mbstring</td><td>required</td><td class="bad">not available</td></tr>
        <tr><td>imagick</td><td>recommended</td><td class="soso">missing</td></tr></table>"""
    ).checks
    found = {c.label: (c.fine, c.required) for c in checks}
    assert found["mbstring"] == (False, True)
    assert found["imagick"] == (False, False)
    assert found["PHP 8.1"] == (True, True)


def test_refresh_php_faults_and_dead_links() -> None:
    seen = page(
        """<meta http-equiv="refresh" content="2; URL='next.php'"><b>Fatal error</b>: Uncaught Error in /srv/x/a.php on line 12
        <a href="javascript:alert(1)">x</a><a href="mailto:a@b">y</a><a href="?step=3">Continue</a>"""
    )
    assert seen.refresh == "http://boats.saltmarsh.example/setup/next.php"
    assert "on line 12" in seen.php_faults[0]
    assert [link.url for link in seen.links] == ["http://boats.saltmarsh.example/setup/index.php?step=3"]
    assert page("", refresh="0; url=/x").refresh == "http://boats.saltmarsh.example/x"


@pytest.mark.parametrize(
    ("html", "login"),
    [
        ("<h1>Sign in</h1><form><input name=a><input type=password name=b></form>", True),
        ('<form>User : <input name="USER"> Word : <input type=password name="W"></form>', True),
        (
            "<h1>Anmelden</h1><form><input name=n><input type=password name=p><input type=checkbox name=stay></form>",
            True,
        ),
        (
            "<h1>Install: your account</h1><form><label>User <input name=u></label><input type=password name=p></form>",
            False,
        ),
        (
            "<form><label>Database user <input name=dbu></label><input type=password name=dbp><button>Login test</button></form>",
            False,
        ),
        ("<h1>Log in</h1><form><input name=n><input type=password name=p><input type=password name=p2></form>", False),
        (
            "<h1>Administration account</h1><form><label>Name <input name=n></label><input type=password name=p><button>Next</button></form>",
            False,
        ),
        (
            "<h1>Login</h1><form><label>Choose a name <input name=n></label><input type=password name=p><button>Create the account</button></form>",
            False,
        ),
        (
            "<h1>Verwaltung</h1><form><label>Benutzer <input name=n></label><input type=password name=p><button>Anmelden</button></form>",
            True,
        ),
        ("<form><input name=q><button>Search</button></form>", False),
    ],
)
def test_a_login_form_is_told_from_forms_that_make_logins(html: str, login: bool) -> None:
    assert (says_login(page(html)) is not None) is login


def test_what_is_shown_once_is_found_with_its_words() -> None:
    found = shown_once(
        page("<p>All done. Your recovery code follows. Keep it.</p><p><code>7F3A-99B0</code></p><code>php -v</code>")
    )
    assert [text for _, text in found] == ["7F3A-99B0"]
    assert "recovery code" in found[0][0]


@pytest.mark.parametrize(
    ("html", "login"),
    [
        (
            "<p>You can log in with default username <code>skipper</code> and password <code>anchor</code>.</p>",
            ("skipper", "anchor"),
        ),
        (
            "<p>Copy this to <code>config.php</code>.</p><p>You can log in with default username and password combination: "
            "<code>admin</code> and <code>password</code>.</p>",
            ("admin", "password"),
        ),
        ("<p>Finished: you can log in with login=boss and password=boss1</p>", ("boss", "boss1")),
        ("<form>Login: <input name=a> Password: <input name=b> Name of database: <input name=c></form>", None),
        ("<p>Choose a login and a password.</p>", None),
        (
            "<p>Sign in at the <a href=x>office</a> as <b>keeper</b> with the password <b>marsh</b>.</p>",
            ("keeper", "marsh"),
        ),
        ("<p>Melden Sie sich als <b>meister</b> mit dem Passwort <b>deich99</b> an.</p>", ("meister", "deich99")),
        ("<p>Connectez-vous comme gardien avec le mot de passe phare.</p>", ("gardien", "phare")),
        ("<p>Log in as administrator with the password you chose.</p>", None),
        ("<p>Sign in as the owner with the password from step 3.</p>", None),
    ],
)
def test_a_published_login_is_read_only_where_one_is_published(html: str, login: tuple[str, str] | None) -> None:
    assert published_login(page(html)) == login


TAGS = st.sampled_from(
    [
        "<form>",
        "</form>",
        "<input name=x readonly>",
        "<input type=submit>",
        "<select name=s>",
        "<option>",
        "<td>",
        "<tr>",
        "<label for=x>",
        "<label>",
        "</label>",
        "<code>",
        "<meta http-equiv=refresh content='0;url='>",
        "<a href=':'>",
        "<fieldset>",
        "<legend>",
        "<dd>",
        "<base href='//['>",
    ]
)


@settings(max_examples=150, deadline=None)
@given(st.lists(st.one_of(TAGS, st.text(max_size=12)), max_size=30))
def test_reading_never_raises_on_odd_html(parts: list[str]) -> None:
    seen = page("".join(parts))
    assert seen.url == URL
