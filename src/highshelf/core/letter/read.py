"""What a welcome letter says, as values with the place they came from. Nothing is kept: somebody has to confirm it.

Rules:
1. What is about mail or name servers is never taken for the file transfer.
2. Of several ways to bring files the encrypted one is proposed, SFTP before FTP with TLS before plain FTP.
3. Marks around a value and brackets after it are not part of it. A full stop at the end of a sentence is not; at the end of a
   line it is only when the letter does not end its other lines so. A password is one word.
"""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal
from urllib.parse import unquote, urlsplit

from highshelf.core.letter.columns import Line
from highshelf.core.letter.pairs import lines_of, pairs_of
from highshelf.core.letter.prose import DENIALS, ENDS, Pair
from highshelf.core.letter.same import followed
from highshelf.core.letter.words import words
from highshelf.core.pages.lexicon import fold
from highshelf.core.survey.roots import USUAL

Kind = Literal["sftp", "ftps", "ftps-implicit", "ftp", ""]
PREFERENCE: dict[str, int] = {"sftp": 3, "ftps": 2, "ftps-implicit": 2, "ftp": 1, "": 0}
DEFAULT_PORTS = {"sftp": "22", "ftps": "21", "ftps-implicit": "990", "ftp": "21"}
# One line for several kinds: `Ports: 22 (SFTP), 21 (FTPS)` or `SFTP 22 / FTP 21`.
PORTS = re.compile(
    r"(?P<port>\d{2,5})\s*\(\s*(?P<kind>[a-z][\w /-]{1,20}?)\s*\)|(?P<before>\b(?:s?ftp|ftpe?s|ssh)\b)\s*[:=]?\s+(?P<after>\d{2,5})",
    re.I,
)
SECRETS = ("transfer.password", "panel.password", "database.password")
HOST = re.compile(
    r"(?P<host>(?:[a-z0-9](?:[a-z0-9-]*[a-z0-9])?\.)+[a-z]{2,}|\d{1,3}(?:\.\d{1,3}){3}|\[[0-9a-f:]+\]|localhost)(?::(?P<port>\d{1,5}))?",
    re.I,
)
PORT = re.compile(r"\b(?:port|puerto|porta|poort|portu)\s*:?\s*(\d{1,5})", re.I)
# What a database of one's own is called: unlike a word, or a server with its version.
OWN_NAME = re.compile(r"(?i)(?!mysql|mariadb|postgres|sql)(?=[\w-]*[a-z])(?=[\w-]*[_\d])[\w-]{3,64}")
# A kind of server is nobody's database.
SERVER = re.compile(r"(?i)(?:my|pg|maria)?sql|mariadb|postgres(?:ql)?|sqlite")
MASK = "•" * 8
QUOTES = "\"'«»„“”‘’‹›<>`"
# Below this a value is shown as one to be confirmed.
DOUBTED = 0.55
# How servers' names begin.
MACHINES = (
    "ftp",
    "sftp",
    "ftps",
    "ssh",
    "www",
    "web",
    "srv",
    "server",
    "host",
    "mail",
    "db",
    "sql",
    "mysql",
    "localhost",
)
# Said of a stop at a password's end: it is one of its letters.
BELONGS = re.compile(
    r"(?i)(full stop|period|dot|punkt|point|punto|ponto|punt|kropka)[^.]{0,60}?"
    r"(belong|part of|gehor|fait partie|forma parte|fa parte|faz parte|hoort|deel van|nalezy|czesc)"
)
# What ends a sentence, and what some letters end every line with.
STOPS = ".,;"


@dataclass(frozen=True)
class Said:
    """One value: its text, the line it stands in (from 1) and that line's text without passwords, how sure, and what else could be meant."""

    name: str
    text: str
    line: int
    where: str
    sure: float
    others: tuple[str, ...] = ()

    @property
    def secret(self) -> bool:
        return self.name in SECRETS


@dataclass(frozen=True)
class Letter:
    """Everything found, in a fixed order, and what somebody should look at twice."""

    found: tuple[Said, ...]
    doubts: tuple[str, ...]

    def get(self, name: str) -> str:
        return next((s.text for s in self.found if s.name == name), "")


@dataclass(frozen=True)
class _Candidate:
    name: str
    text: str
    pair: Pair
    score: float
    kind: Kind = ""


