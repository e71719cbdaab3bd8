"""Routes of the makers' site: an open shelf, one behind a registration, checksums, signatures, and lines that are slow or break.

/                      what there is
/files/NAME            open; ranges, a mark of the contents, SHA256SUMS and NAME.asc beside it
/members/NAME          with the cookie that the registration gives, or `Authorization: Bearer` with the token it shows
/slow/NAME?kilobytes=  so many kilobytes a second
/broken/NAME?after=    the line breaks after so many bytes, each time anew; ranges go on
/stubborn/NAME?after=  the same without ranges
/away/WHERE            a redirect to the address that follows
"""

from __future__ import annotations

import asyncio
import hashlib
import re
import secrets
from collections.abc import AsyncIterator
from email.utils import formatdate
from html import escape
from pathlib import Path
from typing import Annotated

from fastapi import FastAPI, Form, Request
from fastapi.responses import HTMLResponse, PlainTextResponse, RedirectResponse, Response, StreamingResponse

COOKIE = "crow_pass"
BLOCK = 64 << 10


def create_vendor(folder: Path) -> FastAPI:
    """The site of the releases in a folder: archives, `.asc` signatures beside them, and the public key `key.asc`."""
    site = FastAPI(openapi_url=None, docs_url=None, redoc_url=None)
    passes: set[str] = set()

    def names() -> list[str]:
        return sorted(p.name for p in folder.iterdir() if p.suffix != ".asc")

    @site.get("/")
    def front() -> Response:
        rows = "".join(f'<li><a href="/files/{escape(n)}">{escape(n)}</a></li>' for n in names())
        more = '<p><a href="/files/SHA256SUMS">SHA256SUMS</a>, <a href="/files/key.asc">our key</a>, <a href="/register">for members</a></p>'
        return _page("Chandler's Row Software", f"<ul>{rows}</ul>{more}")

    @site.get("/files/SHA256SUMS")
    def sums() -> Response:
        lines = [f"{hashlib.sha256((folder / n).read_bytes()).hexdigest()}  {n}\n" for n in names()]
        return PlainTextResponse("".join(lines))

    @site.get("/files/{name}")
    def open_file(name: str, request: Request) -> Response:
        return _file(folder, name, request)

    @site.get("/register")
    def form() -> Response:
        return _page(
            "For members",
            '<form method="post"><p><label>Name <input name="who"></label></p><p><label>E-mail <input name="mail"></label></p>'
            '<p><label><input type="checkbox" name="agree" value="yes"> I agree</label></p><p><button>Register</button></p></form>',
        )

    @site.post("/register")
    def register(
        who: Annotated[str, Form()] = "", mail: Annotated[str, Form()] = "", agree: Annotated[str, Form()] = ""
    ) -> Response:
        if not who.strip() or "@" not in mail or agree != "yes":
            return _page("For members", "<p>Name, e-mail address and agreement, please.</p>", 422)
        key = secrets.token_urlsafe(18)
        passes.add(key)
        answer = _page("Welcome aboard", f"<p>Your token: <code>{key}</code></p>")
        answer.set_cookie(COOKIE, key, secure=True, httponly=True)
        return answer

    @site.get("/members/{name}")
    def members(name: str, request: Request) -> Response:
        bearer = request.headers.get("authorization", "").removeprefix("Bearer ")
        if not {request.cookies.get(COOKIE, ""), bearer} & passes:
            # Browsers are led to the form; what came for the file gets a page instead.
            return RedirectResponse("/register", 302)
        return _file(folder, name, request)

    @site.get("/slow/{name}")
    def slow(name: str, request: Request, kilobytes: int = 64) -> Response:
        return _file(folder, name, request, pace=kilobytes << 10)

    @site.get("/broken/{name}")
    def broken(name: str, request: Request, after: int = 100_000) -> Response:
        return _file(folder, name, request, breaks_after=after)

    @site.get("/stubborn/{name}")
    def stubborn(name: str, request: Request, after: int = 100_000) -> Response:
        return _file(folder, name, request, breaks_after=after, ranges=False)

    @site.get("/away/{where:path}")
    def away(where: str) -> Response:
        return RedirectResponse(where, 302)

    return site


def _page(title: str, body: str, status: int = 200) -> HTMLResponse:
    return HTMLResponse(f"<!doctype html><title>{escape(title)}</title><h1>{escape(title)}</h1>{body}", status)


def _file(
    folder: Path, name: str, request: Request, *, pace: int = 0, breaks_after: int = 0, ranges: bool = True
) -> Response:
    path = folder / Path(name).name
    if not path.is_file():
        return _page("Not here", "<p>There is no such file.</p>", 404)
    size, tag = path.stat().st_size, f'"{path.stat().st_mtime_ns:x}-{path.stat().st_size:x}"'
    headers = {"ETag": tag, "Last-Modified": formatdate(path.stat().st_mtime, usegmt=True)}
    headers["Content-Disposition"] = f'attachment; filename="{path.name}"'
    begin, status = 0, 200
    wanted = re.fullmatch(r"bytes=(\d+)-", request.headers.get("range", ""))
    if ranges:
        headers["Accept-Ranges"] = "bytes"
        if wanted and request.headers.get("if-range", tag) in (tag, headers["Last-Modified"]):
            begin, status = int(wanted[1]), 206
            if begin >= size:
                return Response(status_code=416, headers={"Content-Range": f"bytes */{size}"})
            headers["Content-Range"] = f"bytes {begin}-{size - 1}/{size}"
    headers["Content-Length"] = str(size - begin)
    blocks = _blocks(path, begin, pace, breaks_after)
    return StreamingResponse(blocks, status, headers, "application/octet-stream")


async def _blocks(path: Path, begin: int, pace: int, breaks_after: int) -> AsyncIterator[bytes]:
    sent = 0
    with path.open("rb") as file:
        file.seek(begin)
        while block := file.read(min(BLOCK, max(pace // 10, 1)) if pace else BLOCK):
            if breaks_after and sent + len(block) > breaks_after:
                yield block[: breaks_after - sent]
                # Fewer bytes than were promised: the server drops the line.
                raise ConnectionResetError("the line breaks here, as it was made to")
            sent += len(block)
            yield block
            if pace:
                await asyncio.sleep(0.1)
