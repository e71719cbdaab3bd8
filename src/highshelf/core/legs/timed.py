"""A fetch that knows how long it waited for answers."""

from __future__ import annotations

import time
from collections.abc import Sequence

from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import Browse, Fetch


class TimedFetch:
    """`seconds`: what was waited for answers since it was made."""

    def __init__(self, fetch: Fetch | Browse) -> None:
        self._fetch = fetch
        self.seconds = 0.0

    def get(self, url: str) -> Snapshot:
        begun = time.monotonic()
        try:
            return self._fetch.get(url)
        finally:
            self.seconds += time.monotonic() - begun

    def post(self, url: str, fields: Sequence[tuple[str, str]], *, multipart: bool = False) -> Snapshot:
        assert not isinstance(self._fetch, Browse), "what a browser shows is pressed, not sent"
        begun = time.monotonic()
        try:
            return self._fetch.post(url, fields, multipart=multipart)
        finally:
            self.seconds += time.monotonic() - begun

    def press(self, at: str, fields: Sequence[tuple[str, str]]) -> tuple[Snapshot, bool]:
        """As `Browse` does it."""
        assert isinstance(self._fetch, Browse), "only what a browser shows can be pressed"
        begun = time.monotonic()
        try:
            return self._fetch.press(at, fields)
        finally:
            self.seconds += time.monotonic() - begun

    def look(self) -> Snapshot:
        """The browser's page as it is now."""
        assert isinstance(self._fetch, Browse)
        return self._fetch.look()

    def cookies(self) -> str:
        return self._fetch.cookies()

    def restore(self, cookies: str) -> None:
        self._fetch.restore(cookies)
