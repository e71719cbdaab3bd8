"""Transfer connections within what each account's server allows; what it refuses is learned and kept.

Rules:
1. No more connections to an account at once than its server was seen to allow.
2. "Too many" is waited out, longer each time, and ends as the server's own refusal.
3. What is learned stays with the account until its login changes.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

from highshelf.core.account import Account, Credential
from highshelf.core.errors import (
    FingerprintError,
    HighShelfError,
    LoginRefusedError,
    NotFoundError,
    TooManyError,
)
from highshelf.core.ports import HostFiles, Shell
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow

FIRST_PAUSE_SECONDS = 1.0
LONGEST_WAIT_SECONDS = 45.0
# So long one waits for another of our own to be done, before the server is asked all the same.
TURN_SECONDS = 45.0
# A step begins right after the one before it; only an answer or the queue makes it wait longer.
PARKED_SECONDS = 3.0
# One that is logging in already is waited for; a second login would take no less.
LOG_IN_SECONDS = 20.0
# A pause that is learned is where the next refusal's waiting begins; longer ones would only be politeness.
LONGEST_PAUSE_SECONDS = 15.0


@dataclass(frozen=True)
class Connected:
    """A transfer login that worked: files, the shell when there is one, and the server's fingerprint."""

    files: HostFiles
    shell: Shell | None
    fingerprint: str
    closed: Callable[[], None] = field(default=lambda: None)

    def close(self) -> None:
        try:
            self.files.close()
        finally:
            self.closed()


Connect = Callable[[Account, Credential], Connected]


