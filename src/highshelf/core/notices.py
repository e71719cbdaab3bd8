"""Notices: what is told to people who do not look, where it goes, how it is sealed, and when it is tried again. Pure.

Rules:
1. A notice says what happened and where to look; it never holds a secret, nor what a page or a file holds.
2. It is written down before it is sent, and is tried again until it is taken, for about a day.
3. Whoever receives it by a call can tell that it is ours: its body and time are sealed with a key that only both know.
"""

from __future__ import annotations

import hashlib
import hmac
from collections.abc import Mapping
from dataclasses import dataclass, field
from email.message import EmailMessage
from email.utils import format_datetime, make_msgid
from typing import Any, Literal

# question: a job waits for an answer; failed, done: how a job ended; wrong: a look at an installation saw something wrong.
What = Literal["question", "failed", "done", "wrong"]
WHATS: tuple[What, ...] = ("question", "failed", "done", "wrong")
USUAL: tuple[What, ...] = ("question", "failed", "wrong")
# Seconds after each try: at once, and then ever more rarely, for about a day.
PAUSES = (30, 120, 600, 3600, 3 * 3600, 6 * 3600, 12 * 3600)
TIME, SEAL = "High-Shelf-Time", "High-Shelf-Seal"
MOST_TEXT = 500


@dataclass(frozen=True)
class Notice:
    """One notice.

    Attributes:
        title: one line.
        text: what happened, for people.
        facts: the same for programs.
    """

    what: What
    title: str
    text: str
    facts: dict[str, Any] = field(default_factory=dict)


def of_question(job: Mapping[str, str], question: str, options: tuple[str, ...], see: str) -> Notice:
    """A job waits.

    Args:
        job: id, kind, account, application, address.
        see: where the console shows it, or "".
    """
    choices = f"\nIt can be: {', '.join(options)}" if options else ""
    text = f"{question[:MOST_TEXT]}{choices}\n\nAnswer it with `highshelf job answer {job['id']}`" + _or_at(see)
    return Notice(
        "question", f"{_about(job)}: a question", text, {"question": question[:MOST_TEXT], "options": [*options]}
    )


def of_end(job: Mapping[str, str], error: Mapping[str, Any] | None, see: str) -> Notice:
    """A job has ended."""
    if error is None:
        text = f"It is done. `highshelf job show {job['id']}` tells how it went" + _or_at(see)
        return Notice("done", f"{_about(job)}: done", text)
    told = {n: str(error.get(n, ""))[:MOST_TEXT] for n in ("code", "message", "hint", "leg")}
    text = f"It failed in {told['leg']}: {told['message']}" + (f"\n{told['hint']}" if told["hint"] else "")
    text += f"\n\n`highshelf job show {job['id']}` tells the rest" + _or_at(see)
    return Notice("failed", f"{_about(job)}: failed", text, {"error": told})


def of_wrong(job: Mapping[str, str], wrong: Mapping[str, str], see: str) -> Notice:
    """A look at an installation saw something wrong.

    Args:
        wrong: what was looked at -> what is wrong with it.
    """
    lines = "\n".join(f"- {name}: {told[:MOST_TEXT]}" for name, told in wrong.items())
    text = f"Since it was proven this has changed for the worse:\n{lines}" + _seen_at(see)
    return Notice(
        "wrong", f"{job['application']} at {job['address']}: {len(wrong)} wrong", text, {"wrong": dict(wrong)}
    )


def of_trial(see: str) -> Notice:
    """To see whether notices arrive."""
    return Notice(
        "done", "a trial", "Nothing happened: somebody wanted to see whether notices arrive here." + _seen_at(see)
    )


def _about(job: Mapping[str, str]) -> str:
    return f"{job['application']} on {job['account']}" + ("" if job["kind"] == "install" else f" ({job['kind']})")


def _or_at(see: str) -> str:
    return f", or at {see}" if see else ""


def _seen_at(see: str) -> str:
    return f"\n\n{see}" if see else ""


def body_of(notice: Notice, number: str, at: str, job: Mapping[str, str] | None, see: str) -> dict[str, Any]:
    """What goes out by a call. `number` is the same at each try: whoever has it already leaves it."""
    return {
        "notice": number,
        "what": notice.what,
        "at": at,
        "title": notice.title,
        "text": notice.text,
        "job": dict(job) if job else None,
        "see": see,
        **notice.facts,
    }


def seal(key: str, time: str, body: bytes) -> str:
    """HMAC-SHA-256 (RFC 2104) over the time, a line's end and the body, in hexadecimal digits."""
    return hmac.new(key.encode(), time.encode() + b"\n" + body, hashlib.sha256).hexdigest()


def headers_of(key: str, time: str, body: bytes) -> dict[str, str]:
    """`time`: seconds since 1970, as told in the header: a receiver may refuse what is old."""
    return {TIME: time, SEAL: seal(key, time, body)}


def letter_of(notice: Notice, number: str, at: Any, sender: str, to: str) -> EmailMessage:
    """What goes out by mail (RFC 5322). `at`: a datetime with its zone."""
    letter = EmailMessage()
    letter["From"], letter["To"] = sender, to
    letter["Subject"] = f"High Shelf: {' '.join(notice.title.split())}"
    letter["Date"] = format_datetime(at)
    # The same at each try: a mail server or a reader that has it already shows it once.
    letter["Message-ID"] = make_msgid(idstring=number, domain=sender.rpartition("@")[2] or "localhost")
    letter["Auto-Submitted"] = "auto-generated"
    letter.set_content(notice.text + "\n")
    return letter


def pause_after(tries: int) -> int | None:
    """Seconds until the next try, after so many; None when it is given up."""
    return PAUSES[tries - 1] if 0 < tries <= len(PAUSES) else None
