"""A letter's text into names and values, with the line each stands in and what that part of the letter is about.

Rules:
1. A name and its value stand in one line (`Login: sm1`, `Login .... sm1`, `Login   sm1`, `Login = sm1`), in two
   (the name ends with a colon), in a row of a table with or without a row of names above, or in a sentence.
2. A short line without a value that names a service is a heading; what follows is about it until the next one.
3. A name that says itself what it is about (`FTP password`) needs no heading.
"""

from __future__ import annotations

import html
import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass, replace

from highshelf.core.letter.columns import Line, numbered
from highshelf.core.letter.words import words

HEADING_CHARS = 60
LABEL_CHARS, MOST_LABEL_WORDS = 64, 10
# A value in a table or beside a wide gap; letters are set with spaces, tabs or bars.
GAP = re.compile(r"\t+|\s{2,}|\s*[|│┃║]\s*")
RULE = re.compile(r"^[\s\-=_+*#~.|│─━═┌┐└┘├┤┬┴┼]+$")
BULLET = re.compile(r"^\s*(?:[>\s]*)(?:[-*•·–▪◦►»]\s+|\d{1,2}[.)]\s+|\(?[a-z]\)\s+)?")
SEPARATED = re.compile(
    r"^(?P<label>[^:=]{1,64}?)(?:\s*(?:\.{3,}\s*:?|…\s*:?|=>|->|→|:|=)|\s\.{1,2}(?=\s+[^\s.:]))\s*(?P<value>\S.*)$"
)
DASHED = re.compile(r"^(?P<label>[^:=–—/@-]{2,40}?)\s+[-–—]\s+(?P<value>\S.*)$")
LABEL_ONLY = re.compile(r"^(?P<label>[^:]{1,64})\s*:\s*$")
NAKED = re.compile(r"(?i)(?<![\w@./-])((?:[a-z0-9-]+\.)+[a-z]{2,}|\d{1,3}(?:\.\d{1,3}){3}|localhost)(?![\w@/-])")
# The same with a path, as people write addresses.
WITH_PATH = re.compile(r"(?i)(?<![\w@./:-])(?:[a-z0-9-]+\.)+[a-z]{2,}/[\w~-][\w./~-]*")
# A word in a sentence, with or without marks around it.
OPENING, CLOSING, WORD = "(?:[\"'«„“‘]\\s?)?", "(?:\\s?[\"'»”’])?", "[^\\s\"'»”’]+"
# Letters that are no letter with a mark, one for one.
UNDIVIDED = str.maketrans("łŁøØđĐıßæœ", "lLoOdDisao")
HOSTS = ("host", "site", "address", "temporary")
# Marks that make bold or fixed type, around whole words: inside a word they may be part of a password.
EMPHASIS = re.compile(r"(?<![^\s|(])(\*\*|__|`)(\S(?:[^*`]*?\S)?)\1(?![^\s|:,.)])")
# A second name in the same line, after a comma, a slash, a bar or a bracket.
NEXT = re.compile(r"(?:[\s,;/|(]+)(?P<label>[^\W\d_][\w .'’-]{1,30}?)\s*[:=]\s+(?=\S)")
# Parts of one line, and a part that begins with its own name.
SEGMENT = re.compile(r"\s+[/|]\s+|[,;]\s+(?![^(]*\))")
NAMED_PART = re.compile(r"(?P<label>[^\W\d_][^\W\d_ .'’-]*(?: [^\W\d_]+){0,2})\s+(?P<value>\S.*)$")
COLON_PART = re.compile(r"(?P<label>[^\W\d_][^:/@]{0,40}?)\s*:\s+(?P<value>\S.*)$")
# How many words may stand between a word for a password and the password itself.
MOST_BETWEEN = 8
# How many words a name may have that stands over its value without a sign.
MOST_OVER = 6
# How one connects in a terminal: `sftp -P 2200 keeper@host`, `ssh keeper@host -p 2200`.
COMMAND = re.compile(
    r"(?i)\b(?P<kind>sftp|ssh|ftp)\s+(?:-p\s*(?P<before>\d+)\s+)?(?P<who>[\w.+-]+@(?:[a-z0-9-]+\.)+[a-z]{2,})(?:\s+-p\s*(?P<after>\d+))?"
)
ONE_WORD = ("password", "login", "host", "port", "root", "address", "site")
DENIALS = ("not", "nicht", "kein", "pas", "no", "non", "nao", "niet", "geen", "nie")
# A folder in running text: what begins with a slash and is no address.
FOLDER = re.compile(r"(?<![\w:/.~@-])(/[\w~-][\w.~-]*(?:/[\w.~-]+)*)(?![\w:@])")
BESIDE = ("login", "password", "port", "customer")
URL = re.compile(r"\b(?:https?|sftp|ftps?|ftpes)://\S+", re.I)


