"""The handover sheet: where everything is and how to get in. On A4 as HTML, as Markdown, as JSON for programs, as a
file of logins for a password manager, and as bookmarks."""

from __future__ import annotations

import csv
import io
import json
import re
from html import escape
from importlib import resources
from typing import Any

from jinja2 import Environment, select_autoescape

from highshelf.store.tables import AccountRow, InstallationRow

MASK = "•" * 12
# What is told of an install, by legs; acts that say nothing to whoever is handed the site are left out.
LISTS = {
    "proven": (("prove",), ("register", "door", "stand")),
    "tidied": (("tidy",), ("count-tables",)),
    "brought": (("place", "database", "configure", "walk"), ("hold", "drop-archive", "values")),
}
LOGIN_COLUMNS = ("title", "address", "name", "password", "note")
TITLES = {
    "addresses": "Addresses",
    "hosting": "Hosting",
    "database": "Database",
    "application": "Application",
    "once": "Shown only once by the installer",
    "versions": "Versions",
    "proven": "Proven",
    "tidied": "Tidied",
    "brought": "Brought there",
}
_environment = Environment(
    autoescape=select_autoescape(default=True, default_for_string=True), trim_blocks=True, lstrip_blocks=True
)


def render_sheet(
    row: InstallationRow,
    account: AccountRow,
    secrets: dict[str, str],
    *,
    own_panel_password: bool = False,
    customer: bool = False,
) -> str:
    """The sheet's HTML. `secrets` holds what was revealed; everything else is masked. `customer`: without the hosting login."""
    template = _environment.from_string(resources.files(__package__).joinpath("sheet.html").read_text(encoding="utf-8"))
    acts = row.facts.get("acts", [])
    told = {
        leg: [a for a in acts if a["leg"] == leg and a["told"]]
        for leg in ("survey", "place", "database", "configure", "walk", "tidy", "prove")
    }
    once = [(key, label) for key, label in row.facts.get("once", {}).items()]
    return template.render(
        i=row,
        account=account,
        secret=lambda name: secrets.get(name, MASK),
        revealed=bool(secrets),
        told=told,
        once=once,
        own_panel_password=own_panel_password,
        customer=customer,
    )


def sheet_facts(
    row: InstallationRow,
    account: AccountRow,
    secrets: dict[str, str],
    *,
    own_panel_password: bool = False,
    customer: bool = False,
) -> dict[str, Any]:
    """The same for programs. Passwords that were not revealed are null; `customer`: without the hosting login."""
    facts = row.facts
    found: dict[str, Any] = {
        "installation": row.id,
        "title": facts.get("title") or row.application,
        "application": row.application,
        "version": row.version,
        "customer": account.title,
        "installed_at": row.created_at.isoformat(),
        "passwords": bool(secrets),
        "to_do": _to_do(row),
        "addresses": {
            "site": row.address,
            "administration": row.login_address,
            "reached_at": account.reach,
            **({} if customer else {"on_the_host": row.target, "panel": account.panel}),
        },
    }
    if not customer:
        found["hosting"] = {
            "transfer": f"{account.transfer_kind}://{account.transfer_host}:{account.transfer_port}",
            "login": account.transfer_login,
            "password": secrets.get("hosting"),
            "panel_login": account.panel_login,
            **({"panel_password": secrets.get("panel")} if own_panel_password else {}),
        }
    if row.database:
        found["database"] = {
            "server": facts.get("database_host"),
            "name": row.database,
            "user": row.database_user,
            "password": secrets.get("database"),
        }
    if not facts.get("no_administrator"):
        found["application_login"] = {"administrator": row.admin_name, "password": secrets.get("application")}
    found["once"] = {label: secrets.get(f"once-{key}") for key, label in facts.get("once", {}).items()}
    found["versions"] = {
        "application": f"{row.application} {row.version}",
        "php": facts.get("php"),
        "database_server": facts.get("database_version") if row.database else None,
        "release_sha256": row.release,
    }
    for name, (legs, without) in LISTS.items():
        found[name] = [
            a["told"] for a in facts.get("acts", []) if a["told"] and a["leg"] in legs and a["act"] not in without
        ]
    return found


def _to_do(row: InstallationRow) -> list[str]:
    """What is left for people."""
    found = []
    if row.facts.get("published_login"):
        found.append("The application still has the login its maker publishes: sign in and change the password.")
    if kept := row.facts.get("installer_kept"):
        found.append(f"The application does not work without {kept}, so it is still there.")
    if shown := row.facts.get("shown"):
        found.append(
            f"Anybody can fetch {', '.join(shown)}. It could not be shut from here: other things stand in the same folder, or the web "
            "server takes no rules from one. Deny it, or ask the host to."
        )
    if row.facts.get("lists"):
        found.append("The web server lists what is in folders without a front page. Turn that off, or ask the host to.")
    return found


