"""The browser itself: one for this process, started when it is first wanted, in an event loop of its own.

Rules:
1. It runs as nobody when the service runs as root, with a home and a profile of its own that go when it ends.
2. It resolves no names and knows no network but the doorways of its conversations.
3. A conversation that nobody has touched for a while is closed; so is the browser once none is left.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
import shutil
import tempfile
import threading
import time
from collections.abc import Callable, Coroutine
from concurrent.futures import Future
from pathlib import Path
from typing import Any, TypeVar

import structlog

from highshelf.core.errors import BrowserError, HighShelfError
from highshelf.core.ports import CancelToken
from highshelf.drivers.browser.conversation import Conversation
from highshelf.drivers.browser.doorway import PassOn

log = structlog.get_logger()
T = TypeVar("T")
IDLE_SECONDS, LOOK_SECONDS = 600.0, 20.0
START_SECONDS = 60.0
PRINT_SECONDS = START_SECONDS + 30.0
MOST_CONVERSATIONS = 4
NOBODY = 65534
PREFIX = "highshelf-browser-"
BY_HAND = "look at the page by hand"
# Whole minutes of silence belong to installers; nothing was ever seen that took longer.
MOST_SECONDS = 300.0
FLAGS = (
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-quic",
    "--disable-extensions",
    "--no-pings",
    "--host-resolver-rules=MAP * ~NOTFOUND , EXCLUDE 127.0.0.1",
    "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
    "--renderer-process-limit=2",
    "--js-flags=--max-old-space-size=256",
)


class Browsers:
    """Conversations by their keys. Safe for threads; every call waits for its end.

    Args:
        program: the browser.
    """

    def __init__(self, program: Path = Path("/usr/bin/chromium")) -> None:
        self._program = program
        self._lock = threading.Lock()
        self._loop: asyncio.AbstractEventLoop | None = None
        self._talks: dict[str, Conversation] = {}
        self._touched: dict[str, float] = {}
        self._playwright: Any = None
        self._browser: Any = None
        self._turn: asyncio.Lock | None = None
        self._folder: Path | None = None
        self._watching: Future[None] | None = None

    def missing(self) -> str:
        """What keeps pages from being opened in a browser here, for people; "" when nothing does."""
        if not self._program.is_file():
            return f"Chromium is not installed on the machine of High Shelf ({self._program})"
        try:
            import playwright.async_api  # noqa: F401
        except ImportError:
            return "the Python package playwright is not installed beside High Shelf"
        return ""

    def has(self, key: str) -> bool:
        """Whether a conversation goes on under this key, with its page as it was left."""
        talk = self._talks.get(key)
        return talk is not None and talk.alive

    def run(
        self,
        key: str,
        line: Callable[[], PassOn],
        work: Callable[[Conversation], Coroutine[Any, Any, T]],
        cancel: CancelToken,
    ) -> T:
        """Do something in a conversation, which begins when there is none.

        Raises:
            BrowserError: no browser, or the page keeps it from answering. FetchError. CancelledError, PausedError.
        """
        if why := self.missing():
            raise BrowserError(why, hint="install it (apt-get install chromium), or walk through the pages by hand")
        future = asyncio.run_coroutine_threadsafe(self._work(key, line, work), self._running())
        deadline = time.monotonic() + MOST_SECONDS
        while True:
            try:
                return future.result(0.25)
            except TimeoutError:
                if future.done():
                    raise
                if cancel.cancelled or time.monotonic() > deadline:
                    future.cancel()
                    self.leave(key)
                    cancel.check()
                    raise BrowserError(
                        f"the page kept the browser busy for {MOST_SECONDS:.0f} s", hint="look at the page by hand"
                    ) from None

    def printed(self, html: str) -> bytes:
        """A page of ours as PDF, on the paper that its own style names. Nothing is fetched for it and no script runs.

        Raises:
            BrowserError: no browser here, or it did not print.
        """
        if why := self.missing():
            raise BrowserError(
                why, hint="install it (apt-get install chromium), or take the sheet as HTML and print that"
            )
        printing = asyncio.run_coroutine_threadsafe(self._print(html), self._running())
        try:
            return printing.result(PRINT_SECONDS)
        except HighShelfError:
            raise
        except Exception as fault:
            printing.cancel()
            told = (str(fault).splitlines() or [type(fault).__name__])[0][:200]
            raise BrowserError(
                f"the browser did not print it: {told}", hint="take the sheet as HTML and print that"
            ) from fault

    def leave(self, key: str) -> None:
        """End a conversation; no harm where there is none."""
        if self._loop is not None and key in self._talks:
            asyncio.run_coroutine_threadsafe(self._end(key), self._loop)

    def close(self) -> None:
        """End all, and the browser; at the end of the process."""
        with self._lock:
            loop, self._loop = self._loop, None
        if loop is None:
            return
        if self._watching is not None:
            self._watching.cancel()
        with contextlib.suppress(Exception):
            asyncio.run_coroutine_threadsafe(self._end_all(), loop).result(10)
        loop.call_soon_threadsafe(loop.stop)

    def _running(self) -> asyncio.AbstractEventLoop:
        with self._lock:
            if self._loop is None:
                self._loop = asyncio.new_event_loop()
                threading.Thread(target=self._loop.run_forever, name="browser", daemon=True).start()
                self._watching = asyncio.run_coroutine_threadsafe(self._watch(), self._loop)
            return self._loop

    async def _work(
        self, key: str, line: Callable[[], PassOn], work: Callable[[Conversation], Coroutine[Any, Any, T]]
    ) -> T:
        talk = await self._talk(key, line)
        self._touched[key] = time.monotonic()
        try:
            return await work(talk)
        except HighShelfError:
            raise
        except Exception as fault:
            # Whatever the browser's own library raises stays in this room: a page that went away, an element that moved.
            told = (str(fault).splitlines() or [type(fault).__name__])[0][:200]
            raise BrowserError(f"the page changed while it was being used: {told}", hint=BY_HAND) from fault
        finally:
            self._touched[key] = time.monotonic()

    async def _talk(self, key: str, line: Callable[[], PassOn]) -> Conversation:
        talk = self._talks.get(key)
        if talk is not None and talk.alive:
            return talk
        await self._end(key)
        # Whoever starts or ends the browser does it alone.
        self._turn = self._turn or asyncio.Lock()
        async with self._turn:
            while len(self._talks) >= MOST_CONVERSATIONS:
                await self._end(min(self._talks, key=lambda k: self._touched.get(k, 0.0)))
            await self._start()
            talk = await Conversation.begin(self._browser, line())
            self._talks[key] = talk
        return talk

    async def _print(self, html: str) -> bytes:
        self._turn = self._turn or asyncio.Lock()
        async with self._turn:
            await self._start()
            context = await self._browser.new_context(java_script_enabled=False, offline=True)
            try:
                page = await context.new_page()
                await page.set_content(html, wait_until="load")
                return bytes(await page.pdf(prefer_css_page_size=True, print_background=True, tagged=True))
            finally:
                await context.close()

    async def _start(self) -> None:
        if self._browser is not None and self._browser.is_connected():
            return
        await self._stop()
        from playwright.async_api import Error, async_playwright

        self._playwright = await async_playwright().start()
        await asyncio.to_thread(_sweep)
        self._folder = Path(tempfile.mkdtemp(prefix=f"{PREFIX}{os.getpid()}-"))
        for confined in (True, False):
            try:
                self._browser = await self._launch(confined=confined)
                return
            except Error as fault:
                # Machines that let nobody make a namespace cannot have its sandbox: it is nobody's process all the same.
                log.warning("browser", told=str(fault).splitlines()[0][:300], confined=confined)
        await self._stop()
        raise BrowserError("Chromium cannot be started on the machine of High Shelf", hint="its log says why")

    async def _launch(self, *, confined: bool) -> Any:
        assert self._folder is not None
        env = {n: v for n, v in os.environ.items() if n in ("PATH", "LANG", "LC_ALL", "TZ")}
        return await self._playwright.chromium.launch(
            executable_path=str(_as_nobody(self._program, self._folder)),
            chromium_sandbox=confined,
            args=list(FLAGS),
            timeout=START_SECONDS * 1000,
            env={**env, "HOME": str(self._folder / "home")},
        )

    async def _end(self, key: str) -> None:
        talk = self._talks.pop(key, None)
        self._touched.pop(key, None)
        if talk is not None:
            await talk.close()

    async def _end_all(self) -> None:
        for key in list(self._talks):
            await self._end(key)
        await self._stop()

    async def _stop(self) -> None:
        for what in (self._browser, self._playwright):
            if what is not None:
                with contextlib.suppress(Exception):
                    await asyncio.wait_for(what.close() if what is self._browser else what.stop(), 10)
        self._browser = self._playwright = None
        if self._folder is not None:
            await asyncio.to_thread(shutil.rmtree, self._folder, ignore_errors=True)
            self._folder = None

    async def _watch(self) -> None:
        while True:
            await asyncio.sleep(LOOK_SECONDS)
            for key, at in list(self._touched.items()):
                if time.monotonic() - at > IDLE_SECONDS:
                    await self._end(key)
            if self._turn is not None:
                async with self._turn:
                    if not self._talks:
                        await self._stop()


def _sweep() -> None:
    """Take away what processes left that were ended without warning."""
    for folder in Path(tempfile.gettempdir()).glob(f"{PREFIX}*-*"):
        pid = folder.name.removeprefix(PREFIX).partition("-")[0]
        if pid.isdigit() and not Path(f"/proc/{pid}").exists() and folder.stat().st_uid == os.geteuid():
            shutil.rmtree(folder, ignore_errors=True)


def _as_nobody(program: Path, folder: Path) -> Path:
    """The browser's program, or one that starts it as nobody where this process is root."""
    home = folder / "home"
    home.mkdir(exist_ok=True)
    folder.chmod(0o755)
    if os.geteuid() != 0:
        return program
    os.chown(home, NOBODY, NOBODY)
    home.chmod(0o700)
    starter = folder / "start"
    # What comes last counts: the profile is not where root's would be.
    starter.write_text(
        f"#!/bin/sh\nexec setpriv --reuid={NOBODY} --regid={NOBODY} --clear-groups --no-new-privs"
        f' {program} "$@" --user-data-dir={home}/profile\n'
    )
    starter.chmod(0o755)
    return starter
