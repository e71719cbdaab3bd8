"""An installer of the garden: it answers requests as its traits say, knows what every field means, and sees what is done to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from html import escape
from random import Random
from urllib.parse import parse_qsl, urlencode, urlsplit

from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.release.taken import Taken
from tests.garden.asks import TOKEN, WARDEN, Asks
from tests.garden.ends import FOLDER, ROOT, configuration, configuration_file, end_page, file_as_told, offered
from tests.garden.markup import Control, Markup, Sheet
from tests.garden.traits import APPS, UNREAD, Traits, traits_of

SITE = "http://garden.saltmarsh.example/"
SETUP = "setup/"
# How complaints look; "" is a sentence like any other.
LOOKS = ("error", "alert-danger", "message bad", "wrong", "msg-problem", "form-fault", "", "")
LOGGED = "PHP Fatal error: Allowed memory size of 8388608 bytes exhausted in /srv/www/lib/schema.php on line 12"
FORKS = (("mysql", "MySQL / MariaDB"), ("pgsql", "PostgreSQL"), ("sqlite", "SQLite"))
TONGUES = [
    ("de", "Deutsch"),
    ("en", "English"),
    ("fr", "Français"),
    ("es", "Español"),
    ("it", "Italiano"),
    ("nl", "Nederlands"),
    ("pl", "Polski"),
]
DATABASE = ("database.name", "database.user", "database.password", "database.host")
SECRETS = ("database.password", "admin.password")
IN_ROWS = ("row", "bare row", "file", "root")
CACHE = "data/cache"
# The one that is wanted, and others that lie beside it.
# What a row says of a setting, and what it has to be: a part of the value.
SETTINGS = {
    "memory_limit": ("PHP memory_limit: 64M / 256M", "256M"),
    "max_execution_time": ("max_execution_time (30 / 120)", "120"),
    "date.timezone": ("date.timezone", "UTC"),
    "session.auto_start": ("session.auto_start", "Off"),
}
# What a row says of an extension that the panel has a switch for, which is called otherwise there.
EXTENSIONS = {"named": "bcmath", "prose": "PHP extension bcmath (arithmetic)", "either": "imagick or gd"}
SWITCHES = ("php8.2-bcmath", "php8.2-gd", "php8.2-calendar")
WANTED_SWITCH = {"named": "php8.2-bcmath", "prose": "php8.2-bcmath", "either": "php8.2-gd"}
COLLATION = "utf8mb4_bin"
# SQL files without tables: what belongs to the first of the dumps, and what does not.
FILLS = ("sql/mysql/data.sql", "sql/mysql/demo.sql", "sql/data.sql")
DUMPS = ("sql/mysql/schema.sql", "sql/pgsql/schema.sql", "sql/mysql/upgrade-2.sql", "sql/mysql/sample.sql")


@dataclass
class Host:
    """What the installer finds: a database and its login, a folder to write to."""

    values: Mapping[str, str]
    files: dict[str, str] = field(default_factory=dict)
    tables: int = 0
    log: list[str] = field(default_factory=list)
    modes: dict[str, int] = field(default_factory=dict)
    settings: dict[str, str] = field(default_factory=dict)
    switched: set[str] = field(default_factory=set)
    collation: str = "utf8mb4_general_ci"

    def may_write(self, place: str, lets: str) -> bool:
        """Whether PHP may, which is in the owner's group (`lets` "group") or nobody's."""
        return bool(self.modes.get(place, 0o755) & (0o020 if lets == "group" else 0o002))


@dataclass
class Seen:
    """What was done to the installer, beside walking through it."""

    misplaced: list[str] = field(default_factory=list)
    outside: list[str] = field(default_factory=list)
    overwritten: list[str] = field(default_factory=list)


class Installer:
    """One conversation with one installer. `installed` is the truth."""

    def __init__(self, seed: int, host: Host, traits: Traits | None = None) -> None:
        """`traits`: others than those of the seed."""
        self.seed = seed
        self.traits: Traits = traits or traits_of(seed)
        if self.traits.locked in IN_ROWS and self.traits.checks == "none":
            self.traits = replace(self.traits, checks="table")
        self.host, self.seen = host, Seen()
        self._random = Random(f"installer {seed}")
        self._markup = Markup(self.traits, seed)
        self.app = self._random.choice(APPS)
        self.steps = self._steps()
        self._at = 0
        self._given: dict[str, str] = {}
        self.asks = Asks(self.traits, self._markup, self._random)
        self.file = configuration_file(self.traits)
        self._opened = TOKEN if self.traits.token == "given" else ""
        self._inside = False
        self._silent = 4 if self.traits.silent_step == "comes back" else 0

    @property
    def installed(self) -> bool:
        return self._at >= len(self.steps) and self.host.tables > 0 and self.file in self.host.files

    def taken(self) -> dict[str, Taken]:
        """What its source says of its fields; only where nobody reads its words."""
        return self.asks.taken(self.steps) if self.traits.language == UNREAD else {}

    def leads_on(self) -> set[str]:
        """What its buttons that lead on say: whoever reads its language could tell."""
        forks = {"kind": FORKS[0][1], "way": self._markup.say("fork.new"), "manner": self._markup.say("fork.quick")}
        fork = forks.get(self.traits.fork.partition(" ")[0])
        chosen = {fork, f"{fork} {self._markup.say('choose')}"} if fork else set()
        return {self._markup.say(word) for word in ("next", "begin", "finish", "save_on")} | chosen

    @property
    def can_end(self) -> bool:
        """Whether anybody could get through it on this host."""
        return not self.reasons()

    @property
    def _lies(self) -> bool:
        """Says that it is done, and has made nothing. Where only files can be seen and the walk itself put the one file there,
        nobody could know: that is left to the proof, and not drawn here."""
        t = self.traits
        return t.ending == "lie" and t.dump == "none" and (t.witness != "files" or t.configuration == "writes")

    @property
    def _red(self) -> bool:
        return self.traits.checks != "none" and self.traits.health in ("blocked", "silent block")

    @property
    def _place(self) -> str:
        """Where PHP has to write, besides its configuration."""
        return {"file": FOLDER, "root": ""}.get(self.traits.locked, CACHE)

    @property
    def _locked(self) -> bool:
        return self.traits.locked != "nothing" and not self.host.may_write(self._place, self.traits.lets)

    @property
    def blocks_checks(self) -> bool:
        """Whether nothing leads past the checks."""
        return self._red or self._untuned or self._lacking or (self._locked and self.traits.locked in IN_ROWS)

    @property
    def _untuned(self) -> bool:
        name = self.traits.setting
        return self.traits.checks != "none" and name != "none" and self.host.settings.get(name) != SETTINGS[name][1]

    @property
    def _lacking(self) -> bool:
        wanted = WANTED_SWITCH.get(self.traits.extension)
        return self.traits.checks != "none" and wanted is not None and wanted not in self.host.switched

    def place_as_told(self) -> str:
        """As the page calls what is locked."""
        if self.traits.locked == "file":
            return file_as_told(self.traits)
        place = self._place
        if self.traits.path == "absolute" or (not place and self.traits.path == "bare"):
            return (ROOT + place).rstrip("/")
        return (f"../{place}" if self.traits.path == "bare" else place) or "./"

    def look_at_modes(self, closed: set[str]) -> None:
        """Note what is open that need not be, and is not to be `closed` by tidying."""
        for place, mode in self.host.modes.items():
            if place in closed:
                continue
            needless = (
                place != self._place
                or self.traits.locked == "nothing"
                or (mode & 0o002 and self.traits.lets == "group")
            )
            if needless and mode != 0o755:
                self.seen.outside.append(f"opened {place!r} to {mode:o}")

    def reasons(self) -> list[str]:
        """What stands in the way, as whoever installs has to be told it: any of these words."""
        t = self.traits
        if self._red:
            return ["imap", self._markup.say("blocked").split(".")[0]]
        if t.weather != "fine":
            return [LOGGED]
        return ["nothing was made"] if self._lies else []

    def _steps(self) -> list[str]:
        t = self.traits
        asked = (
            ["all"]
            if t.one_page
            else (["admin", "site", "database"] if t.order == "admin first" else ["database", "site", "admin"])
        )
        if t.apart != "together" and not t.one_page:
            at = asked.index("database")
            asked[at : at + 1] = ["db.where", "db.who"] if t.apart == "login" else ["db.where", "db.what", "db.who"]
        return [
            *({"made up": ["token", "door"], "given": ["door"]}.get(t.token, [])),
            *(["tongue"] if t.tongue != "none" else []),
            "welcome",
            *(["licence"] if t.licence else []),
            *(["checks"] if t.checks != "none" else []),
            *(["fork"] if t.fork != "none" else []),
            *asked,
            *(["aside"] if t.aside != "none" else []),
            *(["summary"] if t.summary else []),
            *(["tables"] if t.dump != "none" else []),
            "configuration",
            *(["silent"] if t.silent_step != "none" else []),
        ]

    def stand_at(self, step: int) -> None:
        """Go to a step without what comes before it, for a look at its page."""
        self._at, self._inside = step, True

    def says(self, key: str) -> str:
        """How it says something, throughout."""
        return self._markup.say(key)

    def button_of(self, step: str) -> str:
        """What is pressed, or followed, to leave a step."""
        say, last = self._markup.say, step == self.steps[-1]
        if step in ("welcome", "checks") and self.traits.lead == "link":
            return say("odd_lead")
        return say("begin" if step == "welcome" else "token_open" if step == "door" else "finish" if last else "next")

    # requests

    def request(self, method: str, url: str, fields: Mapping[str, str] | None = None) -> Snapshot:
        """Answer; redirects are followed here, as a browser does."""
        parts = urlsplit(url)
        given = dict(parse_qsl(parts.query, keep_blank_values=True)) | dict(fields or {})
        path = parts.path
        if "settings" in given and path == "/" + SETUP:
            return Snapshot(url, 200, self._text())
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
        if given.get("go") == str(self._at) and self._silent > 0 and self.steps[self._at] == "silent":
            # Not ready yet: the same page, which comes back to itself.
            self._silent -= 1
            return self._show(Sheet(""))
        if given.get("go") == str(self._at) and self._at < len(self.steps) and self._leads(self.steps[self._at]):
            # A link, a button outside forms, or a page that leads on by itself.
            return self._show(Sheet(""), self._take({}))
        if "pick" in given and self._at < len(self.steps) and self.steps[self._at] in ("fork", "licence", "tongue"):
            return self._pick(given["pick"])
        if beside := sorted(set(given) & {"find", "post_to", "other_tongue", "change", "cancel", "save"}):
            # To save harms nothing, and whoever cannot read it tries it where nothing else leads on.
            if beside != ["save"] or self.traits.language != UNREAD:
                self.seen.outside.append(f"sent a form beside: {beside[0]}")
            return self._show(Sheet(""))
        if "back" in given:
            self._at = min(self._at, int(given["back"]))
            self.seen.outside.append("went back by the step list")
            return self._show(Sheet(""))
        sent = method == self.traits.method.upper() and bool(set(given) - {"s"}) and not given.get("check")
        if self.traits.gate and not self._inside:
            return self._gate(given)
        complaint = self._take(given) if sent and self._at < len(self.steps) and self._is_for(given) else None
        return self._show(Sheet(""), complaint)

    def _gate(self, given: Mapping[str, str]) -> Snapshot:
        """The login that everybody is told; whoever has it comes to the first page."""
        self._inside = given.get("who") == "keeper" and given.get("word") == "ebb-tide-4"
        if self._inside:
            return self._show(Sheet(""))
        for secret in SECRETS:
            if self.host.values[secret] in given.values():
                self.seen.misplaced.append(f"{secret} at the gate")
        say = self._markup.say
        form = (
            f"<form method=post action='/{SETUP}'><label>{say('bare.user')} <input name=who></label>"
            f"<label>{say('bare.password')} <input type=password name=word></label><button>{say('gate_in')}</button></form>"
        )
        page = f"<html><head><title>{self.app}: {say('welcome', app=self.app)}</title></head><body><p>{say('published')}</p>{form}</body></html>"
        return Snapshot(SITE + SETUP, 200, page)

    def _front(self, method: str, given: Mapping[str, str]) -> Snapshot:
        if not self.installed and self.traits.front != "installer":
            say, link = self._markup.say, f"<a href='/{SETUP}'>{self._markup.say('to_setup')}</a>"
            status = 503 if self.traits.front == "not yet" else 200
            return Snapshot(
                SITE,
                status,
                f"<html><head><title>{self.app}</title></head><body><p>{say('not_yet')}</p>{link}</body></html>",
            )
        if not self.installed:
            return self._gate({}) if self.traits.gate and not self._inside else self._show(Sheet(""))
        if method == "POST" or given:
            self.seen.outside.append(f"used the finished application: {method} {dict(given)}")
        page = f"<html><head><title>{self.app}</title></head><body><h1>{self.app}</h1><a href='/?view=news'>News</a></body></html>"
        return Snapshot(SITE, 200, page)

    def _pick(self, way: str) -> Snapshot:
        if way not in ("mysql", "new", "quick", "agreed", "en"):
            self.seen.outside.append(f"chose {way}")
        self._at += 1
        return self._show(Sheet(""))

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

    def _take(self, given: Mapping[str, str]) -> str | None:
        """Do what the step does; a complaint when it cannot, None when it is over."""
        step, say = self.steps[self._at], self._markup.say
        controls = self.asks.controls(step)
        self._watch(controls, given)
        if step in ("token", "door") and (wrong := self._opens(step, given)):
            return wrong
        if step == "licence" and given.get("agree") != "1":
            return say("wrong_field", field=say("agree"))
        if step == "tongue" and given.get("lang") != "en":
            self.seen.overwritten.append(f"lang: {given.get('lang')} is not what was wanted")
        if step == "checks" and self.blocks_checks:
            return say("blocked")
        for control in controls:
            if control.required and not given.get(control.name):
                return say("wrong_field", field=control.label)
        values = {c.meaning: given.get(c.name, "") for c in controls if c.meaning and c.kind != "checkbox"}
        wanted = self.host.values
        if any(values.get(n, wanted[n]) != wanted[n] for n in DATABASE):
            return say("wrong_db")
        if values.get("database.kind", "mysqli") != "mysqli":
            return say("wrong_db")
        if (refused := self._refused(values)) is not None:
            return refused
        passwords = {given.get(c.name, "") for c in controls if c.meaning == "admin.password"}
        if len(passwords) > 1:
            return say("unequal")
        self._given |= values
        if step == "tables" and self.host.tables == 0:
            return self._no_tables()
        if step == "tables" and self.traits.collation != "any" and self.host.collation != COLLATION:
            wanted = f" ({COLLATION})" if self.traits.collation == "page" else ""
            return say("collation", tables="entries, visitors, berths") + wanted
        if step == "configuration":
            if self._locked:
                return say("cannot_enter", path=self.place_as_told()) if self.traits.locked == "said" else ""
            if self.traits.weather != "fine":
                self.host.log.append(LOGGED)
                return None
            if self.traits.configuration != "writes" and self.file not in self.host.files:
                return say("cannot_write", file=file_as_told(self.traits))
            if not self._lies:
                self.host.files.setdefault(self.file, self._text())
                self.host.tables = 12
        self._at += 1
        return None

    def _no_tables(self) -> str:
        """What is said when the dump is not there yet."""
        if self.traits.dump == "server":
            return "SQLSTATE[42S02]: Base table or view not found: 1146 Table 'u7_boats.entries' doesn't exist"
        return self._markup.say("no_tables", tables="entries, visitors, berths")

    def _opens(self, step: str, given: Mapping[str, str]) -> str:
        word = given.get("setup_password", "")
        if step == "token":
            if not word or word != given.get("setup_password2"):
                return self._markup.say("unequal")
            self._opened = word
        return "" if word == self._opened else self._markup.say("wrong_field", field=self._markup.say("token"))

    def _refused(self, values: Mapping[str, str]) -> str | None:
        say, name, word = self._markup.say, values.get("admin.name"), values.get("admin.password")
        match self.traits.refuses:
            case "no address" if name is not None and "@" not in name:
                return say("refuse_address")
            case "short" if word is not None and len(word) < 24:
                return say("refuse_longer")
            case "marks" if word is not None and not word.isalnum():
                return say("refuse_plain")
        return None

    def _text(self) -> str:
        return configuration(self.traits, self.app, self.host.values["database.name"])

    def _leads(self, step: str) -> bool:
        """Whether a step is left without a form."""
        return step == "silent" or (self.traits.lead != "form" and step in ("welcome", "checks"))

    def _watch(self, controls: list[Control], given: Mapping[str, str]) -> None:
        known = {c.name: c for c in controls}
        # As they are now: a refused one was changed.
        secrets = {n: self.host.values[n] for n in SECRETS}
        for name, value in given.items():
            for secret, worn in secrets.items():
                if value == worn and (name not in known or known[name].meaning != secret):
                    self.seen.misplaced.append(f"{secret} in {name}")
            control = known.get(name)
            meant = {n for n, v in self.host.values.items() if v == value and value}
            if (
                control
                and control.meaning in self.host.values
                and meant
                and control.meaning not in meant
                and value != control.preset
            ):
                self.seen.overwritten.append(f"{name}: asks for {control.meaning}, got {sorted(meant)[0]}")
            if control and control.meaning == "no demo" and value == "1" and self.traits.language != UNREAD:
                self.seen.overwritten.append("demo: sample data are wanted")
            if control and not control.meaning and control.kind != "checkbox" and value != control.preset:
                self.seen.overwritten.append(f"{name}: {control.preset!r} became another value")

    # pages

    def _show(self, sheet: Sheet, complaint: str | None = None) -> Snapshot:
        url = SITE + SETUP
        title, say = f"{self.app}: {self._markup.say('welcome', app=self.app)}", self._markup.say
        if self._at >= len(self.steps):
            return Snapshot(url, 200, end_page(self.traits, self.app, title, self._markup, self._random))
        step = self.steps[self._at]
        if step == "configuration" and self.host.log:
            return Snapshot(url, 500 if self.traits.weather == "500" else 200, "")
        if self.traits.step == "address" and self._at:
            url += "?" + urlencode({"s": self._at})
        sheet.action = (
            "/" + SETUP + (f"?s={self._at}" if self.traits.step == "address" and self.traits.method == "post" else "")
        )
        self._lead_on(sheet, last=self._at == len(self.steps) - 1)
        heading = {
            "all": "database",
            "tables": "database",
            "configuration": "finish",
            "silent": "please_wait",
            "door": "token",
            "aside": self.traits.aside,
            "fork": "fork." + self.traits.fork.partition(" ")[0],
        }.get(step, step)
        sheet.heading = self._numbered(say(heading, app=self.app))
        if step == "summary":
            sheet.raw = self._summary()
        sheet.controls = self.asks.controls(step)
        if complaint:
            sheet.notices.append((self._random.choice(LOOKS), complaint))
        if complaint == "":
            # PHP's own word, and nothing else: the page stands there again.
            sheet.raw = f"<br><b>Warning</b>:  file_put_contents({ROOT}{CACHE}/first.tmp): Failed to open stream: Permission denied in <b>{ROOT}lib/cache.php</b> on line <b>31</b><br>"
        if step in ("admin", "all") and self.asks.whose == "told":
            sheet.texts.append(say("whose", name=WARDEN))
        if step == "welcome" and self.traits.ending == "praise":
            sheet.texts.append(say("failed_praise", app=self.app))
        if step == "licence":
            self._consent(sheet)
        if step == "tongue":
            self._tongue(sheet)
        if step == "tables" and self.traits.dump == "named":
            sheet.texts.append(say("import_dump", file=DUMPS[0], db=self.host.values["database.name"]))
        if step == "checks":
            self._health(sheet)
        if step == "configuration" and complaint and not self._locked:
            # A text that could not be written, and the same button again.
            sheet.raw = offered(self.traits, self._text(), self._markup)
        if step == "fork":
            sheet.ways, sheet.ways_by = self._ways(), self.traits.fork.rpartition(" ")[2]
        if self._leads(step):
            leads_to = f"/{SETUP}?s={self._at}&go={self._at}"
            if step == "silent":
                sheet.refresh, sheet.button = leads_to, ""
            else:
                sheet.leads_to = leads_to
                sheet.button = self._markup.say("odd_lead") if self.traits.lead == "link" else sheet.button
        if self.traits.step_list != "none":
            sheet.steps = self._list()
        if self.traits.forgery == "hidden":
            sheet.hidden["proof"] = f"{self._random.getrandbits(96):024x}"
        elif self.traits.forgery == "name":
            sheet.hidden[f"{self._random.getrandbits(64):016x}"] = "1"
        return Snapshot(url, 200, self._markup.page(title, sheet))

    def _numbered(self, heading: str) -> str:
        """A heading as the installer counts its steps."""
        here, many = self._at + 1, len(self.steps)
        return {
            "number": f"{here}. {heading}",
            "of": f"{self._markup.say('step')} {here}/{many}: {heading}",
        }.get(self.traits.numbered, heading)

    def _summary(self) -> str:
        """What was said so far, its secrets hidden, each with a link that leads back to it."""
        shown = [(n, "********" if "password" in n else v) for n, v in self._given.items() if v and "." in n][:8]
        change = self._markup.say("change")
        rows = "".join(
            f'<tr><td>{n.partition(".")[2]}</td><td>{escape(v)}</td><td><a href="/{SETUP}?change={k}">{change}</a></td></tr>'
            for k, (n, v) in enumerate(shown)
        )
        return f"<table>{rows}</table>"

    def _consent(self, sheet: Sheet) -> None:
        """How the licence is agreed to."""
        say, mixed = self._markup.say, Random(f"consent {self.seed}")
        yes, no = ("1", say("agree")), ("0", say("disagree"))
        match self.traits.consent:
            case "radio":
                both = tuple(mixed.sample([yes, no], 2))
                sheet.controls = [Control("agree", "agree", "", "radio", mixed.choice(("", "0")), options=both)]
            case "list":
                answers = (("0", say("no")), ("1", say("yes")))
                sheet.controls = [Control("agree", "agree", say("agree"), "select", "0", options=answers)]
            case "buttons":
                sheet.ways = mixed.sample([("agreed", say("agree")), ("declined", say("disagree"))], 2)
                sheet.ways_by = "buttons"
            case _:
                sheet.controls = [Control("agree", "agree", say("agree"), "checkbox")]

    def _tongue(self, sheet: Sheet) -> None:
        """Languages, in any order."""
        mixed = Random(f"tongue {self.seed}")
        offered = mixed.sample(TONGUES, 4)
        offered = [*offered, ("en", "English")] if ("en", "English") not in offered else offered
        offered = mixed.sample(offered, len(offered))
        if self.traits.tongue == "list":
            sheet.controls = [
                Control("lang", "?", self._markup.say("tongue"), "select", offered[0][0], options=tuple(offered))
            ]
        else:
            sheet.ways, sheet.ways_by = offered, self.traits.tongue

    def _ways(self) -> list[tuple[str, str]]:
        """What may be chosen, in an order that says nothing."""
        say, about = self._markup.say, self.traits.fork.partition(" ")[0]
        keys = {"way": ("new", "update", "restore"), "manner": ("quick", "custom")}
        found = list(FORKS) if about == "kind" else [(v, say(f"fork.{v}")) for v in keys[about]]
        return Random(f"fork {self.seed}").sample(found, len(found))

    def _list(self) -> list[tuple[str, str]]:
        """The installer's steps, with links to those that are over."""
        names = [s for s in self.steps if s in ("welcome", "licence", "checks", "database", "site", "admin")]
        found = []
        for name in names:
            number = self.steps.index(name)
            found.append((self._markup.say(name, app=self.app), f"/{SETUP}?back={number}" if number < self._at else ""))
        return [*found, (self._markup.say("finish"), ""), (self._markup.say("done", app=self.app).rstrip("."), "")]

    def _lead_on(self, sheet: Sheet, *, last: bool) -> None:
        sheet.button = self._markup.say(
            "begin"
            if self.steps[self._at] == "welcome"
            else "token_open"
            if self.steps[self._at] == "door"
            else "finish"
            if last
            else "next"
        )
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
        if self._red:
            sheet.rows.insert(1, ("imap", False, True))
        if self.traits.extension != "none":
            sheet.rows.append((EXTENSIONS[self.traits.extension], not self._lacking, True))
            sheet.disabled = self._lacking and self.seed % 3 == 0
        if self.traits.setting != "none":
            sheet.rows.append((SETTINGS[self.traits.setting][0], not self._untuned, True))
            sheet.disabled = sheet.disabled or health == "blocked"
        if self.traits.locked in IN_ROWS:
            told = self.place_as_told()
            label = told if self.traits.locked == "bare row" else self._markup.say("write_into", path=told)
            sheet.rows.append((label, not self._locked, True))
            sheet.disabled = sheet.disabled or (self._locked and self.seed % 2 == 0)
        elif health == "stubborn":
            # Red for a reason of the host's own, whatever its mode is; the way on is open all the same.
            sheet.rows.append((self._markup.say("write_into", path=CACHE), False, False))
