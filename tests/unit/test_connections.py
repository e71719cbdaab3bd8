"""Connections stay within what a server allows, and what it refuses is learned."""

from __future__ import annotations

import threading
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from highshelf.core.account import Account, Credential, TransferLogin
from highshelf.core.errors import LoginRefusedError, TooManyError
from highshelf.drivers.memory import MemoryFiles
from highshelf.engine import connections as module
from highshelf.engine.connections import Connected, Connections
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow

ACCOUNT = Account(
    "yard",
    "Boat Yard",
    TransferLogin("ftps", "files.saltmarsh.example", 21, "sm1"),
    "www",
    "https://yard.saltmarsh.example/",
)


class Server:
    """A server that allows so many connections at once; `told` is the number it names, or 0."""

    def __init__(self, most: int, told: int = 0) -> None:
        self.most, self.told, self.open, self.peak, self.refused = most, told, 0, 0, 0
        self._lock = threading.Lock()

    def connect(self, account: Account, credential: Credential) -> Connected:
        with self._lock:
            if self.open >= self.most:
                self.refused += 1
                raise TooManyError("421 too many connections", allowed=self.told, told="421 too many connections")
            self.open += 1
            self.peak = max(self.peak, self.open)
        files = MemoryFiles()
        files.close = self._closed  # type: ignore[method-assign]
        return Connected(files, None, "SHA256:seen")

    def _closed(self) -> None:
        with self._lock:
            self.open -= 1


@pytest.fixture
def store(tmp_path: Path) -> Store:
    made = Store(tmp_path / "data")
    login = ACCOUNT.transfer
    fields: dict[str, Any] = {
        "transfer_kind": login.kind,
        "transfer_host": login.host,
        "transfer_port": 21,
        "transfer_login": "sm1",
    }
    made.add(AccountRow(name="yard", title="Boat Yard", root="www", address=ACCOUNT.address, **fields))
    return made


def limits(store: Store) -> dict[str, Any]:
    return store.get(AccountRow, "yard", "account").limits


@pytest.mark.parametrize("told", [0, 2])
def test_too_many_is_waited_out_and_the_number_is_learned(
    store: Store, told: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    # The pause below stands for another's leaving; no second thread is there that could leave while this one waits.
    monkeypatch.setattr(module, "TURN_SECONDS", 0.0)
    server = Server(2, told)
    held: list[Connected] = []
    pauses: list[float] = []

    def pause(seconds: float) -> None:
        pauses.append(seconds)
        if len(pauses) == 2:
            held.pop().close()

    made = Connections(store, server.connect, pause)
    held += [made.open(ACCOUNT), made.open(ACCOUNT)]
    third = made.open(ACCOUNT)
    assert pauses == [1.0, 2.0] and server.refused == 2
    assert limits(store)["connections"] == 2 and limits(store)["pause_seconds"] == 2.0
    assert "421" in limits(store)["told"]
    third.close()
    held.pop().close()
    assert server.open == 0


def test_what_was_learned_keeps_later_ones_from_being_refused(store: Store) -> None:
    store.change(AccountRow, "yard", limits={"connections": 2})
    server = Server(2)
    made = Connections(store, server.connect)
    gate = threading.Barrier(6)

    def work() -> None:
        gate.wait()
        made.open(ACCOUNT).close()

    threads = [threading.Thread(target=work) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert (server.refused, server.open) == (0, 0) and server.peak <= 2


def test_a_server_that_stays_full_says_so_in_the_end(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "LONGEST_WAIT_SECONDS", 5)
    pauses: list[float] = []
    made = Connections(store, Server(0).connect, pauses.append)
    with pytest.raises(TooManyError):
        made.open(ACCOUNT)
    assert pauses == [1.0, 2.0, 2.0]
    # Others' connections, not ours: how many are allowed cannot be said.
    assert "connections" not in limits(store)


def test_another_refusal_is_told_at_once_and_takes_no_place(store: Store) -> None:
    def refuse(account: Account, credential: Credential) -> Connected:
        raise LoginRefusedError("no")

    made = Connections(store, refuse, lambda _: pytest.fail("waited"))
    for _ in range(3):
        with pytest.raises(LoginRefusedError):
            made.open(ACCOUNT)
    assert made._open["yard"] == 0 and limits(store) == {}


def test_a_silence_that_was_not_borne_is_learned_the_shortest_one(store: Store) -> None:
    made = Connections(store, Server(9).connect)
    for seconds, known in ((61.04, 61.0), (90.0, 61.0), (31.0, 31.0)):
        connected = made.open(ACCOUNT)
        connected.files.idle_dropped_seconds = seconds  # type: ignore[misc]
        connected.close()
        assert limits(store)["idle_seconds"] == known
    store.delete(AccountRow, "yard")
    made.open(ACCOUNT).close()


def test_many_that_log_in_together_get_in_as_far_as_the_server_allows(store: Store) -> None:
    server = Server(3)
    connections = Connections(store, server.connect)
    first = connections.open(ACCOUNT)
    more = connections.open_more(ACCOUNT, 7)
    assert len(more) == 2 and server.peak == 3 and limits(store)["connections"] == 3
    # What was learned keeps the next ones from being refused.
    refused = server.refused
    more.pop().close()
    assert len(connections.open_more(ACCOUNT, 7)) == 1 and server.refused == refused
    first.close()


def test_whoever_comes_while_a_login_is_under_way_waits_for_it(store: Store) -> None:
    server, gate = Server(5), threading.Event()
    connections = Connections(store, server.connect)

    def slow() -> Connected:
        gate.wait(10)
        return connections.open(ACCOUNT)

    connections.parked.prepare("job/files", slow)
    threading.Timer(0.1, gate.set).start()
    taken = connections.parked.take("job/files")
    assert taken is not None and server.peak == 1
    assert connections.parked.take("job/files") is None
    taken.close()
    assert server.open == 0


def test_a_login_that_is_refused_ahead_is_not_asked_for_again(store: Store) -> None:
    asked: list[int] = []

    def refuse(account: Account, credential: Credential) -> Connected:
        asked.append(1)
        raise LoginRefusedError("no")

    connections = Connections(store, refuse)
    connections.parked.prepare("job/files", lambda: connections.open(ACCOUNT))
    with pytest.raises(LoginRefusedError):
        connections.parked.take("job/files")
    assert asked == [1]
    # Another time it is.
    connections.parked.prepare("other/files", lambda: connections.open(replace(ACCOUNT, name="yard"), patient=False))
    with pytest.raises(LoginRefusedError):
        connections.parked.take("other/files")
    assert asked == [1, 1]
