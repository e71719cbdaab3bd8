"""The program: puts `serve` and `practice` beside the client commands.

The service and the practice host are imported by the commands that need them: the others start in half a second.
"""

from __future__ import annotations

import contextlib
import json
import os
import sys
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.asked import leave_out_what_is_not_asked
from highshelf.cli.common import DONE, FAILED, USAGE, Json, facts, fail, out, table
from highshelf.cli.everywhere import SAID, take
from highshelf.cli.examples import add_to as add_examples
from highshelf.cli.jobs import app as job_commands
from highshelf.cli.main import app
from highshelf.cli.words import Words
from highshelf.client.environment import data_folder
from highshelf.core.errors import HighShelfError
from highshelf.practice.layout import DEFAULT_FOLDER, DEFAULT_PORT, Layout

if TYPE_CHECKING:
    from highshelf.core.walk.replay import Again
    from highshelf.practice.host import Status

LOOPBACK = ("127.0.0.1", "::1", "localhost")
practice = typer.Typer(
    cls=Words,
    no_args_is_help=True,
    help="The practice host: a stand-in hosting company on loopback, with made-up customers.",
)
app.add_typer(practice, name="practice")
Folder = Annotated[Path, typer.Option(help="Where the practice host's data lie.")]
Port = Annotated[int, typer.Option(help="The first of its ports.")]


