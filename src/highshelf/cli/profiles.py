"""`highshelf profile …`: services elsewhere, by a name. Nothing of it asks a service."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer

from highshelf.cli.common import USAGE, Json, fail, out, table
from highshelf.cli.everywhere import SAID
from highshelf.cli.words import Words
from highshelf.client.profiles import Profile, ProfileError, drop, keep, profiles, use, used

app = typer.Typer(cls=Words, no_args_is_help=True, help="Profiles: services on other machines, by a name.")
Name = Annotated[str, typer.Argument(help="The profile's name.")]


@contextmanager
def _faults(as_json: bool = False) -> Iterator[None]:
    try:
        yield
    except ProfileError as fault:
        fail("no-profile", str(fault), "`highshelf profile list` shows them", as_json, USAGE)


def _tell(as_json: bool, facts: dict[str, object], people: str) -> None:
    if as_json:
        print(json.dumps(facts, indent=None if SAID.lines else 2))
    else:
        out.print(people, markup=False)


@app.command("add")
def add(
    name: Name,
    url: Annotated[
        str, typer.Argument(metavar="ADDRESS", help="The service's address, such as https://shelf.example.")
    ],
    token: Annotated[Path, typer.Argument(metavar="TOKEN-FILE", help="A file with an operator's token for it.")],
    now: Annotated[bool, typer.Option("--use", help="Use it from now on.")] = False,
    as_json: Json = False,
) -> None:
    """Write down where a service is, and which file holds the token for it. The token itself is not copied."""
    with _faults(as_json):
        if not token.is_file():
            hint = "put an operator's token into it, for yourself alone (mode 600)"
            fail("input", f"there is no file {token}", hint, as_json, USAGE)
        made = Profile(name, url.rstrip("/"), str(token.expanduser().resolve()))
        keep(made)
        if now:
            use(name)
        how = ", and is used from now on" if now else f"; `highshelf --profile {name} …` asks it"
        _tell(as_json, {**vars(made), "used": used() == name}, f"{name} is {made.url}{how}")


@app.command("list")
def listing(as_json: Json = False) -> None:
    """List the profiles, and which one is used."""
    with _faults(as_json):
        known, now = profiles(), used()
        if as_json:
            print(json.dumps({"items": [{**vars(one), "used": one.name == now} for one in known.values()]}, indent=2))
            return
        rows = [[one.name, one.url, one.token_file, "used" if one.name == now else ""] for one in known.values()]
        empty = "No profiles: the service on this machine is asked. `highshelf profile add` makes one."
        table(["name", "address", "token", ""], rows, empty)


@app.command("use")
def use_one(
    name: Annotated[str, typer.Argument(help="The profile's name; none for the service on this machine.")],
    as_json: Json = False,
) -> None:
    """Use a profile from now on, wherever nothing else is said."""
    with _faults(as_json):
        use("" if name == "none" else name)
        told = "the service on this machine is asked" if name == "none" else f"{name} is asked from now on"
        _tell(as_json, {"used": used()}, told)


@app.command("remove")
def remove(name: Name, as_json: Json = False) -> None:
    """Let a profile go. The file with its token stays."""
    with _faults(as_json):
        drop(name)
        _tell(as_json, {"removed": name}, f"{name} is gone; its token's file stays")
