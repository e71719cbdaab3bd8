"""Who may sign in to the console: operators with argon2 passwords, links that work once, sessions that can be ended.

Rules:
1. Passwords, link codes and session keys are never kept, only hashes of them.
2. A session ends after twelve hours without a request, after seven days in any case, and when somebody ends it.
3. A password that was set by a link ends every session of that operator, and every browser is a new one.
4. Every link is written down with who made it. One for an operator who is there already is told to them when they sign in next.
"""

from __future__ import annotations

import hashlib
import os
import re
import secrets
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from datetime import datetime, timedelta

from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher
from sqlalchemy import Engine, delete, func
from sqlmodel import Session, col, select

from highshelf.core.errors import ConflictError, InputError, NotFoundError, SignInError
from highshelf.store.database import session_on, together
from highshelf.store.tables import DeviceRow, InvitationRow, OperatorRow, RecordRow, SessionRow, now

NAME = re.compile(r"[a-z][a-z0-9.-]{1,29}")
# The holder of the token file is written down under this name.
TOKEN_HOLDER = "token"
SHORTEST_PASSWORD = 12
LONGEST_PASSWORD = 200
IDLE = timedelta(hours=12)
LONGEST = timedelta(days=7)
INVITATION = timedelta(hours=24)
SEEN_EVERY = timedelta(minutes=1)
# So long a browser counts as one of the operator's own after it was last signed in.
DEVICE = timedelta(days=180)


def _hash(secret: str) -> str:
    """Enough for keys of 256 random bits; passwords get argon2."""
    return hashlib.sha256(secret.encode()).hexdigest()


def _step_back() -> None:
    """This thread, and those that it starts, take what others leave: each hash would hold all cores for a quarter of a second."""
    with suppress(OSError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), 10)


