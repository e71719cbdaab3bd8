"""`highshelf profile …`: services elsewhere, by a name. Nothing of it asks a service."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer

from highshelf.cli.common import USAGE, Json, fail, out, table
from highshelf.client.profiles import Profile, ProfileError, drop, keep, profiles, use, used

app = typer.Typer(no_args_is_help=True, help="Profiles: services on other machines, by a name.")
Name = Annotated[str, typer.Argument(help="The profile's name.")]


@contextmanager
def _faults(as_json: bool = False) -> Iterator[None]:
    try:
        yield
    except ProfileError as fault:
        fail("no-profile", str(fault), "`highshelf profile list` shows them", as_json, USAGE)


@app.command("add")
def add(
    name: Name,
    url: Annotated[
        str, typer.Argument(metavar="ADDRESS", help="The service's address, such as https://shelf.example.")
    ],
    token: Annotated[Path, typer.Argument(metavar="TOKEN-FILE", help="A file with an operator's token for it.")],
    now: Annotated[bool, typer.Option("--use", help="Use it from now on.")] = False,
) -> None:
    """Write down where a service is, and which file holds the token for it. The token itself is not copied."""
    with _faults():
        if not token.is_file():
            fail(
                "input",
                f"there is no file {token}",
                "put an operator's token into it, for yourself alone (mode 600)",
                exit_code=USAGE,
            )
        keep(Profile(name, url.rstrip("/"), str(token.expanduser().resolve())))
        if now:
            use(name)
        out.print(
            f"{name} is {url}" + (", and is used from now on" if now else f"; `highshelf --profile {name} …` asks it"),
            markup=False,
        )


@app.command("list")
def listing(as_json: Json = False) -> None:
    """List the profiles, and which one is used."""
    with _faults(as_json):
        known, now = profiles(), used()
        if as_json:
            print(json.dumps([{**vars(one), "used": one.name == now} for one in known.values()], indent=2))
            return
        rows = [[one.name, one.url, one.token_file, "used" if one.name == now else ""] for one in known.values()]
        table(
            ["name", "address", "token", ""],
            rows,
            "No profiles: the service on this machine is asked. `highshelf profile add` makes one.",
        )


@app.command("use")
def use_one(
    name: Annotated[str, typer.Argument(help="The profile's name; none for the service on this machine.")],
) -> None:
    """Use a profile from now on, wherever nothing else is said."""
    with _faults():
        use("" if name == "none" else name)
        out.print(
            "the service on this machine is asked" if name == "none" else f"{name} is asked from now on", markup=False
        )


@app.command("remove")
def remove(name: Name) -> None:
    """Let a profile go. The file with its token stays."""
    with _faults():
        drop(name)
        out.print(f"{name} is gone; its token's file stays", markup=False)