ORDER = (
    "title",
    "transfer.kind",
    "transfer.host",
    "transfer.port",
    "transfer.login",
    "transfer.password",
    "root",
    "address",
    "temporary",
    "web.host",
    "panel",
    "panel.login",
    "panel.password",
    "customer",
    "database.host",
    "database.port",
    "database.name",
    "database.user",
    "database.password",
    "nameserver",
)


def read_letter(text: str) -> Letter:
    """Read a letter in English, German, French, Spanish, Italian, Portuguese, Dutch or Polish, as plain text or HTML."""
    lines = lines_of(text)
    stop = _line_stop(pairs_of(text))
    candidates = candidates_of(text)
    chosen = _choose(candidates, spoken=_spoken_kind(lines))
    said = [_said(c, candidates, lines) for c in chosen.values()]
    title = next(((n, w) for n, line in enumerate(lines, 1) if (w := words().greets(line.strip()))), None)
    if title is not None and not words().is_person(title[1]):
        # Somebody is greeted as often as a site: its name stands in the address, too.
        sites = " ".join(m["host"] for line in lines for m in HOST.finditer(line))
        known = any(len(w) > 3 and fold(w) in fold(sites) for w in title[1].split())
        greeted = lines[title[0] - 1]
        said.append(Said("title", title[1], greeted.number, greeted.strip(), 0.8 if known else 0.5))
    said += _same_password(said, lines)
    said += followed(said, lines)
    said.sort(key=lambda s: ORDER.index(s.name))
    return Letter(tuple(said), tuple(_doubts(chosen, candidates, stop)))


def candidates_of(text: str) -> list[_Candidate]:
    """Everything in a letter that may be a value, in its order."""
    pairs = pairs_of(text)
    stop = _line_stop(pairs)
    found = [c for pair in pairs for c in _candidates(pair, stop)]
    return [c for c in found if not words().says_nothing(c.text)]


def _same_password(said: list[Said], lines: list[Line]) -> list[Said]:
    """The panel's password for the file transfer, where a line says that they are one and none else is given; its login, where that is said too."""
    have = {s.name: s for s in said}
    panel = have.get("panel.password")
    if panel is None or "transfer.password" in have or "transfer.host" not in have:
        return []
    # A sentence may go on in the next line.
    told = [*lines, *(Line(f"{a} {b}", a.number) for a, b in itertools.pairwise(lines))]
    for line in told:
        if not words().says_same(line) or words().section(line) == "mail":
            continue
        found = [replace(panel, name="transfer.password", line=line.number, where=line.strip(), sure=0.6)]
        login = have.get("panel.login")
        if login is not None and "transfer.login" not in have and _names_a_login(line):
            found.append(replace(login, name="transfer.login", line=line.number, where=line.strip(), sure=0.6))
        return found
    return []


def _names_a_login(line: str) -> bool:
    if words().says_credentials(line):
        return True
    said = re.findall(r"[^\W\d_]+(?:-[^\W\d_]+)?", line)
    pairs = [f"{a} {b}" for a, b in itertools.pairwise(said)]
    return any(words().role(text) == "login" for text in (*said, *pairs))


def _line_stop(pairs: list[Pair]) -> str:
    """The mark that this letter ends its lines with, or ""."""
    ends = Counter(p.value[-1] for p in pairs if p.value and not p.sentence)
    if not ends:
        return ""
    mark, count = ends.most_common(1)[0]
    return mark if mark in STOPS and count >= 3 and count >= 0.6 * ends.total() else ""


def _candidates(pair: Pair, stop: str) -> Iterable[_Candidate]:
    role, section = words().role(pair.label), pair.section
    if section == "mail" or words().says_absent(pair.value):
        return
    if role == "nameserver" or section == "dns":
        for host in HOST.finditer(pair.value):
            yield _Candidate("nameserver", host["host"], pair, 1)
        return
    if role == "security" and section in ("", "transfer", "site") and not words().says_nothing(pair.value):
        if kind := _kind(pair.value) or ("ftps" if re.search(r"(?i)\b(tls|ssl)\b", pair.value) else ""):
            kind = "ftps-implicit" if kind == "ftps" and re.search(r"(?i)\bimpl[ií][cz]it", pair.value) else kind
            yield _Candidate("transfer.kind", kind, pair, 2.0, kind)
        if not HOST.search(pair.value):
            return
    if role == "port" and len(ports := _ports(pair)) > 1:
        for kind, number in ports:
            yield _Candidate("transfer.port", number, pair, 1.5, kind)
        return
    score = (2.0 if words().section(pair.label) else 1.0) + (0.5 if section else 0.0) - (0.7 if pair.sentence else 0.0)
    for name, text in _meant(pair, role, section, stop):
        # A customer number often is the panel's login; what says so itself counts more.
        less = 1.6 if role == "customer" and name == "panel.login" else 0.0
        # Below a heading about files, an address of the web may be anything's.
        less = 1.4 if name == "address" and section == "transfer" and role == "address" else less
        if name == "root":
            # Where one lands is less than where the site is.
            web = re.search(r"(?i)web|www|site|public|html|sitio|sito|strony", pair.label)
            less = (0.6 if text == "/" else 0.0) - (0.3 if web else 0.0)
        if not (name == "database.name" and SERVER.fullmatch(text)):
            yield _Candidate(name, text, pair, score - less, kind_of(pair))


