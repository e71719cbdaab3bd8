"""Letters that nobody wrote by hand: composed from traits by a seed, with what each of them says known beforehand."""

from __future__ import annotations

import html
import re
import string
from dataclasses import dataclass
from pathlib import Path
from random import Random

import yaml

WORDS: dict[str, dict[str, list[str]]] = yaml.safe_load((Path(__file__).parent / "words.yaml").read_text("utf-8"))
CHOICES: dict[str, tuple[str, ...]] = {
    "language": tuple(WORDS),
    # How a name and its value stand together.
    "layout": (
        "colon",
        "colon",
        "aligned",
        "dots",
        "tab",
        "arrow",
        "bars",
        "bullet",
        "next line",
        "one line",
        "html",
        "equals",
    ),
    # How parts are told apart: a heading, underlined, in capitals, marked, or nothing but the labels themselves.
    "headings": ("plain", "underlined", "capitals", "marked", "none"),
    "transfer": ("block", "block", "block", "prose"),
    "kind": ("sftp", "ftp", "ftps"),
    "port": ("none", "own line", "behind the host"),
    "root": ("line", "sentence", "none"),
    "address": ("line", "line", "none"),
    "temporary": ("none", "line", "sentence"),
    "panel": ("own password", "same", "by post", "none"),
    "panel_login": ("own", "customer number"),
    "database": ("none", "block", "same"),
    "mail": ("none", "block"),
    "nameserver": ("none", "line"),
    "quoted": ("no", "no", "no", "reply", "forwarded"),
    "noise": ("no", "yes"),
    # "Your password" instead of "Password"; a remark behind a value; marks around passwords; one table of all services.
    "possessive": ("no", "no", "yes"),
    "comment": ("no", "no", "yes"),
    "quotes": ("none", "none", "none", '"{}"', "„{}“", "«{}»", "'{}'"),
    "services": ("no", "no", "no", "no", "yes"),
    "ending": ("plain", "plain", "stops"),
}
NAMES = (
    "Saltings Choir",
    "Creek Seed Library",
    "Kelda Boat Yard",
    "Lantern Regatta",
    "Marsh Bird Watch",
    "Estuary Ferry Museum",
)
DOMAINS = ("choir", "seeds", "boats", "regatta", "birds", "ferry")
# None that some letters set around a password.
SIGNS = "!#$%&*+-.=?_~"


@dataclass
class Made:
    """A letter and its truth: what is said (value name -> text), and what is said of nothing (names that must stay empty)."""

    seed: int
    traits: dict[str, str]
    text: str
    truth: dict[str, str]
    empty: tuple[str, ...]


def traits_of(seed: int) -> dict[str, str]:
    random = Random(f"letter {seed}")
    return {name: random.choice(choices) for name, choices in CHOICES.items()}


def make(seed: int) -> Made:
    """The letter of a seed; the same in any process."""
    return _Writer(seed).letter()


