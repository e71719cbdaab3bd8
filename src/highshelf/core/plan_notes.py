"""What a plan says beside its acts: what an administrator should know, and what forbids it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Any

from highshelf.core.account import Account
from highshelf.core.placing.target import Target
from highshelf.core.release.findings import Findings
from highshelf.core.release.matching import MatchLine

# What is known beforehand of the administrator's login, where no installer asks for one and no text tells one.
FIRST_LOGINS = {
    "own": "the application signs people in, and nothing in the release tells how the first of them is made: when the pages do not ask "
    "for one, the job asks for the login that its manual tells",
    "server": "the application leaves signing in to the web server: whoever should be kept out has to be kept out there",
    "none": "nothing was found in the release that signs anybody in: it seems to have no administrator of its own; the job looks when it is up",
}


def notes_of(account: Account, findings: Findings, kind: str) -> list[str]:
    """What account, release and kind of database say together."""
    found = []
    if account.transfer.kind == "ftp":
        found.append("plain FTP sends the login and every file in the clear; ask the host for FTPS or SFTP")
    if account.address.startswith("http://"):
        found.append("the address is not https: the administrator's password travels in the clear")
    if kind == "none":
        found.append("nothing in the release connects to a database; no database will be made unless you say which")
    if kind != "none" and not (account.panel and account.panel_primer):
        found.append(
            f"a database ({kind}) is wanted and no known panel can make it: make one by hand, the job asks for its name, user and password"
        )
    if findings.published_login:
        found.append(
            f"the application comes with a login that everybody knows ({findings.published_login[0]}): it gets a password of the job's own "
            "where the application wants that before it lets anybody on, or a primer says how; else the sheet says to change it"
        )
    if told := FIRST_LOGINS.get(findings.first_login):
        found.append(told)
    if not findings.has_php:
        found.append("the release holds no PHP files")
    if not account.email:
        found.append("the account has no e-mail address; if the installer wants one, the job will ask")
    return found


def of_what_is_there(target: Target, beside: bool, if_there: str, facts: Mapping[str, Any]) -> list[str]:
    """What an administrator should know before something steps aside, or stays."""
    found = []
    kept = [p for p in target.swap.aside if p not in target.placeholders]
    if kept and not beside:
        told = "what steps aside is kept in a folder inside the document root: nothing beside it can be written"
        shut = facts.get("web.htaccess") in ("ignored", "limited")
        found.append(told + (", and .htaccess, which would shut it to the web, is not honoured there" if shut else ""))
    fronts = [n for n in target.others if n.startswith("index.") and n not in kept]
    if if_there and fronts:
        found.append(f"{', '.join(fronts)} stays there: which front page is shown is the web server's choice")
    return found


def of_survey(facts: Mapping[str, Any], name: str) -> list[str]:
    """What the check of the account `name` found that an installation will meet."""
    found = []
    if not facts:
        found.append(
            "nobody has checked this account: its PHP, extensions and limits, and whether .htaccess works there, are not known; "
            f"`highshelf account check {name}` looks"
        )
    if (facts.get("php.user") or {}).get("same") is False:
        found.append(
            "PHP there runs as another user than the login: what the application makes is not the login's to change"
        )
    if facts.get("web.htaccess") in ("ignored", "limited"):
        found.append(
            ".htaccess is not honoured there: rules that the release brings do nothing, also those that hide files"
        )
    if facts.get("web.rewriting") is False:
        found.append("addresses cannot be rewritten there: choose plain addresses if the application offers them")
    if (facts.get("site.self") or {}).get("here") is False:
        found.append(
            "a call from PHP there to the site's own address does not reach this account yet (the check has more)"
        )
    if facts.get("php.errors"):
        found.append("PHP's own messages are shown to visitors there")
    return found


def of_database_name(findings: Findings, kind: str, whole: str) -> list[str]:
    """What a name that sources write without quotation marks has to be like.

    Args:
        whole: a name as the panel would make it; "" where nobody knows how it makes them.
    """
    if kind == "none" or not findings.unquoted_names:
        return []
    places = ", ".join(findings.unquoted_names[:3])
    plain = "letters, digits and _ alone"
    if not whole:
        return [f"its sources write the database's name without quotation marks ({places}): it should be of {plain}"]
    if re.fullmatch(r"\w+", whole):
        return []
    return [
        f"its sources write the database's name without quotation marks ({places}), and the panel makes names like {whole}: the installer may "
        f"be refused there; ask the host for a database whose name is of {plain}"
    ]


def unmet(lines: Sequence[MatchLine], switches: str = "") -> list[str]:
    """What the release's installer will refuse there, with who can mend it. `switches`: what is told of the panel's switches."""
    found = [line for line in lines if line.verdict == "red"]
    told = [f"the release wants {line.need}; there: {line.has}. {line.how}" for line in found]
    if switches and any(line.topic == "extension" for line in found):
        told.append(switches)
    return told
