"""`highshelf site …`: document roots of an account and the addresses that show them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.common import Json, client, out, show, table
from highshelf.cli.words import Words

if TYPE_CHECKING:
    from highshelf.schemas.surveys import SiteOut

app = typer.Typer(
    cls=Words, no_args_is_help=True, help="Sites of an account: document roots and the addresses that show them."
)


@app.command("list")
def listing(account: str, as_json: Json = False) -> None:
    """List the sites of an account, its own first."""
    with client(as_json) as service:
        found = service.site_list(account)
        show(
            found,
            as_json,
            lambda: table(["address", "root", "reached at", "proven", ""], [_row(s) for s in found.items], ""),
        )


def _row(site: SiteOut) -> list[str]:
    proven = f"{site.proven_at:%Y-%m-%d %H:%M}" if site.proven_at else "not yet"
    return [site.address, site.root or "not known yet", site.reach, proven, "the account's own" if site.own else ""]


@app.command("add")
def add(
    account: str,
    address: Annotated[str, typer.Argument(help="The site's address, such as https://shop.saltmarsh.example/.")],
    root: Annotated[str, typer.Option(help="Its document root; looked for when left out.")] = "",
    reach: Annotated[str, typer.Option(help="host:port to connect to while the name leads elsewhere.")] = "",
    make: Annotated[
        bool, typer.Option("--make", help="Make it in the panel first: a subdomain with its folder.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Prove a further site and keep it. A file is put there for a moment and fetched through the address."""
    with client(as_json) as service:
        from highshelf.schemas.surveys import SiteNew

        made = service.site_add(account, SiteNew(address=address, root=root, reach=reach, make=make))
        show(made, as_json, lambda: out.print(f"{made.address} shows {made.root}", markup=False))


@app.command("remove")
def remove(account: str, address: str, as_json: Json = False) -> None:
    """Forget a further site; nothing on the host is touched."""
    with client(as_json) as service:
        service.site_remove(account, address)
        if not as_json:
            out.print(f"{address} is forgotten", markup=False)