class _Writer:
    def __init__(self, seed: int) -> None:
        self.seed, self.traits = seed, traits_of(seed)
        self.random = Random(f"words of letter {seed}")
        self.words = WORDS[self.traits["language"]]
        self.truth: dict[str, str] = {}
        self.empty: list[str] = []
        self.lines: list[str] = []
        number = self.random.randrange(len(NAMES))
        self.name, self.domain = NAMES[number], f"{DOMAINS[number]}.saltmarsh.example"
        self.customer = str(self.random.randrange(10_000, 99_999))
        # One letter calls a thing by one word.
        self._called = {key: self.random.choice(ways) for key, ways in self.words.items()}
        if self.traits["possessive"] == "yes" and self.traits["services"] == "no":
            for key in ("login", "password", "customer"):
                self._called[key] = f"{self.words['your'][0]} {self._called[key]}"

    def say(self, key: str) -> str:
        return self._called[key]

    def letter(self) -> Made:
        greeting = self.random.choice(self.words["greet"])
        if "{name}" in greeting:
            self.truth["title"] = self.name
        opening = [greeting.format(name=self.name), "", self.random.choice(self.words["intro"]), ""]
        if self.traits["services"] == "yes":
            parts = [self._services(), self._site(), self._panel()]
        else:
            parts = [self._transfer(), self._site(), self._panel(), self._database(), self._mail()]
        customer = self._pairs([("customer", self.customer, "customer")])
        noise = self.random.sample(self.words["noise"], 2) if self.traits["noise"] == "yes" else []
        servers = []
        if self.traits["nameserver"] == "line":
            self.truth["nameserver"] = "ns1.fen-host.example, ns2.fen-host.example"
            servers = ["", *self._rows([(self.say("nameserver"), self.truth["nameserver"])])]
        body = [*customer, ""]
        for part in parts:
            if part:
                body += [*part, ""]
                if noise and self.random.random() < 0.5:
                    body += [noise.pop(), ""]
        body += [*noise, *servers, "", "Saltmarsh Web Co-op"]
        return Made(self.seed, self.traits, self._sent(opening, body), self.truth, tuple(self.empty))

    # parts

    def _transfer(self) -> list[str]:
        kind, host = self.traits["kind"], f"ftp{self.random.randrange(1, 40)}.fen-host.example"
        login, password = self._login(), self._password(prose=self.traits["transfer"] == "prose")
        self.truth |= {"transfer.host": host, "transfer.login": login, "transfer.password": password}
        if self.traits["transfer"] == "prose":
            # Sentences of the letter speak of FTP, or of no kind at all.
            lines = [self.random.choice(self.words["said"]).format(host=host, login=login, password=password)]
            lines += self._folder(block=False)
            return lines
        rows: list[tuple[str, str, str]] = []
        port = {"sftp": 2222, "ftp": 2121, "ftps": 2121}[kind]
        told = f"{host}:{port}" if self.traits["port"] == "behind the host" else host
        rows.append(("host", told, ""))
        if self.traits["port"] == "own line":
            rows.append(("port", str(port), ""))
        if self.traits["port"] != "none":
            self.truth["transfer.port"] = str(port)
        rows += [("login", login, ""), ("password", password, "")]
        self.truth["transfer.kind"] = kind
        heading = {"sftp": "SFTP", "ftp": "FTP", "ftps": "FTPS"}[kind]
        called = self.say("transfer")
        titled = re.sub(r"S?FTP", heading, called) if "FTP" in called else f"{called} ({heading})"
        return [*self._under(titled, rows, heading), *self._folder(block=True)]

    def _services(self) -> list[str]:
        """One table: services in rows, what belongs to each in columns."""
        login, password, host = self._login(), self._password(), f"ftp{self.random.randrange(1, 40)}.fen-host.example"
        name = f"d{self.customer}_1"
        self.truth |= {"transfer.host": host, "transfer.login": login, "transfer.password": password}
        self.truth |= {"database.host": "localhost", "database.user": name, "database.password": self._password()}
        self.truth["transfer.kind"] = self.traits["kind"]
        header = [self.say("service"), self.say("host"), self.say("login"), self.say("password")]
        rows = [
            [self.traits["kind"].upper(), host, login, password],
            [self.say("mail"), "mail.fen-host.example", f"info@{self.domain}", self._password()],
            ["MySQL", "localhost", name, self.truth["database.password"]],
        ]
        if self.traits["layout"] == "html":
            cells = ["".join(f"<td>{html.escape(c)}</td>" for c in row) for row in [header, *rows]]
            return ["<table>" + "".join(f"<tr>{c}</tr>" for c in cells) + "</table>"]
        if self.traits["layout"] == "tab":
            return ["\t".join(row) for row in [header, *rows]]
        if self.traits["layout"] == "bars":
            return ["| " + " | ".join(row) + " |" for row in [header, *rows]]
        widths = [max(len(row[i]) for row in [header, *rows]) + 3 for i in range(4)]
        return ["".join(f"{c:<{w}}" for c, w in zip(row, widths, strict=True)).rstrip() for row in [header, *rows]]

    def _folder(self, *, block: bool) -> list[str]:
        root = self.random.choice(("/htdocs", "/www", "public_html", "/html/site", "web"))
        if self.traits["root"] == "none":
            return []
        self.truth["root"] = root
        if self.traits["root"] == "sentence" or not block:
            return ["", self.random.choice(self.words["shows"]).format(root=root)]
        return self._rows([(self.say("root"), root)])

    def _site(self) -> list[str]:
        rows = []
        if self.traits["address"] == "line":
            address = self.random.choice((f"https://www.{self.domain}/", f"http://{self.domain}/"))
            self.truth["address"] = address
            rows.append(("address", address, ""))
        temporary = f"http://w{self.random.randrange(1000, 9999)}.fen-host.example/"
        sentence = []
        if self.traits["temporary"] != "none":
            self.truth["temporary"] = temporary
        if self.traits["temporary"] == "line":
            rows.append(("temporary", temporary, ""))
        elif self.traits["temporary"] == "sentence":
            sentence = ["", self.random.choice(self.words["until"]).format(temporary=temporary)]
        return [*(self._under(self.say("site"), rows, "") if rows else []), *sentence]

    def _panel(self) -> list[str]:
        how = self.traits["panel"]
        if how == "none":
            return []
        url = f"https://panel.fen-host.example:{self.random.choice((8443, 2087))}/"
        self.truth["panel"] = url
        login = self.customer if self.traits["panel_login"] == "customer number" else f"p{self.customer}"
        self.truth["panel.login"] = login
        said_login = self.random.choice(self.words["yours"]) if login == self.customer else login
        if how == "own password":
            password = self._password()
            self.truth["panel.password"] = password
        else:
            password = self.random.choice(self.words["same" if how == "same" else "post"])
            self.empty.append("panel.password")
        return self._under(
            self.say("panel"), [("url", url, ""), ("login", said_login, ""), ("password", password, "")], ""
        )

    def _database(self) -> list[str]:
        if self.traits["database"] == "none":
            return []
        host = self.random.choice(("localhost", f"db{self.random.randrange(1, 9)}.fen-host.example"))
        name, user = f"d{self.customer}_1", f"u{self.customer}_1"
        self.truth |= {"database.host": host, "database.name": name, "database.user": user}
        if self.traits["database"] == "same":
            password = self.random.choice(self.words["same"])
            self.empty.append("database.password")
        else:
            password = self._password()
            self.truth["database.password"] = password
        rows = [("host", host, ""), ("dbname", name, ""), ("login", user, ""), ("password", password, "")]
        return self._under(self.say("database"), rows, "")

    def _mail(self) -> list[str]:
        if self.traits["mail"] == "none":
            return []
        rows = [
            ("host", "mail.fen-host.example", ""),
            ("login", f"info@{self.domain}", ""),
            ("password", self._password(), ""),
        ]
        return self._under(self.say("mail"), rows, "")

    # how it stands there

    def _under(self, heading: str, rows: list[tuple[str, str, str]], word: str) -> list[str]:
        how = self.traits["headings"]
        if how == "none":
            # Each label names its service itself.
            subject = word or heading
            return self._rows([(f"{subject} {self.say(key)}", self._shown(key, value)) for key, value, _ in rows])
        above = {
            "underlined": [heading, "-" * len(heading)],
            "capitals": [heading.upper()],
            "marked": [f"== {heading} =="],
        }.get(how, [heading])
        return [*above, *self._rows([(self.say(key), self._shown(key, value)) for key, value, _ in rows])]

    def _shown(self, key: str, value: str) -> str:
        """A value as the letter sets it: with marks around a password, a remark behind a value."""
        said = value in (self.truth.get(n) for n in ("transfer.password", "panel.password", "database.password"))
        if key == "password" and said and self.traits["quotes"] != "none" and self.traits["layout"] != "one line":
            value = self.traits["quotes"].format(value)
        if (
            key in ("password", "login")
            and self.traits["comment"] == "yes"
            and self.traits["layout"] != "one line"
            and " " not in value
        ):
            value += f" ({self.random.choice(self.words['comment'])})"
        return value

    def _pairs(self, rows: list[tuple[str, str, str]]) -> list[str]:
        for _, value, name in rows:
            if name:
                self.truth[name] = value
        return self._rows([(self.say(key), value) for key, value, _ in rows])

    def _rows(self, rows: list[tuple[str, str]]) -> list[str]:
        stop = "." if self.traits["ending"] == "stops" and self.traits["layout"] in ("colon", "bullet") else ""
        match self.traits["layout"]:
            case "aligned":
                return [f"{label + ':':<26} {value}" for label, value in rows]
            case "dots":
                return [f"{label} {'.' * max(3, 30 - len(label))} {value}" for label, value in rows]
            case "tab":
                return [f"{label}\t{value}" for label, value in rows]
            case "arrow":
                return [f"{label} -> {value}" for label, value in rows]
            case "bars":
                return [f"| {label:<24} | {value} |" for label, value in rows]
            case "bullet":
                return [f"  * {label}: {value}{stop}" for label, value in rows]
            case "next line":
                return [line for label, value in rows for line in (f"{label}:", f"    {value}")]
            case "one line":
                return [", ".join(f"{label}: {value}" for label, value in rows)]
            case "equals":
                return [f"{label} = {value}" for label, value in rows]
            case "html":
                cells = "".join(f"<tr><td>{html.escape(a)}</td><td><b>{html.escape(b)}</b></td></tr>" for a, b in rows)
                return [f"<table>{cells}</table>"]
            case _:
                return [f"{label}: {value}{stop}" for label, value in rows]

    def _sent(self, opening: list[str], body: list[str]) -> str:
        lines = [*opening, *body]
        if self.traits["layout"] == "html":
            inside = "\n".join(
                line if line.startswith("<") else f"<p>{html.escape(line)}</p>" for line in lines if line
            )
            return f"<html><body>{inside}</body></html>"
        if self.traits["quoted"] == "reply":
            return "\n".join(f"> {line}" for line in lines)
        if self.traits["quoted"] == "forwarded":
            head = [
                "---------- ",
                "From: Saltmarsh Web Co-op <office@saltmarsh.example>",
                "Date: Mon, 16 Nov 2026 09:12",
                "Subject: Your webspace",
                "",
            ]
            return "\n".join([*head, *lines])
        return "\n".join(lines)

    def _login(self) -> str:
        return self.random.choice(
            (f"web{self.customer}", f"u{self.customer}_ftp", self.domain.split(".")[0], f"sm{self.customer}x")
        )

    def _password(self, *, prose: bool = False) -> str:
        letters = string.ascii_letters + string.digits
        signs = SIGNS if not prose else "!#$%&*+=_~"
        inner = "".join(self.random.choice(letters + signs) for _ in range(self.random.randrange(8, 16)))
        return self.random.choice(string.ascii_letters) + inner + self.random.choice(letters)


