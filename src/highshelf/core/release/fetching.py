"""Bringing a release from where its makers publish it: which addresses, whose checksum, what goes along. Pure.

Rules:
1. Only https; a redirect never leaves it.
2. No address inside our own network, unless the service was told that it may (core/inside.py).
3. What signs in is sent to the origin that it was given for, and to no other one that a redirect leads to.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from urllib.parse import unquote, urlsplit

from highshelf.core.errors import ArchiveError, InputError

MAX_HEADERS = 12
# What a download sets itself, or what would change whom it speaks to.
OUR_OWN = {
    "host",
    "range",
    "if-range",
    "content-length",
    "transfer-encoding",
    "connection",
    "accept-encoding",
    "user-agent",
}
DIGESTS = {128: "sha512", 96: "sha384", 64: "sha256", 40: "sha1", 32: "md5"}
HEX = re.compile(r"(?<![0-9a-fA-F])([0-9a-fA-F]{32,128})(?![0-9a-fA-F])")


def check_source(address: str) -> str:
    """The address of a download, as it is asked for.

    Raises:
        InputError: it is none, not https, or has a login in it.
    """
    address = address.strip()
    try:
        parts = urlsplit(address)
        port_fits = parts.port is None or parts.port > 0
    except ValueError:
        raise InputError(
            f"{address[:200]} is no address", hint="such as https://downloads.example/berth-2.4.zip"
        ) from None
    if parts.scheme == "http":
        raise InputError(
            "this address is not https: what comes from it could be anybody's",
            hint="give its https address; or bring the file yourself and check it in",
        )
    if parts.scheme != "https" or not parts.hostname or not port_fits:
        raise InputError(f"{address[:200]} is no https address", hint="such as https://downloads.example/berth-2.4.zip")
    if parts.username or parts.password:
        raise InputError("a login does not belong into the address", hint="send it as a header: Authorization")
    return parts._replace(fragment="").geturl()


def check_headers(headers: Mapping[str, str]) -> dict[str, str]:
    """Headers that sign in (RFC 9110, 5.1 and 5.5 for what they may look like).

    Raises:
        InputError: names or values that no header has, or that a download sets itself.
    """
    faults = []
    for name, value in headers.items():
        if not re.fullmatch(r"[!#$%&'*+.^_`|~0-9A-Za-z-]{1,80}", name):
            faults.append(f"{name[:80]!r} is no name of a header")
        elif name.lower() in OUR_OWN:
            faults.append(f"{name} is set by the download itself")
        elif not re.fullmatch(r"[\x20-\x7e\x80-\uffff\t]{1,8000}", value):
            faults.append(f"the value of {name} is empty, too long, or more than one line")
    if len(headers) > MAX_HEADERS:
        faults.append(f"more than {MAX_HEADERS} headers")
    if faults:
        raise InputError("; ".join(faults), hint="a line each, such as `Cookie: pass=…` or `Authorization: Bearer …`")
    return dict(headers)


def file_name_of(address: str, disposition: str = "") -> str:
    """What to call a download: what its server says (RFC 6266), else the last part of its address."""
    said = re.search(r"filename\*\s*=\s*[\w-]*'[\w-]*'([^;]+)", disposition, re.I)
    name = unquote(said[1]) if said else ""
    if not name and (plain := re.search(r'filename\s*=\s*("([^"]*)"|[^;\s]+)', disposition, re.I)):
        name = plain[2] if plain[2] is not None else plain[1]
    name = name or unquote(urlsplit(address).path.rpartition("/")[2])
    # Nothing that a terminal or a page would obey: controls, and marks that turn the reading order round.
    name = "".join(c if c.isprintable() and c not in "/\\" else "_" for c in name).strip(". ")
    return name[:200] or "download"


def find_checksum(text: str, file_name: str) -> tuple[str, str]:
    """(kind, hex) of a file out of a checksum file or page: `hex  name`, `hex *name`, `SHA256 (name) = hex`, or a lone hex.

    Raises:
        InputError: there is none for this file, or more than one that could be meant.
    """
    lines = [(line, found[0].lower()) for line in text.splitlines() if len(found := _digests(line)) == 1]
    named = [(line, digest) for line, digest in lines if _names(line, file_name)]
    strongest = max((len(d) for _, d in named or lines), default=0)
    digests = {d for _, d in (named or lines) if len(d) == strongest}
    if len(digests) == 1 and (named or len(lines) == 1 or len({d for _, d in lines}) == 1):
        digest = digests.pop()
        return DIGESTS[len(digest)], digest
    if not lines:
        raise InputError("there is no checksum in what stands beside the download", hint="give the checksum itself")
    raise InputError(
        f"the checksum file has none for {file_name}"
        if not named
        else f"the checksum file has several for {file_name}",
        hint="give the checksum itself",
    )


def _digests(line: str) -> list[str]:
    return [m for m in HEX.findall(line) if len(m) in DIGESTS]


def _names(line: str, file_name: str) -> bool:
    rest = HEX.sub(" ", line)
    return bool(re.search(rf"(^|[\s*(/=\"'>]){re.escape(file_name)}($|[\s)\"',;<:])", rest))


def checksum_kind(digest: str) -> str:
    """The kind of a checksum that was given. Raises InputError."""
    digest = digest.strip().lower()
    if not re.fullmatch(r"[0-9a-f]+", digest) or len(digest) not in DIGESTS:
        raise InputError(
            "this is no checksum",
            hint="64 (SHA-256) or 128 (SHA-512) digits and letters a to f, as the makers publish it",
        )
    return DIGESTS[len(digest)]


def compare_checksum(kind: str, wanted: str, found: str, whence: str) -> str:
    """What is told of a checksum that fits.

    Raises:
        ArchiveError: it is another one.
    """
    if wanted.lower() != found.lower():
        raise ArchiveError(
            f"what came over is not what its makers published: {kind} {found[:16]}… and not {wanted[:16].lower()}… ({whence})",
            hint="fetch it again; when it stays so, ask its makers before you use it",
        )
    weak = "; it protects against accidents, not against forgery" if kind in ("md5", "sha1") else ""
    return f"{kind} as in {whence}{weak}"


@dataclass(frozen=True)
class Answer:
    """What matters of a response: status, length, range, tag, and what it calls the file."""

    status: int
    length: int | None
    range: str
    tag: str
    kind: str


def judge_answer(answer: Answer, have_bytes: int) -> tuple[int, int | None]:
    """(where what comes now begins, how long the whole is or None).

    Raises:
        ArchiveError: the server refuses, or answers with a web page instead of a file.
    """
    if answer.status == 206:
        found = re.match(r"bytes (\d{1,18})-(\d{1,18})/(\d{1,18}|\*)", answer.range)
        if not found or int(found[1]) != have_bytes:
            return 0, None
        return have_bytes, None if found[3] == "*" else int(found[3])
    if answer.status == 416:
        # Nothing is left to send: the part that is there is the whole, or of another file.
        total = re.match(r"bytes \*/(\d{1,18})", answer.range)
        return (have_bytes, have_bytes) if total and int(total[1]) == have_bytes else (0, None)
    if answer.status in (401, 403, 407):
        raise ArchiveError(
            f"the download is behind a sign-in (status {answer.status})",
            hint="sign in with a browser and give the cookie or header that it sends (`--sign-in FILE`)",
        )
    if answer.status == 404 or answer.status == 410:
        raise ArchiveError(
            f"there is no such file (status {answer.status})", hint="look at the makers' page for its address"
        )
    if answer.status != 200:
        raise ArchiveError(f"the server answered with status {answer.status}", hint="try again later")
    return 0, answer.length
