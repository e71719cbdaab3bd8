"""Texts for people: what readmes, installation texts, changelogs and licences say about needs, in four languages."""

from __future__ import annotations

import re

from highshelf.core.release.clues import Clue, version_in
from highshelf.core.release.granted import granted
from highshelf.core.release.logins import published_logins
from highshelf.core.release.php.settings import SETTINGS, amount

NUMBER = r"v?(?P<n>\d{1,2}(?:\.\d{1,2}){0,2})"
BETWEEN = r"(?:[\s:,(*_`\"|]|version(?:en|s)?|ab|à partir de|desde|from|at least|mindestens|minimum|min\.?|>=|≥|=>|au moins|al menos|is){0,16}"
PHP = re.compile(rf"(?i)\bPHP\b{BETWEEN}{NUMBER}")
# MariaDB and MySQL count their versions differently: where a line names both, MariaDB's number is MariaDB's.
SERVERS = (
    ("mariadb", 0.6, re.compile(rf"(?i)\bMariaDB\b{BETWEEN}{NUMBER}")),
    ("mariadb", 0.5, re.compile(rf"(?i)\bMySQL\b{BETWEEN}{NUMBER}")),
    ("postgresql", 0.6, re.compile(rf"(?i)\bPostgre(?:s|SQL)\b{BETWEEN}{NUMBER}")),
)
NAMED = {
    "mariadb": re.compile(r"(?i)\b(?:MySQL|MariaDB)\b"),
    "postgresql": re.compile(r"(?i)\bPostgre(?:s|SQL)\b"),
    "sqlite": re.compile(r"(?i)\bSQLite\b"),
}
EXTENSIONS = [
    "pdo_mysql",
    "pdo_pgsql",
    "pdo_sqlite",
    "mysqli",
    "pgsql",
    "mbstring",
    "gd",
    "intl",
    "curl",
    "xml",
    "zip",
    "openssl",
    "gettext",
    "bcmath",
    "ldap",
    "imap",
    "iconv",
    "exif",
    "fileinfo",
    "sodium",
    "soap",
    "simplexml",
    "dom",
    "gmp",
    "ctype",
    "json",
    "apcu",
    "sqlite3",
    "imagick",
    "xsl",
    "zlib",
    "session",
    "xmlreader",
    "xmlwriter",
    "tokenizer",
]
EXTENSION = re.compile(r"(?<![\w.-])(?:php[-_\d.]*)?(" + "|".join(EXTENSIONS) + r")(?![\w-])", re.I)
WRITABLE = re.compile(
    r"(?i)writ(?:e?able|able by|e permission)|chmod|schreib(?:bar|recht)|permission|0?777|0?775|inscriptible|écriture|escritura|beschreibbar"
)
FOLDER = re.compile(r"(?<![\w:/.@-])(?:\./|/)?([a-z_][\w.-]*(?:/[\w.-]+)*)/(?=[\s`\"',;:.)*|]|$)", re.I)
TICKED = re.compile(r"[`\"'“«]\s*/?([a-z_][\w.-]*(?:/[\w.-]+)*)/?\s*[`\"'”»]", re.I)
CHMOD = re.compile(r"(?i)\bchmod\s+(?:-\w+\s+)*(?:0?[0-7]{3}|[augo]*\+\w+)\s+([^\n|&;]+)")
SETTING = re.compile(r"(?i)(?<![\w-])(?:" + "|".join(SETTINGS) + r")(?![\w-])")
SETTING_BEHIND = re.compile(r"^[^.;\d]{0,40}?(\d{1,6}\s?[KMG]?)B?\b", re.I)
SETTING_BEFORE = re.compile(r"(\d{1,6}\s?[KMG])B?\b[^.;\d]{0,50}$", re.I)
NEW = re.compile(r"(?i)(alpha|beta|rc\d|unreleased|snapshot)")
OPTIONAL = re.compile(r"(?i)option|recommend|suggest|empfohlen|recommand|recomend|wenn|if you|for\b.*\bsupport")