class Connections:
    """Opens connections for every account of a process."""

    def __init__(self, store: Store, connect: Connect, sleep: Callable[[float], None] = time.sleep) -> None:
        self._store, self._connect, self._sleep = store, connect, sleep
        self._open: dict[str, int] = {}
        self._turn = threading.Condition()
        self.parked = Parked()

    def credential(self, account: Account) -> Credential:
        ref = f"account/{account.name}"
        secret = self._store.secret
        return Credential(secret(f"{ref}/transfer"), secret(f"{ref}/key"), secret(f"{ref}/passphrase"), account.agent)

    def open_more(self, account: Account, most: int) -> list[Connected]:
        """Log in several times at once, as often as the server allows; none when it allows no more. Never raises."""
        allowed = int(self._limits(account.name).get("connections") or 0)
        if allowed:
            most = min(most, allowed - self._open.get(account.name, 0))
        made: list[Connected] = []
        refused: list[TooManyError] = []

        def work() -> None:
            try:
                made.append(self.open(account, patient=False, learn=False))
            except TooManyError as fault:
                refused.append(fault)
            except HighShelfError:
                # As many as there are do it too.
                return

        threads = [threading.Thread(target=work, name="log-in", daemon=True) for _ in range(most)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        if refused:
            # Who of them was refused says nothing; how many got in does.
            self._learn_count(account.name, self._open.get(account.name, 0), refused[0])
        return made

    def open(self, account: Account, *, patient: bool = True, learn: bool = True) -> Connected:
        """Log in; close what is returned with its `close()`.

        Args:
            patient: whether "too many" is waited out.
            learn: whether a refusal tells how many are allowed: not where others are logging in beside it.

        Raises:
            TransferError and its kin; TooManyError when the server still allows no more after a while.
        """
        name, credential = account.name, self.credential(account)
        waited, pause = 0.0, float(self._limits(name).get("pause_seconds") or FIRST_PAUSE_SECONDS)
        while True:
            others = self._take_turn(name, patient)
            try:
                made = self._connect(account, credential)
            except TooManyError as fault:
                self._leave(name)
                if learn:
                    self._learn_count(name, others, fault)
                if waited >= LONGEST_WAIT_SECONDS or not patient:
                    raise
                pause = min(pause, LONGEST_WAIT_SECONDS - waited)
                self._sleep(pause)
                waited, pause = waited + pause, pause * 2
                continue
            except BaseException:
                self._leave(name)
                raise
            if waited:
                self.learn(name, pause_seconds=min(pause / 2, LONGEST_PAUSE_SECONDS))
            return replace(made, closed=partial(self._closed, name, made))

    def _take_turn(self, name: str, patient: bool = True) -> int:
        """Wait until one more is allowed; returns how many others of ours are open. Raises TooManyError when it may not wait."""
        allowed = int(self._limits(name).get("connections") or 0)
        with self._turn:
            if not patient and allowed and self._open.get(name, 0) >= allowed:
                raise TooManyError(f"{name} allows {allowed} connections at once")
            deadline = time.monotonic() + TURN_SECONDS
            while allowed and self._open.get(name, 0) >= allowed and time.monotonic() < deadline:
                self._turn.wait(1.0)
            others = self._open.get(name, 0)
            self._open[name] = others + 1
            return others

    def _leave(self, name: str) -> None:
        with self._turn:
            self._open[name] = max(0, self._open.get(name, 0) - 1)
            self._turn.notify_all()

    def _closed(self, name: str, made: Connected) -> None:
        self._leave(name)
        # Set by the driver when the server had dropped the line in a silence and it was opened again.
        idle = made.files.idle_dropped_seconds
        if idle:
            before = float(self._limits(name).get("idle_seconds") or idle)
            self.learn(name, idle_seconds=round(min(before, idle), 1))

    def _learn_count(self, name: str, others: int, fault: TooManyError) -> None:
        """The server's own number counts when it names one; else what we had open, when that was more than nothing."""
        told = int(fault.context.get("allowed") or 0)
        seen = told or others
        if seen:
            before = int(self._limits(name).get("connections") or seen)
            self.learn(name, connections=min(before, seen), told=str(fault.context.get("told", ""))[:200])

    def _limits(self, name: str) -> dict[str, Any]:
        row = self._store.find(AccountRow, name)
        return dict(row.limits) if row is not None else {}

    def learn(self, name: str, **found: Any) -> None:
        """Keep what was found out about an account's server or line among its limits."""
        try:
            self._store.change(AccountRow, name, limits={**self._limits(name), **found})
        except NotFoundError:
            # The account was forgotten while its last connection was open.
            return


class Parked:
    """Connections that a step of a job has left and its next step may take up: a login costs a second on a slow line.

    One that is not taken up soon is closed. One that broke meanwhile tells at its first use, as any line does.
    """

    def __init__(self, seconds: float = PARKED_SECONDS) -> None:
        self._seconds, self._lock = seconds, threading.Lock()
        self._held: dict[str, tuple[Connected, threading.Timer]] = {}
        self._refused: dict[str, HighShelfError] = {}
        self._coming: dict[str, threading.Event] = {}

    def leave(self, key: str, connected: Connected) -> None:
        timer = threading.Timer(self._seconds, self._close, (key, connected))
        timer.daemon = True
        with self._lock:
            before = self._held.pop(key, None)
            self._held[key] = (connected, timer)
        if before is not None:
            before[1].cancel()
            before[0].close()
        timer.start()

    def prepare(self, key: str, connect: Callable[[], Connected]) -> None:
        """Log in while a job waits for its turn; whoever takes the key meanwhile waits for it, and is told of a
        refused login; other failures are tried again by them."""
        coming = threading.Event()
        with self._lock:
            self._coming[key] = coming

        def work() -> None:
            try:
                self.leave(key, connect())
            except (LoginRefusedError, FingerprintError) as fault:
                # Asking twice would make nothing better, and some servers shut out who does.
                self._refused[key] = fault
            except HighShelfError:
                pass
            finally:
                with self._lock:
                    self._coming.pop(key, None)
                coming.set()

        threading.Thread(target=work, name="log-in", daemon=True).start()

    def take(self, key: str) -> Connected | None:
        """What was left under the key. Raises LoginRefusedError, FingerprintError of a login that was prepared."""
        with self._lock:
            coming = self._coming.get(key)
        if coming is not None:
            coming.wait(LOG_IN_SECONDS)
        with self._lock:
            refused = self._refused.pop(key, None)
            if refused is not None:
                raise refused
            found = self._held.pop(key, None)
        if found is None:
            return None
        found[1].cancel()
        return found[0]

    def _close(self, key: str, connected: Connected) -> None:
        with self._lock:
            if self._held.get(key, (None,))[0] is not connected:
                return
            del self._held[key]
        connected.close()


class OwnLine:
    """One connection to an account, opened when it is first asked for, with what is to be closed after it.

    `parked` is where it is left under `key` for whoever comes next, unless something went wrong on it.
    """

    def __init__(self, connections: Connections, account: Account, parked: Parked | None = None, key: str = "") -> None:
        self._connections, self._account = connections, account
        self._parked, self._key = parked, key
        # Set by whoever saw a fault: such a line is not left to others.
        self.broken = False
        self._connected: Connected | None = None
        self._lanes: list[HostFiles] = []
        # How many were asked for so far: what the server did not allow then is not asked for again.
        self._asked = 1
        self._closers: list[Callable[[], None]] = []

    @property
    def opened(self) -> bool:
        return self._connected is not None

    def connected(self) -> Connected:
        if self._connected is None:
            taken = self._parked.take(self._key) if self._parked is not None else None
            self._connected = taken or self._connections.open(self._account)
        return self._connected

    def lanes(self, most: int, most_connections: int) -> list[HostFiles]:
        """Files that can be used at once from threads; further connections are closed with this one."""
        first = self.connected().files
        if first.capabilities.parallel:
            return [first] * most
        wanted = min(most, most_connections)
        if not self._lanes:
            self._lanes = [first]
        if wanted > self._asked:
            more, self._asked = wanted - self._asked, wanted
            for one in self._connections.open_more(self._account, more):
                self.later(one.close)
                self._lanes.append(one.files)
        return self._lanes[:wanted]

    def later(self, close: Callable[[], None]) -> None:
        """Close this too, before what was opened earlier."""
        self._closers.append(close)

    def close(self) -> None:
        for close in reversed(self._closers):
            close()
        if self._connected is None:
            return
        if self._parked is not None and not self.broken:
            self._parked.leave(self._key, self._connected)
        else:
            self._connected.close()
