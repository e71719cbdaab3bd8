"""A plan: what a job would do, act by act."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from highshelf.core.placing.swapping import IfThere
from highshelf.core.placing.ways import Way
from highshelf.core.placing.web import Showing
from highshelf.core.sizes import size_text

SHOWN = 12


@dataclass(frozen=True)
class PlannedAct:
    """One thing the job would do: which leg, what, and how a person would do it."""

    leg: str
    what: str
    by_hand: str


@dataclass(frozen=True)
class Plan:
    """Bound to what was seen: `fingerprint` is the target's listing, compared again before the swap.

    `site` is the address of a further site of the account, or "" for its own.
    `licence` is the filed licence key that the job takes, by its id.
    `ways` are all that are open, the chosen one first: the next takes the place of one that fails.
    `php` is PHP's version there when a recent check saw that the chosen way is open to it, "" to ask again.
    `web` is the folder of the release that the address will show, "" when it shows the release's root; `showing` says how.
    `apart` is where the release's root will stand when the address shows its web folder by links.
    `split` says that what lies in the web folder comes into the document root, and the rest of the release beside it.
    `packages` is the least version of the package manager of PHP projects that is to bring what the release names, "" without.
    `shown` says that the account's last check saw the address show the document root. Both are believed until `seen_until`
    (seconds since 1970), and looked at again by a job that begins later.
    `published` is where the archive can be fetched by anybody, "" when that is not known.
    `configure` is "sample" where the configuration is made from the release's sample, "" where the installer writes it.
    `tunes` is False where the account's check saw that PHP takes no settings from a file in a folder.
    `switches` says that the panel switches extensions of PHP; how far a switch reaches is `php_scope`, and `shares_php` are the
    addresses of what else is known to run there.
    `forbids` are needs of the release that the account surely does not meet: a job is started in spite of them or not at all.
    `if_there` is what becomes of what stands there: refused when "".
    `kind` is the job's; one that is about an installation has the number of it and the job that made it (`undoes`).
    `keeps_copy` says that files and database of what is undone are kept, `changed` what has changed of it since its proof.
    `books` says which database of the books a job about a database is about (`database/ID`, `installation/ID`), `dump` which dump;
    one that is not kept (`keeps_dump`) is removed from here when it is imported.
    `pace_bytes` is the most that may go over in a second, 0 for no limit.
    `settings` are values an operator gave (`?` means: ask when needed); secrets among them are in the strongbox.
    """

    account: str
    release: str
    application: str
    place: str
    address: str
    target: str
    fingerprint: str
    way: dict[str, Any]
    holding_beside: bool
    database: str
    acts: tuple[PlannedAct, ...]
    warnings: tuple[str, ...] = ()
    forbids: tuple[str, ...] = ()
    settings: dict[str, str] = field(default_factory=dict)
    primer: str = ""
    touches: tuple[str, ...] = ()
    there: str = ""
    asks: tuple[dict[str, str], ...] = ()
    site: str = ""
    licence: str = ""
    ways: tuple[dict[str, Any], ...] = ()
    pace_bytes: int = 0
    if_there: IfThere = ""
    php: str = ""
    web: str = ""
    shown: bool = False
    seen_until: float = 0.0
    published: str = ""
    apart: str = ""
    packages: str = ""
    split: bool = False
    configure: str = ""
    tunes: bool = True
    switches: bool = False
    php_scope: Literal["account", "site", "folder"] = "account"
    shares_php: tuple[str, ...] = ()
    kind: str = "install"
    installation: str = ""
    undoes: str = ""
    keeps_copy: bool = False
    changed: str = ""
    below: str = ""
    books: str = ""
    dump: str = ""
    keeps_dump: bool = True

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_dict(cls, raw: dict[str, Any]) -> Plan:
        acts = tuple(PlannedAct(**a) for a in raw["acts"])
        lists = {n: tuple(raw.get(n, ())) for n in ("warnings", "forbids", "touches", "asks", "ways", "shares_php")}
        return cls(**{**raw, **lists, "acts": acts})

    @property
    def showing(self) -> Showing:
        """How the address comes to show the web folder."""
        if self.split:
            return "split"
        return "links" if self.apart else "rules" if self.web else "root"

    def known_php(self, now: float) -> str:
        """PHP's version there, "" when it has to be asked."""
        return self.php if now < self.seen_until else ""

    def address_seen(self, now: float) -> bool:
        """Whether the address was seen to show the document root lately."""
        return self.shown and now < self.seen_until

    @property
    def open_ways(self) -> list[Way]:
        """The chosen way, then those that may take its place."""
        return [Way(**way) for way in self.ways or (self.way,)]