def several(seed: int, accounts: int) -> tuple[str, list[dict[str, str]]]:
    """One letter for so many accounts, and the truth of each; the panel is said once, before or behind them."""
    random = Random(f"several {seed}")
    writers = [_Writer(seed) for _ in range(accounts)]
    for number, writer in enumerate(writers):
        writer.random = Random(f"several {seed} {number}")
        writer.domain = f"{DOMAINS[number % len(DOMAINS)]}{number}.saltmarsh.example"
        writer.traits |= {
            "transfer": "block",
            "services": "no",
            "panel": "none",
            "address": "line",
            "temporary": "none",
            "quoted": "no",
        }
        writer.traits |= {
            "headings": random.choice(("plain", "underlined", "marked"))
            if number == 0
            else writers[0].traits["headings"]
        }
        writer.traits |= {
            "root": random.choice(("line", "none")) if number == 0 else writers[0].traits["root"],
            "database": "none",
        }
    first = writers[0]
    body = [first.random.choice(first.words["intro"]), ""]
    for writer in writers:
        # The site first, or the transfer: the same in all of them.
        parts = [writer._site(), writer._transfer()] if seed % 2 else [writer._transfer(), writer._site()]
        for part in parts:
            body += [*part, *([] if seed % 3 == 0 else [""])]
        body.append("")
    letter = first._sent(["", ""], [*body, "Saltmarsh Web Co-op"])
    return letter, [{n: t for n, t in w.truth.items() if n != "transfer.port"} for w in writers]
