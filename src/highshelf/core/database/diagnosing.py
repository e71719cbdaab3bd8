"""Why a database login does not work, by what the server says, and what to do about it. Pure.

The numbers are MariaDB's (its manual, "Error Codes") and the classes of SQLSTATE that PostgreSQL uses (its manual, appendix A);
where a text alone tells, it is the text that both have had for many versions.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Diagnosis:
    """What is wrong.

    Attributes:
        code: stable, kebab-case.
        told: in a sentence's middle; "" when only the server's own words say something.
        repair: what a person does about it, in the panel or here.
    """

    code: str
    told: str
    repair: str


@dataclass(frozen=True)
class Tried:
    """A login that did not work: with what it was tried, and what is known of the account's panel.

    `databases` and `users` are the whole names that the panel lists; () when nobody could ask it.
    """

    error: str
    name: str = ""
    user: str = ""
    host: str = ""
    port: str = ""
    databases: Sequence[str] = ()
    users: Sequence[str] = ()


# Tried in this order: the first that fits is it.
RULES: tuple[tuple[str, str, str, str], ...] = (
    (
        "extension-missing",
        r"PHP here has no (pdo_\w+)",
        "PHP there cannot speak to such a server: it has no {1}",
        "switch the extension {1} on in the panel, or choose a PHP that has it",
    ),
    (
        "tls-wanted",
        r"insecure transport|\[3159\]|no encryption\b.*rejects|SSL (?:connection )?is required|SSL off",
        "the server takes encrypted connections only",
        "ask the host how PHP reaches it with TLS, or for a server name on which it may go without",
    ),
    (
        "tls-refused",
        r"does not support SSL|SSL connection error|\[2026\]|certificate verify failed",
        "the server does not take the encrypted connection",
        "untick TLS for the database, or give the certificate that the host tells of",
    ),
    (
        "wrong-socket",
        r"\[2002\][^\n]*No such file|(?:connection to server on socket|server running locally)[^\n]*",
        "no server answers at the local socket of the host {host}",
        "the server is not on that machine: take the database host's name from the panel or the letter instead of {host}",
    ),
    (
        "unknown-host",
        r"getaddrinfo|Name or service not known|could not translate host name|Unknown (?:MySQL |MariaDB )?server host|\[2005\]",
        "the server's name {host} leads nowhere, as seen from the host",
        "compare the database host with the panel, letter by letter",
    ),
    (
        "wrong-port",
        r"Connection refused|\[111\]|\(111\)",
        "nothing listens at {host}, port {port}",
        "compare host and port with the panel; MariaDB's usual port is 3306, PostgreSQL's 5432",
    ),
    (
        "unreachable",
        r"timed out|timeout expired|\(110\)|No route to host|\[2003\]|\[2002\]",
        "the server at {host} does not answer",
        "ask the host whether its web servers may reach it, and under which name",
    ),
    (
        "too-many",
        r"\[1040\]|\[1203\]|\[1226\]|Too many connections|too many (?:clients|connections)|max_user_connections|remaining connection slots",
        "the server takes no more connections of this user now",
        "try again in a minute; when it stays so, ask the host for the limit",
    ),
    (
        "blocked",
        r"\[1129\]|is blocked because of many connection errors|account is locked|\[4151\]|is not permitted to log in",
        "the server has shut this login out",
        "ask the host to open it again; nobody should try on before",
    ),
    (
        "no-such-user",
        r"role \"[^\"]*\" does not exist",
        "the server knows no user {user}",
        "make the user in the panel, or take its whole name from there",
    ),
    (
        "refused",
        r"\[1045\]|\[1698\]|Access denied for user '[^']*'@'[^']*' \(using password|password authentication failed|no password supplied|\[28",
        "the server knows no user {user} with this password, or not from this host",
        "set a new password for {user} in the panel and give it here; see that the user may come from the web server",
    ),
    (
        "not-attached",
        r"\[1044\]|Access denied for user '[^']*'@'[^']*' to database|permission denied for database|User does not have CONNECT",
        "the user {user} may not use the database {name}",
        "attach {user} to {name} in the panel, with all privileges",
    ),
    (
        "no-such-database",
        r"\[1049\]|Unknown database|database \"[^\"]*\" does not exist|\[3D000\]",
        "there is no database {name} on that server",
        "make it in the panel, or take its whole name from there",
    ),
    (
        "privilege-missing",
        r"\[1142\]|\[1227\]|\[1370\]|command denied to user|permission denied for (?:schema|table|relation)|\[42501\]|must be owner",
        "the user {user} may log in, and may not do what an application does ({first})",
        "give {user} every privilege on {name} in the panel",
    ),
    (
        "not-allowed-from-here",
        r"\[1130\]|is not allowed to connect|no pg_hba\.conf entry",
        "the server does not let {user} come from this host",
        "allow the web server's address for {user} in the panel",
    ),
    (
        "full",
        r"\[1114\]|The table '[^']*' is full|\[1021\]|[Dd]isk full|No space left|\[53100\]",
        "the server has no room left for it",
        "make room in the panel, or ask the host for the database's quota",
    ),
)  # fmt: skip
NUMBER = re.compile(r"SQLSTATE\[\w+\]: [\w ]+: (\d{4}) ")
UNKNOWN = Diagnosis("unclear", "", "compare name, user and host with the panel")
# What is told of names that the panel knows with something of its own before or after them.
ADDITION = "addition-missing"
CODES = (*(code for code, *_ in RULES), ADDITION, UNKNOWN.code)


def diagnose(tried: Tried) -> Diagnosis:
    """What an error of a database server, or of PHP's driver for it, says."""
    told = {
        "host": tried.host or "localhost",
        "port": tried.port or "its usual one",
        "name": tried.name,
        "user": tried.user,
        "first": next(iter(tried.error.splitlines()), "")[:160],
    }
    # The number stands in brackets when a connection was refused, and behind a colon when a statement was.
    error = tried.error + "".join(f" [{number}]" for number in NUMBER.findall(tried.error))
    for code, pattern, said, repair in RULES:
        found = re.search(pattern, error)
        if found is None:
            continue
        if code in ("no-such-database", "not-attached", "refused", "no-such-user"):
            longer = with_addition(tried.name, tried.databases) or with_addition(tried.user, tried.users)
            if longer:
                return Diagnosis(
                    ADDITION,
                    f"the panel has put something of its own to a name: what is meant is {longer}",
                    f"use the whole name {longer}",
                )
        groups = {str(number): text or "" for number, text in enumerate(found.groups(), 1)}
        return Diagnosis(code, _filled(said, told | groups), _filled(repair, told | groups))
    return UNKNOWN


def _filled(text: str, names: dict[str, str]) -> str:
    return re.sub(r"\{(\w+)\}", lambda m: names.get(m[1], ""), text)


def with_addition(name: str, listed: Sequence[str]) -> str:
    """The one listed name that has this one at its end or its beginning, with a mark between; "" when the name itself is listed."""
    if not name or name in listed:
        return ""
    found = [
        one
        for one in listed
        if len(one) > len(name)
        and (
            (one.endswith(name) and one[-len(name) - 1] in "_-.") or (one.startswith(name) and one[len(name)] in "_-.")
        )
    ]
    return found[0] if len(found) == 1 else ""