@dataclass(frozen=True)
class Pair:
    """A name and its value as they stand in the letter; `line` counts from 1; `sentence`: found in running text; `under`: the heading above."""

    label: str
    value: str
    line: int
    section: str
    sentence: bool = False
    under: str = ""
    # The whole of what stood behind the first name of its line, where more names followed.
    rest: str = ""


def plain(text: str) -> str:
    """Text of a letter that came as HTML: cells and lines apart."""
    if not re.search(r"<(?:br|p|tr|td|div|table|li|h\d)\b", text, re.I):
        return text
    text = re.sub(r"(?is)<(script|style|head)\b.*?</\1>", "", text)
    text = re.sub(r"[\r\n]+", " ", text)
    text = re.sub(r"(?i)</t[dh]>\s*<t[dh]\b[^>]*>", "\t", text)
    text = re.sub(r"(?i)<(?:br|/p|/tr|/div|/li|/h\d|/table|hr)\b[^>]*>", "\n", text)
    return html.unescape(re.sub(r"<[^>]+>", "", text))


def lines_of(text: str) -> list[Line]:
    """Lines without quoting, bullets and emphasis, in the order in which they are read; rules between parts become `---`."""
    found = []
    for raw in numbered(plain(text).replace("\r\n", "\n").replace("\u00a0", " ").split("\n")):
        line = re.sub(r"^(?:\s*>)+\s?", "", raw).rstrip()
        line = EMPHASIS.sub(r"\2", line)
        line = "---" if line.strip() and RULE.match(line) else line
        line = re.sub(r"^\s*[|│┃║]\s*|\s*[|│┃║]\s*$", "", line) if re.search("[|│┃║]", line) else line
        found.append(Line(line, raw.number))
    return found


def pairs_of(text: str) -> list[Pair]:
    """Every name and value of a letter, in its order."""
    found: list[Pair] = []
    section, under, waiting = "", "", None
    header: list[str] = []
    indent = 0
    # Running text goes on over the ends of lines: what the line before began belongs to this one.
    begun = spoken = ""
    lines = lines_of(text)
    for number, raw in enumerate(lines, 1):
        line = raw if raw == "---" else BULLET.sub("", raw).strip()
        if BULLET.match(raw)[0].strip():  # type: ignore[index]
            # What stands before a bullet is another matter.
            begun = ""
        if line == "---":
            begun = ""
            continue
        if not line:
            header, begun, spoken = [], "", ""
            continue
        cells = [c.strip() for c in GAP.split(line) if c.strip()]
        if waiting is not None:
            pair, waiting = waiting, None
            # One word with a digit or a mark in it is a value, whatever names it holds; no heading is written with an underscore.
            bare = re.sub(r"\s*\([^()]*\)$", "", line)
            lone = " " not in bare and not line.endswith(":") and (_valuelike(bare, "password") or "_" in bare)
            # What is set in below a name is its value, whatever it is called.
            inner = len(raw) - len(raw.lstrip()) > indent and " " not in bare and not line.endswith(":")
            if lone or inner or not (_is_pair(line) or _is_heading(line)):
                found.append(replace(pair, value=line, line=number))
                continue
        if len(cells) >= 3 and not _values(cells) and sum(not _about(c) for c in cells) <= 1:
            header = cells
            continue
        if header and len(cells) == len(header) + 1:
            # Above the names of the services stands nothing.
            header = ["", *header]
        if header and len(cells) == len(header):
            found += [replace(pair, under=cells[0]) for pair in _row(header, cells, number, section)]
            continue
        if (only := LABEL_ONLY.match(line)) and words().role(only["label"]):
            indent = len(raw) - len(raw.lstrip())
            waiting = Pair(only["label"].strip(), "", number, words().section(only["label"]) or section, under=under)
            continue
        if _stands_over_its_value(raw, lines[number] if number < len(lines) else ""):
            indent = len(raw) - len(raw.lstrip())
            waiting = Pair(line, "", number, words().section(line) or section, under=under)
            continue
        if (led := _led_by_section(line, cells)) is not None:
            section, under, line = words().section(cells[0]), cells[0], led
            cells = [c.strip() for c in GAP.split(line) if c.strip()]
        parts = _entries(cells)
        made = [pair for part in parts for pair in _in_part(part, number, section)]
        made = made or list(_in_line(line, cells, number, section))
        if made:
            found += [replace(pair, under=under) for pair in made]
        elif _is_heading(line):
            section, under = words().section(line) or _site(line), line
        else:
            told = f"{begun} {line}".strip()
            found += [replace(pair, under=told) for pair in _in_text(begun, line, number, section, spoken)]
            spoken = _spoken(line) or spoken
        prose = not made and not _is_heading(line)
        begun = "" if not prose or re.search(r"[.!?]$", line) else f"{begun} {line}".strip()[-300:]
    return found