def _brought(way: Way, files: int, size: str) -> str:
    if way.name == "files":
        return f"bring {files} files ({size}) over one by one"
    if way.name.endswith("-fetch"):
        return f"let the host fetch the archive and unpack {files} files ({size})"
    return f"bring the archive over and unpack {files} files ({size})"


def _compared(way: Way) -> tuple[str, str]:
    """What is compared, and how by hand."""
    if way.name in ("files", "panel"):
        return (
            "compare every path and size with the release, every SHA-256 where the host can make them, else read a sample back; "
            "folders 755, files 644"
        ), "look through the listings, open some files"
    return "compare every file's SHA-256 with the release, folders 755 and files 644", "sha256sum -c, chmod"


def _some(names: Sequence[str]) -> str:
    return ", ".join(names[:SHOWN]) + (f" and {len(names) - SHOWN} more" if len(names) > SHOWN else "")


def _packages(least: str) -> list[PlannedAct]:
    if not least:
        return []
    what = f"let the package manager of PHP there (composer {least} or newer) bring what the release names"
    return [PlannedAct("place", what, "log in by SSH, `composer install --no-dev` in the release's folder")]


def planned_acts(
    *,
    target: str,
    way: Way,
    files: int,
    size_bytes: int,
    database: str,
    placeholders: tuple[str, ...],
    installers: list[str],
    aside: Sequence[str] = (),
    web: str = "",
    apart: str = "",
    beside: str = "",
    rest: Sequence[str] = (),
    packages: str = "",
    configure: str = "",
    samples: Sequence[str] = (),
    panel_moves: Sequence[str] = (),
) -> tuple[PlannedAct, ...]:
    """The acts of an install job in practice's order, each with how to do it by hand.

    Args:
        configure: as in a plan; samples: the release's.
        web, apart, packages: as in a plan; beside: where all but the web folder will stand when the release is split; rest: its names.
    """
    megabytes = size_text(size_bytes)
    acts = [
        PlannedAct(
            "survey",
            "look again at the account: login, target, tools, PHP",
            "log in, list the document root, open a phpinfo page",
        ),
        PlannedAct(
            "place",
            f"{_brought(way, files, megabytes)} into a holding folder, by {way.name}",
            way.by_hand,
        ),
        PlannedAct("place", *_compared(way)),
        *_packages(packages),
    ]
    if beside:
        acts.append(
            PlannedAct(
                "place",
                f"the rest of the release comes to stand in {beside}, out of the web's reach: {_some(rest)}",
                f"move everything but {web}/ into {beside}, or let the panel point the site at {web}/",
            )
        )
    acts.append(
        PlannedAct(
            "place",
            f"swap {f'what lies in {web}/' if beside else 'the files'} into {apart or target}",
            f"move everything, dotfiles included, into {apart or target}",
        )
    )
    if apart:
        acts.append(
            PlannedAct(
                "place",
                f"{target} shows what lies in {apart}/{web}, by links: the rest of the release is out of the web's reach",
                f"`ln -s` from {target} to {apart}/{web}, or let the panel point the site at that folder",
            )
        )
    elif web and not beside:
        acts.append(
            PlannedAct(
                "place",
                f"rules in {target}/.htaccess lead every address there into {web}/: the rest of the release is not served",
                f"put an .htaccess with a RewriteRule to {web}/ above it, or let the panel point the site at {web}/",
            )
        )
    for name in placeholders:
        acts.append(
            PlannedAct(
                "place", f"the host's placeholder page {name} steps aside and is kept for undo", f"rename {name}"
            )
        )
    if aside:
        shown = _some(aside)
        acts.append(
            PlannedAct(
                "place",
                f"what stands there steps aside and is kept, out of the web's reach: {shown}",
                "move each into a folder beside the document root before the new files come",
            )
        )
    if database != "none":
        acts.append(
            PlannedAct(
                "database",
                "create a database, a user with a generated password, attach the user with privileges",
                "; ".join(panel_moves) or "three pages of the control panel",
            )
        )
        acts.append(PlannedAct("configure", "test the database login from the host", "a ten-line PHP script"))
    if configure:
        acts.append(
            PlannedAct(
                "configure",
                f"make the configuration from the release's sample ({_some(samples)}): database, address, keys of its own",
                "copy the sample under its real name, fill in the database's login, put long random texts where keys are wanted",
            )
        )
    acts.append(
        PlannedAct(
            "walk", "walk through the application's installer with generated credentials", "the same in a browser"
        )
    )
    what = ", ".join(installers) or "nothing found so far"
    acts.append(
        PlannedAct(
            "tidy",
            f"rename the installer ({what}), see that all works, remove it; tighten modes of the configuration; shut what nobody should fetch",
            "rename, look, delete; chmod 600",
        )
    )
    acts.append(
        PlannedAct(
            "prove",
            "front page, administrator's login, a wrong password, what must not be served",
            "look at each in a browser",
        )
    )
    return tuple(acts)
