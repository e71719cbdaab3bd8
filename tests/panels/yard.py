"""The yard: hosting panels that nobody described, grown from a seed, and what is really in them afterwards.

Each trait has one home here. A panel is a conversation in memory: sessions, tokens, pages, state; `harm` lists everything that
was changed and was not ours to change.
"""

from __future__ import annotations

import random
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from html import escape
from pathlib import Path
from typing import Any
from urllib.parse import parse_qsl, quote, unquote, urljoin, urlsplit

import yaml

from highshelf.core.pages.snapshot import Snapshot

ADDRESS = "https://panel.saltmarsh.example/"
WORDS: dict[str, dict[str, list[str]]] = yaml.safe_load((Path(__file__).parent / "words.yaml").read_text("utf-8"))
RIGHTS = ("SELECT", "INSERT", "UPDATE", "DELETE", "CREATE", "DROP", "ALTER", "INDEX")
CUSTOMER = "c1042"

CHOICES: dict[str, tuple[str, ...]] = {
    "flow": ("separate", "together", "within", "one-page", "steps", "chosen", "user-first"),
    "naming": ("before", "before-shown", "preset", "after", "none", "same"),
    "list": ("table", "links", "items", "cards", "select"),
    "attach": ("selects", "on-page", "row"),
    "rights": ("none", "boxes", "all-box", "select"),
    "delete": ("row-form", "link", "box", "select"),
    "nav": ("flat", "hub", "icons", "tiles"),
    "door": ("plain", "linked", "two-steps"),
    "token": ("none", "hidden", "address"),
    "between": ("none", "tour"),
    "labels": ("for", "wrapped", "cell", "placeholder", "before"),
    "confirm": ("none", "page"),
    "weather": ("fine", "fine", "fine", "expires", "slow", "long-names", "limit", "down"),
    "decoys": ("few", "many"),
    "button": ("button", "input"),
}


@dataclass(frozen=True)
class Traits:
    seed: int
    language: str
    chosen: Mapping[str, str]

    def __getitem__(self, trait: str) -> str:
        return self.chosen[trait]

    @classmethod
    def of(cls, seed: int) -> Traits:
        dice = random.Random(seed)
        return cls(seed, dice.choice(sorted(WORDS)), {t: dice.choice(those) for t, those in CHOICES.items()})


@dataclass
class State:
    databases: dict[str, dict[str, list[str]]] = field(default_factory=dict)
    users: dict[str, str] = field(default_factory=dict)
    others: dict[str, list[str]] = field(default_factory=dict)

    def picture(self) -> Any:
        return {
            "databases": {k: {u: sorted(r) for u, r in v.items()} for k, v in self.databases.items()},
            "users": dict(self.users),
            "others": {k: list(v) for k, v in self.others.items()},
        }


class Said(Exception):
    """The panel says no, in its own words."""