def _is_folder(value: str, path: str) -> bool:
    """Whether a folder is named, or only spoken of (`the folder you land in`): that one is found by the first check."""
    alone = len(re.sub(r"\(.*?\)", "", value).split()) <= 2
    return alone or "/" in path or "." in path or path.lower() in USUAL


def _ports(pair: Pair) -> list[tuple[Kind, str]]:
    """Kinds and ports of a line that names several."""
    found = [(_kind(m["kind"] or m["before"]), m["port"] or m["after"]) for m in PORTS.finditer(pair.value)]
    return [(kind, number) for kind, number in found if kind and 0 < int(number) < 65536]


def kind_of(pair: Pair) -> Kind:
    """Which kind of transfer a pair is about: by its name, else its value, else the heading above."""
    # How a server is called says less than the heading it stands under.
    said = HOST.sub(" ", pair.value)
    for text in (pair.label, said, pair.under, pair.value):
        found = _kind(text)
        if found:
            # What follows may say that it is encrypted: `FTP server: ftp.saltmarsh.example (TLS)`.
            more = _kind(f"{pair.label} {pair.value} {pair.rest} {pair.under if pair.sentence else ''}")
            return more if found in ("ftp", "ftps") and more in ("ftps", "ftps-implicit") else found
    return ""


def _kind(text: str) -> Kind:
    low = text.lower()
    if re.search(r"\bsftp|\bssh\b|\bscp\b", low):
        return "sftp"
    if re.search(r"\bimpl[ií][cz]it", low) and re.search(r"\bftps?\b|\btls\b|\bssl\b", low):
        return "ftps-implicit"
    if re.search(r"\bftpe?s\b|\bftp\b.{0,160}\b(tls|ssl)\b|\b(tls|ssl)\b.{0,20}\bftp\b", low):
        return "ftps"
    return "ftp" if re.search(r"\bftp\b", low) else ""


def _meant(pair: Pair, role: str, section: str, stop: str) -> Iterable[tuple[str, str]]:
    """What a pair says, as value names and texts."""
    value = pair.value
    url = re.search(r"\b(?:https?|s?ftps?|ftpes)://[^\s<>\"'»”)]+", value, re.I)
    if url and not url[0].lower().startswith("http"):
        yield from _from_transfer_url(url[0].rstrip(STOPS))
    elif url:
        yield from _from_address(pair, role, section, url[0].rstrip(STOPS + ":"))
    elif role == "customer":
        number = _word(value, pair, stop).rstrip(STOPS)
        yield "customer", number
        yield "panel.login", number
    elif role in ("login", "password"):
        yield from _credential(pair, role, section, stop)
    elif role in ("name", "bare") and section == "database" and not _names_server(value):
        yield "database.name", _word(value, pair, stop)
    elif role == "" and words().section(pair.label) == "database" and OWN_NAME.fullmatch(value.strip()):
        yield "database.name", value.strip()
    elif role == "port" and section == "database":
        yield from (("database.port", n) for n in re.findall(r"\b\d{2,5}\b", value)[:1])
    elif role == "port" and section in ("", "transfer"):
        yield from (("transfer.port", n) for n in re.findall(r"\b\d{2,5}\b", value)[:1])
    elif role == "root" and section != "database":
        if _is_folder(value, path := _path(_word(value, pair, stop))):
            yield "root", path
    elif role in ("site", "") and section != "database" and re.fullmatch(r"/[\w.~-]+(?:/[\w.~-]+)*/?", value.strip()):
        yield "root", _path(value.strip())
    elif role in ("temporary", "site", "address", "host", "") and (host := HOST.search(value)):
        yield from _from_host(pair, role, section, host)