def read(path: str, text: str) -> list[Clue]:
    """All clues of one text."""
    name = path.rsplit("/", 1)[-1].lower()
    if re.match(r"licen[sc]e|copying", name):
        return _licence(path, text)
    if re.match(r"changelog|changes|news|history|release", name):
        return _changelog(path, text)
    found: list[Clue] = []
    # A readme above everything speaks for the application; one in a folder speaks for that folder.
    weight = 1.0 if path.count("/") <= 1 else 0.6
    section = ""
    for number, line in enumerate(text.splitlines()[:3000], 1):
        # Runs of blanks cost the patterns more than they say.
        line = " ".join(line[:1000].split())
        if heading := re.match(r"^\s*(?:#+|=+|\*+)?\s*([^#=*\n]{2,60}?)\s*[#=*:]*\s*$", line):
            section = heading[1]
        found += _needs(path, number, line, section, weight)
        found += published_logins(path, number, line, section)
        found += _folders(path, number, line)
    mine = granted(path, text.encode(), 0.7) if path.count("/") <= 1 and name.startswith("read") else []
    return [*found, *mine, *_title(path, text, weight)]


def _needs(path: str, number: int, line: str, section: str, weight: float) -> list[Clue]:
    found = _settings(path, number, line, weight)
    for m in PHP.finditer(line):
        if 5 <= int(m["n"].split(".")[0]) <= 9 and "phpunit" not in line.lower():
            found.append(Clue("php", m["n"], path, number, 0.7 * weight))
    for kind, sure, pattern in SERVERS:
        if server := pattern.search(line):
            found.append(Clue("database-version", f"{kind} {server['n']}", path, number, sure * weight))
    near = re.search(
        r"(?i)requir|need|prerequisit|voraussetz|benötigt|prérequis|nécess|requisit|necesit|install|database|datenbank",
        line + " " + section,
    )
    for kind, named in NAMED.items():
        if near and named.search(line):
            found.append(Clue("database", kind, path, number, 0.5 * weight))
    if re.search(r"(?i)extension|module|erweiterung|php-|\bext\b", line + " " + section):
        what = "wished-extension" if OPTIONAL.search(line) else "extension"
        for m in EXTENSION.finditer(line):
            found.append(Clue(what, m[1].lower(), path, number, 0.6 * weight))
    return found


def _settings(path: str, number: int, line: str, weight: float) -> list[Clue]:
    """What a readme wants of PHP's settings: the number behind the setting's name, else the one before it."""
    found = []
    for m in SETTING.finditer(line):
        behind, before = SETTING_BEHIND.match(line[m.end() :]), SETTING_BEFORE.search(line[: m.start()])
        said = behind or before
        if said and (value := amount(m[0].lower(), "".join(said[1].split()))):
            found.append(Clue("php-setting", f"{m[0].lower()} {value}", path, number, 0.6 * weight))
    return found


def _folders(path: str, number: int, line: str) -> list[Clue]:
    if not WRITABLE.search(line):
        return []
    command = CHMOD.search(line)
    names = (
        [n.strip("`'\"/,.") for n in command[1].split()]
        if command
        else [m[1] for m in FOLDER.finditer(line)] + [m[1] for m in TICKED.finditer(line)]
    )
    return [
        Clue("writable", name.removeprefix("./"), path, number, 0.65)
        for name in dict.fromkeys(names)
        if name and not re.search(r"(?i)^https?|^[-$<]|^\d+$|^www\.|\.(com|org|example)$", name)
    ]


def _title(path: str, text: str, weight: float) -> list[Clue]:
    if ("/" in path and path.count("/") > 1) or not re.search(r"(?i)read", path.rsplit("/", 1)[-1]):
        return []
    lines = [" ".join(line[:300].split()) for line in text.splitlines()[:12]]
    for number, line in enumerate(lines, 1):
        bare = re.sub(r"!?\[[^\]]*\]\([^)]*\)|<[^>]+>|[#=*_`]+", " ", line).strip(" -:")
        if not bare or not re.search(r"[A-Za-zÀ-ÿ]{2}", bare):
            continue
        words = re.split(r"\s+[-–—:|(]\s*|\s+v?\d+\.\d", bare)[0].strip()
        found = [Clue("title", words, path, number, 0.6 * weight)] if 1 < len(words) <= 40 else []
        m = re.search(r"(?<![\w.])v?(\d+(?:\.\d+){1,3}(?:[-~]?(?:alpha|beta|rc|dev)[\w.]*)?)", bare)
        if m and version_in(m[1]):
            found.append(Clue("version", m[1], path, number, 0.55 * weight))
        return found
    return []


