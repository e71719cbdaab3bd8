"""Everything that lasts, behind one door: rooms around the store hold this object and nothing else of it."""

from __future__ import annotations

import secrets
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import func, or_
from sqlmodel import SQLModel, col, select

from highshelf.core.errors import NotFoundError, StrongboxError
from highshelf.core.nearest import meant
from highshelf.store.database import lax_engine, open_database, session_on, together, write_back
from highshelf.store.disk import Disk
from highshelf.store.dumps import Dumps
from highshelf.store.epoch import check_now, raise_epoch
from highshelf.store.evidence import Evidence
from highshelf.store.jobs import Jobs
from highshelf.store.journal import JobJournal
from highshelf.store.notices import Notices
from highshelf.store.operators import Operators
from highshelf.store.redacting import known_secrets
from highshelf.store.shelf import Shelf
from highshelf.store.strongbox import CHECK_REF, CHECK_TEXT, Strongbox
from highshelf.store.surveys import Surveys
from highshelf.store.tables import (
    AccountRow,
    DatabaseRow,
    EventRow,
    InstallationRow,
    JobRow,
    QuestionRow,
    RecordRow,
    RevealRow,
    SecretRow,
    SiteRow,
    ValueRow,
    now,
)

R = TypeVar("R", bound=SQLModel)


# Where what can be looked for is listed.
LISTS = {what: f"highshelf {what} list" for what in ("account", "release", "job", "installation", "licence", "site")}
# What people call by its name, or by a number that they type.
NAMED: dict[str, tuple[type[SQLModel], str]] = {
    "account": (AccountRow, "name"),
    "installation": (InstallationRow, "id"),
}
LISTS["fetch"] = "highshelf release fetches"
LISTS["notice place"] = "highshelf notice list"
LISTS["dump"] = "highshelf dump list"


def new_id() -> str:
    """Twelve hexadecimal digits: short enough to type, unguessable enough not to collide."""
    return secrets.token_hex(6)


