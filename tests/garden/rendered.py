"""The garden's installers drawn by scripts, walked in real Chromium.

    .venv/bin/python -m tests.garden.rendered --seeds 60 --first 1
    .venv/bin/python -m tests.garden.rendered --replay 17

Each page of an installer of the garden comes as a piece of JSON that a script draws, in a dress of its own: forms that are none,
buttons and lists of the page's own making, ways that are shut until something is filled in, dialogs, shadow trees. The truth is the
garden's. The last line is JSON, as of tests/garden/walk.py.
"""

from __future__ import annotations

import argparse
import json
import sys
import threading
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import asdict
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from random import Random
from typing import Any
from urllib.parse import parse_qsl

from highshelf.core.origins import Origins
from highshelf.core.pages.page import Page
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import CancelToken
from highshelf.core.walk.browsing import looks_left
from highshelf.core.walk.ending import said_here
from highshelf.core.walk.moves import Follow, Move, Submit, Turn, signature_of
from highshelf.drivers.browser.chromium import Browsers
from highshelf.drivers.browser.driver import BrowserTalk
from highshelf.drivers.http.fetch import HttpFetch
from tests.garden.installer import SITE, Host, Installer
from tests.garden.walk import VALUES, Conversation, Figures, Walk

SHELL = Path(__file__).with_name("shell.js").read_text("utf-8")
DRESSES = ("loose", "divs", "links", "hash", "bound", "own lists", "own boxes", "shut", "slow", "busy", "confirm", "shadow")  # fmt: skip
ROOT_PAGE = "<!doctype html><html><head><title>…</title></head><body><div id=app></div><script data-dress='{dress}' src=/shell.js></script></body></html>"
SHOWN: list[bool] = []


def dress_of(seed: int) -> tuple[str, ...]:
    """How the seed's pages are drawn."""
    random = Random(f"dress {seed}")
    return tuple(d for d in DRESSES if random.random() < 0.35)


@contextmanager
def served(installer: Any, dress: str, *, plain: bool = False) -> Iterator[int]:
    """The installer on loopback, drawn by scripts, or its `plain` pages as they are; its port."""
    lock = threading.Lock()

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self._answer("GET", {})

        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length", 0))).decode()
            self._answer("POST", dict(parse_qsl(body, keep_blank_values=True)))

        def _answer(self, method: str, fields: Mapping[str, str]) -> None:
            if self.path == "/shell.js":
                return self._send(200, "text/javascript", SHELL)
            if self.path == "/favicon.ico":
                return self._send(404, "text/plain", "")
            if SHOWN:
                print(
                    "   ",
                    method,
                    self.path,
                    "piece" if "X-Piece" in self.headers else "whole",
                    dict(fields),
                    file=sys.stderr,
                )
            if "settings" in self.path:
                return self._send(200, "text/plain", installer.request(method, SITE + self.path.lstrip("/")).html)
            if plain:
                with lock:
                    page = installer.request(method, SITE + self.path.lstrip("/"), fields)
                return self._send(page.status, "text/html", page.html)
            if "X-Piece" not in self.headers:
                return self._send(200, "text/html", ROOT_PAGE.format(dress=dress))
            with lock:
                seen = installer.request(method, SITE + self.path.lstrip("/"), fields)
            return self._send(200, "application/json", json.dumps({"html": seen.html, "url": seen.url}))

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


class Shown:
    """The installer as the browser shows it; what it knows of itself is the installer's."""

    def __init__(self, installer: Any, talk: BrowserTalk) -> None:
        self._installer, self.talk = installer, talk

    def __getattr__(self, name: str) -> Any:
        return getattr(self._installer, name)

    def request(self, method: str, url: str, fields: Mapping[str, str] | None = None) -> Snapshot:
        # What is to be placed is fetched without the browser.
        return self._installer.request(method, url, fields) if "settings" in url else self.talk.get(url)  # type: ignore[no-any-return]


class InBrowser(Conversation):
    """As the walk leg goes on once it is in a browser."""

    _looks = 0
    _begun = False

    def begin(self) -> Snapshot:
        found = super().begin()
        self._begun = True
        return found

    def decide(self, page: Page) -> Move:
        move = super().decide(page)
        # A page may go on by itself: it is looked at again before it counts as the end.
        if self._begun and looks_left(page, move, self._looks):
            self._looks += 1
            time.sleep(1.0)
            return Follow("look", "looked again", "look")
        return move

    def make(self, move: Move, page: Page, snapshot: Snapshot) -> Snapshot:
        talk: BrowserTalk = self._installer.talk  # type: ignore[attr-defined]
        if isinstance(move, Follow) and move.signature == "look":
            shown = talk.look()
            if shown.html != snapshot.html:
                self._looks, self._now = 0, self._look()
            return shown
        if isinstance(move, Submit | Follow) and move.at:
            label, form = (move.button, move.form) if isinstance(move, Submit) else (move.label, "")
            self.turns.append(Turn(move.signature, label, page.title, form, bool(getattr(move, "filled", ()))))
            self._stood |= {signature_of(c) for c in said_here(page)}
            self._looks = 0
            shown, _ = talk.press(move.at, move.fields if isinstance(move, Submit) else ())
            self._before, self._now = self._now, self._look()
            return shown
        return super().make(move, page, snapshot)


def walk(browsers: Browsers, seed: int, dress: str | None = None) -> Walk:
    """One seed from its front page to some end."""
    values = dict(VALUES)
    installer, found = Installer(seed, Host(values)), Walk(seed)
    with served(installer, " ".join(dress_of(seed)) if dress is None else dress) as port:
        talk = BrowserTalk(
            browsers,
            f"seed {seed}",
            lambda: HttpFetch(Origins.of(SITE), address=SITE, reach=f"127.0.0.1:{port}"),
            CancelToken(),
        )
        way = InBrowser(Shown(installer, talk), values)  # type: ignore[arg-type]
        try:
            way.go_through(found)
        finally:
            talk.leave()
    installer.look_at_modes(closed=way.vain)
    seen = installer.seen
    found.misplaced, found.outside, found.overwritten = seen.misplaced, seen.outside, seen.overwritten
    if found.how == "stuck" and any(reason in found.why for reason in installer.reasons()):
        found.how = "blocked"
    return found


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=60)
    parser.add_argument("--first", type=int, default=1)
    parser.add_argument("--replay", type=int, help="one seed only, its moves told")
    parser.add_argument("--dress", help="with --replay: another dress than the seed's")
    options = parser.parse_args()
    browsers, figures, begun = Browsers(), Figures(), time.monotonic()
    SHOWN.extend([True] * (options.replay is not None))
    first, seeds = (options.replay, 1) if options.replay is not None else (options.first, options.seeds)
    for seed in range(first, first + seeds):
        one = walk(browsers, seed, options.dress)
        figures.count(one)
        if one.how not in ("finished", "blocked") or one.misplaced or one.outside or one.overwritten or options.replay:
            print(seed, dress_of(seed), one.how, one.why[:200], one.misplaced, one.outside, one.overwritten, flush=True)
        if options.replay is not None:
            print("\n".join(one.moves))
            print(one.pages[-1].html)
    browsers.close()
    print(f"{seeds} seeds in {time.monotonic() - begun:.1f} s", file=sys.stderr)
    print(json.dumps(asdict(figures)))


if __name__ == "__main__":
    main()