def _names_server(value: str) -> bool:
    """Whether what stands behind a word for a database begins with its server: `MySQL database: server db1.example, …`."""
    first = value.split()[0] if value.split() else ""
    return words().role(first) in ("host", "address") or HOST.fullmatch(first.rstrip(STOPS)) is not None


def _from_transfer_url(url: str) -> Iterable[tuple[str, str]]:
    try:
        parts = urlsplit(url)
        _ = parts.port
    except ValueError:
        # A port that is none, a bracket that is never closed: nothing that could be signed in to.
        return
    if parts.password:
        yield "transfer.password", unquote(parts.password)
    if parts.hostname:
        yield "transfer.host", parts.hostname
    if parts.port:
        yield "transfer.port", str(parts.port)
    if parts.username:
        yield "transfer.login", unquote(parts.username)
    if parts.path.strip("/"):
        yield "root", parts.path.strip("/")


def _from_address(pair: Pair, role: str, section: str, url: str) -> Iterable[tuple[str, str]]:
    """A web address: the panel's, a temporary one, or the site's. What stands behind it may say how to sign in."""
    if section == "panel":
        yield "panel", url
        rest = pair.value.partition(url)[2]
        if words().role(rest) == "customer" or re.search(r"(?i)\b(customer|kunden|client|cliente)", rest):
            yield "panel.login", "=customer"
    elif (section == "database" and role not in ("temporary", "site")) or (
        section == "transfer" and role not in ("temporary", "site", "address", "")
    ):
        return
    elif role == "temporary":
        yield "temporary", url
    elif role in ("site", "address", "host") or section == "site":
        yield "address", url
    elif pair.sentence and role == "":
        yield "seen", url


def _credential(pair: Pair, role: str, section: str, stop: str) -> Iterable[tuple[str, str]]:
    # What follows the value may speak of another one.
    head = re.split(r"[,;]\s", pair.value)[0]
    if words().says_same(f"{pair.label} {head}") or words().says_elsewhere(head):
        return
    if words().role(head) == "customer":
        # "your customer number": which it is stands here, or elsewhere.
        if role == "login" and section == "panel":
            number = re.search(r"(?<![\w-])([A-Za-z]{0,4}-?\d[\w-]{2,})(?![\w-])", head)
            yield "panel.login", number[1] if number else "=customer"
        return
    if _is_prose(pair.value) or re.fullmatch(r"\(.*\)", pair.value.strip()):
        # A remark in the place of a value: `(as ordered)`.
        return
    group = {"panel": "panel", "database": "database"}.get(section, "transfer")
    name = f"{group}.{'user' if (group, role) == ('database', 'login') else role}"
    text = _word(pair.value, pair, stop)
    if role == "login":
        # No login ends so; a password may.
        text = text.rstrip(STOPS)
    if text and not (role == "login" and _is_machine(text)):
        yield name, text


def _is_machine(text: str) -> bool:
    """Whether what stands behind a word for a login is a server's name; a login may have one full stop in it."""
    parts = text.split(".")
    named = HOST.fullmatch(text) is not None and "@" not in text
    return named and (len(parts) > 2 or parts[0].rstrip("0123456789-") in MACHINES or parts[0].isdigit())


def _is_prose(value: str) -> bool:
    """Whether several plain words stand where one belongs: a sentence about a value, not the value."""
    bare = re.sub(r"\s*[(\[].*$", "", value).strip()
    parts = bare.split()
    return (
        len(parts) > 1
        and bare[:1] not in QUOTES
        and not re.search(r"\d|[^\w\s.,;:'’-]", parts[0])
        and parts[0][-1:] not in ",;"
    )


def _from_host(pair: Pair, role: str, section: str, host: re.Match[str]) -> Iterable[tuple[str, str]]:
    name, port = host["host"].strip("[]"), host["port"]
    port = port or (found[1] if (found := PORT.search(pair.value)) else None)
    if section == "database":
        yield "database.host", name
        if port:
            yield "database.port", port
    elif section == "panel":
        yield "panel", f"https://{name}{':' + port if port else ''}/"
    elif role == "temporary":
        yield "temporary", f"http://{_site(pair.value, host)}/"
    elif role == "host" and re.search(r"(?i)\bweb", pair.label):
        yield "web.host", f"{name}:{port or 80}"
    elif role == "site" or (role == "address" and section != "transfer" and name.partition(".")[0] not in MACHINES[:4]):
        yield "address", f"https://{_site(pair.value, host)}/"
    elif role in ("host", "address") or section == "transfer":
        if (who := re.search(r"(?<![\w:/])([\w.+-]+)@$", pair.value[: host.start()])) and role != "login":
            # As it is written behind `ssh` or `sftp`.
            yield "transfer.login", who[1]
        yield "transfer.host", name
        if port:
            yield "transfer.port", port


