"""What the garden's installers ask, and what each field means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from hashlib import md5
from random import Random

from highshelf.core.pages.lexicon import lexicon
from highshelf.core.release.taken import Taken
from tests.garden.markup import Control, Markup
from tests.garden.traits import UNREAD, Traits

# The word that opens an installer, where whoever installs has it from elsewhere.
TOKEN = "ebb-and-flow-7731"
# The administrator's name, where an installer has chosen it.
WARDEN = "warden7"
LANDS = (
    ("DE", "Germany"),
    ("FR", "France"),
    ("ES", "Spain"),
    ("GB", "United Kingdom"),
    ("IT", "Italy"),
    ("NL", "Netherlands"),
    ("PL", "Poland"),
    ("PT", "Portugal"),
)
# Steps that ask for a part of what the database's step asks.
PARTS = ("db.where", "db.what", "db.who")
KINDS = (("pgsql", "PostgreSQL"), ("mysqli", "MySQL / MariaDB"), ("sqlite", "SQLite"))


class Asks:
    """The fields of one installer's steps."""

    def __init__(self, traits: Traits, markup: Markup, random: Random) -> None:
        self.traits, self._say, self._markup = traits, markup.say, markup
        # Two fields of one form are never called the same.
        self._style = random.choice(("prefixed", "array") if traits.one_page else ("plain", "prefixed", "array"))

    @property
    def whose(self) -> str:
        """Whether the administrator's name is asked for, as it is where its form or its language would not tell it."""
        plain = not self.traits.own_words and self.traits.refuses != "no address" and self.traits.language != UNREAD
        return self.traits.whose if plain else "asked"

    def controls(self, step: str) -> list[Control]:
        found: list[Control] = []
        for part in ("database", "site", "admin") if step == "all" else (step,):
            ways = {
                "database": self._database,
                "site": self._site,
                "admin": self._admin,
                "token": self._token,
                "door": self._door,
                "aside": lambda: self._login("aside", "bare", ""),
            }
            found += self._part(part) if part in PARTS else ways.get(part, list)()
        if step in ("site", "all"):
            found += self._foreign()
            found += self._hosting()
        if self.traits.module and step in ("database", "all"):
            found += self._module()
        if self.traits.language == UNREAD:
            # Not even the names of the fields say anything.
            found = [
                replace(c, name=f"q{md5(c.name.encode()).hexdigest()[:5]}") if "setup" not in c.name else c
                for c in found
            ]
        return found

    def taken(self, steps: Sequence[str]) -> dict[str, Taken]:
        """What the installer's source would say of its fields."""
        found: dict[str, Taken] = {}
        for c in [c for step in steps for c in self.controls(step)]:
            if c.meaning not in lexicon().values and c.group not in (
                "module",
                "mail",
                "directory",
                "hosting",
                "service",
                "person",
            ):
                continue
            value, before = c.meaning or "foreign", found.get(c.name)
            # One name may be for two things on two pages: a source says both.
            others = (before.value, *before.others) if before and before.value != value else ()
            mail = c.meaning.endswith(".email") or (c.meaning == "admin.name" and self.traits.refuses == "no address")
            least = 24 if c.meaning == "admin.password" and self.traits.refuses == "short" else 0
            found[c.name] = Taken(c.name, value, "setup/index.php:1", 0.92, others, mail=mail, least=least)
        return found

    def _name(self, group: str, name: str) -> str:
        return {"plain": name, "prefixed": f"{group}_{name}", "array": f"{group}[{name}]"}[self._style]

    def _foreign(self) -> list[Control]:
        foreign, say = self.traits.foreign, self._say
        if foreign == "none":
            return []
        prefix = "smtp" if foreign == "mail" else "ldap"
        return [
            Control(f"{prefix}_host", "", say("bare.host"), preset="localhost", group=foreign),
            Control(f"{prefix}_user", "", say("bare.user"), group=foreign),
            Control(f"{prefix}_password", "", say("bare.password"), "password", group=foreign),
        ]

    def _hosting(self) -> list[Control]:
        """The login of the web space: not for any installer."""
        t = self.traits
        if t.hosting == "person":
            return self._somebody() if t.group != "none" else []
        headed = t.hosting in ("headed", "service") and t.group != "none"
        if t.hosting == "none" or (t.hosting == "service" and not headed):
            return []
        group = {"headed": "hosting", "service": "service"}[t.hosting] if headed else "site"
        return self._login("svc" if t.hosting == "service" else "ftp", "bare" if headed else "ftp", group)

    def _somebody(self) -> list[Control]:
        """An account that may be made beside the administrator's, and need not be."""
        say = self._say
        return [
            Control("other_name", "", say("bare.user"), group="person"),
            Control("other_password", "", say("bare.password"), "password", group="person"),
        ]

    def _login(self, prefix: str, words: str, group: str) -> list[Control]:
        """Whatever it is for, it is not ours, and may stay as it is."""
        say, preset = self._say, "localhost" if prefix == "ftp" else ""
        return [
            Control(f"{prefix}_host", "", say(f"{words}.host"), preset=preset, group=group),
            Control(f"{prefix}_user", "", say(f"{words}.user"), group=group),
            Control(f"{prefix}_password", "", say(f"{words}.password"), "password", group=group),
        ]

    def _module(self) -> list[Control]:
        """Another program's database: nobody has one, so all of it stays empty."""
        say = self._say
        return [
            Control("import_host", "", say("db.host"), group="module"),
            Control("import_name", "", say("db.name"), group="module"),
            Control("import_user", "", say("db.user"), group="module"),
            Control("import_pass", "", say("db.password"), "password", group="module"),
        ]

    def _token(self) -> list[Control]:
        say = self._say
        return [
            Control("setup_password", "setup.password", say("token"), "password", required=True, group="token_new"),
            Control(
                "setup_password2", "setup.password", say("token_again"), "password", required=True, group="token_new"
            ),
        ]

    def _door(self) -> list[Control]:
        return [Control("setup_password", "setup.password", self._say("token"), "password", required=True)]

    def _database(self) -> list[Control]:
        say, t = self._say, self.traits
        # Without a group that says so, a bare "User" would mean nothing to anybody.
        bare = t.bare and t.group != "none"
        word = (lambda key: say(f"bare.{key}")) if bare else (lambda key: say(f"db.{key}"))
        found = [
            Control(self._name("db", "host"), "database.host", word("host"), preset="localhost", group="database"),
            Control(self._name("db", "name"), "database.name", say("db.name"), required=True, group="database"),
            Control(self._name("db", "user"), "database.user", word("user"), required=True, group="database"),
            Control(self._name("db", "pass"), "database.password", word("password"), "password", group="database"),
        ]
        if t.odd_word != "none" and t.group != "none":
            at = ("host", "name", "user").index(t.odd_word)
            found[at] = replace(found[at], name="q17", label="Zorvel")
        if t.kind != "none":
            label = say("storage" if t.kind == "by options" else "kind")
            name = "backend" if t.kind == "by options" else self._name("db", "type")
            kind = Control(
                name,
                "database.kind",
                label,
                "select",
                "pgsql",
                group="database",
                options=KINDS,
                custom=t.kind == "custom",
            )
            found.insert(0, kind)
        if t.port == "own field":
            found.append(
                Control(self._name("db", "port"), "database.port", say("db.port"), preset="3306", group="database")
            )
        if t.prefix:
            prefix = Control(
                self._name("db", "prefix"), "database.prefix", say("db.prefix"), preset="app_", group="database"
            )
            found.append(prefix)
        return found

    def _part(self, step: str) -> list[Control]:
        """The part of the database's questions that a step asks; where each stands alone, the page's heading is all its label."""
        login, name = ("database.user", "database.password"), ("database.name", "database.prefix")
        alone = self.traits.apart == "questions"
        here = {
            "db.where": lambda m: m not in login and not (alone and m in name),
            "db.what": lambda m: m in name,
            "db.who": lambda m: m in login,
        }[step]
        bared = ("database.host", "database.name") if alone else ()
        return [
            replace(c, group="", label="" if c.meaning in bared else c.label)
            for c in self._database()
            if here(c.meaning)
        ]

    def _site(self) -> list[Control]:
        say, t = self._say, self.traits
        word, name = ("own.title", "library") if t.own_words else ("site.title", self._name("site", "title"))
        found = [Control(name, "site.title", say(word), required=True, group="site")]
        if t.presets:
            found.append(Control(self._name("site", "rows"), "", say("page_size"), "number", "25", group="site"))
        if t.second_mail:
            found.append(
                Control(self._name("site", "sender"), "admin.email", say("second_mail"), "email", group="site")
            )
        if t.names == "organisation":
            found.append(
                Control(
                    self._name("site", "org"), "site.organisation", say("organisation"), required=True, group="site"
                )
            )
        if t.country != "none":
            options = (("", say("choose")), *LANDS) if t.country == "asked" else LANDS
            preset, meaning = ("FR", "") if t.country == "preset" else ("", "site.country")
            needed = t.country == "asked"
            land = Control(
                "country", meaning, say("country"), "select", preset, required=needed, group="site", options=options
            )
            found.append(land)
        if t.profile:
            options = (("standard", say("standard")), ("small", say("small")))
            found.append(Control("profile", "", say("profile"), "select", "standard", group="site", options=options))
        if t.samples == "choices":
            both = (("1", say("sample")), ("0", say("no_sample")))
            found.append(Control("demo", "no demo", "", "radio", "1", group="site", options=both))
        elif t.samples == "list":
            both = (("1", say("yes")), ("0", say("no")))
            found.append(Control("demo", "no demo", say("sample"), "select", "1", group="site", options=both))
        if t.extras:
            found.append(Control("sample", "off", say("sample"), "checkbox", group="site"))
            found.append(Control("news", "off", say("newsletter"), "checkbox", "1", group="site"))
        return found

    def _admin(self) -> list[Control]:
        say, name = self._say, self._name
        if self.traits.own_words:
            return [
                Control("who", "admin.name", say("own.name"), required=True, group="admin"),
                Control("post", "admin.email", say("own.email"), required=True, group="admin"),
                Control("phrase", "admin.password", say("own.password"), "password", required=True, group="admin"),
            ]
        found = [
            Control(name("admin", "login"), "admin.name", say("admin.name"), required=True, group="admin"),
            Control(
                name("admin", "pass"), "admin.password", say("admin.password"), "password", required=True, group="admin"
            ),
            Control(
                name("admin", "pass2"), "admin.password", say("admin.repeat"), "password", required=True, group="admin"
            ),
        ]
        if self.traits.beside == "display":
            found.append(Control(name("admin", "shown"), "?", say("display"), group="admin"))
        elif self.traits.beside == "show":
            found.append(Control("reveal", "off", say("show"), "checkbox", group="admin"))
        if self.whose == "fixed":
            found[0] = replace(found[0], meaning="", preset=WARDEN, fixed=True)
        elif self.whose == "told":
            found = found[1:]
        if self.traits.email:
            found.append(
                Control(
                    name("admin", "email"), "admin.email", say("admin.email"), "email", required=True, group="admin"
                )
            )
        if self.traits.mail_again and self.traits.email:
            found.append(
                Control(
                    name("admin", "email2"), "admin.email", say("mail_repeat"), "email", required=True, group="admin"
                )
            )
        return found