def _entries(cells: list[str]) -> list[str]:
    """The cells of a line that are entries of their own, one beside the other: `sftp keeper@host   pw: …`; else none."""
    if len(cells) < 2:
        return []
    pairs = [separated_in(cell) for cell in cells]
    named = [found is not None and bool(_about(found["label"])) for found in pairs]
    known = [own or bool(COMMAND.search(cell) or URL.search(cell)) for own, cell in zip(named, cells, strict=True)]
    return cells if all(known) and (any(named[1:]) or all(URL.search(cell) for cell in cells)) else []


def _in_part(part: str, number: int, section: str) -> Iterator[Pair]:
    found = list(_in_line(part, [part], number, section))
    yield from found or _in_sentence(part, number, section)


def _led_by_section(line: str, cells: list[str]) -> str | None:
    """The rest of `MySQL      host : db3.example`, whose first word is the heading of this line and of those set in below it."""
    if len(cells) < 2 or len(cells[0].split()) > 2 or not words().section(cells[0]) or words().role(cells[0]):
        return None
    rest = line[len(cells[0]) :].strip()
    found = separated_in(rest)
    return rest if found is not None and words().role(found["label"]) and ":" not in cells[0] else None


def _stands_over_its_value(raw: str, below: str) -> bool:
    """Whether a line is a name without any sign, and the one below is set in and is its value."""
    label, value = raw.strip(), below.strip()
    set_in = len(below) - len(below.lstrip()) > len(raw) - len(raw.lstrip())
    short = len(label.split()) <= MOST_OVER and not re.search(r"[.:!?,;=]", label) and bool(words().role(label))
    return short and set_in and 0 < len(value.split()) <= 2 and not value.endswith(":") and not GAP.search(value)


def _spoken(text: str) -> str:
    """What the last sentence that is about an account is about."""
    found = [words().section(part) for part in re.split(r"[.!?]\s", text)]
    return next((about for about in reversed(found) if about in ("transfer", "panel", "database")), "")


def _in_text(begun: str, line: str, number: int, section: str, spoken: str) -> Iterator[Pair]:
    """What a line of running text says, read together with what the lines before began."""
    if not begun:
        yield from _in_sentence(line, number, section, spoken)
        return
    whole = f"{begun} {line}"
    # What stands in the lines before alone was read with them; some of it is only understood with what follows.
    known = {(p.label, p.value) for p in _in_sentence(begun, number, section, spoken)}
    for pair in _in_sentence(whole, number, section, spoken):
        if (pair.label, pair.value) not in known:
            here = pair.value.split()[0].strip('"') in line
            yield pair if here else replace(pair, line=number - 1)


def _values(cells: list[str]) -> bool:
    """Whether a row holds values rather than names."""
    return any(re.search(r"\d|://|@|\w\.\w", c) for c in cells)


def _row(header: list[str], cells: list[str], number: int, section: str) -> Iterator[Pair]:
    about = words().section(cells[0]) or section
    for label, value in zip(header, cells, strict=True):
        if words().role(label):
            yield Pair(label, value, number, words().section(label) or about)
    # `FTP | ftp.saltmarsh.example | sm1`: which service it is stands in the first cell.
    if words().section(cells[0]) and not words().role(header[0]):
        yield Pair(cells[0], cells[0], number, about)


def separated_in(line: str) -> re.Match[str] | None:
    """A name and a value with a sign between them; a sign inside a word of running text is none."""
    found = SEPARATED.match(line) or DASHED.match(line)
    if found is None:
        return None
    if found.re is DASHED:
        return found if len(found["label"].split()) <= 3 and words().role(found["label"]) else None
    label, sign = found["label"].strip(), line[found.end("label") : found.start("value")]
    apart = sign != sign.strip() or len(sign.strip()) > 1
    # Words with digits and marks in them are values: a name has none of them, a sentence may.
    strange = any(re.search(r"\d|[_#@%&*!?~]", word) for word in label.split()[:-1])
    return None if (not apart and len(label.split()) > 3) or (strange and len(label.split()) > 4) else found