def _site(value: str, host: re.Match[str]) -> str:
    """Host with port and path, as an address without its scheme has them."""
    rest = re.match(r"[\w./~:-]*", value[host.start() :])
    return (rest[0] if rest else host[0]).rstrip("/" + STOPS)


def _word(value: str, pair: Pair, stop: str) -> str:
    """The value itself: without marks around it, brackets after it, and the end of the sentence."""
    quoted = re.match(r"[\"«„“‘']\s*([^\"»”’']+?)\s*[\"»“”’']", value)
    if quoted:
        return quoted[1]
    word = value.split()[0] if value.split() else ""
    if pair.sentence:
        # `Loginem jest numer klienta (110045).`
        word = word[1:] if word.startswith("(") and ")" in word else word
        return word.rstrip(STOPS + ":!?)").strip(QUOTES)
    if stop and word.endswith(stop) and len(value.split()) == 1:
        word = word[:-1]
    # A comma or semicolon before a comment belongs to the comment.
    elif len(value.split()) > 1:
        # A stop before a word with a capital ends the sentence.
        word = word.rstrip(",;." if value.split()[1][:1].isupper() else ",;")
    return word.strip("«»„“”‹›`") if word[:1] in QUOTES else word


def _path(text: str) -> str:
    return text.rstrip(STOPS).rstrip("/") or "/"


def _spoken_kind(lines: list[Line]) -> Kind:
    """How files are brought, where the letter says so somewhere in running text, apart from the server; SFTP before FTP with TLS."""
    text = "\n".join(line.strip() if line.strip() and line != "---" else "" for line in lines)
    kinds: set[Kind] = set()
    for paragraph in re.split(r"\n\s*\n", text):
        for sentence in re.split(rf"{ENDS}|\n(?=\s*[-*•·–])", paragraph):
            if words().section(sentence) not in ("", "transfer"):
                continue
            for part in re.split(r"[,;:]\s", sentence):
                if not set(fold(part.lower()).split()) & set(DENIALS):
                    kinds.add("ftps" if re.search(r"(?i)\b(tls|ssl)\b", part) else _kind(part))
    return next((kind for kind in ("sftp", "ftps-implicit", "ftps") if kind in kinds), "")


def _choose(candidates: list[_Candidate], *, spoken: Kind = "") -> dict[str, _Candidate]:
    """The best of each value; transfer values follow the kind that is proposed."""
    hosts = [c for c in candidates if c.name == "transfer.host"]
    best = max(hosts, key=lambda c: (PREFERENCE[c.kind], c.score, -c.pair.line), default=None)
    kind: Kind = best.kind if best is not None else ""
    chosen: dict[str, _Candidate] = {}
    for candidate in candidates:
        known = chosen.get(candidate.name)
        if known is None or _rank(candidate, kind) > _rank(known, kind):
            chosen[candidate.name] = candidate
    seen = chosen.pop("seen", None)
    if seen is not None and "address" not in chosen and best is not None and not _of_one_house(seen.text, best.text):
        # Nobody says what it is: an address that is not the host's own is the site's.
        chosen["address"] = replace(seen, name="address", score=0.2)
    if best is None and "web.host" in chosen and {"transfer.login", "transfer.password"} & set(chosen):
        # The only server that is named, beside a login for it: whether files go there is for somebody to say.
        web = chosen.pop("web.host")
        best = replace(web, name="transfer.host", text=web.text.partition(":")[0], score=0.4)
        kind = next((c.kind for c in candidates if c.kind and c.name.startswith("transfer.")), "")
    if best is not None:
        chosen["transfer.host"] = best
        _add_kind(chosen, best, kind, spoken=spoken)
    login = chosen.get("panel.login")
    if login is not None and login.text == "=customer":
        customer = chosen.get("customer")
        if customer is None:
            del chosen["panel.login"]
        else:
            chosen["panel.login"] = replace(login, text=customer.text)
    if "panel" not in chosen:
        chosen.pop("panel.login", None)
    return chosen


def _of_one_house(url: str, host: str) -> bool:
    """Whether an address and a server have their last two names in common."""
    name = urlsplit(url).hostname or ""
    return name.split(".")[-2:] == host.split(".")[-2:]


