"""One conversation in the browser: a context with one page, operated as a person does.

Rules:
1. What is shown is a Snapshot of what a person sees (page.js); its numbers hold until the next one is taken.
2. A page has settled once nothing is being fetched and nothing changes; long silent steps are waited for.
3. Dialogs belong to the page: what they say is shown with it. One that asks whether to destroy something is told no.
4. Windows that pages open are closed, and what they want to save is shown as text; sockets, workers and foreign places are refused.
"""

from __future__ import annotations

import asyncio
import contextlib
import html
import json
import time
from collections import Counter
from collections.abc import Coroutine, Iterator, Sequence
from importlib import resources
from typing import Any

from highshelf.core.errors import BrowserError, FetchError
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.snapshot import Snapshot
from highshelf.drivers.browser.doorway import Doorway, PassOn
from highshelf.drivers.http.fetch import AGENT

SEEN_JS = resources.files(__package__).joinpath("page.js").read_text(encoding="utf-8")
SETTLED_JS = resources.files(__package__).joinpath("settled.js").read_text(encoding="utf-8")
OPENED_JS = resources.files(__package__).joinpath("opened.js").read_text(encoding="utf-8")
SCROLLED_JS = resources.files(__package__).joinpath("scrolled.js").read_text(encoding="utf-8")
PAINT_JS = resources.files(__package__).joinpath("paint.js").read_text(encoding="utf-8")
# Seconds: how long nothing may change; how long a page may load, and how long a step may be silent.
QUIET, MOST_OPENING, MOST_SILENT = 0.4, 45.0, 240.0
# A page that never stops changing (a clock, a spinner drawn in letters) is taken as it is after so long without a request.
MOST_RESTLESS = 6.0
# A script's own clock after a press, before anything is seen of it.
MOST_SLOW = 2.5
ANSWER, DIALOG_SECONDS = 20.0, 5.0
# How long a page that has asked something may take to be left.
MOST_LEAVING = 25.0
CLICK_MILLISECONDS = 5_000
MOST_DIALOGS, MOST_WINDOWS, MOST_SAVED_BYTES = 20, 10, 1 << 20
MOST_PICTURE_PIXELS = 6_000


