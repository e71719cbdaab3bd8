"""A fetch that knows how long it waited for answers."""

from __future__ import annotations

import time
from collections.abc import Sequence

from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import Fetch


class TimedFetch:
    """`seconds`: what was waited for answers since it was made."""

    def __init__(self, fetch: Fetch) -> None:
        self._fetch = fetch
        self.seconds = 0.0

    def get(self, url: str) -> Snapshot:
        begun = time.monotonic()
        try:
            return self._fetch.get(url)
        finally:
            self.seconds += time.monotonic() - begun

    def post(self, url: str, fields: Sequence[tuple[str, str]], *, multipart: bool = False) -> Snapshot:
        begun = time.monotonic()
        try:
            return self._fetch.post(url, fields, multipart=multipart)
        finally:
            self.seconds += time.monotonic() - begun

    def cookies(self) -> str:
        return self._fetch.cookies()

    def restore(self, cookies: str) -> None:
        self._fetch.restore(cookies)