class YardPanel:
    """One grown panel. `answer` is what a browser would get; redirects are followed by `YardFetch`."""

    def __init__(self, traits: Traits) -> None:
        self.traits = traits
        self.dice = random.Random(traits.seed * 7 + 1)
        self.words = {k: self.dice.choice(those) for k, those in WORDS[traits.language].items()}
        self.state = State()
        old = self.named("oldsite")
        self.state.databases[old] = {self.named("oldsite", user=True): list(RIGHTS)}
        self.state.users[self.named("oldsite", user=True)] = "of-yore"
        self.state.others = {"mail": ["info@ferry.saltmarsh.example"], "ftp": ["ferry-web"]}
        self.inside: dict[str, bool] = {}
        self.named_at_door: dict[str, str] = {}
        self.toured: set[str] = set()
        self.pending: list[tuple[int, Callable[[], None]]] = []
        self.requests = 0
        self.expired = False
        self.longest = 12 if traits["weather"] == "long-names" else 32
        self.made = 0
        self.draft: dict[str, dict[str, str]] = {}
        self.refused_at_door = 0
        self.drops = 0

    @property
    def wrong_presses(self) -> int:
        """How often something was told to be deleted: while making, never."""
        return self.drops

    # What things are called.
    def named(self, name: str, user: bool = False) -> str:
        match self.traits["naming"]:
            case "before" | "before-shown":
                return f"{CUSTOMER}_{name}"
            case "preset":
                return name if name.startswith(f"{CUSTOMER}_") else f"{CUSTOMER}_{name}"
            case "after":
                return f"{name}-{CUSTOMER}"
        return name

    def word(self, key: str) -> str:
        return escape(self.words[key])

    # Requests.
    def answer(self, method: str, url: str, fields: Sequence[tuple[str, str]], session: str) -> tuple[int, str, str]:
        """Status, address to go on to or "", page."""
        self.requests += 1
        for due, act in list(self.pending):
            if self.requests >= due:
                act()
                self.pending.remove((due, act))
        parts = urlsplit(url)
        asked = dict(parse_qsl(parts.query))
        sent: dict[str, list[str]] = {}
        for name, value in fields:
            sent.setdefault(name, []).append(value)
        if self.traits["weather"] == "down" and self.requests > 3:
            return 503, "", "<h1>Down</h1><p>The panel is being maintained. Please try again later.</p>"
        path = parts.path
        if path in ("/", "/door", "/door2") or not self.inside.get(session):
            return self.door(method, path, sent, session)
        if self.traits["weather"] == "expires" and self.requests == 9 and not self.expired:
            self.expired, self.inside[session] = True, False
            return 302, "/door", ""
        if self.traits["between"] == "tour" and session not in self.toured:
            if path == "/tour" and method == "POST":
                self.toured.add(session)
                return 302, self.unescaped("/home", session), ""
            if path != "/tour":
                return 302, "/tour", ""
            return self.page(
                self.words["welcome"], f"<p>1/4</p>{self.form('/tour', '', self.words['later'], session)}", session
            )
        if self.traits["token"] == "address" and asked.get("s") != self.key(session):
            return 302, "/door", ""
        if method == "POST" and self.traits["token"] == "hidden" and sent.get("tk") != [self.key(session)]:
            return self.page("!", "<p class=error role=alert>Token</p>", session, 400)
        try:
            return self.inside_of(method, path, asked, {k: v[-1] for k, v in sent.items()}, sent, session)
        except Said as said:
            body = f'<div class="alert alert-danger" role="alert">{escape(str(said))}</div>'
            return self.page(self.words["databases"], body + self.shown_for(path, asked, session), session, 200)

    def key(self, session: str) -> str:
        return f"k{self.traits.seed}{session[-4:]}"

    def link(self, path: str, session: str) -> str:
        if self.traits["token"] == "address":
            path += ("&" if "?" in path else "?") + f"s={self.key(session)}"
        return escape(path)

    def door(self, method: str, path: str, sent: dict[str, list[str]], session: str) -> tuple[int, str, str]:
        w = self.words
        kind = self.traits["door"]
        if kind == "linked" and path == "/" and method == "GET":
            return (
                200,
                "",
                self.frame(
                    "Saltmarsh",
                    f'<p>Saltmarsh Web Co-op</p><p><a href="/door">{self.word("sign_in")}</a> <a href="/help">Info</a></p>',
                    None,
                ),
            )
        login, password = sent.get("who", [""])[-1], sent.get("word", [""])[-1]
        if kind == "two-steps":
            if method == "POST" and "who" in sent:
                self.named_at_door[session] = login
            if method == "POST" and "word" in sent:
                login = self.named_at_door.get(session, "")
            elif session in self.named_at_door and method == "POST":
                body = self.field("word", w["password"], "password")
                return 200, "", self.frame(w["sign_in"], self.form("/door2", body, w["sign_in"], session), None)
        if method == "POST" and path.startswith("/door") and "word" in sent:
            if (login, password) == (CUSTOMER, "let-me-in"):
                self.inside[session] = True
                return 302, self.unescaped("/home", session), ""
            self.refused_at_door += 1
            said = '<p class="error">Wrong login or password.</p>'
        else:
            said = ""
        body = self.field("who", w["login"]) + (
            "" if kind == "two-steps" else self.field("word", w["password"], "password")
        )
        if kind != "two-steps":
            body += '<label><input type="checkbox" name="stay" value="1"> 30 d</label>'
        return 200, "", self.frame(w["sign_in"], said + self.form("/door", body, w["sign_in"], session), None)

    def unescaped(self, path: str, session: str) -> str:
        return self.link(path, session).replace("&amp;", "&")

    # Markup.
    def field(self, name: str, label: str, kind: str = "text", value: str = "", after: str = "") -> str:
        label = escape(label)
        box = f'<input type="{kind}" name="{name}" value="{escape(value)}"'
        match self.traits["labels"]:
            case "wrapped":
                return f"<p><label>{label} {box}></label>{after}</p>"
            case "cell":
                return f"<table><tr><td>{label}</td><td>{box}>{after}</td></tr></table>"
            case "placeholder":
                return f'<p>{box} placeholder="{label}">{after}</p>'
            case "before":
                return f"<p>{label}: {box}>{after}</p>"
        return f'<p><label for="f-{name}">{label}</label> {box} id="f-{name}">{after}</p>'

    def choice(self, name: str, label: str, options: Sequence[tuple[str, str]]) -> str:
        inner = "".join(f'<option value="{escape(v)}">{escape(t)}</option>' for v, t in options)
        return (
            f'<p><label for="s-{name}">{escape(label)}</label> <select id="s-{name}" name="{name}">{inner}</select></p>'
        )

    def form(
        self, action: str, body: str, press: str, session: str, hidden: Mapping[str, str] | None = None, css: str = ""
    ) -> str:
        held = dict(hidden or {})
        if self.traits["token"] == "hidden":
            held["tk"] = self.key(session)
        boxes = "".join(f'<input type="hidden" name="{n}" value="{escape(v)}">' for n, v in held.items())
        button = (
            f'<input type="submit" value="{escape(press)}">'
            if self.traits["button"] == "input"
            else f"<button>{escape(press)}</button>"
        )
        inside = self.link(action, session) if not action.startswith("/door") else action
        return f'<form method="post" action="{inside}" class="{css}">{boxes}{body}{button}</form>'

    def frame(self, heading: str, body: str, session: str | None) -> str:
        menu = self.menu(session) if session is not None else ""
        return (
            f'<!doctype html><html lang="{self.traits.language}"><head><title>{escape(heading)} - Saltmarsh</title></head>'
            f"<body>{menu}<main><h1>{escape(heading)}</h1>{body}</main></body></html>"
        )

    def page(self, heading: str, body: str, session: str, status: int = 200) -> tuple[int, str, str]:
        return status, "", self.frame(heading, body, session)

    def menu(self, session: str) -> str:
        w = self.word
        entries = [("/home", w("welcome")), ("/mail", w("mail")), ("/ftp", w("ftp")), ("/domains", w("domains"))]
        main = [("/db", w("databases"))]
        if self.split_users:
            main.append(("/dbusers", w("users")))
        if self.traits["decoys"] == "many":
            entries.insert(0, ("/backup", w("backup")))
            entries.append(("/pgsql", "PostgreSQL"))
        match self.traits["nav"]:
            case "hub":
                entries.append(("/hub", w("hub")))
            case "tiles":
                pass
            case _:
                entries[2:2] = main
        icons = self.traits["nav"] == "icons"
        shown = "".join(
            f'<li><a href="{self.link(p, session)}" title="{t}"><img src="/i.png" alt=""></a></li>'
            if icons
            else f'<li><a href="{self.link(p, session)}">{t}</a></li>'
            for p, t in entries
        )
        search = (
            '<form action="/find" method="get"><input name="q" placeholder="?"><button>OK</button></form>'
            if self.traits["decoys"] == "many"
            else ""
        )
        return f'<nav><ul>{shown}<li><a href="{self.link("/out", session)}">{w("leave")}</a></li></ul>{search}</nav>'

    @property
    def split_users(self) -> bool:
        return self.traits["flow"] in ("separate", "user-first")

    # Pages inside.
    def shown_for(self, path: str, asked: Mapping[str, str], session: str) -> str:
        return self.new_database(session) if path.startswith("/db") else ""

    def inside_of(
        self,
        method: str,
        path: str,
        asked: dict[str, str],
        sent: dict[str, str],
        many: dict[str, list[str]],
        session: str,
    ) -> tuple[int, str, str]:
        w, flow = self.words, self.traits["flow"]
        if path == "/out":
            self.inside[session] = False
            return 302, "/door", ""
        if path in ("/home", "/hub"):
            body = "<p>Ferry museum</p>"
            if self.traits["nav"] == "tiles" or path == "/hub":
                body += "".join(
                    f'<div class="tile"><a href="{self.link(p, session)}"><h3>{escape(t)}</h3><p>…</p></a></div>'
                    for p, t in (
                        [("/domains", w["domains"]), ("/db", w["databases"])]
                        + ([("/dbusers", w["users"])] if self.split_users else [])
                    )
                )
            return self.page(w["welcome"], body, session)
        if path == "/pgsql":
            if method == "POST":
                self.state.others["pgsql"] = [sent.get("d", "")]
                return 302, self.unescaped(path, session), ""
            made = self.field("d", w["database_name"]) + self.passwords()
            return self.page("PostgreSQL", self.form(path, made, w["create"], session), session)
        if path in ("/mail", "/ftp", "/domains", "/backup"):
            return self.elsewhere(method, path, sent, session)
        if method == "POST":
            return self.act(path, asked, sent, many, session)
        if path == "/db":
            body = self.list_of(list(self.state.databases), session)
            if flow == "one-page":
                body += f"<h2>{self.word('new_database')}</h2>" + self.new_database(session)
                body += f"<h2>{self.word('users')}</h2>" + self.users_list(session)
                body += f"<h2>{self.word('new_user')}</h2>" + self.new_user(session)
                body += f"<h2>{self.word('attach')}</h2>" + self.attach_form(session)
            else:
                body += f'<p><a class="btn" href="{self.link("/db/new", session)}">{self.word("new_database")}</a></p>'
                if self.split_users and self.traits["attach"] == "selects":
                    body += f'<p><a href="{self.link("/db/attach", session)}">{self.word("attach")}</a></p>'
            return self.page(w["databases"], body, session)
        if path == "/db/new":
            return self.page(w["new_database"], self.new_database(session), session)
        if path == "/db/attach":
            return self.page(w["attach"], self.attach_form(session), session)
        if path == "/dbusers":
            body = (
                self.users_list(session)
                + f'<p><a href="{self.link("/dbusers/new", session)}">{self.word("new_user")}</a></p>'
            )
            return self.page(w["users"], body, session)
        if path == "/dbusers/new":
            return self.page(w["new_user"], self.new_user(session), session)
        if path == "/db/one":
            return self.one(asked.get("d", ""), session)
        if path in ("/db/drop", "/dbusers/drop"):
            return self.sure(path, asked.get("d", ""), session)
        return self.page("404", "<p>404</p>", session, 404)

    def elsewhere(self, method: str, path: str, sent: dict[str, str], session: str) -> tuple[int, str, str]:
        w, key = self.words, path.strip("/")
        if method == "POST":
            self.state.others.setdefault(key, []).append(str(sorted(sent.items())))
            return 302, self.unescaped(path, session), ""
        body = "".join(f"<li>{escape(o)}</li>" for o in self.state.others.get(key, []))
        body += self.form(
            path, self.field("name", w["user_name"]) + self.field("pw", w["password"], "password"), w["create"], session
        )
        return self.page(
            w[{"mail": "mail", "ftp": "ftp", "domains": "domains", "backup": "backup"}[key]], body, session
        )

    def deleter(self, name: str, session: str, base: str) -> str:
        match self.traits["delete"]:
            case "link":
                return f'<a href="{self.link(f"{base}/drop?d={quote(name)}", session)}" title="{self.word("delete")}"><i class="bin"></i></a>'
            case "row-form":
                return self.form(f"{base}/drop", "", self.words["delete"], session, {"d": name})
            case "box":
                box = f'<label><input type="checkbox" name="sure" value="1"> {self.word("sure")}</label>'
                return self.form(f"{base}/drop", box, self.words["delete"], session, {"d": name})
        return ""

    def list_of(self, names: Sequence[str], session: str, base: str = "/db") -> str:
        def shown(name: str) -> str:
            return (
                f'<a href="{self.link(f"{base}/one?d={quote(name)}", session)}">{escape(name)}</a>'
                if base == "/db" and self.traits["flow"] != "one-page"
                else escape(name)
            )

        def row(name: str) -> tuple[str, str, str]:
            users = (
                ", ".join(self.state.databases.get(name, {}))
                if base == "/db" and self.traits["list"] == "table"
                else ""
            )
            return shown(name), escape(users), self.deleter(name, session, base)

        heading = self.word("databases" if base == "/db" else "users")
        rows = [row(n) for n in names]
        match self.traits["list"]:
            case "table":
                out = "".join(f"<tr><td>{a}</td><td>{b}</td><td>0.1 MB</td><td>{c}</td></tr>" for a, b, c in rows)
                out = f"<table><tr><th>{heading}</th><th></th><th>MB</th><th></th></tr>{out}</table>"
            case "links" | "items":
                out = "<ul>" + "".join(f"<li>{a} {c}</li>" for a, b, c in rows) + "</ul>"
            case "cards":
                out = "".join(f'<div class="card"><h4>{a}</h4><div class="foot">{c}</div></div>' for a, b, c in rows)
            case _:
                out = self.choice(
                    "which", self.words["databases" if base == "/db" else "users"], [(n, n) for n in names]
                )
                out = f"<form>{out}</form>" + "".join(f"<div>{a}{c}</div>" for a, b, c in rows)
        if self.traits["delete"] == "select":
            picks = self.choice("d", self.words["databases" if base == "/db" else "users"], [(n, n) for n in names])
            out += f"<h3>{self.word('delete')}</h3>" + self.form(f"{base}/drop", picks, self.words["delete"], session)
        return out

    def users_list(self, session: str) -> str:
        return self.list_of(list(self.state.users), session, "/dbusers")

    def name_field(self, name: str, key: str) -> str:
        match self.traits["naming"]:
            case "before-shown":
                label = self.words[key]
                return f'<p><label for="n-{name}">{escape(label)}</label> <span>{CUSTOMER}_</span><input id="n-{name}" name="{name}" maxlength="{self.longest}"></p>'
            case "preset":
                return self.field(name, self.words[key], value=f"{CUSTOMER}_")
            case "after":
                return self.field(name, self.words[key], after=f" -{CUSTOMER}")
        return self.field(name, self.words[key])

    def passwords(self) -> str:
        return self.field("pw", self.words["password"], "password") + self.field("pw2", self.words["again"], "password")

    def new_database(self, session: str) -> str:
        flow = self.traits["flow"]
        kinds = (
            self.choice("kind", "MySQL / PostgreSQL", [("pg", "PostgreSQL 15"), ("my", "MariaDB 10.11")])
            if self.traits["decoys"] == "many"
            else ""
        )
        if flow == "chosen":
            return self.form("/db/new", kinds + self.field("note", "Info"), self.words["create"], session)
        body = self.name_field("d", "database_name") + kinds
        if flow == "together":
            if self.traits["naming"] != "same":
                body += self.name_field("u", "user_name")
            body += self.passwords() + self.rights()
        return self.form("/db/new", body, self.words["create"], session)

    def new_user(self, session: str, database: str = "") -> str:
        body = self.name_field("u", "user_name") + self.passwords() + (self.rights() if database else "")
        hidden = {"d": database} if database else {}
        return self.form("/dbusers/new", body, self.words["create"], session, hidden)

    def rights(self) -> str:
        w = self.words
        match self.traits["rights"]:
            case "none":
                return ""
            case "select":
                options = [("r", "SELECT"), ("rw", "SELECT, INSERT"), ("all", w["all"])]
                return self.choice("may", w["privileges"], options)
        boxes = "".join(f'<label><input type="checkbox" name="may" value="{r}"> {r}</label>' for r in RIGHTS)
        if self.traits["rights"] == "all-box":
            boxes = f'<label><input type="checkbox" name="may" value="all"> {escape(w["all"])}</label>' + boxes
        return f"<fieldset><legend>{escape(w['privileges'])}</legend>{boxes}</fieldset>"

    def given(self, many: dict[str, list[str]]) -> list[str]:
        may = many.get("may", [])
        if self.traits["rights"] == "none" or "all" in may:
            return list(RIGHTS)
        return [r for r in may if r in RIGHTS]

    def attach_form(self, session: str, database: str = "") -> str:
        w = self.words
        users = self.choice("u", w["users"], [(u, u) for u in self.state.users])
        if database:
            return self.form("/db/attach", users + self.rights(), w["attach"], session, {"d": database})
        picks = self.choice("d", w["databases"], [(d, d) for d in self.state.databases])
        if self.traits["attach"] == "row":
            return self.form("/db/attach", picks + users, w["attach"], session)
        return self.form("/db/attach", users + picks + self.rights(), w["attach"], session)

    def one(self, name: str, session: str) -> tuple[int, str, str]:
        if name not in self.state.databases:
            return self.page("404", "<p>404</p>", session, 404)
        flow = self.traits["flow"]
        rows = "".join(f"<li>{escape(u)}: {', '.join(r)}</li>" for u, r in self.state.databases[name].items())
        body = f"<ul>{rows}</ul><dl><dt>{self.word('host')}</dt><dd>localhost</dd></dl>"
        if flow == "within":
            body += f"<h2>{self.word('new_user')}</h2>" + self.new_user(session, name)
        elif (self.split_users and self.traits["attach"] != "selects") or flow == "steps":
            body += f"<h2>{self.word('attach')}</h2>" + self.attach_form(session, name)
        return self.page(name, body, session)

    def sure(self, path: str, name: str, session: str) -> tuple[int, str, str]:
        w = self.words
        body = f"<p>{escape(name)}?</p>" + self.form(path, "", w["sure"], session, {"d": name, "sure": "1"})
        back = self.link("/db", session)
        return self.page(w["delete"], body + f'<p><a href="{back}">{self.word("go_back")}</a></p>', session)

    # What is done.
    def checked(self, name: str) -> str:
        if not re.fullmatch(r"[A-Za-z0-9_-]{3,64}", name):
            raise Said(self.words["taken"])
        if len(name) > self.longest:
            raise Said(self.words["too_long"].format(n=self.longest))
        return name

    def act(
        self, path: str, asked: dict[str, str], sent: dict[str, str], many: dict[str, list[str]], session: str
    ) -> tuple[int, str, str]:
        flow, w = self.traits["flow"], self.words
        if path == "/db/new":
            if self.traits["weather"] == "limit":
                raise Said(w["limit"])
            if self.traits["decoys"] == "many" and sent.get("kind") != "my":
                raise Said("PostgreSQL: -")
            if flow == "chosen":
                self.made += 1
                name, user, password = f"db{4200 + self.made}", f"u{4200 + self.made}", f"Zq8-{self.traits.seed}-ebb"
                self.state.databases[name] = {user: list(RIGHTS)}
                self.state.users[user] = password
                rows = [
                    (w["database_name"], name),
                    (w["user_name"], user),
                    (w["password"], password),
                    (w["host"], "sql3.saltmarsh.example"),
                ]
                shown = "".join(f"<tr><th>{escape(a)}</th><td>{escape(b)}</td></tr>" for a, b in rows)
                return self.page(w["databases"], f"<table>{shown}</table>", session)
            name = self.named(self.checked(sent.get("d", "")))
            if name in self.state.databases:
                raise Said(w["taken"])
            if flow == "steps" and "pw" not in sent:
                body = f"<p>{escape(name)}</p>" + self.name_field("u", "user_name") + self.passwords() + self.rights()
                return self.page(
                    w["new_user"],
                    self.form(
                        "/db/new",
                        body,
                        w["create"],
                        session,
                        {"d": sent["d"], **({"kind": sent["kind"]} if "kind" in sent else {})},
                    ),
                    session,
                )
            if (
                self.traits["confirm"] == "page"
                and sent.get("ok") != "1"
                and flow in ("separate", "within", "user-first")
            ):
                hidden = {"d": sent["d"], "ok": "1", **({"kind": sent["kind"]} if "kind" in sent else {})}
                return self.page(
                    w["new_database"],
                    f"<p>{escape(name)}</p>" + self.form(path, "", w["create"], session, hidden),
                    session,
                )
            grants: dict[str, list[str]] = {}
            if flow in ("together", "steps"):
                user = (
                    name
                    if self.traits["naming"] == "same" and flow == "together"
                    else self.named(self.checked(sent.get("u", "")))
                )
                self.user(user, sent)
                grants = {user: self.given(many)}
            if self.traits["weather"] == "slow":
                self.pending.append((self.requests + 3, lambda: self.state.databases.update({name: grants})))
            else:
                self.state.databases[name] = grants
            return 302, self.unescaped("/db", session), ""
        if path == "/dbusers/new":
            user = self.named(self.checked(sent.get("u", "")))
            self.user(user, sent)
            if database := sent.get("d"):
                self.state.databases[database][user] = self.given(many)
                return 302, self.unescaped(f"/db/one?d={quote(database)}", session), ""
            return 302, self.unescaped("/db" if flow == "one-page" else "/dbusers", session), ""
        if path == "/db/attach":
            database, user = sent.get("d", ""), sent.get("u", "")
            if database not in self.state.databases or user not in self.state.users:
                raise Said("?")
            if self.traits["attach"] == "row" and "step" not in sent and self.rights() and flow == "one-page":
                hidden = {"d": database, "u": user, "step": "2"}
                return self.page(
                    w["privileges"],
                    f"<p>{escape(user)} {escape(database)}</p>"
                    + self.form(path, self.rights(), w["create"], session, hidden),
                    session,
                )
            self.state.databases[database][user] = self.given(many)
            return 302, self.unescaped("/db", session), ""
        if path in ("/db/drop", "/dbusers/drop"):
            self.drops += 1
            return self.drop(path, sent, session)
        return self.page("404", "<p>404</p>", session, 404)

    def user(self, user: str, sent: dict[str, str]) -> None:
        if user in self.state.users:
            raise Said(self.words["taken"])
        if sent.get("pw") != sent.get("pw2") or len(sent.get("pw", "")) < 8:
            raise Said(self.words["again"])
        self.state.users[user] = sent["pw"]

    def drop(self, path: str, sent: dict[str, str], session: str) -> tuple[int, str, str]:
        name = sent.get("d", "")
        if sent.get("sure") != "1":
            return self.sure(path, name, session)
        if path == "/db/drop":
            grants = self.state.databases.pop(name)
            if self.traits["flow"] in ("together", "chosen", "steps", "within"):
                for user in grants:
                    self.state.users.pop(user, None)
        else:
            self.state.users.pop(name)
            for grants in self.state.databases.values():
                grants.pop(name, None)
        return (
            302,
            self.unescaped("/db" if path == "/db/drop" or self.traits["flow"] == "one-page" else "/dbusers", session),
            "",
        )


class YardFetch:
    """Web addresses in memory, as a browser without scripts has them. Implements ports.Fetch as far as panels need it."""

    def __init__(self, panel: YardPanel, session: str = "s-0001") -> None:
        self.panel, self.session = panel, session
        self.asked: list[str] = []

    def get(self, url: str) -> Snapshot:
        return self._go("GET", url, [])

    def post(self, url: str, fields: Sequence[tuple[str, str]], *, multipart: bool = False) -> Snapshot:
        return self._go("POST", url, list(fields))

    def _go(self, method: str, url: str, fields: list[tuple[str, str]]) -> Snapshot:
        assert urlsplit(url).netloc == urlsplit(ADDRESS).netloc, url
        for _ in range(6):
            self.asked.append(f"{method} {urlsplit(url).path} {unquote(str(fields))}")
            status, on, page = self.panel.answer(method, url, fields, self.session)
            if not on:
                return Snapshot(url, status, page, {"content-type": "text/html; charset=utf-8"})
            method, url, fields = "GET", urljoin(url, on), []
        raise AssertionError("redirects without end")

    def close(self) -> None:
        return
