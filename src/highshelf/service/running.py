"""`highshelf serve`: one process on a data folder, from its lock to its last word."""

from __future__ import annotations

import gc
import os
import socket
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import uvicorn

from highshelf.core.errors import InUseError
from highshelf.service.app import create_app
from highshelf.service.console import STATIC
from highshelf.service.logs import set_up_logs
from highshelf.service.settings import Settings
from highshelf.service.token import ensure_token, first_code
from highshelf.service.wire import Connection, raise_file_limit
from highshelf.store.lock import FolderLock

# A tenth of Python's own: with it /health took 5 s instead of 2 while forty-five surveys were under way.
TURN_SECONDS = 0.0005
# Connections that may wait to be taken, and how many are taken before those that are there have their turn: with all of a flood
# taken at once, whoever was in the middle of a call waited for each of its steps until the whole flood had had one.
WAITING, AT_A_TURN = 512, 8


@dataclass(frozen=True)
class Listening:
    """Where the service listens; with port 0 the system chooses one."""

    host: str
    port: int

    def shown(self, port: int) -> str:
        """Where it answers on this machine; whoever listens everywhere does so on loopback too."""
        host = {"::1": "[::1]", "::": "[::1]", "0.0.0.0": "127.0.0.1"}.get(self.host, self.host)
        return f"http://{host}:{port}"

    def console(self, port: int, settings: Settings) -> str:
        # Browsers keep cookies by host, not by port: by this name they stay apart from whatever else is on 127.0.0.1.
        return settings.public or (f"http://localhost:{port}" if self.host == "127.0.0.1" else self.shown(port))


class _Server(uvicorn.Server):
    """What is there when it begins to answer stays until it ends, and is not looked through for rubbish again and again."""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        for line in sockets or ():
            # The event loop takes as many new connections at one turn as it thinks may wait; the system lets more wait.
            line.listen(WAITING)
        gc.collect()
        # A whole collection of routes, models and tables kept everybody waiting for a quarter of a second.
        gc.freeze()


def run(folder: Path, where: Listening, settings: Settings, say: Callable[[str], None]) -> None:
    """Serve until the process is told to stop.

    Raises:
        InUseError: another process has the folder, or the port. StoreError, StrongboxError: the folder is not to be opened.
        Nothing was written then.
    """
    set_up_logs()
    raise_file_limit()
    # Whatever is made in the data folder is its owner's alone, by whichever library.
    os.umask(0o077)
    # Whoever answers gives up its turn at each packet, and waits for it as long as this while any thread works.
    sys.setswitchinterval(TURN_SECONDS)
    with FolderLock(folder) as lock, open_port(where) as line:
        port = line.getsockname()[1]
        lock.say(f"the service at {where.shown(port)}")
        # The database and the key first: when they are not right, the token and the address stay what they were.
        code = first_code(folder)
        token = ensure_token(folder)
        (folder / "address").write_text(where.shown(port) + "\n")
        say(f"service      {where.shown(port)}\ndata folder  {folder}\ntoken        {token}")
        say(_console(where.console(port, settings), code))
        config = uvicorn.Config(
            create_app(folder, settings=settings, lock=lock),
            http=Connection,
            ws="none",
            # Who breaks the protocol is answered; a line each would fill the disk for them.
            log_level="error",
            log_config=None,
            timeout_graceful_shutdown=2,
            access_log=False,
            # Whoever is believed about who asks is said by whoever starts the service; nobody is by default.
            proxy_headers=bool(settings.proxies),
            forwarded_allow_ips=list(settings.proxies),
            backlog=AT_A_TURN,
        )
        _Server(config).run(sockets=[line])


def open_port(where: Listening) -> socket.socket:
    """The port to listen on, bound; the caller closes it. Raises InUseError."""
    family = socket.AF_INET6 if ":" in where.host else socket.AF_INET
    line = socket.socket(family, socket.SOCK_STREAM)
    line.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    # Inherited by each connection: an answer goes out in two parts, and without it the second waits 40 ms for the first one's receipt.
    line.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    try:
        line.bind((where.host, where.port))
    except OSError as fault:
        line.close()
        raise InUseError(
            f"{where.shown(where.port)} cannot be listened on: {fault.strerror}",
            hint="stop what uses it, or choose another with --port",
        ) from None
    return line


def _console(address: str, code: str) -> str:
    if not (STATIC / "index.html").is_file():
        return "console      not built in this checkout: `./bin/demo` does it"
    if code:
        return f"console      {address}/welcome#{code}\n             (this link makes the first operator; it works once, for a day)"
    return f"console      {address}/"
