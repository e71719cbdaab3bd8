"""What a server's refusals mean: the one place that reads their wording."""

from __future__ import annotations

import re

from highshelf.core.errors import LineDroppedError, MissingFileError, SpaceError, TooManyError, TransferError

_MISSING = re.compile(r"no such|not found|doesn't exist|not exist|can't (?:check|open|find)", re.I)
_SPACE = re.compile(
    r"disk full|no space|quota|insufficient storage|exceeded storage|(?:failure|error) (?:writing|during write)", re.I
)
_MANY = re.compile(
    r"too many|maximum|max(?:imum)? (?:number|connections|clients)|connection limit|limit (?:is )?reached", re.I
)
_COUNT = re.compile(r"\((\d{1,4})\)|\b(\d{1,3}) (?:connections?|clients?|users?|logins?)|(?:is|of) (\d{1,3})\b")


def text_of(fault: BaseException) -> str:
    return str(fault) or type(fault).__name__


def says_too_many(fault: BaseException) -> bool:
    """421 at the greeting, or a refusal at the login that speaks of a limit: 421 and 530 are both in use."""
    text = str(fault)
    return text.startswith("421") or (text[:1] in "45" and text[:3].isdigit() and bool(_MANY.search(text)))


def too_many(where: str, fault: BaseException) -> TooManyError:
    """The error, with the number of connections the server names, when it does."""
    text = text_of(fault)
    found = _COUNT.search(text[4:])
    count = next((int(g) for g in found.groups() if g), 0) if found else 0
    return TooManyError(
        f"{where} allows no more connections: {text}",
        hint="wait until other connections are closed",
        allowed=count,
        told=text[:200],
    )


def says_no_space(fault: BaseException) -> bool:
    text = str(fault)
    return text[:3] in ("452", "552") or bool(_SPACE.search(text))


def refusal(what: str, path: str, fault: BaseException) -> TransferError:
    """An answer of 4xx or 5xx as one of our errors."""
    # Some tell the reason on a line of its own (RFC 959, 4.2).
    text = " ".join(str(fault).split())
    if says_no_space(fault):
        return SpaceError(
            f"{what} {path}: the disk is full or the account's quota is used up ({text})",
            hint="make room on the account, or ask the host for more",
        )
    if text.startswith("5"):
        if text.startswith("550") and _MISSING.search(text):
            return MissingFileError(f"{what} {path}: there is no such file or folder")
        return TransferError(f"{what} {path}: the server says {text}")
    return LineDroppedError(f"{what} {path}: the server says {text}", said=text[:3])
