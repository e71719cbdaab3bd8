"""The database file: opened, migrated, and sessions on it.

Rules:
1. What is committed survives a power cut, but for events (`lax`): they tell what happened, and nothing is decided by them.
2. `together` makes several changes in one transaction; whatever the same thread does with the store meanwhile joins it.
3. The schema is brought to the newest form only after the file was copied; a file of a newer High Shelf is left alone.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from contextvars import ContextVar
from functools import lru_cache
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, event
from sqlalchemy.exc import OperationalError
from sqlmodel import Session, create_engine

from highshelf.core.errors import NoRoomError, StoreError
from highshelf.store.disk import private, settle

MIGRATIONS = Path(__file__).parent / "migrations"
# The database file of the session that `together` has opened in this thread, and the session.
_joined: ContextVar[tuple[str, Session] | None] = ContextVar("joined", default=None)


def open_database(path: Path) -> Engine:
    """The engine for a SQLite file, brought to the newest schema.

    Raises:
        StoreError: it is no database of ours, or one of a newer High Shelf.
    """
    private(path)
    engine = _engine(path, "FULL")
    try:
        migrate(engine, path)
    except BaseException:
        engine.dispose()
        raise
    return engine


def lax_engine(path: Path) -> Engine:
    """A second way into an open database: a power cut may take the newest commits with it, never the file."""
    return _engine(path, "NORMAL")


def _engine(path: Path, synchronous: str) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"check_same_thread": False, "timeout": 30})

    @event.listens_for(engine, "connect")
    def pragmas(connection: Any, _: Any) -> None:
        # Readers do not block the writer.
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute(f"PRAGMA synchronous={synchronous}")
        connection.execute("PRAGMA busy_timeout=30000")

    return engine


def migrate(engine: Engine, path: Path | None = None) -> None:
    """Bring the schema to the newest form; `path` is copied before, when there is something in it.

    Raises:
        StoreError: the file is damaged, or a newer High Shelf has changed it.
    """
    head, known = _revisions()
    try:
        with engine.connect() as connection:
            found = MigrationContext.configure(connection).get_current_revision()
    except Exception as fault:
        raise StoreError(
            f"{path or 'the database'} cannot be read: {getattr(fault, 'orig', fault)}",
            hint="restore it from the backup; nothing was changed in it",
        ) from None
    if found == head:
        return
    if found is not None and found not in known:
        raise StoreError(
            f"the database is of a newer High Shelf (schema {found}, this one knows {head})",
            hint="run the newer one on this data folder; or restore the copy that lies beside the database",
        )
    if found is not None and path is not None:
        _copy(path, path.with_name(f"{path.stem}-before-{head}-from-{found}.sqlite"))
    config = _config()
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config


@lru_cache(maxsize=1)
def _revisions() -> tuple[str, frozenset[str]]:
    """The newest schema, and all that are known."""
    scripts = ScriptDirectory.from_config(_config())
    return scripts.get_current_head() or "", frozenset(s.revision for s in scripts.walk_revisions())


def _copy(source: Path, target: Path) -> None:
    """A whole copy, written-ahead pages too, that is there after a power cut."""
    draft = target.with_suffix(".draft")
    draft.unlink(missing_ok=True)
    private(draft)
    with closing(sqlite3.connect(source)) as one, closing(sqlite3.connect(draft)) as other:
        one.backup(other)
    settle(draft)
    draft.replace(target)
    settle(target.parent)


def write_back(engine: Engine) -> None:
    """Move what stands in the write-ahead log into the database's file, as far as nobody is in the way (sqlite.org/wal.html, 3.1)."""
    # Where that fails all of it stays in the log, and nothing is lost.
    with suppress(OperationalError), engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA wal_checkpoint(PASSIVE)")


def _file(engine: Engine) -> str:
    return str(engine.url.database)


@contextmanager
def session_on(engine: Engine) -> Iterator[Session]:
    """A session that commits at its end and lets rows be used afterwards; inside `together` it is the one of that."""
    joined = _joined.get()
    if joined is not None and joined[0] == _file(engine):
        yield joined[1]
        joined[1].flush()
        return
    with _room_needed(), Session(engine, expire_on_commit=False) as session:
        yield session
        session.commit()


@contextmanager
def _room_needed() -> Iterator[None]:
    """SQLite's word for a full disk (SQLITE_FULL, and what a file that cannot grow gives) as ours."""
    try:
        yield
    except OperationalError as fault:
        told = str(fault.orig)
        if "full" not in told and "disk I/O" not in told:
            raise
        raise NoRoomError(
            f"it could not be written down: {told}", hint="make room on the data folder's disk; what waits goes on then"
        ) from None


@contextmanager
def together(engine: Engine) -> Iterator[Session]:
    """All that is done with the store in here, by this thread, is done or not done at all. Others wait meanwhile: be quick."""
    joined = _joined.get()
    if joined is not None and joined[0] == _file(engine):
        yield joined[1]
        return
    with _room_needed(), Session(engine, expire_on_commit=False) as session:
        # The write lock first: what is read in here cannot change before it is written.
        session.connection().exec_driver_sql("BEGIN IMMEDIATE")
        token = _joined.set((_file(engine), session))
        try:
            yield session
        finally:
            _joined.reset(token)
        session.commit()
