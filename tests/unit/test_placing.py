"""Small things of placing: trees in one listing, removal by listings that leave something out, rules above a web folder."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

import pytest

from highshelf.core.errors import LineDroppedError
from highshelf.core.legs import trees
from highshelf.core.places import Place
from highshelf.core.placing.crew import list_tree, spread
from highshelf.core.placing.web import Beside, brought, leads, php_reads, rest_of, rules, ways_to_show
from highshelf.core.ports import CancelToken, Capabilities, Entry
from highshelf.drivers.ftp.listing import deep_listing
from highshelf.drivers.memory import MemoryFiles
from highshelf.engine.showing import beside_of
from highshelf.store.tables import AccountRow
from tests.unit.fakes import FakeJob, Flaky

LISTED = """\
drwxr-xr-x   4 sm1      sm1          4096 Nov 25 15:00 .
drwxr-xr-x   9 sm1      sm1          4096 Nov 25 14:00 ..
-rw-r--r--   1 sm1      sm1            27 Nov 25 15:00 .htaccess
drwxr-xr-x   2 sm1      sm1          4096 Nov 25 15:00 lib
-rw-r--r--   1 sm1      sm1          1210 Jan 01  2024 read me: first.txt

./lib:
total 8
-rw-r--r--   1 sm1      sm1             5 Nov 25 15:00 a.php
drwxr-xr-x   2 sm1      sm1          4096 Nov 25 15:00 deep

