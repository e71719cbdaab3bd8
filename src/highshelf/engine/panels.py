"""What an account's panel can do for jobs, and signing in to it, to see whether it can be done."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from highshelf.core.account import Account
from highshelf.core.errors import HighShelfError
from highshelf.core.pages.reader import read
from highshelf.core.ports import Panel
from highshelf.core.primers.models import BY_READING, READ, TASKS, WITH_USER, PanelPrimer, is_read
from highshelf.core.primers.recognise import recognise_panel
from highshelf.core.release.findings import Findings
from highshelf.core.values import name_from
from highshelf.engine.bench import Drivers
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow

Verdict = Literal["works", "refused", "described", "missing"]
# A name that no database has.
NOBODYS = "hs-nobody-has-this"
# What only looks, by its task: how it is called, and what it finds.
LOOKING: dict[str, tuple[str, Callable[[Panel], list[str]]]] = {
    "databases": ("database", lambda panel: panel.databases()),
    "users": ("database user", lambda panel: panel.users()),
    "find-database": (NOBODYS, lambda panel: _standing(panel, "database")),
    "find-user": (NOBODYS, lambda panel: _standing(panel, "user")),
    "sites": ("website", lambda panel: panel.sites()),
    "extensions": ("extension of PHP", lambda panel: list(panel.extensions())),
    "extensions-on": ("extension that is on", lambda panel: [n for n, on in panel.extensions().items() if on]),
}
MAKING = ("create-database", "create-user", "attach", "drop-database", "drop-user", "create-site")
MORE = ("upload", "unpack", "switch-on", "switch-off")


@dataclass(frozen=True)
class Tried:
    """What came of one task: `described` was not tried, since it would change something; `missing` stands in no primer."""

    task: str
    verdict: Verdict
    told: str


def try_panel(drivers: Drivers, account: Account, primer: PanelPrimer, password: str) -> list[Tried]:
    """Sign in as the primer says, and do what only looks. Nothing is made, changed or deleted."""
    panel = drivers.panel(primer, account, password)
    found: list[Tried] = []
    for task, (what, look) in LOOKING.items():
        if task in primer.tasks:
            found.append(_tried(task, what, lambda look=look: look(panel)))  # type: ignore[misc]
            if found[-1].verdict == "refused" and _at_the_door(found[-1]):
                # Behind a door that does not open there is nothing to look at.
                return [Tried("sign-in", "refused", found[-1].told)]
    optional = {*MORE, "create-site", *(WITH_USER if primer.makes_user_too else ())}
    for task in (*MAKING, *MORE):
        if task in primer.tasks:
            found.append(Tried(task, "described", "not tried: it would change something"))
        elif task not in optional:
            found.append(Tried(task, "missing", "a job asks for it, and the primer does not say how"))
    missing = [t for t in TASKS if t not in primer.tasks and t in LOOKING and t not in optional]
    found += [Tried(task, "missing", "a job asks for it, and the primer does not say how") for task in missing]
    return [Tried("sign-in", "works", f"signed in at {account.panel}"), *found]


def _tried(task: str, what: str, look: Callable[[], list[str]]) -> Tried:
    try:
        names = look()
    except HighShelfError as fault:
        return Tried(task, "refused", fault.message)
    if what == NOBODYS:
        told = f"finds {names[0]} under the name {NOBODYS}, which nobody has" if names else ""
        return Tried(task, "refused" if names else "works", told or "finds nothing under a name that nobody has")
    some = f": {', '.join(names[:6])}{', …' if len(names) > 6 else ''}" if names else ""
    return Tried(task, "works", f"{len(names)} {what}{'' if len(names) == 1 else 's'}{some}")


def _standing(panel: Panel, what: Literal["database", "user"]) -> list[str]:
    return [whole] if (whole := panel.standing(NOBODYS, what)) else []


def _at_the_door(tried: Tried) -> bool:
    return "(sign-in)" in tried.told


def panel_password(store: Store, account: str) -> str:
    """The panel's own password, or the transfer's where one credential serves both."""
    return store.secret(f"account/{account}/panel") or store.secret(f"account/{account}/transfer")


def sign_in_to_panel(store: Store, drivers: Drivers, account: Account) -> str:
    """What was seen there, in a sentence; a primer that fits is noted with the account.

    Raises:
        PanelError, FetchError: it cannot be signed in to.
    """
    name = account.panel_primer or _recognise(drivers, account)
    password = panel_password(store, account.name)
    if not name:
        given = bool(store.secret(f"account/{account.name}/panel"))
        return _as_read(drivers, account, password) if given else _could_be_read(account)
    if not account.panel_primer:
        store.change(AccountRow, account.name, panel_primer=name)
    panel = drivers.panel(drivers.panel_primer(name), account, password)
    own = "its own password" if store.secret(f"account/{account.name}/panel") else "the transfer's password"
    if name == READ:
        return f"signed in at {account.panel} with {own}; it is read page by page. {_told_moves(panel.moves())}"
    count = len(panel.databases())
    return f"signed in at {account.panel} with {own} (primer {name}), {count} database{'s' if count != 1 else ''}"


def _could_be_read(account: Account) -> str:
    """The transfer's password goes to no door that nobody described before somebody says so."""
    return (
        f"no primer fits the panel at {account.panel}: jobs will ask for the database. Its pages may be readable; to have them read with "
        f"the transfer's password: `highshelf account change {account.name} --panel-primer {READ}`, and check again"
    )