class Conversation:
    """Use from the browser's own event loop only."""

    def __init__(self, context: Any, doorway: Doorway) -> None:
        self._context, self._doorway = context, doorway
        self._page: Any = None
        self._seen: Any = None
        self._controls: list[dict[str, Any]] = []
        self._pending: dict[Any, float] = {}
        self._dialogs: list[tuple[str, str]] = []
        self._saved: list[tuple[str, str]] = []
        self._windows = self._asked_by_dialog = 0
        self._asked_ever = False
        self._status = 200
        self._tasks: set[asyncio.Future[None]] = set()
        self.alive = True

    @classmethod
    async def begin(cls, browser: Any, line: PassOn) -> Conversation:
        doorway = Doorway(line)
        address = await doorway.open()
        context = await browser.new_context(
            proxy={"server": address, "username": doorway.name, "password": doorway.word, "bypass": "<-loopback>"},
            ignore_https_errors=True,
            user_agent=AGENT,
            viewport={"width": 1280, "height": 800},
            service_workers="block",
            accept_downloads=True,
            permissions=[],
        )
        made = cls(context, doorway)
        context.set_default_timeout(CLICK_MILLISECONDS)
        context.on("request", made._asked)
        context.on("requestfinished", made._answered)
        context.on("requestfailed", made._answered)
        made._page = await context.new_page()
        made._watch(made._page)
        context.on("page", made._window)
        return made

    async def close(self) -> None:
        self.alive = False
        with contextlib.suppress(Exception):
            await asyncio.wait_for(self._context.close(), 10)
        self._doorway.close()

    async def open(self, url: str) -> Snapshot:
        """Go to an address. Raises FetchError, BrowserError."""
        self._dialogs, self._saved, self._status = [], [], 200
        from playwright.async_api import Error

        self._pending.clear()
        try:
            await self._go(url)
        except Error as fault:
            # Whatever keeps this page from being left, the next try begins with one of its own.
            await self.close()
            raise FetchError(
                f"the browser cannot open {url.split('?')[0]}: {self._refusal() or _first_line(fault)}",
                hint="does the address answer?",
            ) from None
        await self._settle(MOST_OPENING)
        return await self.look()

    async def _go(self, url: str) -> None:
        """Begin to load an address; a conversation that is given up on meanwhile is not waited for."""
        going = asyncio.ensure_future(self._page.goto(url, wait_until="commit", timeout=MOST_SILENT * 1000))
        begun = time.monotonic()
        while not going.done():
            await asyncio.wait({going}, timeout=0.25)
            # A page whose dialog cannot be answered any more is never left.
            if not self.alive or (self._asked_ever and time.monotonic() - begun > MOST_LEAVING):
                going.cancel()
                await self.close()
                raise BrowserError("the page opens dialogs without end", hint="look at the page by hand")
        await going

    async def look(self) -> Snapshot:
        """What is seen now. Raises BrowserError."""
        await self._prepare()
        data = await self._told()
        self._controls, self._asked_by_dialog = data["controls"], 0
        shown = "".join(f"<h3>{html.escape(n)}</h3><pre>{html.escape(t)}</pre>" for n, t in self._saved)
        page = data["html"].replace("</body>", shown + "</body>") if shown else data["html"]
        return Snapshot(data["url"], self._status, page, {"content-type": "text/html; charset=utf-8"})

    async def press(self, at: str, fields: Sequence[tuple[str, str]]) -> tuple[Snapshot, bool]:
        """Fill the form that a control is of and press it; whether it was pressed comes with what is seen then.

        It is not pressed where filling made new fields appear, or where it stays switched off.
        """
        one = next((c for c in self._controls if str(c["at"]) == at), None)
        form = one["form"] if one else at
        own = [c for c in self._controls if c["form"] == form]
        self._dialogs, self._saved = [], []
        await self._fill(own, list(fields))
        # What looks at a field once it is left does so before anything is pressed.
        await self._evaluate(
            "() => { const at = document.activeElement; if (at && at !== document.body) at.blur(); }", None
        )
        await self._settle(MOST_OPENING, quiet=0.15)
        now = await self._numbered_anew()
        shut = one is not None and not await self._is_ready(one)
        if shut or _more(now, own, form, buttons=one is None):
            return await self.look(), False
        before = await self._evaluate(SETTLED_JS, None)
        if one is None:
            await self._enter(own)
        else:
            await self._click(await self._element(one["at"]))
        await self._settle(MOST_SILENT)
        await self._stirred(before)
        return await self.look(), True

    async def _stirred(self, before: str) -> None:
        """Where pressing changed nothing, a script may only be waiting for its own clock."""
        begun = time.monotonic()
        while time.monotonic() - begun < MOST_SLOW and not self._pending:
            with contextlib.suppress(Exception):
                if await asyncio.wait_for(self._page.evaluate(SETTLED_JS), ANSWER) != before:
                    break
            await asyncio.sleep(0.2)
        else:
            if not self._pending:
                return
        await self._settle(MOST_SILENT)

    async def _numbered_anew(self) -> list[dict[str, Any]]:
        """The page's controls of this moment; those known before get their new numbers, -1 where they are gone."""
        now: list[dict[str, Any]] = (await self._told())["controls"]
        numbers = {key: c["at"] for key, c in _keyed(now)}
        for key, control in _keyed(self._controls):
            control["at"] = numbers.get(key, -1)
        return now

    async def picture(self, secrets: Sequence[str]) -> bytes:
        """The whole page as PNG, with every secret painted over."""
        told = await self._evaluate(PAINT_JS, None)
        # The page itself is told no secret: what it shows is compared here.
        shows = [one for one in told if one["always"] or any(s and s in one["text"] for s in secrets)]
        await self._evaluate(PAINT_JS, [box for one in shows for box in one["boxes"] if box[2] and box[3]])
        try:
            height = await self._evaluate("() => document.documentElement.scrollHeight", None)
            clip = {"x": 0, "y": 0, "width": 1280, "height": max(200, min(int(height), MOST_PICTURE_PIXELS))}
            made: bytes = await self._page.screenshot(full_page=True, clip=clip, timeout=ANSWER * 1000)
            return made
        finally:
            await self._evaluate("() => document.querySelectorAll('[data-hs-paint]').forEach((n) => n.remove())", None)

    async def cookies(self) -> str:
        """As `Fetch.cookies` gives them."""
        jar = await self._context.cookies()
        return json.dumps([[c["name"], c["value"], c["domain"], c["path"], c["secure"]] for c in jar])

    async def restore(self, cookies: str) -> None:
        for name, value, domain, path, secure in json.loads(cookies or "[]"):
            # Cookies of a site without a dot in its name are kept under `.local` by the other driver.
            one = {
                "name": name,
                "value": value,
                "domain": domain.removesuffix(".local"),
                "path": path,
                "secure": secure,
            }
            with contextlib.suppress(Exception):
                await self._context.add_cookies([one])

    async def _prepare(self) -> None:
        """As a person does before they decide: read long texts to their end, look what lists offer."""
        with contextlib.suppress(Exception):
            if await asyncio.wait_for(self._page.evaluate(SCROLLED_JS), ANSWER):
                await self._settle(MOST_OPENING, quiet=0.15)
            found = await asyncio.wait_for(self._page.evaluate_handle(OPENED_JS, {}), ANSWER)
            for number in range(int(await found.evaluate("all => all.length"))):
                element = (await found.evaluate_handle("(all, n) => all[n]", number)).as_element()
                if element is not None:
                    await self._open_list(element)

    async def _open_list(self, element: Any) -> None:
        with contextlib.suppress(Exception):
            await element.click(timeout=CLICK_MILLISECONDS, no_wait_after=True)
            await asyncio.sleep(0.25)
            many = await self._page.evaluate(OPENED_JS, {"after": True, "element": element})
            await self._page.keyboard.press("Escape")
            if many and await self._page.evaluate(OPENED_JS, {"after": True}):
                await element.click(timeout=CLICK_MILLISECONDS, no_wait_after=True)

    async def _told(self) -> dict[str, Any]:
        for attempt in range(3):
            try:
                handle = await asyncio.wait_for(self._page.evaluate_handle(SEEN_JS, self._dialogs), ANSWER)
                self._seen = handle
                found: dict[str, Any] = await asyncio.wait_for(handle.evaluate("h => h.told"), ANSWER)
                return found
            except TimeoutError:
                await self.close()
                raise BrowserError("the page keeps the browser busy", hint="look at the page by hand") from None
            except Exception as fault:
                # The page went away under our eyes: what comes in its place is read.
                if attempt == 2 or not self.alive:
                    raise BrowserError(f"the page cannot be read: {_first_line(fault)}") from None
                await self._settle(MOST_OPENING)
        raise AssertionError("unreachable")

    async def _element(self, at: int) -> Any:
        handle = await asyncio.wait_for(self._seen.evaluate_handle("(h, at) => h.elements[at] || null", at), ANSWER)
        return handle.as_element()

    async def _living(self, control: dict[str, Any]) -> Any:
        """A control's element; some pages draw their forms anew at each key."""
        element = await self._element(control["at"])
        if element is None or not await element.evaluate("e => e.isConnected"):
            await self._numbered_anew()
            element = await self._element(control["at"])
        return element

    async def _fill(self, controls: list[dict[str, Any]], fields: list[tuple[str, str]]) -> None:
        last: Any = None
        for control in controls:
            kind, name, value = control["kind"], control["name"], control["value"]
            if kind in ("button", "link"):
                continue
            element = await self._living(control)
            if element is None:
                continue
            if kind in ("checkbox", "tick", "radio", "pick"):
                wanted = (name, value) in fields
                if wanted:
                    fields.remove((name, value))
                if wanted != control["checked"] and (wanted or kind in ("checkbox", "tick")):
                    await self._tick(element, kind, wanted)
                    last = element
                continue
            given = [v for n, v in fields if n == name]
            if not given:
                continue
            fields.remove((name, given[0]))
            if kind == "select":
                more = given if len(control["chosen"]) > 1 else given[:1]
                if more != control["chosen"]:
                    await self._choose(element, more, control["hidden"])
            elif kind == "choice":
                if given[0] != value:
                    await self._choose_own(element, given[0], control["choices"])
            elif given[0] != value:
                await self._type(element, given[0])
            last = element
        if last is not None:
            with contextlib.suppress(Exception):
                await last.evaluate("e => e.blur()")

    async def _type(self, element: Any, text: str) -> None:
        try:
            await element.fill(text)
            # Pages that look at each key look at the last one.
            await element.dispatch_event("keyup")
            await element.evaluate("e => e.dispatchEvent(new Event('change', { bubbles: true }))")
        except Exception:
            await element.evaluate(
                "(e, v) => { e.value = v; for (const n of ['input', 'change']) e.dispatchEvent(new Event(n, { bubbles: true })); }",
                text,
            )

    async def _tick(self, element: Any, kind: str, wanted: bool) -> None:
        if kind in ("tick", "pick"):
            await self._click(element)
            return
        try:
            await element.set_checked(wanted)
        except Exception:
            # Its label is what people press.
            await element.evaluate("(e, w) => { if (e.checked !== w) (e.labels && e.labels[0] || e).click(); }", wanted)
            await element.evaluate("(e, w) => { if (e.checked !== w) e.click(); }", wanted)

    async def _choose(self, element: Any, values: list[str], hidden: bool) -> None:
        if not hidden:
            with contextlib.suppress(Exception):
                await element.select_option(value=values)
                return
        await element.evaluate(
            "(e, vs) => { for (const o of e.options) o.selected = vs.includes(o.value);"
            " for (const n of ['input', 'change']) e.dispatchEvent(new Event(n, { bubbles: true })); }",
            values,
        )

    async def _choose_own(self, element: Any, value: str, choices: list[dict[str, str]]) -> None:
        """A list of the page's own making: opened, and its choice pressed; else told as its value."""
        label = next((c["label"] for c in choices if c["value"] == value), value)
        await self._click(element)
        await asyncio.sleep(0.2)
        found = await self._page.evaluate_handle(
            "(label) => [...document.querySelectorAll('[role=option], [role=listbox] > *, li')].find((n) => n.getClientRects().length"
            " && (n.textContent || '').replace(/\\s+/g, ' ').trim() === label)",
            label,
        )
        row = found.as_element()
        if row is not None:
            await self._click(row)
            return
        await element.evaluate(
            "(e, v) => { e.value = v; for (const n of ['input', 'change']) e.dispatchEvent(new Event(n, { bubbles: true })); }",
            value,
        )

    async def _is_ready(self, control: dict[str, Any]) -> bool:
        """Whether a button can be pressed; pages that look at what was filled in take a moment."""
        for _ in range(10):
            element = await self._living(control)
            if element is not None and not await element.evaluate(
                "e => e.matches(':disabled') || e.getAttribute('aria-disabled') === 'true'"
            ):
                return True
            await asyncio.sleep(0.15)
        return False

    async def _click(self, element: Any) -> None:
        await element.evaluate("e => { const a = e.closest('a, form'); if (a && a.target) a.target = '_self'; }")
        try:
            await element.click(timeout=CLICK_MILLISECONDS, no_wait_after=True)
        except Exception:
            # Something lies over it; what a person would reach with the keyboard is reached all the same.
            with contextlib.suppress(Exception):
                await asyncio.wait_for(element.evaluate("e => { e.click(); }"), ANSWER)

    async def _enter(self, own: Sequence[dict[str, Any]]) -> None:
        for control in reversed([c for c in own if c["kind"] == "text" and c["at"] >= 0]):
            element = await self._element(control["at"])
            with contextlib.suppress(Exception):
                await element.press("Enter", no_wait_after=True)
            return

    async def _evaluate(self, script: str, given: Any) -> Any:
        try:
            return await asyncio.wait_for(self._page.evaluate(script, given), ANSWER)
        except TimeoutError:
            await self.close()
            raise BrowserError("the page keeps the browser busy", hint="look at the page by hand") from None

    async def _settle(self, most_seconds: float, quiet: float = QUIET) -> None:
        """Wait until nothing is fetched and nothing changes any more."""
        begun = changed = time.monotonic()
        before = ""
        while True:
            await asyncio.sleep(0.1)
            now = time.monotonic()
            try:
                state = await asyncio.wait_for(self._page.evaluate(SETTLED_JS), ANSWER)
            except TimeoutError:
                await self.close()
                raise BrowserError("the page keeps the browser busy", hint="look at the page by hand") from None
            except Exception:
                # Between two pages there is nothing to look at.
                state = ""
                if not self.alive or self._page.is_closed():
                    raise BrowserError("the page has closed itself", hint="look at the page by hand") from None
            if state != before or not state or state.startswith("loading"):
                before, changed = state, now
            busy = [at for at in self._pending.values() if now - at < most_seconds]
            still = now - changed >= quiet
            if (still and not busy) or now - begun > most_seconds:
                return
            if not busy and state and now - begun > MOST_RESTLESS and not state.startswith("loading"):
                return

    def _asked(self, request: Any) -> None:
        try:
            if request.frame.page is not self._page:
                return
        except Exception:
            # A window that is opened and closed again has no frame that could be asked.
            return
        if request.resource_type not in ("websocket", "eventsource", "media", "ping"):
            self._pending[request] = time.monotonic()

    def _answered(self, request: Any) -> None:
        self._pending.pop(request, None)

    def _watch(self, page: Any) -> None:
        page.on("dialog", lambda d: self._later(self._dialog(d)))
        page.on("download", lambda d: self._later(self._save(d)))
        page.on("response", self._saw)
        page.on("crash", lambda _: self._later(self.close()))

    def _later(self, work: Coroutine[Any, Any, None]) -> None:
        task = asyncio.ensure_future(work)
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    def _saw(self, response: Any) -> None:
        with contextlib.suppress(Exception):
            if response.request.is_navigation_request() and response.frame == self._page.main_frame:
                self._status = response.status

    async def _dialog(self, dialog: Any) -> None:
        said = dialog.message[:2000]
        self._asked_ever = True
        self._asked_by_dialog += 1
        if self._asked_by_dialog > MOST_DIALOGS:
            # Whoever asks so often between two looks goes on for ever.
            await self.close()
            return
        if dialog.type != "beforeunload":
            self._dialogs = [*self._dialogs, (dialog.type, said)]
        destroys = dialog.type == "confirm" and lexicon().says("destroying", said)
        answer = dialog.dismiss() if dialog.type == "prompt" or destroys else dialog.accept()
        try:
            await asyncio.wait_for(answer, DIALOG_SECONDS)
        except TimeoutError:
            # One that cannot be answered keeps the page shut.
            await self.close()
        except Exception:
            return

    def _window(self, page: Any) -> None:
        self._windows += 1
        self._later(page.close())
        if self._windows > MOST_WINDOWS:
            self._later(self.close())

    async def _save(self, download: Any) -> None:
        with contextlib.suppress(Exception):
            path = await asyncio.wait_for(download.path(), ANSWER)
            with open(path, "rb") as file:  # noqa: PTH123
                content = file.read(MOST_SAVED_BYTES + 1)
            if len(content) <= MOST_SAVED_BYTES:
                self._saved = [*self._saved, (download.suggested_filename, content.decode("utf-8", "replace"))][-3:]
            await download.delete()

    def _refusal(self) -> str:
        return self._doorway.refused[-1].partition(": ")[2] if self._doorway.refused else ""


def _typed(control: dict[str, Any]) -> bool:
    return control["kind"] not in ("button", "link") and not control.get("hidden")


def _more(now: Sequence[dict[str, Any]], before: Sequence[dict[str, Any]], form: str, *, buttons: bool) -> bool:
    """Whether filling has made fields of this form appear that were not there before; or buttons, where there were none."""
    known = {c["name"] for c in before if _typed(c)}
    new = any(c["form"] == form and _typed(c) and c["name"] not in known for c in now)
    return new or (buttons and any(c["form"] == form and c["kind"] == "button" for c in now))


def _keyed(controls: Sequence[dict[str, Any]]) -> Iterator[tuple[tuple[Any, ...], dict[str, Any]]]:
    """Controls by what stays the same when a page is drawn anew: what they are, and the how manieth of its kind."""
    seen: Counter[tuple[Any, ...]] = Counter()
    for control in controls:
        says = control["value"] if control["kind"] in ("button", "link", "radio", "pick") else ""
        key = (control["form"], control["kind"], control["name"], says)
        seen[key] += 1
        yield (*key, seen[key]), control


def _first_line(fault: BaseException) -> str:
    return (str(fault).splitlines() or [type(fault).__name__])[0][:200]
