"""Signing in as proof, on scripted sites of several habits."""

from __future__ import annotations

from typing import Any

import pytest

from highshelf.core.errors import ProofError
from highshelf.core.legs import prove
from highshelf.core.legs.job import Ask, Done
from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.primers.models import LoginChange
from highshelf.core.prove.login import Door, find_doors, login_form, make_login_change, sign_in
from tests.unit.fakes import ADDRESS, FakeJob, Flaky, Site

FORM = "<h1>Sign in</h1><form method=post action=/login><input name=user><input type=password name=word><button>Sign in</button></form>"
ROOM = "<title>Yard room</title><p>Welcome</p><a href=/out>Sign out</a>"


def yard(user: str = "marekoti42", word: str = "right") -> Site:
    """A site with a login that remembers who came in."""

    def login(fields: dict[str, str] | None, session: dict[str, str]) -> Any:
        if fields is None:
            return ROOM if session.get("in") else FORM
        if (fields.get("user"), fields.get("word")) == (user, word):
            session["in"] = "yes"
            return ROOM
        return FORM + "<p class=error>Name and word do not match.</p>"

    return Site(
        {
            "": "<title>Yard</title><a href=/login>Members</a><a href=/about>About</a>",
            "login": login,
            "about": "<p>about</p>",
        }
    )


def test_the_right_password_comes_in_and_a_wrong_one_does_not() -> None:
    door = Door(ADDRESS + "login", "")
    inside = sign_in(yard().visit(), door, "marekoti42", "right")
    assert inside.inside and "Yard room" in inside.told
    outside = sign_in(yard().visit(), door, "marekoti42", "wrong")
    assert not outside.inside and "do not match" in outside.told


@pytest.mark.parametrize(
    ("after", "part"),
    [
        ((500, "boom"), "status 500"),
        ((403, "no"), "login form is shown again"),
        ("<b>Fatal error</b>: Uncaught Error: x in /a.php on line 3", "Fatal error"),
        ("<p>Thank you!</p>", "asks for the login again"),
    ],
)
def test_pages_that_prove_nothing_are_no_proof(after: object, part: str) -> None:
    """A page without a login form after the login is not enough: the next page must still know us."""
    site = Site({"login": lambda fields, session: FORM if fields is None else after})
    attempt = sign_in(site.visit(), Door(ADDRESS + "login", ""), "a", "b")
    assert not attempt.inside and part in attempt.told


def test_doors_are_found_by_link_then_front_page_then_usual_names() -> None:
    assert [d.url for d in find_doors(yard().visit(), ADDRESS, [])] == [ADDRESS + "login"]
    front = Site({"": FORM})
    assert [d.url for d in find_doors(front.visit(), ADDRESS, [])] == [ADDRESS]
    usual = Site({"": "<p>nothing here</p>", "administrator/": FORM})
    assert [d.url for d in find_doors(usual.visit(), ADDRESS, [])] == [ADDRESS + "administrator/"]
    known = Site({"": "<a href=/login>Log in</a>", "login": FORM, "secret-door": FORM})
    assert next(d.url for d in find_doors(known.visit(), ADDRESS, [ADDRESS + "secret-door"])) == ADDRESS + "secret-door"
    assert find_doors(Site({"": "<p>x</p>"}).visit(), ADDRESS, []) == []


def test_links_to_other_hosts_are_not_followed() -> None:
    site = Site({"": '<a href="http://elsewhere.example/login">Log in</a>'})
    assert find_doors(site.visit(), ADDRESS, []) == []
    assert all(url.startswith(ADDRESS) for url in site.asked)


def job_on(site: Site) -> FakeJob:
    files = Flaky()
    files.make_folder("www")
    job = FakeJob(files, {"index.php": b"<?php", "install.php": b"<?php", ".htaccess": b"x"}, site=site)
    job.values.set("admin.name", "marekoti42")
    job.values.set("admin.password", "right")
    return job


def test_the_prove_leg_tries_every_door_until_one_opens() -> None:
    site = yard()
    # A form in the head of the front page that only JavaScript can send.
    site.pages = {
        **site.pages,
        "": lambda f, _s: (
            (405, "not so") if f is not None else FORM.replace("/login", "/") + "<a href=/login>Members</a>"
        ),
    }
    job = job_on(site)
    job.journal.done("walk", "converse", {"used": ["admin.name", "admin.password"]})
    assert isinstance(prove.door(job), Done)  # type: ignore[arg-type]
    job.journal.done("prove", "door", prove.door(job).facts)  # type: ignore[arg-type, union-attr]
    told = prove.signs_in(job)  # type: ignore[arg-type]
    assert isinstance(told, Done) and told.facts["url"] == ADDRESS + "login"
    job.journal.done("prove", "signs-in", told.facts)
    assert isinstance(prove.wrong_password(job), Done)  # type: ignore[arg-type]


