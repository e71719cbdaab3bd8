"""An installer of the garden: it answers requests as its traits say, knows what every field means, and sees what is done to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from random import Random
from urllib.parse import parse_qsl, urlencode, urlsplit

from highshelf.core.pages.snapshot import Snapshot
from tests.garden.markup import Control, Markup, Sheet
from tests.garden.traits import APPS, Traits, traits_of

SITE = "http://garden.saltmarsh.example/"
SETUP = "setup/"
CONFIG = "etc/settings.php"
SECRETS = ("database.password", "admin.password")


@dataclass
class Host:
    """What the installer finds: a database and its login, a folder to write to."""

    values: Mapping[str, str]
    files: dict[str, str] = field(default_factory=dict)
    tables: int = 0


@dataclass
class Seen:
    """What was done to the installer, beside walking through it."""

    misplaced: list[str] = field(default_factory=list)
    outside: list[str] = field(default_factory=list)
    overwritten: list[str] = field(default_factory=list)


class Installer:
    """One conversation with one installer. `installed` is the truth."""

    def __init__(self, seed: int, host: Host) -> None:
        self.traits: Traits = traits_of(seed)
        self.host, self.seen = host, Seen()
        self._random = Random(f"installer {seed}")
        self._markup = Markup(self.traits, seed)
        self.app = self._random.choice(APPS)
        self.steps = self._steps()
        self._at = 0
        self._given: dict[str, str] = {}
        # Two fields of one form are never called the same.
        self._style = self._random.choice(
            ("prefixed", "array") if self.traits.one_page else ("plain", "prefixed", "array")
        )

    @property
    def installed(self) -> bool:
        return self._at >= len(self.steps) and self.host.tables > 0 and CONFIG in self.host.files

    @property
    def can_end(self) -> bool:
        """Whether anybody could get through it on this host."""
        return self.traits.checks == "none" or self.traits.health not in ("blocked", "silent block")

    def _steps(self) -> list[str]:
        t = self.traits
        asked = (
            ["all"]
            if t.one_page
            else (["admin", "site", "database"] if t.order == "admin first" else ["database", "site", "admin"])
        )
        return [
            "welcome",
            *(["licence"] if t.licence else []),
            *(["checks"] if t.checks != "none" else []),
            *asked,
            "configuration",
        ]

    # requests

    def request(self, method: str, url: str, fields: Mapping[str, str] | None = None) -> Snapshot:
        """Answer; redirects are followed here, as a browser does."""
        parts = urlsplit(url)
        given = dict(parse_qsl(parts.query, keep_blank_values=True)) | dict(fields or {})
        path = parts.path
        if path in ("/", "/index.php"):
            return self._front(method, given)
        if not path.startswith("/" + SETUP):
            return self._elsewhere(method, path)
        if given.get("again"):
            self.seen.outside.append(f"pressed {given['again']}")
            self._at = 0
            return self._show(Sheet(""))
        if "mailtest" in given:
            self.seen.outside.append("sent a test message")
        sent = method == self.traits.method.upper() and bool(set(given) - {"s"}) and not given.get("check")
        complaint = self._take(given) if sent and self._at < len(self.steps) and self._is_for(given) else None
        return self._show(Sheet(""), complaint)

    def _front(self, method: str, given: Mapping[str, str]) -> Snapshot:
        if not self.installed:
            return self._show(Sheet(""))
        if method == "POST" or given:
            self.seen.outside.append(f"used the finished application: {method} {dict(given)}")
        page = f"<html><head><title>{self.app}</title></head><body><h1>{self.app}</h1><a href='/?view=news'>News</a></body></html>"
        return Snapshot(SITE, 200, page)

    def _elsewhere(self, method: str, path: str) -> Snapshot:
        if method == "POST" or path not in ("/login.php",):
            self.seen.outside.append(f"{method} {path}")
        return Snapshot(SITE + path.lstrip("/"), 200, f"<html><body><h1>{self.app}</h1></body></html>")

    def _is_for(self, given: Mapping[str, str]) -> bool:
        """Whether a request is for the step that is shown, not for one that was shown before."""
        step = str(self._at)
        match self.traits.step:
            case "hidden":
                return given.get("op") == f"step{step}"
            case "button name":
                return f"go_{step}" in given
            case "button value":
                return given.get("do") == f"s{step}"
            case _:
                return given.get("s") == step

    # steps

    def _controls(self, step: str) -> list[Control]:
        found: list[Control] = []
        for part in ("database", "site", "admin") if step == "all" else (step,):
            found += {"database": self._database, "site": self._site, "admin": self._admin}.get(part, list)()
        foreign = self.traits.foreign
        if step in ("site", "all") and foreign != "none":
            prefix = "smtp" if foreign == "mail" else "ldap"
            say = self._markup.say
            found += [
                Control(f"{prefix}_host", "", say("bare.host"), preset="localhost", group=foreign),
                Control(f"{prefix}_user", "", say("bare.user"), group=foreign),
                Control(f"{prefix}_password", "", say("bare.password"), "password", group=foreign),
            ]
        return found

    def _name(self, group: str, name: str) -> str:
        return {"plain": name, "prefixed": f"{group}_{name}", "array": f"{group}[{name}]"}[self._style]

    def _database(self) -> list[Control]:
        say, t = self._markup.say, self.traits
        # Without a group that says so, a bare "User" would mean nothing to anybody.
        bare = t.bare and t.group != "none"
        word = (lambda key: say(f"bare.{key}")) if bare else (lambda key: say(f"db.{key}"))
        found = [
            Control(self._name("db", "host"), "database.host", word("host"), preset="localhost", group="database"),
            Control(self._name("db", "name"), "database.name", say("db.name"), required=True, group="database"),
            Control(self._name("db", "user"), "database.user", word("user"), required=True, group="database"),
            Control(self._name("db", "pass"), "database.password", word("password"), "password", group="database"),
        ]
        if t.port == "own field":
            found.append(
                Control(self._name("db", "port"), "database.port", say("db.port"), preset="3306", group="database")
            )
        if t.prefix:
            found.append(
                Control(
                    self._name("db", "prefix"), "database.prefix", say("db.prefix"), preset="app_", group="database"
                )
            )
        return found

    def _site(self) -> list[Control]:
        say = self._markup.say
        found = [Control(self._name("site", "title"), "site.title", say("site.title"), required=True, group="site")]
        if self.traits.presets:
            found.append(Control(self._name("site", "rows"), "", say("page_size"), "number", "25", group="site"))
        if self.traits.extras:
            found.append(Control("sample", "off", say("sample"), "checkbox", group="site"))
            found.append(Control("news", "off", say("newsletter"), "checkbox", "1", group="site"))
        return found

    def _admin(self) -> list[Control]:
        say = self._markup.say
        found = [
            Control(self._name("admin", "login"), "admin.name", say("admin.name"), required=True, group="admin"),
            Control(
                self._name("admin", "pass"),
                "admin.password",
                say("admin.password"),
                "password",
                required=True,
                group="admin",
            ),
            Control(
                self._name("admin", "pass2"),
                "admin.password",
                say("admin.repeat"),
                "password",
                required=True,
                group="admin",
            ),
        ]
        if self.traits.email:
            found.append(
                Control(
                    self._name("admin", "email"),
                    "admin.email",
                    say("admin.email"),
                    "email",
                    required=True,
                    group="admin",
                )
            )
        return found

    def _take(self, given: Mapping[str, str]) -> str | None:
        """Do what the step does; a complaint when it cannot, None when it is over."""
        step, say = self.steps[self._at], self._markup.say
        controls = self._controls(step)
        self._watch(controls, given)
        if step == "licence" and given.get("agree") != "1":
            return say("wrong_field", field=say("agree"))
        if step == "checks" and not self.can_end:
            return say("blocked")
        for control in controls:
            if control.required and not given.get(control.name):
                return say("wrong_field", field=control.label)
        values = {c.meaning: given.get(c.name, "") for c in controls if c.meaning and c.kind != "checkbox"}
        wanted = self.host.values
        if "database.name" in values and any(
            values.get(n, wanted[n]) != wanted[n]
            for n in ("database.name", "database.user", "database.password", "database.host")
        ):
            return say("wrong_db")
        passwords = {given.get(c.name, "") for c in controls if c.meaning == "admin.password"}
        if len(passwords) > 1:
            return say("unequal")
        self._given |= values
        if step == "configuration":
            if self.traits.configuration != "writes" and CONFIG not in self.host.files:
                return say("cannot_write", file=CONFIG)
            self.host.files[CONFIG] = self._configuration()
            self.host.tables = 12
        self._at += 1
        return None

    def _watch(self, controls: list[Control], given: Mapping[str, str]) -> None:
        known = {c.name: c for c in controls}
        for name, value in given.items():
            for secret in SECRETS:
                if value == self.host.values[secret] and (name not in known or known[name].meaning != secret):
                    self.seen.misplaced.append(f"{secret} in {name}")
            control = known.get(name)
            if control and not control.meaning and control.kind != "checkbox" and value != control.preset:
                self.seen.overwritten.append(f"{name}: {control.preset!r} became another value")

    def _configuration(self) -> str:
        return f"<?php\nreturn ['app' => '{self.app}', 'database' => '{self.host.values['database.name']}'];\n"

    # pages

    def _show(self, sheet: Sheet, complaint: str | None = None) -> Snapshot:
        url = SITE + SETUP
        title, say = f"{self.app}: {self._markup.say('welcome', app=self.app)}", self._markup.say
        if self._at >= len(self.steps):
            return Snapshot(url, 200, self._end(title))
        step = self.steps[self._at]
        if self.traits.step == "address" and self._at:
            url += "?" + urlencode({"s": self._at})
        sheet.action = (
            "/" + SETUP + (f"?s={self._at}" if self.traits.step == "address" and self.traits.method == "post" else "")
        )
        self._lead_on(sheet, last=self._at == len(self.steps) - 1)
        heading = {"all": "database", "welcome": "welcome", "configuration": "finish"}.get(step, step)
        sheet.heading = say(heading, app=self.app)
        sheet.controls = self._controls(step)
        if complaint is not None:
            sheet.notices.append((self._random.choice(("error", "alert-danger", "message bad")), complaint))
        if step == "welcome" and self.traits.ending == "praise":
            sheet.texts.append(say("failed_praise", app=self.app))
        if step == "licence":
            sheet.controls = [Control("agree", "agree", say("agree"), "checkbox")]
        if step == "checks":
            self._health(sheet)
        if step == "configuration" and complaint is not None:
            # A text that could not be written, and the same button again.
            text = self._configuration().replace("<", "&lt;")
            sheet.raw = (
                f"<textarea rows=8 cols=60 readonly>{text}</textarea>"
                if self.traits.configuration == "textarea"
                else f"<pre>{text}</pre>"
            )
        return Snapshot(url, 200, self._markup.page(title, sheet))

    def _lead_on(self, sheet: Sheet, *, last: bool) -> None:
        sheet.button = self._markup.say("begin" if self._at == 0 else "finish" if last else "next")
        at = self._at
        match self.traits.step:
            case "hidden":
                sheet.hidden["op"] = f"step{at}"
            case "button name":
                sheet.button_name, sheet.button_value = f"go_{at}", ""
            case "button value":
                sheet.button_name, sheet.button_value = "do", f"s{at}"
            case _:
                sheet.hidden |= {"s": str(at)} if self.traits.method == "get" else {}
        if self.traits.step == "address":
            sheet.hidden["sent"] = "1"

    def _health(self, sheet: Sheet) -> None:
        health = self.traits.health
        sheet.rows = [("PHP 8.2", True, True), ("mbstring", True, True), ("intl", health != "optional red", False)]
        if not self.can_end:
            sheet.rows.insert(1, ("imap", False, True))
            sheet.disabled = health == "blocked"

    def _end(self, title: str) -> str:
        say, t = self._markup.say, self.traits
        done = f"<p class='success'>{say('done', app=self.app)}</p>"
        login = f"<a href='/login.php'>{say('sign_in')}</a>"
        match t.ending:
            case "login":
                inside = (
                    f"<form method=post action='/login.php'><label>{say('bare.user')} <input name=user></label>"
                    f"<label>{say('bare.password')} <input type=password name=password></label><button>{say('sign_in')}</button></form>"
                )
                return (
                    f"<html><head><title>{self.app}</title></head><body><h1>{say('sign_in')}</h1>{inside}</body></html>"
                )
            case "bare page":
                return f"<html><head><title>{title}</title></head><body>{done}</body></html>"
            case "site":
                return f"<html><head><title>{self.app}</title></head><body><h1>{self.app}</h1>{done}<a href='/'>{say('open')}</a></body></html>"
            case "dangerous":
                button = f"<form method=post action='/tools.php'><button name=empty value=1>{say('delete_all')}</button></form>"
                return f"<html><head><title>{title}</title></head><body>{done}{login}{button}</body></html>"
            case _:
                return f"<html><head><title>{title}</title></head><body><h1>{title}</h1>{done}{login}</body></html>"