lib/deep:
-rwxr-xr-x   1 sm1      sm1             0 Nov 25 15:00 run
""".splitlines()


def test_a_deep_listing_is_read_folder_by_folder() -> None:
    assert deep_listing(LISTED) == {
        "": [
            Entry(".htaccess", "file", 27, 0o644),
            Entry("lib", "folder", 4096, 0o755),
            Entry("read me: first.txt", "file", 1210, 0o644),
        ],
        "lib": [Entry("a.php", "file", 5, 0o644), Entry("deep", "folder", 4096, 0o755)],
        "lib/deep": [Entry("run", "file", 0, 0o755)],
    }
    # A server that lists no deeper gives one part.
    assert list(deep_listing(LISTED[:5])) == [""]


class Forgetful(Flaky):
    """Its deep listing ends too early, as those of servers with a limit do."""

    def tree(self, path: str) -> dict[str, list[Entry]]:  # type: ignore[override]
        return {"": self.entries(path)[:1]}


def test_what_a_deep_listing_leaves_out_is_removed_all_the_same() -> None:
    files = Forgetful()
    for folder in ("w", "w/a", "w/a/b", "w/c"):
        files.make_folder(folder)
    for path in ("w/1.txt", "w/a/2.txt", "w/a/b/3.txt", "w/c/4.txt"):
        files.write(path, b"x")
    trees.remove_tree(FakeJob(files, {"index.php": b""}, "/"), "w")  # type: ignore[arg-type]
    assert files.stat("w") is None


def test_folders_that_are_expected_and_not_there_are_no_fault() -> None:
    files = MemoryFiles()
    for folder in ("w", "w/a", "w/a/b"):
        files.make_folder(folder)
    files.write("w/a/b/3.txt", b"xyz")
    found, folders = list_tree([files], "w", CancelToken(), expected=["a", "gone", "gone/deeper"])
    assert (found, set(folders)) == ({"a/b/3.txt": (3, 0o644)}, {"", "a", "a/b"})


def test_every_fourth_lane_begins_with_the_first_items() -> None:
    lanes, done = [MemoryFiles() for _ in range(8)], []
    spread(lanes, range(200), lambda _, item: done.append(item), CancelToken(), both_ends=True)
    assert sorted(done) == list(range(200))


class OwnLines(MemoryFiles):
    """A connection of its own, whose listings break off as often as is left."""

    def __init__(self, breaks: int) -> None:
        super().__init__()
        self.make_folder("w")
        self.breaks = breaks

    @property
    def capabilities(self) -> Capabilities:
        return replace(super().capabilities, parallel=False)

    def entries(self, path: str) -> list[Entry]:
        if self.breaks:
            self.breaks -= 1
            raise LineDroppedError("the line broke")
        return super().entries(path)


@pytest.mark.parametrize(("breaks", "listed"), [(0, True), (1, True), (2, False)])
def test_a_lane_of_its_own_may_break_once_a_listing(breaks: int, listed: bool) -> None:
    lanes = [OwnLines(breaks)]
    if listed:
        assert list_tree(lanes, "w", CancelToken(), at_once=False) == ({}, {"": 0o755})
    else:
        with pytest.raises(LineDroppedError):
            list_tree(lanes, "w", CancelToken(), at_once=False)


def test_one_connection_for_all_lanes_is_not_tried_again_by_each() -> None:
    tried: list[int] = []

    def work(_: MemoryFiles, item: int) -> None:
        tried.append(item)
        raise LineDroppedError("the line broke")

    with pytest.raises(LineDroppedError):
        spread([MemoryFiles()], range(3), work, CancelToken(), repeats=True)  # type: ignore[arg-type]
    assert tried == [0]


@pytest.mark.parametrize(
    ("web_folder", "paths", "facts", "if_there", "led"),
    [
        ("public", ["public/index.php"], {"web.htaccess": "honoured", "web.rewriting": True}, "", True),
        ("public", ["public/index.php"], {"web.htaccess": "honoured", "web.rewriting": True}, "replace", True),
        ("public", ["public/index.php"], {"web.htaccess": "honoured", "web.rewriting": True}, "merge", False),
        ("public", ["public/index.php"], {"web.htaccess": "ignored", "web.rewriting": True}, "", False),
        ("public", ["public/index.php"], {"web.htaccess": "honoured", "web.rewriting": False}, "", False),
        ("public", ["public/index.php"], {}, "", False),
        ("public", [".htaccess"], {"web.htaccess": "honoured", "web.rewriting": True}, "", False),
        ("", ["index.php"], {"web.htaccess": "honoured", "web.rewriting": True}, "", False),
    ],
)
def test_the_web_folder_is_led_into_only_where_that_was_seen_to_work(
    web_folder: str, paths: list[str], facts: dict[str, object], if_there: str, led: bool
) -> None:
    assert leads(web_folder, paths, facts, if_there) is led


CHECKED = {"web.htaccess": "ignored"}
BOTH = ["public/index.php", "src/app.php", "composer.json"]
FREE = Beside(free=True, reads=True, lands=False)


@pytest.mark.parametrize(
    ("facts", "beside", "more", "ways"),
    [
        (CHECKED, FREE, {}, ["split", "root"]),
        (CHECKED, replace(FREE, reads=None), {}, ["split", "root"]),
        (CHECKED, replace(FREE, reads=False), {}, ["root"]),
        (CHECKED, replace(FREE, free=False), {}, ["root"]),
        (CHECKED, FREE, {"at_root": False}, ["root"]),
        (CHECKED, FREE, {"if_there": "replace"}, ["root"]),
        ({}, FREE, {}, ["root"]),
        (CHECKED | {"web.links": True}, FREE, {}, ["links", "split", "root"]),
        (CHECKED | {"web.links": True}, FREE, {"at_root": False}, ["links", "root"]),
        (CHECKED | {"web.links": True}, FREE, {"may_link": False}, ["split", "root"]),
        (CHECKED | {"web.links": True}, replace(FREE, free=False), {}, ["root"]),
        (CHECKED | {"web.htaccess": "honoured", "web.rewriting": True}, FREE, {}, ["rules", "split", "root"]),
        (CHECKED, replace(FREE, lands=True), {"paths": [*BOTH, "lib/x.php"]}, ["root"]),
        (CHECKED, FREE, {"web_folder": "app/public", "paths": ["app/public/index.php"]}, ["root"]),
        (CHECKED, FREE, {"web_folder": ""}, ["root"]),
    ],
)
def test_how_a_web_folder_can_be_shown(
    facts: dict[str, object], beside: Beside, more: dict[str, Any], ways: list[str]
) -> None:
    wanted = {"web_folder": "public", "paths": BOTH, "if_there": "", "at_root": True, "may_link": True, **more}
    positional = [wanted.pop(name) for name in ("web_folder", "paths")]
    assert ways_to_show(*positional, facts, wanted.pop("if_there"), beside, **wanted) == ways


@pytest.mark.parametrize(
    ("path", "confined_to", "reads"),
    [
        ("/home/c1", None, None),
        ("/home/c1", [], True),
        ("/home/c1", ["/home/c1/", "/tmp"], True),
        ("/home/c1", ["/home"], True),
        ("/home/c1", ["/home/c1/htdocs"], False),
        ("/home/c12", ["/home/c1"], False),
        ("", ["/home"], False),
        ("", [], True),
    ],
)
def test_what_php_may_read(path: str, confined_to: list[str] | None, reads: bool | None) -> None:
    assert php_reads(path, confined_to) is reads


@pytest.mark.parametrize(
    ("root", "others", "free", "lands"),
    [
        ("htdocs", [], True, True),
        ("sites/a/web", ["sites/b/web"], True, False),
        ("htdocs/shop", ["htdocs"], False, False),
        (".", [], False, True),
        ("shop", ["."], False, True),
        ("htdocs", [""], True, True),
    ],
)
def test_a_folder_that_a_site_shows_is_not_free(root: str, others: list[str], free: bool, lands: bool) -> None:
    row = AccountRow(name="a", title="", transfer_kind="ftp", transfer_host="h", transfer_port=21, transfer_login="l")
    row.root, row.facts = root, {"php.basedir": ["/srv"]}
    row.places = {"php": {"path": f"/srv/c1/{root}", "how": "proven"}}
    found = beside_of(row, [root, *others], Place(root, "", "http://a/"))
    assert (found.free, found.lands, found.reads) == (free, lands, True)


def test_a_split_release_is_found_in_two_folders() -> None:
    place = Place("sites/a/web", "", "http://a/", "public", split=True)
    assert place.path("public/img/a.png") == "sites/a/web/img/a.png" and place.path("public") == "sites/a/web"
    assert place.path("src/app.php") == "sites/a/src/app.php" and place.path("publicity.php") == "sites/a/publicity.php"
    assert place.url("public/img/a.png") == "http://a/img/a.png"
    assert brought(BOTH, "public", "split") == ["index.php"] and rest_of(BOTH, "public", "2.2") == [
        "composer.json",
        "src",
        "vendor",
    ]


def test_the_rules_leave_the_hosts_own_and_ours_alone() -> None:
    text = rules("web+front").decode()
    stays = [re.compile(line.split()[1]) for line in text.splitlines() if line.endswith("- [L]")]
    for path in (".well-known/acme", "cgi-bin/a", "stats", "web+front/index.php", f"hs-{'0a' * 12}.php"):
        assert any(rule.search(path) for rule in stays), path
    for path in ("", "index.php", "config/settings.php", "statistics", "hs-notes.php", "web+fronts/x"):
        assert not any(rule.search(path) for rule in stays), path
    assert 'RewriteRule ^(.*)$ "web+front/$1" [L]' in text