def _is_pair(line: str) -> bool:
    separated = separated_in(line)
    return separated is not None and bool(_about(separated["label"]))


def _about(label: str) -> str:
    return words().role(label) or words().section(label)


def _is_heading(line: str) -> bool:
    text = line.strip(" :=-#[]*")
    short = len(text) <= HEADING_CHARS and len(text.split()) <= 8
    # `Included: 20 GB, 5 databases` speaks of databases, and what follows does not.
    return (
        short
        and not re.search(r"[.!?,;]$|://|@|\w\.\w|:\s+\S|(?<!\w)/\w", text)
        and bool(words().section(text) or _site(text))
    )


def _site(text: str) -> str:
    """A heading about the site itself ends what was about a service."""
    return "site" if words().role(text) in ("site", "address", "temporary", "root") else ""


def _in_line(line: str, cells: list[str], number: int, section: str) -> Iterator[Pair]:
    separated = separated_in(line)
    # A name may be led to its value by dots with gaps between them.
    label = re.sub(r"[\s.·…_]+$", "", separated["label"]).strip() if separated else ""
    before, last = _last_part(label)
    if separated and before and _about(last):
        # `Web root /srv/www, site: https://…`, `Your account is ready. Server: …`: what stands before is a part of its own.
        yield from _in_sentence(before, number, section)
        yield from _split(last, separated["value"].strip(), number, section)
        return
    if separated and words().role(label) in ("password", "login") and _is_talk(separated["value"]):
        # `no passwords any more: I've put your key there` talks about one, and names none.
        return
    if separated and section == "database" and words().is_database(label):
        yield Pair("database name", separated["value"].strip(), number, section)
        return
    plain_label = label and not GAP.search(label) and len(label.split()) <= MOST_LABEL_WORDS
    if separated and plain_label and not separated["value"].startswith("//") and _about(label):
        yield from _split(label, separated["value"].strip(), number, section)
        return
    if len(cells) == 2 and len(cells[0]) <= LABEL_CHARS and _about(cells[0]) and not NAKED.fullmatch(cells[0]):
        yield from _split(cells[0].rstrip(" :=.…"), cells[1], number, section)


def _is_talk(value: str) -> bool:
    """Whether a sentence stands where a value would."""
    parts = value.split()
    return len(parts) > 6 and all(re.fullmatch(r"[^\W\d_'’]+(?:['’]\w+)?,?", w) for w in parts[:4])


def _last_part(label: str) -> tuple[str, str]:
    """What stands before the last sentence of a name, or before its last comma where that begins with a name of its own; and the rest."""
    parts = re.split(r"([.!?]\s+)", label)
    if len(parts) > 1:
        return "".join(parts[:-1]).strip(), parts[-1].strip()
    before, comma, last = label.rpartition(",")
    return (before, last.strip()) if comma and FOLDER.search(before) else ("", label)


def _split(label: str, value: str, number: int, section: str) -> Iterator[Pair]:
    """One pair, or several when more names follow in the value (`User: a, password: b`)."""
    about = words().section(label) or section
    parts = SEGMENT.split(value)
    named = [
        m
        for part in parts[1:]
        if (m := COLON_PART.match(part) or NAMED_PART.match(part))
        and (_beside(m["label"], about) and not _goes_on(m["label"]))
    ]
    later = [m for m in NEXT.finditer(value) if words().role(m["label"]) and not URL.match(value[m.start("label") :])]
    address = URL.match(parts[0]) or NAKED.match(parts[0])
    if not named and not later and address and words().role(", ".join(parts[1:])) in BESIDE:
        # `https://panel.example, login is the customer number 7`: an address, and then a sentence.
        yield Pair(label, parts[0].strip(), number, about, rest=value)
        yield from _in_sentence(", ".join(parts[1:]), number, about)
        return
    if named and len(named) == len(parts) - 1:
        # `ftp.example / user sm1 / password x`: each part says what it is.
        head = NAMED_PART.match(parts[0])
        if head and not _goes_on(head["label"]) and (_beside(head["label"], about) or _is_name(head["label"], about)):
            named = [head, *named]
        else:
            yield Pair(label, parts[0].strip(), number, about, rest=value)
        for part in named:
            if words().role(part["label"]) not in BESIDE:
                yield Pair("database name", part["value"].rstrip(".,;"), number, "database", rest=value)
                continue
            own, behind = _first_sentence(part["label"], re.sub(r"[,;]$", "", part["value"].lstrip("=: ")))
            yield Pair(part["label"], own, number, words().section(part["label"]) or about, rest=value)
            yield from _in_sentence(behind, number, section)
        return
    begun = URL.match(value)
    behind = value[begun.end() :] if begun else ""
    if not named and not later and re.match(r"\s+[-–—(]", behind) and words().role(behind) in BESIDE:
        # `https://panel.example - sign in with keeper and the password …`
        yield Pair(label, value[: len(value) - len(behind)], number, about, rest=value)
        yield from _in_sentence(behind.strip(" -–—"), number, about)
        return
    ends = [m.start() for m in later] + [len(value)]
    first, rest = _first_sentence(label, value[: ends[0]].strip())
    yield Pair(label, first, number, about)
    yield from _in_sentence(rest, number, section)
    for index, match in enumerate(later):
        text, behind = _first_sentence(match["label"], value[match.end() : ends[index + 1]].strip())
        yield from _in_sentence(behind, number, section)
        yield Pair(
            match["label"].strip(),
            text.rstrip(")") if "(" in value else text,
            number,
            words().section(match["label"]) or about,
        )