class Store:
    """The data folder: `highshelf.sqlite`, `shelf/`, `strongbox.key`, `evidence/`, `dumps/`.

    Raises:
        StoreError: the database cannot be read, or is of a newer High Shelf.
        StrongboxError: the key is missing, or another one than the secrets were sealed with.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        folder.chmod(0o700)
        self.disk = Disk(folder)
        # Looked at first: on a full disk it lets the ballast go, and the database can be opened.
        _ = self.disk.full
        self.engine = open_database(folder / "highshelf.sqlite")
        self.disk.on_full = lambda: write_back(self.engine)
        self._lax = lax_engine(folder / "highshelf.sqlite")
        self.epoch = 0
        self.strongbox = self._unlock(folder / "strongbox.key")
        self.shelf = Shelf(folder / "shelf")
        self.jobs = Jobs(self.engine)
        self.operators = Operators(self.engine)
        self.evidence = Evidence(self.folder / "evidence")
        self.notices = Notices(self)
        self.dumps = Dumps(self.folder / "dumps")
        self.surveys = Surveys(self.engine)

    def _unlock(self, key_file: Path) -> Strongbox:
        """The strongbox, when its key is the one that this database was used with. Raises StrongboxError."""
        some = self.all(SecretRow, limit=1)
        box = Strongbox(key_file, empty=not some)
        check = self.find(SecretRow, CHECK_REF) or (some[0] if some else None)
        if check is not None and check.ref != CHECK_REF:
            # A database from before there was a check value: one of its secrets shows the same.
            box.open(check.ref, check.nonce, check.sealed)
        if check is not None and check.ref == CHECK_REF:
            box.check(check.nonce, check.sealed)
        elif not self.disk.full:
            nonce, sealed = box.seal(CHECK_REF, CHECK_TEXT)
            self.add(SecretRow(ref=CHECK_REF, nonce=nonce, sealed=sealed, created_at=now()))
        return box

    def close(self) -> None:
        """Let the database go."""
        self.engine.dispose()
        self._lax.dispose()

    # one service at a time

    def begin_epoch(self) -> int:
        """From now on this object belongs to the newest service on the folder; earlier ones are refused."""
        self.epoch = raise_epoch(self.engine)
        return self.epoch

    def check_epoch(self) -> None:
        """Raises SupersededError when another service was started on the folder meanwhile."""
        check_now(self.engine, self.epoch)

    # rows

    @contextmanager
    def together(self) -> Iterator[None]:
        """All that this thread does with the store in here is done or not done at all. Be quick: others wait."""
        with together(self.engine):
            yield

    def add(self, row: R) -> R:
        with session_on(self.engine) as session:
            session.add(row)
            session.flush()
            session.refresh(row)
            return row

    def get(self, kind: type[R], key: Any, what: str) -> R:
        """Raises NotFoundError naming what was looked for."""
        row = self.find(kind, key)
        if row is None:
            # Of jobs there are too many, and nobody types their numbers.
            known: tuple[type[SQLModel], str] | None = NAMED.get(what)
            near = meant(str(key), (row[0] for row in self.columns(*known))) if known else ""
            lists = LISTS.get(what, "highshelf job list")
            raise NotFoundError(f"there is no {what} {key}", hint=f"{near}`{lists}` shows what there is")
        return row

    def columns(self, kind: type[SQLModel], *names: str) -> Sequence[Any]:
        """Those columns of every row, without the rest of it."""
        with session_on(self.engine) as session:
            found: Sequence[Any] = session.exec(select(*(getattr(kind, name) for name in names))).all()
        return [(one,) for one in found] if len(names) == 1 else found

    def find(self, kind: type[R], key: Any) -> R | None:
        with session_on(self.engine) as session:
            return session.get(kind, key)

    def all(self, kind: type[R], *where: Any, order: Any = None, limit: int = 1000) -> Sequence[R]:
        with session_on(self.engine) as session:
            statement = select(kind).where(*where).limit(limit)
            if order is not None:
                statement = statement.order_by(order)
            return list(session.exec(statement))

    def page(
        self, kind: type[R], *where: Any, order: Sequence[Any], limit: int, offset: int = 0
    ) -> tuple[Sequence[R], int]:
        """A part of the rows in an order, and how many there are in all."""
        with session_on(self.engine) as session:
            total = session.exec(select(func.count()).select_from(kind).where(*where)).one()
            statement = select(kind).where(*where).order_by(*order).limit(limit).offset(offset)
            return list(session.exec(statement)), total

    def change(self, kind: type[R], key: Any, **fields: Any) -> R:
        with session_on(self.engine) as session:
            row = session.get(kind, key)
            if row is None:
                raise NotFoundError(f"there is no {kind.__tablename__} {key}")
            for name, value in fields.items():
                setattr(row, name, value)
            session.add(row)
            return row

    def delete(self, kind: type[R], key: Any) -> None:
        with session_on(self.engine) as session:
            row = session.get(kind, key)
            if row is not None:
                session.delete(row)

    def jobs_under_way(self, account: str) -> Sequence[JobRow]:
        """Jobs of an account that are not over."""
        ended = ("done", "failed", "cancelled")
        return self.all(JobRow, col(JobRow.account) == account, col(JobRow.state).not_in(ended))

    def installations(self, account: str) -> Sequence[InstallationRow]:
        """What the books have of an account, also what was taken back or replaced since."""
        return self.all(InstallationRow, col(InstallationRow.account) == account)

    def databases(self, account: str) -> Sequence[DatabaseRow]:
        """Databases of an account that belong to no installation, and whose login is known."""
        return self.all(DatabaseRow, col(DatabaseRow.account) == account)

    def standing(self, account: str) -> list[InstallationRow]:
        """What stands on an account now."""
        gone = ("taken_back", "replaced_by")
        return [row for row in self.installations(account) if not any(row.facts.get(g) for g in gone)]

    def looked_at_by_themselves(self) -> Sequence[InstallationRow]:
        """Installations that are to be looked at every so many hours."""
        hours = func.json_extract(InstallationRow.facts, "$.recheck_hours")
        return self.all(InstallationRow, hours > 0, limit=100_000)

    def jobs_on(self, installation: str, kind: str) -> Sequence[JobRow]:
        """Jobs of a kind on an installation, the newest first."""
        about = (col(JobRow.installation) == installation, col(JobRow.kind) == kind)
        return self.all(JobRow, *about, order=col(JobRow.created_at).desc())

    def sites(self, account: str) -> Sequence[SiteRow]:
        """The further sites of an account."""
        return self.all(SiteRow, col(SiteRow.account) == account, order=col(SiteRow.address))

    # secrets

    def set_secret(self, ref: str, secret: str) -> None:
        known_secrets.add(secret)
        nonce, sealed = self.strongbox.seal(ref, secret)
        with session_on(self.engine) as session:
            session.merge(SecretRow(ref=ref, nonce=nonce, sealed=sealed, created_at=now()))

    def secret(self, ref: str) -> str:
        """The secret, or "" when nothing is filed there. Raises StrongboxError."""
        row = self.find(SecretRow, ref)
        if row is None:
            return ""
        found = self.strongbox.open(ref, row.nonce, row.sealed)
        known_secrets.add(found)
        return found

    def verify_secrets(self) -> tuple[int, list[str]]:
        """How many secrets there are, and the references of those that do not open."""
        with session_on(self.engine) as session:
            rows = session.exec(select(SecretRow.ref, SecretRow.nonce, SecretRow.sealed).order_by(col(SecretRow.ref)))
            found = [(ref, self._opens(ref, nonce, sealed)) for ref, nonce, sealed in rows if ref != CHECK_REF]
        return len(found), [ref for ref, opens in found if not opens]

    def _opens(self, ref: str, nonce: bytes, sealed: bytes) -> bool:
        try:
            self.strongbox.open(ref, nonce, sealed)
        except (StrongboxError, ValueError):
            return False
        return True

    def drop_secret(self, ref: str) -> None:
        self.delete(SecretRow, ref)

    def drop_secrets(self, start: str) -> int:
        """Drop every secret whose reference begins so. Returns how many."""
        refs = [
            s.ref for s in self.all(SecretRow, col(SecretRow.ref).startswith(start, autoescape=True), limit=100_000)
        ]
        for ref in refs:
            self.drop_secret(ref)
        return len(refs)

    def drop_values(self, job_id: str) -> int:
        """Forget what a job knew. Returns how many secrets were among it."""
        for value in self.all(ValueRow, col(ValueRow.job_id) == job_id, limit=100_000):
            self.delete(ValueRow, (job_id, value.name))
        return self.drop_secrets(f"job/{job_id}/")

    def record_reveal(self, what: str, who: str) -> None:
        self.add(RevealRow(what=what, who=who))

    def record(self, who: str, kind: str, about: str, text: str) -> None:
        """Write down what somebody did to who may sign in, or to where secrets go."""
        self.add(RecordRow(who=who, kind=kind, about=about, text=text))

    # jobs

    def journal(self, job_id: str) -> JobJournal:
        return JobJournal(self.engine, job_id, self.epoch)

    def values(self, job_id: str) -> JobValues:
        return JobValues(self, job_id)

    def event(
        self, job_id: str, text: str, *, leg: str = "", kind: str = "note", data: dict[str, Any] | None = None
    ) -> None:
        with session_on(self._lax) as session:
            session.add(EventRow(job_id=job_id, text=text, leg=leg, kind=kind, data=data or {}))

    def events_after(self, job_id: str, last: int, limit: int = 500) -> Sequence[EventRow]:
        return self.all(
            EventRow, col(EventRow.job_id) == job_id, col(EventRow.id) > last, order=col(EventRow.id), limit=limit
        )

    def all_events_after(self, last: int, limit: int = 500) -> Sequence[EventRow]:
        return self.all(EventRow, col(EventRow.id) > last, order=col(EventRow.id), limit=limit)

    def last_event_id(self) -> int:
        with session_on(self.engine) as session:
            return session.exec(select(func.max(col(EventRow.id)))).one() or 0

    def open_question(self, job_id: str) -> QuestionRow | None:
        rows = self.all(QuestionRow, col(QuestionRow.job_id) == job_id, col(QuestionRow.answered_at).is_(None))
        return rows[0] if rows else None

    def set_state(self, job_id: str, state: str, **fields: Any) -> JobRow:
        with self.together():
            row = self.change(JobRow, job_id, state=state, **fields)
            self.event(job_id, state, kind="state", data={"state": state})
        return row


def contains(text: str, *columns: Any) -> Any:
    """A condition: one of the columns holds the text, whatever its case."""
    wanted = "%" + text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    return or_(*(col(c).ilike(wanted, escape="\\") for c in columns))


class JobValues:
    """A job's values (port `Values`): plain ones in the table, secret ones in the strongbox.

    Read once and kept for the life of the object, which is one step; another step's changes are seen by the next object.
    """

    def __init__(self, store: Store, job_id: str) -> None:
        self._store, self._job_id = store, job_id
        self._held: dict[str, tuple[str, bool]] | None = None

    def _ref(self, name: str) -> str:
        return f"job/{self._job_id}/{name}"

    def _known(self) -> dict[str, tuple[str, bool]]:
        if self._held is None:
            rows = self._store.all(ValueRow, col(ValueRow.job_id) == self._job_id)
            self._held = {
                r.name: (self._store.secret(self._ref(r.name)) if r.secret else r.text, r.secret) for r in rows
            }
        return self._held

    def get(self, name: str) -> str | None:
        found = self._known().get(name)
        return found[0] if found is not None else None

    def set(self, name: str, value: str, *, secret: bool | None = None) -> None:
        before = self._known().get(name)
        sealed = secret if secret is not None else bool(before and before[1]) or name.endswith(".password")
        with together(self._store.engine) as session:
            if sealed:
                self._store.set_secret(self._ref(name), value)
            session.merge(ValueRow(job_id=self._job_id, name=name, text="" if sealed else value, secret=sealed))
        self._known()[name] = (value, sealed)

    def all(self) -> dict[str, str]:
        return {name: value for name, (value, _) in self._known().items()}

    def sealed_names(self) -> list[str]:
        return [name for name, (_, sealed) in self._known().items() if sealed]

    def secrets(self) -> list[str]:
        # The conversation's page and cookies are sealed as a whole, but are no words to hide in other texts.
        found = {n: v for n, (v, sealed) in self._known().items() if sealed and not n.startswith("walk.")}
        # A login that the application's maker publishes is a word of any text ("password"), not a secret.
        published = found.pop("published.password", None)
        return [s for s in found.values() if s and s != published]