def _rank(candidate: _Candidate, kind: Kind) -> tuple[float, float]:
    """Of two for one value: what is about the proposed kind of transfer, then what says more clearly what it is."""
    about = candidate.kind == kind if candidate.name.startswith("transfer.") and candidate.kind else True
    return (1.0 if about else 0.0, candidate.score)


def _add_kind(chosen: dict[str, _Candidate], host: _Candidate, kind: Kind, *, spoken: Kind) -> None:
    port = chosen.get("transfer.port")
    if kind in ("", "ftp") and port is not None and port.text == "22":
        kind = "sftp"
    if kind in ("", "ftp", "ftps") and port is not None and port.text == "990":
        # The port that is kept for TLS from the first byte (IANA, service names: ftps).
        kind = "ftps-implicit"
    told = chosen.get("transfer.kind")
    if told is not None and kind in ("", "ftp", "ftps"):
        kind = told.kind
    if (not kind and spoken) or (kind == "ftp" and spoken.startswith("ftps")):
        # Said apart from the server: somebody should look at it.
        kind, host = spoken, replace(host, score=min(host.score, 0.5))
    kind = kind or "ftp"
    chosen["transfer.kind"] = replace(told or host, name="transfer.kind", text=kind)
    if port is None or (port.kind and port.kind.removesuffix("-implicit") != kind.removesuffix("-implicit")):
        chosen["transfer.port"] = replace(host, name="transfer.port", text=DEFAULT_PORTS[kind], score=0.2)


def _said(chosen: _Candidate, candidates: list[_Candidate], lines: list[Line]) -> Said:
    others = {c.text for c in candidates if c.name == chosen.name and c.text not in (chosen.text, "=customer")}
    if chosen.name == "transfer.kind" and chosen.text == "ftp" and any(c.kind.startswith("ftps") for c in candidates):
        # The letter speaks of TLS somewhere.
        return replace(_plainly(chosen, lines), sure=DOUBTED - 0.05)
    sure = min(0.98, 0.45 + 0.2 * chosen.score) - (0.15 if others and chosen.name != "nameserver" else 0.0)
    if chosen.name in SECRETS and chosen.text[-1:] in STOPS and not chosen.pair.sentence:
        # A stop behind a password may end the line: whoever looks decides, unless the letter says it.
        beside = fold(" ".join(lines[max(chosen.pair.line - 3, 0) : chosen.pair.line + 4]).lower())
        if not BELONGS.search(beside):
            sure, others = min(sure, DOUBTED), others | {chosen.text[:-1]}
    where = re.sub(r"\s{2,}|\t", "  ", lines[chosen.pair.line - 1].strip())
    for secret in sorted({c.text for c in candidates if c.name in SECRETS}, key=len, reverse=True):
        where = where.replace(secret, MASK)
    if chosen.name == "nameserver":
        return Said(
            "nameserver",
            ", ".join(dict.fromkeys([chosen.text, *sorted(others)])),
            lines[chosen.pair.line - 1].number,
            where,
            sure,
        )
    number = lines[chosen.pair.line - 1].number
    return Said(chosen.name, chosen.text, number, where, round(max(sure, 0.1), 2), tuple(sorted(others)))


def _plainly(chosen: _Candidate, lines: list[Line]) -> Said:
    where = re.sub(r"\s{2,}|\t", "  ", lines[chosen.pair.line - 1].strip())
    return Said(chosen.name, chosen.text, lines[chosen.pair.line - 1].number, where, 0.5)


def _doubts(chosen: dict[str, _Candidate], candidates: list[_Candidate], stop: str) -> Iterable[str]:
    kinds = {c.kind for c in candidates if c.name == "transfer.host"} | {_kind(c.pair.under) for c in candidates}
    if (kind := chosen.get("transfer.kind")) is not None and kind.text == "ftp":
        better = "the letter speaks of TLS" if "ftps" in kinds else "ask the host for SFTP or FTP with TLS"
        yield f"plain FTP sends the password and every file in the clear: {better}"
    for name in ("transfer.password", "panel.password"):
        found = chosen.get(name)
        if found is not None and not found.pair.sentence and found.text[-1:] in STOPS and not stop:
            yield f"line {found.pair.line}: the password ends with “{found.text[-1]}”; is that part of it?"
    address = chosen.get("address")
    if "temporary" in chosen and address is not None:
        yield f"{chosen['temporary'].text} is proposed: {address.text} may not lead there yet"
