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
from collections.abc import Iterator
from dataclasses import replace

from highshelf.core.letter.columns import Line, numbered
from highshelf.core.letter.prose import (
    BESIDE,
    COMMAND,
    FOLDER,
    NAKED,
    ON_HOST,
    URL,
    Pair,
    goes_on,
    in_sentence,
    is_talk,
    spoken_of,
    valuelike,
)
from highshelf.core.letter.words import words

HEADING_CHARS = 60
LABEL_CHARS, MOST_LABEL_WORDS = 64, 10
# A value in a table or beside a wide gap; letters are set with spaces, tabs or bars.
GAP = re.compile(r"\t+|\s{2,}|\s*[|│┃║]\s*")
# What stands in the place of a first word that is the same as in the line above.
FILLER = re.compile(r"^(?:[.…·]{3,}|[\"″〃]|-\s?[\"″]\s?-)\s+(?=[^\W\d_])")
RULE = re.compile(r"^[\s\-=_+*#~.|│─━═┌┐└┘├┤┬┴┼]+$")
BULLET = re.compile(r"^\s*(?:[>\s]*)(?:[-*•·–▪◦►»]\s+|\d{1,2}[.)]\s+|\(?[a-z]\)\s+)?")
SEPARATED = re.compile(
    r"^(?P<label>[^:=]{1,64}?)(?:\s*(?:\.{3,}\s*:?|…\s*:?|=>|->|→|:|=)|\s\.{1,2}(?=\s+[^\s.:]))\s*(?P<value>\S.*)$"
)
DASHED = re.compile(r"^(?P<label>[^:=–—/@-]{2,40}?)\s+[-–—]\s+(?P<value>\S.*)$")
LABEL_ONLY = re.compile(r"^(?P<label>[^:]{1,64})\s*:\s*$")
# Marks that make bold or fixed type, around whole words: inside a word they may be part of a password.
EMPHASIS = re.compile(r"(?<![^\s|(])(\*\*|__|`)(\S(?:[^*`]*?\S)?)\1(?![^\s|:,.)])")
# A second name in the same line, after a comma, a slash, a bar or a bracket.
NEXT = re.compile(r"(?:[\s,;/|(]+)(?P<label>[^\W\d_][\w .'’-]{1,30}?)\s*[:=]\s+(?=\S)")
# Parts of one line, and a part that begins with its own name.
SEGMENT = re.compile(r"\s+[/|]\s+|[,;]\s+(?![^(]*\))")
NAMED_PART = re.compile(r"(?P<label>[^\W\d_][^\W\d_ .'’-]*(?: [^\W\d_]+){0,2})\s+(?P<value>\S.*)$")
COLON_PART = re.compile(r"(?P<label>[^\W\d_][^:/@]{0,40}?)\s*:\s+(?P<value>\S.*)$")
# How many words a name may have that stands over its value without a sign.
MOST_OVER = 6
ONE_WORD = ("password", "login", "host", "port", "root", "address", "site")


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
    begun = spoken = service = ""
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
        if (filled := FILLER.match(line)) and service:
            # `..... password   X` below `SQL .....  host`: it goes on with what that line began.
            section, line, begun = service, line[filled.end() :], ""
        cells = [c.strip() for c in GAP.split(line) if c.strip()]
        if waiting is not None:
            pair, waiting = waiting, None
            # One word with a digit or a mark in it is a value, whatever names it holds; no heading is written with an underscore.
            bare = re.sub(r"\s*\([^()]*\)$", "", line)
            lone = " " not in bare and not line.endswith(":") and (valuelike(bare, "password") or "_" in bare)
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
        # A sentence that the line before began is not over because a sign stands in it.
        running = bool(begun) and not parts and (line[0] == "(" or (line[0].islower() and not _is_pair(line)))
        made = made or ([] if running else list(_in_line(line, cells, number, section)))
        told = _told_behind(made)
        if made:
            found += [replace(pair, under=under) for pair in _carried(made)]
            found += [replace(p, under=under) for p in in_sentence(told, number, made[0].section or section)]
            spoken = spoken_of(told) or spoken
            service = _led(made[0]) or service
        elif _is_heading(line):
            section, under = words().section(line) or _site(line), line
        else:
            whole = f"{begun} {line}".strip()
            found += [replace(pair, under=whole) for pair in _in_text(begun, line, number, section, spoken)]
            spoken = spoken_of(line) or spoken
        prose = bool(told) or (not made and not _is_heading(line))
        begun = "" if not prose or re.search(r"[.!?]$", line) else f"{begun} {told or line}".strip()[-300:]
    return found


def _entries(cells: list[str]) -> list[str]:
    """The cells of a line that are entries of their own, one beside the other: `sftp keeper@host   pw: …`; else none."""
    if len(cells) < 2:
        return []
    pairs = [separated_in(cell) for cell in cells]
    named = [found is not None and bool(_about(found["label"])) for found in pairs]
    known = [own or bool(COMMAND.search(cell) or URL.search(cell)) for own, cell in zip(named, cells, strict=True)]
    return cells if all(known) and (any(named[1:]) or all(URL.search(cell) for cell in cells)) else []


def _led(pair: Pair) -> str:
    """What a line is about whose first word is a service and no name: lines without a first word of their own go on with it."""
    return "" if words().role(pair.label) or len(pair.label.split()) > 2 else words().section(pair.label)


