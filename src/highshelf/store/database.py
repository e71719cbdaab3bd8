"""The database file: opened, migrated, and sessions on it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, event
from sqlmodel import Session, create_engine

MIGRATIONS = Path(__file__).parent / "migrations"


def open_database(path: Path) -> Engine:
    """The engine for a SQLite file, brought to the newest schema."""
    engine = create_engine(f"sqlite:///{path}", connect_args={"check_same_thread": False, "timeout": 30})

    @event.listens_for(engine, "connect")
    def pragmas(connection: Any, _: Any) -> None:
        # Readers do not block the writer; a crash of the process loses nothing that was committed.
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA synchronous=NORMAL")
        connection.execute("PRAGMA busy_timeout=30000")

    migrate(engine)
    path.chmod(0o600)
    return engine


def migrate(engine: Engine) -> None:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


@contextmanager
def session_on(engine: Engine) -> Iterator[Session]:
    """A session that commits at its end and lets rows be used afterwards."""
    with Session(engine, expire_on_commit=False) as session:
        yield session
        session.commit()
