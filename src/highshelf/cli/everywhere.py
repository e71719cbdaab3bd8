"""Options that every command takes, wherever they stand: whom to ask, and how much to say.

They are taken out of the words before a command sees them; the command line's own help lists them.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

import typer

# Option -> the variable of the environment that says the same.
NAMED = {"--url": "HIGHSHELF_URL", "--token-file": "HIGHSHELF_TOKEN_FILE", "--profile": "HIGHSHELF_PROFILE"}
# What an option given on the command line puts out of force.
INSTEAD = {
    "--profile": ("HIGHSHELF_URL", "HIGHSHELF_TOKEN", "HIGHSHELF_TOKEN_FILE"),
    "--token-file": ("HIGHSHELF_TOKEN",),
}


@dataclass
class Said:
    """How much is said, and in which form."""

    quiet: bool = False
    lines: bool = False


SAID = Said()

Url = Annotated[
    str, typer.Option("--url", help="The service's address; HIGHSHELF_URL, or the profile's, when left out.")
]
TokenFile = Annotated[str, typer.Option("--token-file", help="A file with an operator's token for that service.")]
Profile = Annotated[str, typer.Option("--profile", help="A service by the name that `highshelf profile add` gave it.")]
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help="Say nothing but errors and what --json prints.")]
Lines = Annotated[
    bool, typer.Option("--jsonl", help="As --json, a line each: events as they come, the entries of a list.")
]


def take(words: Sequence[str]) -> list[str]:
    """The words without these options, which are in force now.

    Raises:
        ValueError: one of them has no value; with what to say.
    """
    rest: list[str] = []
    left = list(words)
    while left:
        word = left.pop(0)
        if word == "--":
            return [*rest, word, *left]
        name, is_, value = word.partition("=")
        if name in NAMED:
            if not is_:
                value = left.pop(0) if left else ""
            if not value or value.startswith("-"):
                raise ValueError(f"{name} wants a value")
            for other in INSTEAD.get(name, ()):
                os.environ.pop(other, None)
            os.environ[NAMED[name]] = value
        elif word in ("--quiet", "-q"):
            SAID.quiet = True
        elif word == "--jsonl":
            SAID.lines = True
            rest.append("--json")
        else:
            rest.append(word)
    return rest