def _changelog(path: str, text: str) -> list[Clue]:
    """The first heading with a version that is not "unreleased"."""
    for number, line in enumerate(text.splitlines()[:400], 1):
        line = " ".join(line[:200].split())
        m = re.match(
            r"(?i)^\W{0,6}(?:[a-z][\w ]{0,24}?\s+)?(?:version|release|v)?\s*"
            r"\[?v?(\d+(?:\.\d+){1,3}(?:[-~._]?(?:alpha|beta|rc|dev|pre)[\w.]*)?)\]?(?:\W|$)",
            line,
        )
        if m and version_in(m[1]) and not re.match(r"^\W*\d{4}\.\d\d\.\d\d", line):
            return [Clue("version", m[1], path, number, 0.6 if path.count("/") <= 1 else 0.3)]
    return []


# By the title that a text bears; what it mentions further down is somebody else's.
TITLES = (
    ("AGPL-3.0", r"GNU AFFERO GENERAL PUBLIC LICENSE"),
    ("LGPL-3.0", r"GNU LESSER GENERAL PUBLIC LICENSE\s+Version 3"),
    ("LGPL-2.1", r"GNU LESSER GENERAL PUBLIC LICENSE"),
    ("GPL-3.0", r"GNU GENERAL PUBLIC LICENSE\s+Version 3"),
    ("GPL-2.0", r"GNU GENERAL PUBLIC LICENSE\s+Version 2"),
    ("GPL", r"GNU GENERAL PUBLIC LICENSE"),
    ("Apache-2.0", r"Apache License,?\s+Version 2\.0"),
    ("MPL-2.0", r"Mozilla Public License,?\s+(?:Version|v\.?)?\s?2\.0"),
    ("MPL-1.1", r"Mozilla Public License,?\s+(?:Version|v\.?)?\s?1\.1"),
    ("EUPL-1.2", r"European Union Public Licen[cs]e\s+v?\.? ?1\.2"),
    ("Artistic-2.0", r"Artistic License 2\.0"),
    ("Unlicense", r"This is free and unencumbered software"),
    ("MIT", r"\bMIT License"),
    ("ISC", r"\bISC License"),
    ("0BSD", r"\b(?:Zero-?\s?Clause BSD|BSD Zero-?\s?Clause|0BSD)\b"),
    ("BSL-1.0", r"Boost Software License"),
)
# By what they grant, where no title stands above it.
GRANTS = (
    ("MIT", r"Permission is hereby granted, free of charge"),
    ("ISC", r"Permission to use, copy, modify, and/or distribute .{1,90}hereby granted, provided"),
    ("0BSD", r"Permission to use, copy, modify, and/or distribute .{1,90}hereby granted\."),
    ("ISC", r"Permission to use, copy, modify, and/or distribute"),
    ("Zlib", r"This software is provided 'as-is'"),
    ("BSD", r"Redistribution and use in source and binary forms"),
)
TITLE_CHARACTERS = 500


def licence_of(text: str) -> str:
    """The licence that a text is, as an SPDX name; "" when it is none that is known. What stands first in it wins."""
    flat = re.sub(r"\s+", " ", text[:12_000])
    places = [
        (m.start(), -len(m[0]), name) for name, said in TITLES if (m := re.search(said, flat[:TITLE_CHARACTERS], re.I))
    ]
    places += [(m.start(), 0, name) for name, said in GRANTS if (m := re.search(said, flat, re.I))]
    if not places:
        return ""
    name = min(places)[2]
    if name == "BSD":
        if said := re.search(r"(?i)\b(?:BSD[\s-]+)?([0234])[\s-]clause\b", flat[:TITLE_CHARACTERS]):
            return f"BSD-{said[1]}-Clause" if said[1] != "0" else "0BSD"
        return (
            "BSD-3-Clause"
            if re.search(r"(?i)neither the name of|names? of .{1,80} may not be used", flat)
            else "BSD-2-Clause"
        )
    return name


def _licence(path: str, text: str) -> list[Clue]:
    if name := licence_of(text):
        return [Clue("licence", name, path, 1, 0.9)]
    return [Clue("licence", "a text of its own", path, 1, 0.5)]
