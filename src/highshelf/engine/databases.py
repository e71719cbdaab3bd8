"""Plans of jobs about one database of an account, and the list of those there are. Nothing is changed here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal

from highshelf.core.account import Account
from highshelf.core.errors import ConflictError, HighShelfError, InputError, TargetError
from highshelf.core.places import place_at
from highshelf.core.placing.ways import Way
from highshelf.core.plan import Plan, PlannedAct
from highshelf.core.sizes import counted, size_text
from highshelf.core.survey.probes import can_hold_beside
from highshelf.engine.bench import Drivers, account_of
from highshelf.engine.books import find_database, kind_of_installation, of_installation
from highshelf.engine.connections import Connections
from highshelf.engine.panels import panel_password
from highshelf.engine.planner import find_tools
from highshelf.engine.showing import beside_of
from highshelf.store.store import Store, new_id
from highshelf.store.tables import AccountRow, DatabaseRow, DumpRow, InstallationRow, PlanRow

Server = Literal["mariadb", "postgresql"]
OVER_SHELL = Way("shell-php", "", "PHP over the account's shell")
BY_HELPER = Way("helper", "", "PHP on the host, through the helper")
# What stands for a job's folder: two jobs about one database are never under way together.
FOLDER = "database "


@dataclass(frozen=True)
class Listed:
    """One database of an account.

    Attributes:
        number: in the books, "" when no login is known for it or it is an installation's.
        installation: whose it is, "".
        made_here: whether High Shelf made it by itself, and may drop it.
        there: whether the panel lists it; None when nobody could ask.
        facts: as DatabaseRow has them.
    """

    name: str
    kind: str = ""
    user: str = ""
    host: str = ""
    port: str = ""
    number: str = ""
    installation: str = ""
    application: str = ""
    made_here: bool = False
    there: bool | None = None
    facts: Mapping[str, Any] | None = None


@dataclass(frozen=True)
class Listing:
    """What there is; `unasked` says why the panel's own list is not in it, "" when it is."""

    databases: Sequence[Listed]
    unasked: str


