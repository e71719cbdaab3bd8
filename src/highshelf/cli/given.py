"""Values given to a command: as they are, out of a file, from standard input, or typed without being shown; a secret never in clear."""

from __future__ import annotations

import re
import sys
from collections.abc import Sequence
from pathlib import Path

import typer

from highshelf.cli.common import USAGE, fail

SECRET = re.compile(r"(?i)passw|pwd|secret|token|(?:^|[._-])key$")
WAYS = "write {name}=@FILE, {name}=- to read it from standard input, or --set {name} alone to be asked for it"


def settings_of(pairs: Sequence[str], as_json: bool) -> dict[str, str]:
    """`name=value` by name. Ends the command where a value is missing, cannot be read, or is a secret in clear."""
    found: dict[str, str] = {}
    piped = [p for p in pairs if p.partition("=")[2] == "-"]
    if len(piped) > 1:
        fail("input", "only one value can come from standard input", "put the others into files", as_json, USAGE)
    for pair in pairs:
        name, equals, value = pair.partition("=")
        found[name] = _value(name, value, as_json) if equals else _asked(name, as_json)
    return found


def answer_of(text: str | None, secret: bool, as_json: bool) -> str:
    """An answer to a question: as it is, `@FILE`, `-`; a secret one is never taken in clear, and asked for when it is left out."""
    if text is None and sys.stdin.isatty():
        typed: str = typer.prompt("answer", hide_input=secret, confirmation_prompt=secret, err=True)
        return typed
    if text is None:
        hint = "write it behind the job, or @FILE, or - to read it from standard input"
        fail("input", "there is no answer", hint, as_json, USAGE)
    if text == "-":
        return sys.stdin.read().removesuffix("\n").removesuffix("\r")
    if text.startswith("@"):
        return _read("the answer", Path(text[1:]).expanduser(), as_json)
    if secret:
        told = "this answer is a secret: on a command line others can read it, and the shell remembers it"
        fail(
            "input",
            told,
            "leave it out to be asked for it, or write @FILE, or - to read it from standard input",
            as_json,
            USAGE,
        )
    return text


def _value(name: str, value: str, as_json: bool) -> str:
    if value == "-":
        return sys.stdin.read().removesuffix("\n").removesuffix("\r")
    if value.startswith("@"):
        return _read(name, Path(value[1:]).expanduser(), as_json)
    if SECRET.search(name) and value not in ("", "?"):
        told = f"{name} is a secret: on a command line others can read it, and the shell remembers it"
        fail("input", told, WAYS.format(name=name), as_json, USAGE)
    return value


def _read(name: str, path: Path, as_json: bool) -> str:
    try:
        return path.read_text().removesuffix("\n").removesuffix("\r")
    except (OSError, UnicodeDecodeError) as fault:
        reason = fault.strerror if isinstance(fault, OSError) else "it is no text"
        fail(
            "input",
            f"{name}: {path} cannot be read: {reason}",
            "name a file with nothing but the value",
            as_json,
            USAGE,
        )


def _asked(name: str, as_json: bool) -> str:
    if SECRET.search(name) and sys.stdin.isatty():
        typed: str = typer.prompt(name, hide_input=True, confirmation_prompt=True, err=True)
        return typed
    hint = WAYS.format(name=name) if SECRET.search(name) else "write --set name=value, or name=@FILE"
    fail("input", f"--set {name} has no value", hint, as_json, USAGE)