def as_json(facts: dict[str, Any]) -> str:
    return json.dumps(facts, ensure_ascii=False, indent=2) + "\n"


def as_markdown(facts: dict[str, Any]) -> str:
    """The sheet as a text that is read as it is, or rendered."""
    what = f"{_plain(facts['application'])} {_plain(facts['version'])} for {_plain(facts['customer'])}"
    when = facts["installed_at"][:16].replace("T", " ")
    lines = [
        f"# {_plain(facts['title'])}",
        "",
        f"{what}; installed {when} UTC, installation {facts['installation']}.",
        "",
    ]
    lines += [
        "This copy holds passwords. Keep it where you keep keys."
        if facts["passwords"]
        else f"Passwords are masked; `highshelf installation sheet {facts['installation']} --reveal` writes them out, and that is recorded.",
        "",
    ]
    if facts["to_do"]:
        lines += ["## To do", "", *(f"- {_plain(one)}" for one in facts["to_do"]), ""]
    for name, title in TITLES.items():
        part = facts.get("application_login" if name == "application" else name)
        if not part:
            continue
        told = [f"- {_plain(one)}" for one in part] if isinstance(part, list) else _pairs(part)
        lines += [f"## {title}", "", *told, ""] if told else []
    return "\n".join(lines)


def as_logins(facts: dict[str, Any]) -> str:
    """CSV (RFC 4180): a line each for hosting, panel, database and application, as far as their passwords are known."""
    to = io.StringIO()
    lines = csv.writer(to)
    lines.writerow(LOGIN_COLUMNS)
    at, what = facts["addresses"], facts["title"]
    if facts["customer"] not in what:
        what += f" ({facts['customer']})"
    hosting, base, own = (facts.get(n, {}) for n in ("hosting", "database", "application_login"))
    found = [
        ("hosting", hosting.get("transfer"), hosting.get("login"), hosting.get("password"), at.get("on_the_host")),
        (
            "control panel",
            at.get("panel"),
            hosting.get("panel_login"),
            hosting.get("panel_password") or hosting.get("password"),
            "",
        ),
        ("database", base.get("server"), base.get("user"), base.get("password"), base.get("name")),
        (
            "application",
            at["administration"] or at["site"],
            own.get("administrator"),
            own.get("password"),
            facts["versions"]["application"],
        ),
    ]
    # What the installer showed only once is nobody's login, and would be lost with the rest.
    found += [
        (label, at["site"], " ", value, "shown only once by the installer") for label, value in facts["once"].items()
    ]
    for kind, address, name, password, note in found:
        if name and password:
            lines.writerow(
                [_no_formula(f"{what}: {kind}"), address or "", name.strip(), password, _no_formula(note or "")]
            )
    return to.getvalue()


def as_bookmarks(facts: dict[str, Any]) -> str:
    """A folder of bookmarks as browsers take them in (the HTML with nested lists that all of them read): the site, its administration, the
    panel. Nothing secret is in it."""
    at, what = facts["addresses"], facts["title"]
    sides = (("", at["site"]), (": administration", at.get("administration")), (": control panel", at.get("panel")))
    shown = [(what + more, url) for more, url in sides if url and not (more and url == at["site"])]
    lines = "".join(f'        <DT><A HREF="{escape(url)}">{escape(name)}</A>\n' for name, url in shown)
    return (
        '<!DOCTYPE NETSCAPE-Bookmark-file-1>\n<META HTTP-EQUIV="Content-Type" CONTENT="text/html; charset=UTF-8">\n'
        f"<TITLE>Bookmarks</TITLE>\n<H1>Bookmarks</H1>\n<DL><p>\n    <DT><H3>{escape(facts['customer'])}</H3>\n    <DL><p>\n{lines}    </DL><p>\n"
        "</DL><p>\n"
    )


def _no_formula(text: str) -> str:
    """A text of somebody else's that no table takes for a formula when the file is opened in one."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def _pairs(part: dict[str, Any]) -> list[str]:
    found = []
    for name, value in part.items():
        if value == "" or (value is None and "password" not in name and name in ("php", "database_server")):
            continue
        found.append(f"- {_plain(name.replace('_', ' '))}: {_code(MASK if value is None else str(value))}")
    return found


def _plain(text: str) -> str:
    """A text of which nothing is taken for markup (CommonMark, 2.4)."""
    return re.sub(r"([\\`*_{}\[\]<>#|~])", r"\\\1", " ".join(text.split()))


def _code(text: str) -> str:
    """A code span, fenced by more backticks than stand in it (CommonMark, 6.1)."""
    longest = max((len(run) for run in re.findall(r"`+", text)), default=0)
    fence = "`" * (longest + 1)
    pad = " " if text.startswith("`") or text.endswith("`") else ""
    return f"{fence}{pad}{text}{pad}{fence}"