def _carried(made: list[Pair]) -> list[Pair]:
    """A sentence at a line's end that says nothing else is about what its line is about."""
    about, found = "", list[Pair]()
    for pair in made:
        about = pair.section or about
        site = words().role(pair.label) == "site" and not words().section(pair.label) and len(pair.label.split()) <= 2
        if site and URL.match(pair.value) and not (pair.section == "panel" and words().says_door(pair.label)):
            # A word for the site is the site's, below whatever heading it stands.
            pair = replace(pair, section="site")
        found.append(replace(pair, section=about) if pair.sentence else pair)
    return found


def _told_behind(made: list[Pair]) -> str:
    """What goes on behind the first value of a line as running text: `SFTP: keeper@host, password …, folder …. A database …`."""
    value = made[0].value if len(made) == 1 else ""
    rest = value.partition(", ")[2]
    firsts = [part.split()[0] for part in re.split(r"[,;.]\s", rest) if part.strip()]
    facts = [w for w in firsts if words().role(w) in (*BESIDE, "root", "host") or words().says_customer(w)]
    return rest if facts and len(rest.split()) >= 4 else ""


def _in_part(part: str, number: int, section: str) -> Iterator[Pair]:
    found = list(_in_line(part, [part], number, section))
    yield from found or in_sentence(part, number, section)


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


def _in_text(begun: str, line: str, number: int, section: str, spoken: str) -> Iterator[Pair]:
    """What a line of running text says, read together with what the lines before began."""
    if not begun:
        yield from in_sentence(line, number, section, spoken)
        return
    whole = f"{begun} {line}"
    # What stands in the lines before alone was read with them; some of it is only understood with what follows.
    known = {(p.label, p.value) for p in in_sentence(begun, number, section, spoken)}
    for pair in in_sentence(whole, number, section, spoken):
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
    parts = label.split()
    # `Kennwort Pril:Priel`: the sign belongs to the word behind the name.
    inside = not apart and len(parts) > 1 and not words().role(parts[-1]) and bool(words().role(" ".join(parts[:-1])))
    return None if inside or (not apart and len(parts) > 3) or (strange and len(parts) > 4) else found


def _is_pair(line: str) -> bool:
    separated = separated_in(line)
    return separated is not None and bool(_about(separated["label"]))


def _about(label: str) -> str:
    return words().role(label) or words().section(label)


def _is_heading(line: str) -> bool:
    text = line.strip(" :=-#[]*")
    short = len(text) <= HEADING_CHARS and len(text.split()) <= 8
    # `MariaDB 10.6`: a version is no address.
    text = re.sub(r"(?<![\w.])\d+(?:\.\d+)+(?![\w.])", "", text)
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
    store = ON_HOST.match(line)
    if store is not None and section == "database" and valuelike(store["name"], "login"):
        yield Pair("database name", store["name"], number, section)
        yield from _split("server", line[store.start("host") :], number, section)
        return
    separated = separated_in(line)
    # A name may be led to its value by dots with gaps between them.
    label = re.sub(r"[\s.·…_]+$", "", separated["label"]).strip() if separated else ""
    before, last = _last_part(label)
    if separated and before and _about(last):
        # `Web root /srv/www, site: https://…`, `Your account is ready. Server: …`: what stands before is a part of its own.
        yield from in_sentence(before, number, section)
        yield from _split(last, separated["value"].strip(), number, section)
        return
    if separated and words().role(label) in ("password", "login") and is_talk(separated["value"]):
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
        and (_beside(m["label"], about) and not goes_on(m["label"]))
    ]
    later = [m for m in NEXT.finditer(value) if words().role(m["label"]) and not URL.match(value[m.start("label") :])]
    address = URL.match(parts[0]) or NAKED.match(parts[0])
    if not named and not later and address and words().role(", ".join(parts[1:])) in BESIDE:
        # `https://panel.example, login is the customer number 7`: an address, and then a sentence.
        yield Pair(label, parts[0].strip(), number, about, rest=value)
        yield from in_sentence(", ".join(parts[1:]), number, about)
        return
    if named and len(named) == len(parts) - 1:
        # `ftp.example / user sm1 / password x`: each part says what it is.
        head = NAMED_PART.match(parts[0])
        if head and not goes_on(head["label"]) and (_beside(head["label"], about) or _is_name(head["label"], about)):
            named = [head, *named]
        else:
            yield Pair(label, parts[0].strip(), number, about, rest=value)
        for part in named:
            if words().role(part["label"]) not in BESIDE:
                yield Pair("database name", part["value"].rstrip(".,;"), number, "database", rest=value)
                continue
            own, behind = _first_sentence(part["label"], re.sub(r"[,;]$", "", part["value"].lstrip("=: ")))
            yield Pair(part["label"], own, number, words().section(part["label"]) or about, rest=value)
            yield from in_sentence(behind, number, section)
        return
    begun = URL.match(value)
    behind = value[begun.end() :] if begun else ""
    if not named and not later and re.match(r"\s+[-–—(]", behind) and words().role(behind) in BESIDE:
        # `https://panel.example - sign in with keeper and the password …`
        yield Pair(label, value[: len(value) - len(behind)], number, about, rest=value)
        yield from in_sentence(behind.strip(" -–—"), number, about)
        return
    ends = [m.start() for m in later] + [len(value)]
    first, rest = _first_sentence(label, value[: ends[0]].strip())
    yield Pair(label, first, number, about)
    yield from in_sentence(rest, number, section)
    for index, match in enumerate(later):
        text, behind = _first_sentence(match["label"], value[match.end() : ends[index + 1]].strip())
        yield from in_sentence(behind, number, section)
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