class Operators:
    """Operators, invitations and sessions in the store's database.

    Hashing takes 64 MB and a quarter of a second each; whoever calls sees to it that not many wait (service/queues.py).
    """

    def __init__(self, engine: Engine, clock: Callable[[], datetime] = now) -> None:
        self._engine, self._clock = engine, clock
        self._passwords = PasswordHash((Argon2Hasher(),))
        self._hashing = ThreadPoolExecutor(2, "hashing", initializer=_step_back)
        # Verified when there is no such operator, so that an unknown name takes as long as a wrong password.
        self._nobody = ""

    def _hashed(self, password: str) -> str:
        return self._hashing.submit(self._passwords.hash, password).result()

    def _fits(self, password: str, hashed: str) -> bool:
        return self._hashing.submit(self._passwords.verify, password, hashed).result()

    def count(self) -> int:
        with session_on(self._engine) as session:
            return session.exec(select(func.count()).select_from(OperatorRow)).one()

    def all(self) -> Sequence[OperatorRow]:
        with session_on(self._engine) as session:
            return list(session.exec(select(OperatorRow).order_by(col(OperatorRow.name))))

    # links that work once

    def there(self, name: str) -> bool:
        with session_on(self._engine) as session:
            return session.get(OperatorRow, name) is not None

    def invite(self, name: str = "", who: str = TOKEN_HOLDER) -> tuple[str, datetime]:
        """A code for a link that works once, and when it ends; an earlier one of the same name works no more.

        An empty name is for the first operator, who chooses one. The name of an operator that is there already
        makes a link to set a new password: whoever calls has seen that `who` may do that.

        Raises:
            InputError: not a name that can be; ConflictError: no first operator is wanted any more.
        """
        if name:
            check_name(name)
        elif self.count():
            raise ConflictError("there is an operator already", hint="invite others by name")
        code, ends_at = secrets.token_urlsafe(24), self._clock() + INVITATION
        with together(self._engine) as session:
            if name and session.get(OperatorRow, name) is not None:
                self._record(session, who, "reset-made", name, "a link to set a new password was made")
            elif name:
                self._record(session, who, "invited", name, "invited to become an operator")
            session.exec(delete(InvitationRow).where(col(InvitationRow.operator) == name))
            session.add(InvitationRow(code_hash=_hash(code), operator=name, created_at=self._clock(), ends_at=ends_at))
        return code, ends_at

    def invited(self, code: str) -> InvitationRow:
        """Raises SignInError: the link was used, ended, or never was."""
        with session_on(self._engine) as session:
            row = session.get(InvitationRow, _hash(code))
        if row is None or row.ends_at < self._clock() or (not row.operator and self.count()):
            raise SignInError(
                "this link does not work, or no more",
                hint="links work once and for a day; `highshelf operator invite NAME` makes a new one, "
                "and `highshelf serve` prints one while there is no operator",
            )
        return row

    def accept(self, code: str, name: str, password: str) -> OperatorRow:
        """Make the operator, or set a new password, by a link; the link is used up.

        Raises:
            SignInError: the link does not work; InputError: name or password do not hold.
        """
        invitation = self.invited(code)
        name = invitation.operator or name
        check_name(name)
        check_password(password, name)
        hashed = self._hashed(password)
        with together(self._engine) as session:
            used = session.exec(delete(InvitationRow).where(col(InvitationRow.code_hash) == invitation.code_hash))
            if used.rowcount == 0:
                raise SignInError("this link was used a moment ago", hint="sign in, or ask for a new link")
            before = session.get(OperatorRow, name)
            row = before or OperatorRow(name=name, password="", created_at=self._clock())
            told = "a new password was set by the link" if before else "became an operator"
            self._record(session, name, "reset-used" if before else "accepted", name, told)
            session.exec(delete(DeviceRow).where(col(DeviceRow.operator) == name))
            row.password = hashed
            session.add(row)
            session.exec(delete(SessionRow).where(col(SessionRow.operator) == name))
            return row

    def _record(self, session: Session, who: str, kind: str, about: str, text: str) -> None:
        session.add(RecordRow(at=self._clock(), who=who, kind=kind, about=about, text=text))

    def remove(self, name: str, who: str = TOKEN_HOLDER) -> None:
        """Forget an operator and end the sessions. Raises NotFoundError; ConflictError for the last one."""
        with together(self._engine) as session:
            row = session.get(OperatorRow, name)
            if row is None:
                raise NotFoundError(f"there is no operator {name}", hint="`highshelf operator list` shows who there is")
            if self.count() == 1:
                raise ConflictError(
                    f"{name} is the only operator", hint="invite another one first, or nobody could sign in"
                )
            session.delete(row)
            self._record(session, who, "removed", name, "is no operator any more")
            session.exec(delete(DeviceRow).where(col(DeviceRow.operator) == name))
            session.exec(delete(SessionRow).where(col(SessionRow.operator) == name))
            session.exec(delete(InvitationRow).where(col(InvitationRow.operator) == name))

    # signing in

    def sign_in(self, name: str, password: str) -> OperatorRow:
        """Raises SignInError, the same for an unknown name and a wrong password, after the same time."""
        with session_on(self._engine) as session:
            row = session.get(OperatorRow, name)
        self._nobody = self._nobody or self._hashed(secrets.token_hex(8))
        fits = self._fits(password[:LONGEST_PASSWORD], row.password if row else self._nobody)
        if row is None or not fits:
            raise SignInError(
                "name and password do not belong together",
                hint="forgotten? `highshelf operator invite NAME` makes a link to set a new password",
            )
        return row

    def news(self, name: str) -> list[str]:
        """What was done about an operator's own sign-in since they signed in last."""
        with session_on(self._engine) as session:
            row = session.get(OperatorRow, name)
            since = row.signed_in_at or row.created_at if row else self._clock()
            wanted = (col(RecordRow.about) == name, col(RecordRow.kind).in_(("reset-made", "reset-used")))
            found = session.exec(
                select(RecordRow).where(*wanted, col(RecordRow.at) > since).order_by(col(RecordRow.id))
            )
            return [f"{r.at:%Y-%m-%d %H:%M} UTC: {r.text} (by {r.who})" for r in found]

    def is_device(self, key: str, name: str) -> bool:
        """Whether a browser's cookie is of one in which this operator has signed in before."""
        with session_on(self._engine) as session:
            row = session.get(DeviceRow, _hash(key)) if key else None
            return row is not None and row.operator == name and row.ends_at > self._clock()

    def know_device(self, key: str, name: str) -> str:
        """From now on the browser is one of this operator's; returns the key for its cookie."""
        at = self._clock()
        key = key if self.is_device(key, name) else secrets.token_urlsafe(32)
        with session_on(self._engine) as session:
            session.exec(delete(DeviceRow).where(col(DeviceRow.ends_at) < at))
            session.merge(DeviceRow(key_hash=_hash(key), operator=name, ends_at=at + DEVICE))
        return key

    def open_session(self, name: str, agent: str) -> tuple[str, SessionRow]:
        """A new session: the key for the cookie, and its row."""
        key, at = secrets.token_urlsafe(32), self._clock()
        row = SessionRow(
            id=secrets.token_hex(6),
            key_hash=_hash(key),
            operator=name,
            agent=agent[:200],
            created_at=at,
            seen_at=at,
            ends_at=at + LONGEST,
        )
        with session_on(self._engine) as session:
            session.exec(delete(SessionRow).where(col(SessionRow.ends_at) < at))
            operator = session.get(OperatorRow, name)
            if operator is not None:
                operator.signed_in_at = at
                session.add(operator)
            session.add(row)
        return key, row

    def session(self, key: str, *, touch: bool = True) -> SessionRow | None:
        """The session of a cookie's key while it holds; `touch` counts as use."""
        at = self._clock()
        with session_on(self._engine) as session:
            row = session.exec(select(SessionRow).where(col(SessionRow.key_hash) == _hash(key))).first()
            if row is None or row.ends_at < at or row.seen_at + IDLE < at:
                return None
            if touch and at - row.seen_at > SEEN_EVERY:
                row.seen_at = at
                session.add(row)
            return row

    def sessions(self) -> Sequence[SessionRow]:
        """Those that hold, the newest use first."""
        at = self._clock()
        with session_on(self._engine) as session:
            rows = session.exec(select(SessionRow).order_by(col(SessionRow.seen_at).desc()))
            return [r for r in rows if r.ends_at >= at and r.seen_at + IDLE >= at]

    def end_session(self, number: str) -> None:
        """Raises NotFoundError."""
        with session_on(self._engine) as session:
            row = session.get(SessionRow, number)
            if row is None:
                raise NotFoundError(
                    f"there is no session {number}", hint="`highshelf session list` shows those there are"
                )
            session.delete(row)


def check_name(name: str) -> None:
    """Raise InputError when an operator cannot be called so."""
    if not NAME.fullmatch(name) or name == TOKEN_HOLDER:
        raise InputError(
            f"{name!r} cannot be an operator's name",
            hint="2 to 30 small letters, digits, dots and hyphens, beginning with a letter, and not `token`",
        )


def check_password(password: str, name: str) -> None:
    """Raise InputError when a password is too short, too long, or too plain."""
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        raise InputError(
            f"the password has {len(password)} characters",
            hint=f"{SHORTEST_PASSWORD} to {LONGEST_PASSWORD}: four or five random words are easy to remember",
        )
    if len(set(password)) < 5 or name in password.lower():
        raise InputError("the password is too easy to guess", hint="not the name, not one letter again and again")
