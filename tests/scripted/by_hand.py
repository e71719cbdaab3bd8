"""Installers drawn by scripts, each written by hand with its truth, walked in real Chromium.

    .venv/bin/python -m tests.scripted.by_hand             all of them
    .venv/bin/python -m tests.scripted.by_hand net-loft    one, its moves told

Each is one page of by_hand/, with a script of its own and this backend: `POST api/database` says whether a login is right, `POST
api/install` takes everything and installs, `POST api/trap` is what nobody should have pressed. What arrives must be what `TRUTH` says.
"""

from __future__ import annotations

import json
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import parse_qsl

from highshelf.core.origins import Origins
from highshelf.core.ports import CancelToken
from highshelf.drivers.browser.chromium import Browsers
from highshelf.drivers.browser.driver import BrowserTalk
from highshelf.drivers.http.fetch import HttpFetch
from tests.garden.installer import SITE, Host, Seen
from tests.garden.rendered import InBrowser, Shown
from tests.garden.traits import traits_of
from tests.garden.walk import VALUES, Walk

FOLDER = Path(__file__).with_name("pages")
# name -> what `install` must be given: keys of its JSON, and the values that belong there ("=…" is this very text).
TRUTH: dict[str, dict[str, str]] = json.loads(FOLDER.joinpath("truth.json").read_text("utf-8"))
DATABASE = {"name": "database.name", "user": "database.user", "password": "database.password"}


@dataclass
class Backend:
    """What stands behind the page. `installed` is the truth."""

    name: str
    host: Host
    traits: Any = field(default_factory=lambda: traits_of(1))
    seen: Seen = field(default_factory=Seen)
    given: dict[str, Any] = field(default_factory=dict)
    installed: bool = False
    _polled: int = 0

    def taken(self) -> dict[str, Any]:
        """Its source is not read here: only the page speaks."""
        return {}

    def wrong(self) -> list[str]:
        """What arrived otherwise than it should."""
        found = []
        for key, wanted in TRUTH[self.name].items():
            text = wanted[1:] if wanted.startswith("=") else self.host.values[wanted]
            arrived = self.given.get(key, "")
            if (str(arrived).lower() if isinstance(arrived, bool) else str(arrived)) != text:
                found.append(f"{key}: {self.given.get(key)!r} instead of {wanted}")
        return found

    def answer(self, what: str, said: dict[str, Any]) -> dict[str, Any]:
        values = self.host.values
        if what == "database":
            keys = [k for k in DATABASE if k in said]
            fine = keys == list(DATABASE) and all(said[k] == values[DATABASE[k]] for k in keys)
            return {"fine": fine, "told": "The database answers." if fine else "Access denied for this user."}
        if what == "install":
            self.given = said
            self.installed = True
            self.host.tables, self.host.files["config/main.php"] = 9, "<?php"
            return {"fine": True, "told": "done"}
        if what == "progress":
            self._polled += 1
            return {"fine": self._polled > 3, "percent": min(100, self._polled * 25)}
        if what == "trap":
            self.seen.outside.append(f"pressed {said}")
        return {"fine": True, "told": ""}

    def look_at_modes(self, closed: set[str]) -> None:
        return


@contextmanager
def served(backend: Backend) -> Iterator[int]:
    """The page and what is behind it, on loopback; its port."""
    page = FOLDER.joinpath(f"{backend.name}.html").read_text("utf-8")
    lock = threading.Lock()

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            path = self.path.split("?")[0]
            if path in ("/", "/setup/", "/index.php"):
                if backend.installed and path == "/":
                    return self._send(
                        200,
                        "text/html",
                        "<title>The boat diary</title><h1>The boat diary</h1><p>Nothing written yet.</p>",
                    )
                return self._send(200, "text/html", page)
            self._send(404, "text/html", "<h1>Nothing here</h1>")

        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length", 0)) or 0)
            if "urlencoded" in self.headers.get("Content-Type", ""):
                # Steps drawn by scripts, and one form that is sent as a whole.
                with lock:
                    backend.answer("install", dict(parse_qsl(body.decode())))
                return self._send(
                    200,
                    "text/html",
                    "<title>Done</title><h1>Done</h1><p>It has been installed.</p><a href='/'>Look</a>",
                )
            with lock:
                told = backend.answer(self.path.rsplit("/", 1)[-1], json.loads(body or b"{}"))
            self._send(200, "application/json", json.dumps(told))

        def _send(self, status: int, kind: str, text: str) -> None:
            content = text.encode()
            self.send_response(status)
            self.send_header("Content-Type", f"{kind}; charset=utf-8")
            self.send_header("Content-Length", str(len(content)))
            self.end_headers()
            self.wfile.write(content)

        def log_message(self, *_: object) -> None:
            return

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield server.server_port
    finally:
        server.shutdown()
        server.server_close()


def walk(browsers: Browsers, name: str) -> tuple[Walk, list[str]]:
    """One of them; how it ended, and what arrived otherwise than it should."""
    values = dict(VALUES)
    backend, found = Backend(name, Host(values)), Walk(0)
    with served(backend) as port:
        talk = BrowserTalk(
            browsers, name, lambda: HttpFetch(Origins.of(SITE), address=SITE, reach=f"127.0.0.1:{port}"), CancelToken()
        )
        try:
            InBrowser(Shown(backend, talk), values).go_through(found)  # type: ignore[arg-type]
        finally:
            talk.leave()
    found.outside = backend.seen.outside
    return found, backend.wrong() if backend.installed else []


def main() -> None:
    browsers, wanted = Browsers(), sys.argv[1:]
    good = 0
    for name in wanted or TRUTH:
        begun = time.monotonic()
        found, wrong = walk(browsers, name)
        fine = found.how == "finished" and not wrong and not found.outside
        good += fine
        print(
            f"{name:<16} {found.how:<9} {time.monotonic() - begun:5.1f} s  {found.why[:140]}  {wrong or ''} {found.outside or ''}",
            flush=True,
        )
        if wanted:
            print("\n".join(found.moves))
            print(found.pages[-1].html)
    browsers.close()
    print(f"{good} of {len(wanted or TRUTH)}")


if __name__ == "__main__":
    main()