def _first_sentence(label: str, value: str) -> tuple[str, str]:
    """A value of one word, and the sentences that follow it in the same line."""
    end = re.search(r"(?<=\S)[.!?]\s+(?=[^\W\d_])", value)
    if end is None or words().role(label) not in ONE_WORD or len(value[: end.start()].split()) > 1:
        return value, ""
    rest = value[end.end() :]
    goes_on = rest[:1].isupper() and len(rest.split()) >= 3
    return (value[: end.start()], rest) if goes_on else (value, "")


def _is_name(label: str, about: str) -> bool:
    return about == "database" and words().role(label) in ("name", "bare")


def _beside(label: str, about: str) -> bool:
    """Whether a part of a line names its own value: a login, or the database (`db.example, database boats, user keeper`)."""
    role = words().role(label)
    named = words().section(label) == "database" if not role else role in ("name", "bare") and about == "database"
    return role in BESIDE or named or (about == "database" and words().is_database(label))


def _goes_on(label: str) -> bool:
    """Whether a name has a verb or a denial in it: a sentence, and no name beside its value."""
    return bool(
        set(_flat(label).split())
        & {*words().verbs, *DENIALS, "was", "wurde", "etait", "fue", "era", "foi", "werd", "bylo"}
    )


def _in_sentence(line: str, number: int, section: str, spoken: str = "") -> Iterator[Pair]:
    """Names and values in running text: `your password is …`, `the user name sm1`, an address beside a word for it.

    `spoken`: what the text before was about: a login belongs to it, where nothing else is said.
    """
    flat = _flat(line)
    taken: set[int] = set()
    for command in COMMAND.finditer(line):
        port = command["before"] or command["after"]
        kind = "ftp" if command["kind"].lower() == "ftp" else "sftp"
        yield Pair(
            "server", f"{kind}://{command['who']}{':' + port if port else ''}", number, "transfer", sentence=True
        )
    for label, start, text in [
        *_before_its_name(line, flat),
        *_by_sign(line),
        *_by_verb(line, flat),
        *_called(line, flat, section, spoken),
        *_side_by_side(line, flat),
        *_as_somebody(line, flat),
        *_strong(line, flat),
    ]:
        if start not in taken:
            taken.add(start)
            about = words().section(label) or _nearest(line, start) or _spoken(line[:start]) or spoken or section
            yield Pair(label, _whole(line, start, text), number, about, sentence=True)
    for folder in FOLDER.finditer(line):
        said = _sentence(line, folder.start())
        before = _clause(line[: folder.start()])
        known = words().role(before) == "root" or folder.start() in taken
        if not known and words().says_things(said) and words().section(before) != "mail":
            yield Pair("folder", folder[1], number, _nearest(line, folder.start()) or section, sentence=True)
    yield from _folders_named(line, taken, number, section)
    urls = list(URL.finditer(line))
    for url in urls:
        label = _clause(line[: url.start()]).strip(" :(–-") or "address"
        if words().says_until(_sentence(line, url.start())) and words().section(label) not in (
            "panel",
            "database",
            "mail",
        ):
            yield Pair("temporary address", line[url.start() :].split()[0], number, "site", sentence=True)
            continue
        # What stands nearest says whose it is; a word for the site is the site's, below whatever heading.
        own = "site" if words().role(label) in ("site", "temporary") else ""
        before = _last_section(label) or own or _nearest_before(line, url.start())
        about = before or _nearest(line, url.start()) or section
        if about == "database" and words().says_sign_in(_sentence_before(line[: url.start()])):
            # `Should you need a database, sign in at …`: no database is signed in to by its web address.
            about = "panel"
        if (not before or about == "") and _credentials_follow(url[0], line[url.end() :]):
            about = "panel"
        yield Pair(label, line[url.start() :].split()[0], number, about, sentence=True)
    for link in WITH_PATH.finditer(line):
        about = _last_section(_clause(line[: link.start()])) or _nearest(line, link.start())
        if about == "panel" and not any(u.start() <= link.start() < u.end() for u in urls):
            yield Pair("address", f"https://{link[0].rstrip('.')}", number, "panel", sentence=True)
    for host in NAKED.finditer(line):
        before = _clause(line[: host.start()]).strip()
        # What stands nearest says what it is.
        near = " ".join(before.split()[-3:])
        before = near if words().role(near) in HOSTS else before
        if any(u.start() <= host.start() < u.end() for u in urls):
            continue
        named = words().role(before) in HOSTS
        # "Connect by FTP to …": no word for a server stands beside it, and it can be nothing else.
        about = _nearest(line, host.start())
        if not named and about in ("transfer", "database") and not words().role(before):
            before, named = "server", True
        if named:
            port = re.match(r"\s*,?\s*(?:port|puerto|porta|poort|portu)\s+(\d+)", line[host.end() :], re.I)
            text = host[0] + (f", port {port[1]}" if port else "")
            near = about if about in ("transfer", "panel", "database") else ""
            told = (_spoken(line[: host.start()]) or spoken) if words().role(before) == "host" else ""
            own = words().section(before) or near or told or section
            yield Pair(before, text, number, own, sentence=True)