def test_a_first_login_that_only_the_manual_tells_is_asked_for_and_asked_again_when_it_is_refused() -> None:
    job = job_on(yard())
    job.values.set("admin.name", "generated")
    job.values.set("admin.password", "generated")
    job.journal.done("prove", "door", {"doors": [[ADDRESS + "login", "Members"]]})
    for word, told in (("wrong", "is refused"), ("right", "")):
        for value, given in (("first-login.name", "marekoti42"), ("first-login.password", word)):
            asked = prove.signs_in(job)  # type: ignore[arg-type]
            assert isinstance(asked, Ask) and asked.value == value and asked.secret == value.endswith("password")
            job.values.set(value, given)
        if told:
            again = prove.signs_in(job)  # type: ignore[arg-type]
            assert isinstance(again, Ask) and told in again.text
    done = prove.signs_in(job)  # type: ignore[arg-type]
    assert isinstance(done, Done) and job.values.get("admin.published") == "yes"
    assert job.values.get("admin.password") == "right"


def test_a_login_that_takes_any_password_is_no_proof() -> None:
    job = job_on(Site({"login": lambda fields, session: session.update(i="1") or ROOM if fields or session else FORM}))
    job.journal.done("prove", "signs-in", {"url": ADDRESS + "login"})
    with pytest.raises(ProofError) as caught:
        prove.wrong_password(job)  # type: ignore[arg-type]
    assert "accepts a wrong password" in caught.value.message


@pytest.mark.parametrize(
    ("pages", "part"),
    [
        ({"": (500, "x")}, "status 500"),
        ({"": "Warning: Undefined variable in /a.php on line 7"}, "PHP complains"),
        ({"": ""}, "empty"),
        (
            {
                "": "<h1>Installation</h1><form><label>Word <input type=password name=p></label><input type=password name=q></form>"
            },
            "installer",
        ),
    ],
)
def test_a_front_page_that_is_not_a_working_one(pages: dict[str, Any], part: str) -> None:
    with pytest.raises(ProofError) as caught:
        prove.front(job_on(Site(pages)))  # type: ignore[arg-type]
    assert part in caught.value.message and caught.value.hint


@pytest.mark.parametrize(
    ("pages", "part"),
    [
        ({"install.php": "<form><input type=password name=p></form>"}, "installer still answers"),
        ({"settings.php": "<?php $word = 'database-word-1';"}, "shows the configuration"),
        ({".htaccess": "Options"}, "shows .htaccess"),
    ],
)
def test_what_must_not_be_served_is_looked_at(pages: dict[str, Any], part: str) -> None:
    job = job_on(Site(pages))
    job.values.set("database.password", "database-word-1")
    job.values.set("configuration.files", "settings.php")
    with pytest.raises(ProofError) as caught:
        prove.not_served(job)  # type: ignore[arg-type]
    assert part in caught.value.message
    fine = job_on(Site({"settings.php": "", ".htaccess": (403, "")}))
    fine.values.set("configuration.files", "settings.php")
    assert isinstance(prove.not_served(fine), Done)  # type: ignore[arg-type]


def test_a_published_login_is_changed_by_request_or_by_form() -> None:
    sent: list[dict[str, str]] = []

    def account(fields: dict[str, str] | None, _session: dict[str, str]) -> str:
        if fields is not None:
            sent.append(fields)
            return "Password has been changed"
        return "<script>token = 'a&amp;b'</script><form method=post><input name=id value=7><input type=password name=PASS><button name=go value=1>OK</button></form>"

    values = {"admin.name": "boss", "old.password": "boss", "new.password": "n3w"}
    steps = [
        LoginChange(open="account", take={"token": r"token = '([^']+)'"}),
        LoginChange(
            open="account",
            post={"old": "{old.password}", "new": "{new.password}", "t": "{token}"},
            expect="has been changed",
        ),
        LoginChange(open="account", fill={"PASS": "{new.password}"}, press="OK"),
    ]
    make_login_change(Site({"account": account}).visit(), ADDRESS, steps, values)
    assert sent == [{"old": "boss", "new": "n3w", "t": "a&b"}, {"id": "7", "PASS": "n3w", "go": "1"}]
    for wrong, part in (
        (LoginChange(open="account", take={"x": "nowhere (.)"}), "does not show x"),
        (LoginChange(open="account", fill={"OTHER": "y"}), "no form with OTHER"),
        (LoginChange(open="account", post={}, expect="something else"), "something else"),
    ):
        with pytest.raises(ProofError) as caught:
            make_login_change(Site({"account": account}).visit(), ADDRESS, [wrong], values)
        assert part in caught.value.message


@pytest.mark.parametrize(
    ("html", "found"),
    [
        (
            "<h1>Portti</h1><form method=post>Tunnus <input name=t> Sana <input type=password name=s><button>Sisaan</button></form>",
            True,
        ),
        (
            "<h1>Join us</h1><form method=post>Nick <input name=t> Word <input type=password name=s><button>Create an account</button></form>",
            False,
        ),
        (
            "<h1>Portti</h1><form method=post><input name=t><input type=password name=s autocomplete=new-password><button>Sisaan</button></form>",
            False,
        ),
    ],
)
def test_a_door_in_any_language_is_one_that_makes_nobody(html: str, found: bool) -> None:
    assert (login_form(read(Snapshot(ADDRESS, 200, html))) is not None) is found
