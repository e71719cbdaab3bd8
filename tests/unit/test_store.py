"""What lasts: migrations, journal, values, shelf, planner on a store of its own."""

from __future__ import annotations

from collections.abc import AsyncIterator
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.config import Config
from sqlmodel import SQLModel, col, create_engine

from highshelf.core.errors import ArchiveError, InputError, NotFoundError, TargetError
from highshelf.core.release.contents import Contents, Member, to_lines
from highshelf.core.release.laying import contents_of
from highshelf.engine.connections import Connected, Connections
from highshelf.engine.planner import Planner, find_release
from highshelf.service.app import RealDrivers
from highshelf.store import shelf as shelf_module
from highshelf.store.database import MIGRATIONS
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow, EventRow, ReleaseRow, SecretRow
from tests.unit.fakes import ADDRESS, Flaky, Site


@pytest.fixture
def store(tmp_path: Path) -> Store:
    return Store(tmp_path / "data")


def test_the_migrations_make_the_tables_of_the_models(tmp_path: Path, store: Store) -> None:
    from sqlalchemy import inspect

    inspector = inspect(store.engine)
    for table in SQLModel.metadata.tables.values():
        columns = {c["name"]: c["nullable"] for c in inspector.get_columns(table.name)}
        assert columns == {c.name: c.nullable for c in table.columns}, table.name
    engine = create_engine(f"sqlite:///{tmp_path}/again.sqlite")
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        for step in ("upgrade", "downgrade", "upgrade"):
            getattr(command, step)(config, "base" if step == "downgrade" else "head")


def test_the_journal_keeps_order_and_facts(store: Store) -> None:
    journal = store.journal("j1")
    journal.open("place", "hold")
    journal.intend("place", "hold", {"folder": "x"})
    journal.open("database", "create")
    journal.keep("place", "hold", {"folder": "x", "n": 1})
    journal.done("place", "hold", {"m": 2}, "told")
    journal.open("place", "hold")
    assert journal.state("place", "hold") == "done"
    assert journal.facts("place", "hold") == {"folder": "x", "n": 1, "m": 2}
    assert [(r.leg, r.name) for r in journal.newest_first()] == [("database", "create"), ("place", "hold")]
    assert store.journal("j2").state("place", "hold") == ""
    journal.outstanding("www/hs-1.php")
    journal.outstanding("www/hs-1.php")
    assert store.journal("j1").leftovers() == ["www/hs-1.php"]
    journal.gone("www/hs-1.php")
    journal.gone("www/never.php")
    assert journal.leftovers() == []


def test_secret_values_lie_in_the_strongbox_only(store: Store) -> None:
    values = store.values("j1")
    values.set("site.title", "Boat Yard")
    values.set("admin.password", "w0rd-one")
    values.set("once.1", "CODE-9", secret=True)
    values.set("once.1", "CODE-10")
    values.set("walk.cookies", "cookie", secret=True)
    again = store.values("j1")
    assert again.all() == {
        "site.title": "Boat Yard",
        "admin.password": "w0rd-one",
        "once.1": "CODE-10",
        "walk.cookies": "cookie",
    }
    assert sorted(again.secrets()) == ["CODE-10", "w0rd-one"]
    again.set("published.password", "w0rd-one", secret=True)
    assert again.secrets() == ["CODE-10"]
    raw = (store.folder / "highshelf.sqlite").read_bytes() + (store.folder / "highshelf.sqlite-wal").read_bytes()
    assert b"w0rd-one" not in raw and b"CODE-10" not in raw and b"Boat Yard" in raw
    assert len(store.all(SecretRow, col(SecretRow.ref).startswith("job/"))) == 4


def test_events_are_read_from_where_one_was(store: Store) -> None:
    for number in range(5):
        store.event("j1", f"event {number}")
        store.event("j2", "another job's")
    first = store.events_after("j1", 0, limit=2)
    rest = store.events_after("j1", first[-1].id or 0)
    assert [e.text for e in [*first, *rest]] == [f"event {n}" for n in range(5)]
    assert len(store.all(EventRow)) == 10


async def blocks(*parts: bytes) -> AsyncIterator[bytes]:
    for part in parts:
        yield part