def _as_read(drivers: Drivers, account: Account, password: str) -> str:
    """What reading would do at a panel that no primer describes: nothing is used before the account says so."""
    try:
        moves = drivers.panel(BY_READING, account, password).moves()
    except HighShelfError as fault:
        return f"no primer fits the panel at {account.panel}: jobs will ask for the database. Reading it came to nothing: {fault.message}"
    return (
        f"no primer fits the panel at {account.panel}: jobs will ask for the database. Its pages can be read, though. {_told_moves(moves)} "
        f"To let jobs do so: `highshelf account change {account.name} --panel-primer {READ}`"
    )


def _told_moves(moves: list[str]) -> str:
    return "For a database a job would " + "; then ".join(moves) + "."


def moves_in_panel(store: Store, drivers: Drivers, account: Account, kind: str) -> tuple[str, ...]:
    """For a plan: each step in a panel that is only read, as it can be seen now; or why not."""
    if kind == "none" or not account.panel or not account.panel_primer or not is_read(account.panel_primer, kind):
        return ()
    try:
        return tuple(drivers.panel(BY_READING, account, panel_password(store, account.name), kind=kind).moves())
    except HighShelfError as fault:
        return (f"reading the panel came to nothing ({fault.message}): the job will ask for the database",)


def unpacking_panel(drivers: Drivers, account: Account) -> str:
    """The panel's title, when jobs can sign in to it and its primer says how it takes and unpacks an archive."""
    if not account.panel or not account.panel_primer:
        return ""
    primer = drivers.panel_primer(account.panel_primer)
    return primer.title if primer.unpacks else ""


def name_like(drivers: Drivers, account: Account, findings: Findings) -> str:
    """A database's name as this account's panel would make it; "" where that is only seen afterwards."""
    primer = drivers.panel_primer(account.panel_primer) if account.panel and account.panel_primer else None
    if primer is None or "{name}" not in primer.database_name.pattern:
        return ""
    customer = account.panel_login or account.transfer.login
    return primer.database_name.pattern.replace("{name}", name_from(findings.name, 8)).replace("{customer}", customer)


def switches_of(store: Store, drivers: Drivers, account: Account, address: str) -> dict[str, Any]:
    """For a plan: whether the panel switches extensions of PHP, how far that reaches, and what else is known to run there."""
    primer = drivers.panel_primer(account.panel_primer) if account.panel and account.panel_primer else None
    if primer is None or not primer.switches:
        return {}
    others = {one.address for one in store.standing(account.name)}
    others |= {site.address for site in store.sites(account.name)}
    shares = tuple(sorted(o for o in others if o != address)) if primer.php_scope == "account" else ()
    return {"switches": True, "php_scope": primer.php_scope, "shares_php": shares}


def told_switches(switches: Mapping[str, Any]) -> str:
    """What a plan says of them, for people."""
    if others := switches["shares_php"]:
        asks = f"which reaches {', '.join(others)} too, and asks before it uses it (--set php.switches=yes or no)"
    else:
        reach = {"account": "whole account", "site": "site", "folder": "folder"}[switches["php_scope"]]
        asks = f"for the {reach}, and uses it (--set php.switches=no or ask)"
    return f"where the installer misses an extension, the job looks for a switch in the panel, {asks}"


def _recognise(drivers: Drivers, account: Account) -> str:
    page = read(drivers.fetch((account.panel,), "").get(account.panel))
    primer = recognise_panel(page, drivers.panel_primers())
    return primer.name if primer is not None else ""