@app.command()
def serve(
    address: Annotated[str, typer.Option("--host", help="The address to listen on.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(help="The port to listen on.")] = 7117,
    data: Annotated[Path | None, typer.Option(help="The data folder; HIGHSHELF_DATA when left out.")] = None,
    open_to_network: Annotated[
        bool, typer.Option(help="Needed to listen on anything but loopback: put TLS in front of it.")
    ] = False,
    public: Annotated[
        str, typer.Option(help="The address by which people reach the console, such as https://shelf.example.")
    ] = "",
    name: Annotated[
        list[str] | None, typer.Option(help="A further name that requests may be addressed to; can be repeated.")
    ] = None,
    proxy: Annotated[
        list[str] | None,
        typer.Option(help="The address of a proxy whose word on who asks is believed; can be repeated."),
    ] = None,
    inside: Annotated[
        list[str] | None,
        typer.Option(
            help="Accounts, panels and releases may lie at this address of our own network "
            "(host, host:port, or a network); can be repeated."
        ),
    ] = None,
    authority: Annotated[
        Path | None,
        typer.Option(
            exists=True,
            dir_okay=False,
            help="Certificates that are trusted for fetched releases besides the machine's.",
        ),
    ] = None,
    patience: Annotated[
        float, typer.Option(min=1, help="Seconds that a job which waits for an answer keeps its account to itself.")
    ] = 60.0,
    pack_all: Annotated[
        bool,
        typer.Option(
            "--pack-all", help="Pack releases in every form, not only in those that a checked account can unpack."
        ),
    ] = False,
) -> None:
    """Run the service until it is stopped."""
    if address not in LOOPBACK and not open_to_network:
        fail(
            "input",
            f"{address} is not loopback: the operator's token would travel in the clear",
            "put a TLS proxy in front, then say --open-to-network",
            exit_code=USAGE,
        )
    # The service's libraries take two seconds to load; client commands do without them.
    from highshelf.service.running import Listening, run
    from highshelf.service.settings import Settings, check_public

    folder = (data or data_folder()).absolute()
    with _faults(as_json=False):
        settings = Settings(
            inside=tuple(inside or ()),
            authority=authority,
            public=check_public(public),
            names=(*(name or ()), *(() if address in ("0.0.0.0", "::") else (address,))),
            proxies=tuple(proxy or ()),
            patience_seconds=patience,
            pack_all=pack_all,
        )
        run(folder, Listening(address, port), settings, lambda text: out.print(text, markup=False))


@practice.command("start")
def practice_start(folder: Folder = DEFAULT_FOLDER, port: Port = DEFAULT_PORT, as_json: Json = False) -> None:
    """Start the servers; what a previous run left is stopped first."""
    from highshelf.practice import host

    say = (lambda _: None) if as_json else (lambda text: out.print(f"  {text}", markup=False))
    with _faults(as_json):
        found = host.start(Layout(folder, port), say)
        _print_status(found, as_json)


@practice.command("stop")
def practice_stop(
    folder: Folder = DEFAULT_FOLDER,
    port: Port = DEFAULT_PORT,
    remove: Annotated[
        bool, typer.Option("--remove", help="Also remove its data and its customers' system users.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Stop the servers."""
    from highshelf.practice import host

    with _faults(as_json):
        count = host.stop(Layout(folder, port), remove=remove)
        if as_json:
            print(json.dumps({"stopped": count, "removed": remove}))
        else:
            out.print(f"{count} servers stopped" + ("; data and users removed" if remove else ""), markup=False)


@practice.command("status")
def practice_status(folder: Folder = DEFAULT_FOLDER, port: Port = DEFAULT_PORT, as_json: Json = False) -> None:
    """Say what runs, and how to reach the customers' accounts."""
    from highshelf.practice import host

    with _faults(as_json):
        found = host.status(Layout(folder, port))
        _print_status(found, as_json)
        raise typer.Exit(0 if found.running else FAILED)


@practice.command("release")
def practice_release(
    target: Annotated[Path, typer.Argument(help="The folder to write it to.")] = Path(), as_json: Json = False
) -> None:
    """Build the demo applications' release archives."""
    from highshelf.practice.vendor.releases import BUILDERS

    paths = [str(build(target)) for build in BUILDERS]
    print(json.dumps({"archives": paths})) if as_json else out.print("\n".join(paths), markup=False)


def _print_status(found: Status, as_json: bool) -> None:
    if as_json:
        print(
            json.dumps(
                {
                    "running": found.running,
                    "folder": str(found.folder),
                    "servers": found.servers,
                    "panel": found.panel,
                    "counter": found.counter,
                    "makers": found.makers,
                    "customers": found.customers,
                },
                indent=2,
            )
        )
        return
    if not found.running:
        out.print("the practice host does not run: `highshelf practice start`", markup=False)
        return
    facts(
        [
            ("servers", ", ".join(f"{n} {p}" for n, p in found.servers.items())),
            ("panel", found.panel),
            ("counter", f"{found.counter} (another panel of the same customers, which is called and answers in JSON)"),
            ("makers", f"{found.makers} (releases to fetch)"),
            ("to use it", f"highshelf serve --inside 127.0.0.1 --authority {found.folder}/makers-authority.pem"),
            ("data", found.folder),
        ]
    )
    rows = [[c["key"], c["title"], c["transfer"], c["root"], c["address"], c["letter"]] for c in found.customers]
    table(["customer", "title", "transfer", "root", "address", "welcome letter"], rows, "")


@contextlib.contextmanager
def _faults(as_json: bool) -> Iterator[None]:
    try:
        yield
    except HighShelfError as fault:
        fail(fault.code, fault.message, fault.hint, as_json)


@job_commands.command("replay")
def replay(
    saved: Annotated[
        Path,
        typer.Argument(
            metavar="ZIP", exists=True, dir_okay=False, help="What `highshelf job pages JOB --zip ZIP` wrote."
        ),
    ],
    as_json: Json = False,
) -> None:
    """Decide a saved conversation once more, page by page. No service and no network is asked, and nothing is done.

    What is read otherwise than it was then is told; exit code 1 when anything is.
    """
    from highshelf.core.walk.replay import from_zip

    try:
        found = from_zip(saved.read_bytes())
    except ValueError as fault:
        fail(
            "input",
            f"{saved} is no saved conversation: {fault}",
            "`highshelf job pages JOB --zip FILE` writes one",
            as_json,
            USAGE,
        )
    if as_json:
        print(
            json.dumps({"items": [{**asdict(one), "differs": one.differs} for one in found]}, indent=2, sort_keys=True)
        )
    else:
        rows = [[str(one.number), one.title, _otherwise(one)] for one in found]
        table(["", "page", "decided on again"], rows, "None of its pages was decided on.")
    raise typer.Exit(FAILED if any(one.differs for one in found) else DONE)


def _otherwise(one: Again) -> str:
    if not one.differs:
        return f"as then: {one.now['did']}"
    return "; ".join(f"{name} is {one.now[name]!r} now, was {one.then[name]!r}" for name in one.differs)


def main() -> None:
    try:
        words = take(sys.argv[1:])
    except ValueError as fault:
        with contextlib.suppress(typer.Exit):
            fail("input", str(fault), "`highshelf --help` lists the options that every command takes")
        sys.exit(USAGE)
    out.quiet = SAID.quiet
    if not any(name.endswith("_COMPLETE") for name in os.environ):
        leave_out_what_is_not_asked(app, words)
        add_examples(app)
    app(args=words)


if __name__ == "__main__":
    main()