def _folders_named(line: str, taken: set[int], number: int, section: str) -> Iterator[Pair]:
    """`Your pages go into public_html`: a folder by one of the names that they have, behind a word for where."""
    into = "|".join(re.escape(w) for w in words().into)
    for match in re.finditer(rf"\b(?:{into})\s+{OPENING}(?P<value>{WORD})", line, re.I):
        text = match["value"].rstrip(".,;:!?)")
        said = _sentence(line, match.start())
        if match.start("value") not in taken and _valuelike(text, "root") and words().says_things(said):
            yield Pair("folder", text, number, _nearest(line, match.start()) or section, sentence=True)


def _nearest(line: str, at: int) -> str:
    """What the sentence around a place is about: what was named last before it counts."""
    return _nearest_before(line, at) or words().section(_sentence(line, at))


def _nearest_before(line: str, at: int) -> str:
    parts = re.split(r"[,;(]\s?", _sentence_before(line[:at]))
    return next((found for part in reversed(parts) if (found := _part_about(part))), "")


def _part_about(text: str) -> str:
    """What a part of a sentence is about; one that says to sign in at a web address is about a panel."""
    web = URL.search(text)
    signs_in = web is not None and (words().says_sign_in(text) or _credentials_follow(web[0], text[web.end() :]))
    return _last_section(text) or ("panel" if signs_in and web and web[0].lower().startswith("http") else "")


def _credentials_follow(address: str, behind: str) -> bool:
    """Whether an address is followed by how to sign in there: `https://my.example - user keeper, …`."""
    if address[-1:] in (".", ";", "!", "?"):
        return False
    found = re.match(r"[\s–—(,;:-]+(?P<name>[^\W\d_]+(?: [^\W\d_]+)?)", behind)
    return found is not None and words().role(found["name"]) in ("login", "password", "customer")


def _last_section(text: str) -> str:
    """What the last word is about that is about a service."""
    parts = text.split()
    return next((found for n in range(len(parts) - 1, -1, -1) if (found := words().section(" ".join(parts[n:])))), "")


# Where a sentence ends: what goes on in small letters is still the same one, whatever mark a password in it ends with.
ENDS = r"[.!?;]\s+(?![a-zà-ÿ])"


def _sentence_before(text: str) -> str:
    return re.split(r"[.!?]\s+(?![a-zà-ÿ])", text)[-1]


def _flat(text: str) -> str:
    """Without accents and capitals, letter for letter: places in it are places in the text."""
    return "".join(unicodedata.normalize("NFKD", c)[0] for c in text.translate(UNDIVIDED)).lower()


def _sentence(text: str, at: int) -> str:
    """The sentence around a place in a text."""
    begin = max((m.end() for m in re.finditer(ENDS, text) if m.end() <= at), default=0)
    end = re.search(rf"{ENDS}|[.!?;]\s*$", text[at:])
    return text[begin : at + end.start() if end else len(text)]


def _clause(text: str) -> str:
    """The last part of a sentence: what stands nearest before a name says what it is."""
    return re.split(r"[.!?]\s|[,;(]\s?|\b(?:and|und|et|y|e|en|i|oraz|a)\b", text)[-1]