class Databases:
    """Every call that looks opens a connection and closes it."""

    def __init__(self, store: Store, drivers: Drivers, connections: Connections) -> None:
        self._store, self._drivers, self._connections = store, drivers, connections

    def listing(self, account_name: str, *, ask: bool = True) -> Listing:
        """Those that are known, and those that the panel lists.

        Args:
            ask: whether the panel is asked.

        Raises:
            NotFoundError: there is no such account.
        """
        account = account_of(self._store.get(AccountRow, account_name, "account"))
        found: dict[str, Listed] = {}
        for row in self._store.databases(account_name):
            shared = {n: getattr(row, n) for n in ("name", "kind", "user", "host", "port", "facts")}
            found[row.name] = Listed(number=row.id, made_here=bool(row.made_by), **shared)
        for one in self._store.standing(account_name):
            if one.database and one.database not in found:
                values = of_installation(self._store, one)
                name, kind, user, host, port = (values[n] for n in ("name", "kind", "user", "host", "port"))
                found[one.database] = Listed(
                    name,
                    kind,
                    user,
                    host,
                    port,
                    installation=one.id,
                    application=f"{one.application} {one.version}".strip(),
                )
        kinds = dict.fromkeys(["mariadb", *(one.kind for one in found.values())])
        names, unasked = self._in_panel(account, list(kinds)) if ask else ([], "the panel was not asked")
        listed = [one if unasked else replace(one, there=one.name in names) for one in found.values()]
        listed += [Listed(name, there=True) for name in names if name not in found]
        return Listing(sorted(listed, key=lambda one: one.name), unasked)

    def _in_panel(self, account: Account, kinds: Sequence[str]) -> tuple[list[str], str]:
        """What the panel lists of each kind of server; and why it could not be asked."""
        if not account.panel or not account.panel_primer:
            return [], f"no panel is known for {account.name}"
        try:
            primer = self._drivers.panel_primer(account.panel_primer)
            password = panel_password(self._store, account.name)
            panels = [self._drivers.panel(primer, account, password, kind=kind) for kind in kinds]
            return list(dict.fromkeys(name for panel in panels for name in panel.databases())), ""
        except HighShelfError as fault:
            return [], fault.message

    def plan_make(self, account_name: str, kind: Server, name: str = "", user: str = "") -> PlanRow:
        """Make a database with a user and a password of its own; names are made up where none is given."""
        settings = {n: v for n, v in (("database.name", name), ("database.user", user)) if v}
        acts = (
            PlannedAct("database", f"make a {kind} database{f' {name}' if name else ''}", "make it in the panel"),
            PlannedAct("database", "make a user with a generated password", "make it in the panel"),
            PlannedAct("database", "let the user use the database", "attach it in the panel, with all privileges"),
            PlannedAct(
                "prove",
                "log in from the host; make a table, write, read, drop it",
                "a PHP page that connects, or the panel's own page for databases",
            ),
        )
        return self._keep(self._plan(account_name, "make-database", kind, name or "new", acts, settings=settings))

    def plan_add(self, account_name: str, kind: Server, given: Mapping[str, str], password: str) -> PlanRow:
        """File the login of one that is there.

        Args:
            given: name, user, host, port; the last two may be "".

        Raises:
            ConflictError: its login is known already.
        """
        row = self._store.get(AccountRow, account_name, "account")
        self._not_known(account_name, given["name"])
        host = given["host"] or row.database_host
        port = given["port"] or {"mariadb": "3306", "postgresql": "5432"}[kind]
        settings = {f"database.{n}": v for n, v in {**given, "host": host, "port": port}.items()}
        acts = (
            PlannedAct(
                "prove",
                f"log in to {given['name']} from the host; make a table, write, read, drop it",
                "a PHP page that connects",
            ),
            PlannedAct("prove", "write it down, its password into the strongbox", "your list of passwords"),
        )
        plan = self._plan(account_name, "add-database", kind, given["name"], acts, settings=settings)
        planned = self._keep(plan)
        self._store.set_secret(f"plan/{planned.id}/database.password", password)
        return planned

    def plan_try(self, account_name: str, name: str) -> PlanRow:
        """Log in from the host."""
        act = PlannedAct(
            "prove", "log in from the host; make a table, write, read, drop it", "a PHP page that connects"
        )
        return self._keep(self._about(account_name, name, "try-database", (act,)))

    def plan_import(self, account_name: str, name: str, dump_number: str, *, keep: bool) -> PlanRow:
        """Fill an empty database from a dump.

        Args:
            keep: whether a dump that was brought stays here afterwards; one that was taken does.

        Raises:
            InputError: the dump is for another kind of server.
        """
        dump = self._store.get(DumpRow, dump_number, "dump")
        acts = (
            PlannedAct("database", "look whether the database is empty", "open it in the panel"),
            PlannedAct(
                "database",
                f"send {dump.name} statement by statement ({size_text(dump.unpacked_bytes)})",
                "import it in the panel, in pieces below its upload limit",
            ),
            PlannedAct("database", "count tables and rows", "open it in the panel"),
        )
        plan = self._about(account_name, name, "import", acts, dump=dump.id)
        if dump.kind and dump.kind != plan.database:
            raise InputError(
                f"{dump.name} is a dump of {dump.kind}, and {name} is a {plan.database} database",
                hint="export it for that server, or make a database of the other kind",
            )
        if not dump.account:
            self._store.change(DumpRow, dump.id, account=account_name)
        return self._keep(replace(plan, keeps_dump=keep or bool(dump.job)))

    def plan_export(self, account_name: str, name: str) -> PlanRow:
        """Take a copy as SQL."""
        act = PlannedAct("database", "read every table, and write it down as SQL", "export it in the panel")
        return self._keep(self._about(account_name, name, "export", (act,), dump=new_id()))

    def plan_drop(self, account_name: str, name: str) -> PlanRow:
        """Drop one that High Shelf made, with its user.

        Raises:
            ConflictError: it belongs to an installation, or was there before.
        """
        row = find_database(self._store, account_name, name)
        if isinstance(row, InstallationRow):
            raise ConflictError(
                f"{row.database} belongs to {row.application} at {row.address}",
                hint=f"`highshelf installation undo {row.id}` takes it away with its application",
            )
        if not row.made_by:
            raise ConflictError(
                f"{row.name} was not made by High Shelf: it is never dropped from here",
                hint=f"drop it in the panel, then `highshelf database forget {account_name} {row.name}`",
            )
        seen = row.facts.get("tables") or []
        held = f", with its {counted(len(seen), 'table')}" if seen else ", with whatever is in it"
        acts = (
            PlannedAct("database", f"drop the database {row.name}{held}", "delete it in the panel"),
            PlannedAct("database", f"drop the user {row.user}", "delete it in the panel"),
            PlannedAct("database", "look whether the panel lists them still", "look through the panel"),
        )
        plan = self._about(account_name, row.id, "drop-database", acts, look=False)
        return self._keep(replace(plan, undoes=row.made_by, touches=(row.name,)))

    def forget(self, account_name: str, name: str, who: str) -> int:
        """Out of the books, its password out of the strongbox; nothing on the host is touched. Returns how many secrets went.

        Raises:
            ConflictError: it belongs to an installation, or a job is at work on its account.
        """
        row = find_database(self._store, account_name, name)
        if isinstance(row, InstallationRow):
            raise ConflictError(
                f"{row.database} belongs to {row.application} at {row.address}",
                hint=f"`highshelf installation forget {row.id}`",
            )
        with self._store.together():
            for job in self._store.jobs_under_way(account_name):
                raise ConflictError(f"the job {job.id} is at work on {account_name}", hint="wait for it, or cancel it")
            dropped = self._store.drop_secrets(f"database/{row.id}/")
            if row.made_by:
                dropped += self._store.drop_values(row.made_by)
            self._store.delete(DatabaseRow, row.id)
            self._store.record(who, "forgotten", row.id, f"database {row.name} of {account_name}: {dropped} secrets")
        return dropped

    def _not_known(self, account_name: str, name: str) -> None:
        if any(one.name == name and (one.number or one.installation) for one in self._known(account_name)):
            raise ConflictError(
                f"the login of {name} is known already", hint=f"`highshelf database list {account_name}` shows it"
            )

    def _known(self, account_name: str) -> Sequence[Listed]:
        return self.listing(account_name, ask=False).databases

    def _about(
        self,
        account_name: str,
        name: str,
        kind: str,
        acts: tuple[PlannedAct, ...],
        *,
        dump: str = "",
        look: bool = True,
    ) -> Plan:
        """A plan about a database of the books."""
        row = find_database(self._store, account_name, name)
        if isinstance(row, InstallationRow):
            books, whole, server = f"installation/{row.id}", row.database, kind_of_installation(self._store, row)
        else:
            books, whole, server = f"database/{row.id}", row.name, row.kind
        plan = self._plan(account_name, kind, server, whole, acts, look=look)
        return replace(plan, books=books, dump=dump)

    def _plan(
        self,
        account_name: str,
        kind: str,
        server: str,
        name: str,
        acts: tuple[PlannedAct, ...],
        *,
        settings: Mapping[str, str] | None = None,
        look: bool = True,
    ) -> Plan:
        row = self._store.get(AccountRow, account_name, "account")
        account = account_of(row)
        # What is only asked of the panel needs nobody on the host.
        way, beside = self._looked(account, row) if look else (BY_HELPER, False)
        return Plan(
            account=account_name,
            release="",
            application=f"database {name}",
            place="/",
            address=account.address,
            target=FOLDER + name,
            fingerprint="",
            way=asdict(way),
            holding_beside=beside,
            database=server,
            acts=acts,
            settings=dict(settings or {}),
            kind=kind,
            there=f"{server} at {account.panel}" if account.panel else server,
        )

    def _looked(self, account: Account, row: AccountRow) -> tuple[Way, bool]:
        """How PHP there is asked, and whether a folder beside the document root can be had.

        Raises:
            TransferError and its kin: the account cannot be reached. TargetError: its document root is not known.
        """
        if not account.root:
            raise TargetError(
                f"the document root of {account.name} is not known yet",
                hint=f"`highshelf account check {account.name}` looks for it",
            )
        connected = self._connections.open(account)
        try:
            if "php" in find_tools(connected.shell):
                return OVER_SHELL, False
            place = place_at(account.root, account.address, "/")
            roots = [account.root, *(site.root for site in self._store.sites(account.name))]
            free = beside_of(row, roots, place).free
            return BY_HELPER, free and can_hold_beside(connected.files, account.root)
        finally:
            connected.close()

    def _keep(self, plan: Plan) -> PlanRow:
        return self._store.add(PlanRow(id=new_id(), account=plan.account, release="", body=plan.to_dict()))
