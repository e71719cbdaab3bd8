"""The port `Browse` over one conversation of the browser."""

from __future__ import annotations

from collections.abc import Callable, Coroutine, Sequence
from typing import Any, TypeVar

from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import CancelToken
from highshelf.drivers.browser.chromium import Browsers
from highshelf.drivers.browser.conversation import Conversation
from highshelf.drivers.browser.doorway import PassOn

T = TypeVar("T")


class BrowserTalk:
    """One job's conversation; it outlives this object, until `leave` or a long silence.

    Args:
        key: the job.
        line: makes what carries its requests.
    """

    def __init__(self, browsers: Browsers, key: str, line: Callable[[], PassOn], cancel: CancelToken) -> None:
        self._browsers, self._key, self._line, self._cancel = browsers, key, line, cancel
        self._cookies = ""

    @property
    def missing(self) -> str:
        """Why no browser can be had, or ""."""
        return self._browsers.missing()

    @property
    def live(self) -> bool:
        """Whether its page is still as it was left."""
        return self._browsers.has(self._key)

    def get(self, url: str) -> Snapshot:
        """Open an address. Raises FetchError, BrowserError."""
        return self._run(lambda talk: talk.open(url))

    def look(self) -> Snapshot:
        """The page as it is now. Raises BrowserError."""
        return self._run(lambda talk: talk.look())

    def press(self, at: str, fields: Sequence[tuple[str, str]]) -> tuple[Snapshot, bool]:
        """Fill the form of a control and press it; False when filling it in changed what is asked, or left the control shut.

        Raises:
            BrowserError.
        """
        return self._run(lambda talk: talk.press(at, fields))

    def picture(self, secrets: Sequence[str]) -> bytes:
        """PNG of the whole page without secrets. Raises BrowserError."""
        return self._run(lambda talk: talk.picture(secrets))

    def cookies(self) -> str:
        return self._run(lambda talk: talk.cookies())

    def restore(self, cookies: str) -> None:
        """What a conversation begins with; one that goes on has its own."""
        self._cookies = cookies

    def leave(self) -> None:
        self._browsers.leave(self._key)

    def _run(self, work: Callable[[Conversation], Coroutine[Any, Any, T]]) -> T:
        cookies = "" if self.live else self._cookies

        async def whole(talk: Conversation) -> T:
            if cookies:
                await talk.restore(cookies)
            return await work(talk)

        return self._browsers.run(self._key, self._line, whole, self._cancel)