def _before_its_name(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    """`Enter keeper_7 as the user and … as the password`."""
    whom = "|".join(re.escape(w) for w in words().as_whom)
    shape = (
        rf"{OPENING}(?P<value>{WORD}){CLOSING}\s+(?:{whom})\s+(?:[a-z']{{1,4}}\s+)?(?=(?P<label>[a-z][a-z ]{{2,24}}))"
    )
    for match in re.finditer(shape, flat):
        text, label = line[match.start("value") : match.end("value")], _first_role(match["label"])
        role = words().role(label)
        if re.search(r"[()]|[,;:.]$", text):
            continue
        known = (role in HOSTS and NAKED.fullmatch(text)) or (role in BESIDE and _valuelike(text, role))
        if label and known and not re.match(rf"{CLOSING}\s+[\w.@-]*[\d_@]", flat[match.start("label") + len(label) :]):
            yield label, match.start("value"), text


def _first_role(text: str) -> str:
    """The first word, or two, that call something."""
    parts = text.split()
    return next((told for told in (" ".join(parts[:2]), *parts[:1]) if words().role(told)), "")


def _by_sign(line: str) -> Iterator[tuple[str, int, str]]:
    """`Log in by SFTP: server = …, user = …, password = …`: with a sign between them any word is a value."""
    shape = (
        rf"(?:^|[\s,;(:])(?P<label>[^\W\d_][^\W\d_ .'’-]*(?: [^\W\d_]+){{0,2}}?)\s+[=:]\s+{OPENING}(?P<value>{WORD})"
    )
    for match in re.finditer(shape, line):
        if words().role(_clause(match["label"])) in BESIDE:
            yield match["label"], match.start("value"), match["value"]


def _called(line: str, flat: str, section: str, spoken: str) -> Iterator[tuple[str, int, str]]:
    """`One database is in your package. It is called …`."""
    shape = "|".join(re.escape(stem) for stem in words().it_is_called)
    for match in re.finditer(rf"\b(?:{shape})\s+{OPENING}(?P<value>{WORD})", flat):
        text = line[match.start("value") : match.end("value")]
        said = (
            _spoken(line[: match.start()])
            or words().section(_sentence_before(line[: match.start()]))
            or spoken
            or section
        )
        if said == "database" and _valuelike(text, "login"):
            yield "database name", match.start("value"), text


def _whole(line: str, start: int, text: str) -> str:
    """A word with its mark, where it stands in marks of its own or the sentence goes on after it: then the mark is the word's own."""
    behind = line[start + len(text) :]
    goes_on = text[-1:] in ("!", "?") and re.match(r"\s+[a-zà-ÿ]", behind)
    return f'"{text}"' if goes_on or _is_quoted(line, start, behind) else text


def _is_quoted(line: str, start: int, behind: str) -> bool:
    return line[:start].rstrip()[-1:] in tuple("\"'«„“‘") and behind.lstrip()[:1] in tuple("\"'»”’“")


def _by_verb(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    verbs = "|".join(words().verbs)
    for match in re.finditer(rf"(?P<label>[^.:;,!?]{{2,60}}?)\s(?:{verbs})\s*:?\s+{OPENING}(?P<value>{WORD})", flat):
        label = _clause(line[match.start("label") : match.end("label")])
        role = words().role(label)
        # The end of a clause after it makes any word a value: `your user is keeper, your …`.
        text = line[match.start("value") : match.end("value")]
        closed = text[-1:] in ",;." or re.match(
            rf"{CLOSING}\s*(?:[.,;)]|$)|\s+(?:and|und|et|y|e|en|i|oraz|a)\b", flat[match.end() :]
        )
        if role and role not in HOSTS and (_valuelike(text, role) or (closed and role == "login")):
            yield label.strip(), match.start("value"), text


def _side_by_side(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    for role in ("customer", "password", "port", "root", "login", "name"):
        for stem in words().databases if role == "name" else words().roles[role]:
            article = r"(?:[a-z]{1,3}\s+)?" if role == "port" else ""
            for match in re.finditer(rf"\b{re.escape(stem)}\b\s*:?\s+{article}{OPENING}(?P<value>{WORD})", flat):
                text = line[match.start("value") : match.end("value")]
                rest = ("," if text.endswith(",") else "") + flat[match.end() :]
                quoted = role in ("login", "password", "root") and _is_quoted(
                    line, match.start("value"), line[match.end() :]
                )
                if role == "name" and NAKED.fullmatch(text.rstrip(".,;")):
                    continue
                if _valuelike(text, role) or quoted or (role == "login" and _beside_password(text, rest)):
                    yield ("database name" if role == "name" else stem), match.start("value"), text


def _as_somebody(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    """`Log in over SSH as lugger04`, „anmelden mit dem Namen …“."""
    whom = "|".join(re.escape(w) for w in words().as_whom)
    for match in re.finditer(rf"\b(?:{whom})\s+{OPENING}(?P<value>{WORD})", flat):
        text = line[match.start("value") : match.end("value")]
        quoted = line[match.start("value") - 1 : match.start("value")] in "\"'«„“‘"
        if words().says_sign_in(_sentence(line, match.start())) and (quoted or _valuelike(text, "login")):
            yield "login", match.start("value"), text
    for match in re.finditer(
        rf"\b(?:you are|you're|sie sind|vous etes|eres|usted es|lei e|o seu utilizador e|je bent|u bent|jestes)\s+[\"'«„“‘](?P<value>{WORD})",
        flat,
    ):
        yield "login", match.start("value"), line[match.start("value") : match.end("value")]
    with_whom = r"\b(?:with|mit|avec|con|com|met|z|as|als)\s+"
    for match in re.finditer(rf"{with_whom}{OPENING}(?P<value>{WORD})", flat):
        text = line[match.start("value") : match.end("value")]
        rest = ("," if text.endswith(",") else "") + flat[match.end() :]
        if words().says_sign_in(_sentence(line, match.start())) and _beside_password(text, rest):
            yield "login", match.start("value"), text
    for match in re.finditer(rf"{with_whom}(?P<login>[\w.@+-]{{3,40}})\s*/\s*(?P<value>[^\s,]{{6,60}})", flat):
        secret = line[match.start("value") : match.end("value")]
        if words().says_sign_in(_sentence(line, match.start())) and _valuelike(secret, "password"):
            yield "login", match.start("login"), line[match.start("login") : match.end("login")]
            yield "password", match.start("value"), secret
    for mail in re.finditer(r"\b(?:with|mit|avec|con|com|met|z)\s+(?P<value>[\w.+-]+@[\w.-]+\w)", flat):
        if words().says_sign_in(_sentence(line, mail.start())):
            yield "login", mail.start("value"), line[mail.start("value") : mail.end("value")]


def _strong(line: str, flat: str) -> Iterator[tuple[str, int, str]]:
    """The one word of a sentence about a password that can be nothing else: letters, digits and marks in one."""
    stems = "|".join(re.escape(s) for s in words().roles["password"])
    for match in re.finditer(rf"\b(?:{stems})\b", flat):
        for token in list(re.finditer(r"\S+", line[match.end() : match.end() + 90]))[:MOST_BETWEEN]:
            text = token[0].strip("\"'«»„“”‘’().,;:")
            if _is_strong(text):
                yield "password", match.end() + token.start() + token[0].index(text), text
                break
            if token[0][-1:] in ".!?":
                break


def _is_strong(text: str) -> bool:
    kinds = [bool(re.search(shape, text)) for shape in (r"[a-zà-ÿ]", r"[A-Z]", r"\d", r"[^\w\s]")]
    known = NAKED.fullmatch(text) or text.startswith("/") or "@" in text or "://" in text
    return len(text) >= 8 and kinds[3] and sum(kinds) >= 3 and not known


def _beside_password(word: str, rest: str) -> bool:
    """`the user name boatyard and the password …`: whatever stands there is the name."""
    stems = "|".join(re.escape(s) for s in words().roles["password"])
    follows = re.match(
        rf"{CLOSING}\s*(?:,?\s*(?:and|und|et|y|e|en|i|oraz|a)|,)\s+(?:[a-z]+\s+){{0,3}}(?:{stems})", rest
    )
    return bool(follows) and word.lower() not in (
        "and",
        "und",
        "et",
        "y",
        "or",
        "oder",
        "ou",
        "o",
        "e",
        "en",
        "i",
        "a",
        "of",
        "lub",
    )


def _valuelike(text: str, role: str) -> bool:
    """Whether a word in a sentence is a value and not the sentence going on."""
    bare = text.strip(".,;:!?()")
    if role == "port":
        return bare.isdigit()
    if role == "root":
        return "/" in bare or bool(
            re.fullmatch(r"[\w-]*(?:www|web|htdocs|httpdocs|html|public)[\w-]*|docroot|site", bare)
        )
    mixed = bool(re.search(r"[A-Z]", bare[1:]) and re.search(r"[a-z]", bare))
    return len(bare) >= 3 and bool(re.search(r"\d|[^\w\s]|\w_\w", bare) or mixed)
