"""Pages behind a front page, and what a secure one loads without TLS."""

from __future__ import annotations

import pytest

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.prove.pages import faults_behind, insecure, pages_behind, seen_behind, seen_insecure

SITE = "https://ferry.saltmarsh.example/diary/"
FRONT = (
    "<html><head><title>Diary</title></head><body><h1>Diary</h1><nav><a href='./'>Home</a><a href='tides.php'>Tides</a>"
    "<a href='logout.php'>Leave</a><a href='entry.php?do=delete&amp;id=4'>Away with it</a><a href='/other/'>Another site</a>"
    "<a href='https://elsewhere.saltmarsh.example/'>Elsewhere</a><a href='piers.php#top'>Piers</a><a href='plan.pdf'>Plan</a></nav></body></html>"
)


def test_pages_of_the_application_are_looked_at_and_nothing_that_does_something() -> None:
    found = pages_behind(read(Snapshot(SITE, 200, FRONT)), SITE)
    assert found == [SITE + "tides.php", SITE + "piers.php"]


@pytest.mark.parametrize(
    ("status", "html", "why"),
    [
        (500, "", "answers with status 500"),
        (404, "<h1>Not here</h1>", "answers with status 404"),
        (200, "<p><b>Fatal error</b>: Uncaught Error in <b>/srv/a.php</b> on line <b>3</b></p>", "PHP's own words"),
        (200, "<html><head><title>Index of /diary/data</title></head><body><h1>Index of /diary/data</h1>"
         "<a href='../'>Parent Directory</a></body></html>", "lists its folder"),
        (403, "<h1>Members only</h1>", ""),
        (200, "<html><title>Tides</title><h1>Tides</h1><p>High at four.</p></html>", ""),
    ],
)  # fmt: skip
def test_what_speaks_against_a_page(status: int, html: str, why: str) -> None:
    fault = faults_behind(read(Snapshot(SITE + "tides.php", status, html)))
    assert why in fault and bool(fault) == bool(why)


def test_what_was_so_at_the_proof_is_no_change() -> None:
    fault = SITE + "tides.php answers with status 404"
    assert seen_behind([fault], 2, [SITE + "tides.php"]).state == "right"
    new = seen_behind([fault], 2, [])
    assert new.state == "wrong" and "tides.php answers with status 404" in new.told


@pytest.mark.parametrize(
    ("html", "loads"),
    [
        ('<img alt="a" src="http://ferry.saltmarsh.example/a.png">', ["http://ferry.saltmarsh.example/a.png"]),
        ("<link rel=stylesheet href=http://ferry.saltmarsh.example/a.css>", ["http://ferry.saltmarsh.example/a.css"]),
        ("<script src='HTTP://ferry.saltmarsh.example/a.js'></script>", ["HTTP://ferry.saltmarsh.example/a.js"]),
        ('<a href="http://elsewhere.saltmarsh.example/">a link</a>', []),
        ('<link rel="canonical" href="http://ferry.saltmarsh.example/">', []),
        ('<img src="//ferry.saltmarsh.example/a.png"><img src="a.png">', []),
    ],
)
def test_what_a_secure_page_loads_without_tls(html: str, loads: list[str]) -> None:
    assert insecure(html, SITE) == loads
    assert insecure(html, SITE.replace("https", "http")) == []
    assert seen_insecure(loads, []).state == ("wrong" if loads else "right")
    assert seen_insecure(loads, loads).state == "right"