@pytest.mark.anyio
async def test_the_shelf_takes_uploads_and_leaves_no_drafts(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    draft = await store.shelf.receive(blocks(b"ab", b"c"), "a.zip")
    assert draft.read_bytes() == b"abc" and "ba7816bf8f01cfea" in draft.name
    contents = contents_of([Member("yard/a.php", 1, "0" * 64)])
    made = store.shelf.readies()
    (made / "contents.jsonl").write_text("".join(to_lines(contents)))
    (made / "texts.json").write_text('{"README": "Yard"}')
    store.shelf.keep([draft], "ba78", made)
    assert store.shelf.texts("ba78") == {"README": "Yard"} and store.shelf.sources("ba78")[0].read_bytes() == b"abc"
    assert store.shelf.contents("ba78") == contents
    assert store.shelf.archive("ba78", "zip", "tar").name == "payload.zip"
    with pytest.raises(ArchiveError):
        await store.shelf.receive(blocks(), "empty.zip")
    monkeypatch.setattr(shelf_module, "MAX_ARCHIVE_BYTES", 2)
    with pytest.raises(InputError):
        await store.shelf.receive(blocks(b"abc"), "large.zip")
    (store.folder / "shelf" / "draft-old").touch()
    store.shelf.readies()
    store.shelf.sweep()
    assert [p.name for p in (store.folder / "shelf").iterdir()] == ["ba78"]


class FakeDrivers(RealDrivers):
    """The real primers, with files in memory and scripted pages."""

    def __init__(self, folder: Path, files: Flaky) -> None:
        super().__init__(folder)
        self.files = files

    def connect(self, account: Any, credential: Any) -> Connected:
        return Connected(self.files, None, "SHA256:seen")

    def fetch(self, addresses: tuple[str, ...], reach: str, certificate: str = "") -> Any:
        def shown(_fields: object, _session: object) -> object:
            path = site.asked[-1].removeprefix(ADDRESS)
            return (200, self.files.read(f"www/{path}").decode()) if self.files.stat(f"www/{path}") else (404, "")

        site = Site({})
        site.pages = type("Any", (dict,), {"get": lambda self, key, default=None: shown})()
        return site.visit()


def kept(store: Store, **changes: Any) -> None:
    row = {
        "name": "yard",
        "title": "Boat Yard",
        "transfer_kind": "ftps",
        "transfer_host": "127.0.0.1",
        "transfer_port": 21,
        "transfer_login": "y",
    }
    row |= {
        "root": "www",
        "address": ADDRESS,
        "panel": "http://127.0.0.1:90/",
        "panel_primer": "saltmarsh",
        "email": "y@saltmarsh.example",
    }
    store.add(AccountRow(**{**row, **changes}))


def release(store: Store, databases: list[str]) -> None:
    findings = {
        "name": "ledger",
        "version": "1.0",
        "databases": databases,
        "installers": ["install/index.php"],
        "samples": [],
        "readmes": [],
        "dotfiles": [],
        "has_php": True,
        "details": [],
    }
    row = {
        "name": "ledger",
        "version": "1.0",
        "file_name": "ledger-1.0.zip",
        "format": "zip",
        "size_bytes": 9,
        "unpacked_bytes": 9,
        "files": 3,
        "wrapper": "",
    }
    contents = Contents("", (Member("index.php", 9, "00" * 32),))
    store.shelf.folder("ab" * 32).mkdir(parents=True, exist_ok=True)
    (store.shelf.folder("ab" * 32) / "archive").write_bytes(b"nine long")
    (store.shelf.folder("ab" * 32) / "contents.jsonl").write_text("".join(to_lines(contents)))
    store.add(ReleaseRow(sha256="ab" * 32, findings=findings, **row))  # type: ignore[arg-type]


@pytest.fixture
def planner(store: Store, tmp_path: Path) -> Planner:
    files = Flaky()
    files.make_folder("www")
    drivers = FakeDrivers(tmp_path, files)
    return Planner(store, drivers, Connections(store, drivers.connect))


def test_a_plan_says_what_it_would_do_and_changes_nothing(store: Store, planner: Planner) -> None:
    kept(store)
    release(store, ["mariadb", "postgresql"])
    files = planner._drivers.files  # type: ignore[attr-defined]
    before = files.tree()
    row = planner.make_plan(
        "yard", "ledger-1.0", at="/books", settings={"site.title": "?", "admin.password": "kept-sealed-1"}
    )
    body = row.body
    assert (body["database"], body["target"], body["way"]["name"]) == ("mariadb", "www/books", "helper")
    assert body["settings"] == {"site.title": "?"}
    assert store.secret(f"plan/{row.id}/admin.password") == "kept-sealed-1"
    assert {a["leg"] for a in body["acts"]} == {"survey", "place", "database", "configure", "walk", "tidy", "prove"}
    assert all(a["by_hand"] for a in body["acts"])
    assert any("not https" in w for w in body["warnings"])
    assert files.tree() == before
    assert store.get(AccountRow, "yard", "account").fingerprint == "SHA256:seen"


def test_plans_that_cannot_be(store: Store, planner: Planner) -> None:
    kept(store)
    kept(store, name="bare", panel="", panel_primer="")
    kept(store, name="closed", helper=False)
    kept(store, name="lost", root="htdocs")
    release(store, ["mariadb"])
    cases: list[tuple[dict[str, Any], type[Exception], str]] = [
        ({"account_name": "nobody"}, NotFoundError, "account nobody"),
        ({"release_ref": "nothing"}, NotFoundError, "no release nothing"),
        ({"settings": {"site.colour": "red"}}, InputError, "site.colour"),
        ({"at": "/../x"}, InputError, "out of the document root"),
        ({"account_name": "closed", "way": "helper"}, InputError, "way helper is not open"),
        ({"account_name": "lost"}, TargetError, "document root htdocs"),
        ({"primer": "absent"}, NotFoundError, "no primer absent"),
    ]
    for changes, kind, part in cases:
        with pytest.raises(kind) as caught:
            planner.make_plan(**{"account_name": "yard", "release_ref": "ledger", "at": "/", "settings": {}, **changes})
        assert part in str(caught.value)
    assert planner.make_plan("closed", "ledger", at="/", settings={}).body["way"]["name"] == "panel"
    assert planner.make_plan("bare", "ledger", at="/", settings={}, database="none").body["database"] == "none"
    assert any(
        "make one by hand" in w for w in planner.make_plan("bare", "ledger", at="/", settings={}).body["warnings"]
    )


def test_a_release_is_found_by_any_of_its_names(store: Store) -> None:
    release(store, [])
    for ref in ("ab" * 32, "ababab", "ledger", "LEDGER", "ledger-1.0", "ledger-1.0.zip"):
        assert find_release(store, ref).version == "1.0"
    for ref in ("abab", "ledger-2.0", ""):
        with pytest.raises(NotFoundError):
            find_release(store, ref)
