"""Which reader a file gets, and the small readers: composer.json, `.htaccess`, version files, manifests."""

from __future__ import annotations

import json
import re
from typing import Any

from highshelf.core.release import php, scripts, signing, sql, texts
from highshelf.core.release.clues import Clue, is_text_for_people, line_of, version_in

COLLATION = re.compile(rb"['\"](utf8(?:mb[34])?_[a-z0-9]+(?:_[a-z0-9]+)*)['\"]")
MOST_COLLATIONS = 20


def read_file(path: str, data: bytes) -> list[Clue]:
    """The clues in one file; what cannot be read as what it is called says nothing."""
    name = path.rsplit("/", 1)[-1].lower()
    if re.search(r"\.(php\d?|phtml|inc|module)$", name) or b"<?php" in data[:200]:
        return [*_thin_front(path, name, data), *php.read(path, data), *_collations(path, data)]
    if name in ("index.html", "index.htm"):
        small = data.lower()
        return [*_thin_front(path, name, data), *scripts.read(path, data, small), *signing.read(path, data, small)]
    if name == "composer.json":
        return _composer(path, data)
    if name == "package.json":
        return []
    if name.endswith(".sql"):
        return sql.read(path, data)
    if name.startswith(".htaccess"):
        return _htaccess(path, data)
    if re.match(r"version([._-]\w+)?$", name):
        return _version_file(path, data)
    if is_text_for_people(path):
        return texts.read(path, data.decode("utf-8", "replace"))
    if name.endswith((".xml", ".ini", ".yml", ".yaml", ".json")):
        return _manifest(path, data)
    if name.endswith((".html", ".htm", ".tpl", ".twig", ".js")):
        small = data.lower()
        return [*scripts.read(path, data, small), *([] if name.endswith(".js") else signing.read(path, data, small))]
    return []


def _collations(path: str, data: bytes) -> list[Clue]:
    """Names of collations, as literals of a source."""
    found = {m[1]: m.start() for m in COLLATION.finditer(data)} if b"utf8" in data else {}
    return [
        Clue("collation", name.decode(), path, line_of(data, at), 0.5)
        for name, at in list(found.items())[:MOST_COLLATIONS]
    ]


def _composer(path: str, data: bytes) -> list[Clue]:
    loaded = json_object(data)
    found: list[Clue] = []

    def add(what: str, value: str, key: str, sure: float) -> None:
        at = data.find(f'"{key}"'.encode())
        found.append(Clue(what, value, path, line_of(data, at) if at >= 0 else 1, sure))

    if isinstance(name := loaded.get("name"), str) and "/" in name:
        add("name", name.rsplit("/", 1)[-1], "name", 0.75)
    if isinstance(version := loaded.get("version"), str) and version_in(version):
        add("version", version_in(version), "version", 0.95)
    required, suggested = loaded.get("require"), loaded.get("suggest")
    for need, said in required.items() if isinstance(required, dict) else ():
        if need in ("php", "php-64bit") and isinstance(said, str):
            least, below = php_range(said)
            if least:
                add("php", least, need, 0.95)
            if below:
                add("php-below", below, need, 0.8)
        elif need.startswith("ext-"):
            add("extension", need[4:].lower(), need, 0.95)
    for need in suggested if isinstance(suggested, dict) else ():
        if need.startswith("ext-"):
            add("wished-extension", need[4:].lower(), need, 0.9)
    if isinstance(licence := loaded.get("license"), str):
        add("licence", licence, "license", 0.9)
    return found


def php_range(said: str) -> tuple[str, str]:
    """(least, below) of a constraint such as ">=7.4 <8.4", "^8.1", "~7.2.0 || ^8.0"; "" for what it leaves open."""
    least: list[tuple[int, ...]] = []
    below: list[tuple[int, ...]] | None = []
    for way in re.split(r"\s*\|\|?\s*", said):
        low: tuple[int, ...] = ()
        high: tuple[int, ...] = ()
        hyphen = re.match(r"^\s*(\d[\d.]*)\s+-\s+(\d[\d.]*)\s*$", way)
        way = f">={hyphen[1]} <={hyphen[2]}" if hyphen else way
        for sign, number in re.findall(r"(>=|>|<=|<|\^|~|!=|=)?\s*v?(\d+(?:\.\d+)*)(?:\.\*|\.x)?", way):
            parts = tuple(int(p) for p in number.split("."))
            if sign in (">=", ">", "^", "~", "=", ""):
                low = max(low, parts)
            if sign == "^":
                high = (parts[0] + 1, 0)
            elif sign == "~" or (not sign and f"{number}.*" in way):
                high = (
                    (*parts[:-2], parts[-2] + 1)
                    if sign and len(parts) > 2
                    else (parts[0] + 1, 0)
                    if sign
                    else (*parts[:-1], parts[-1] + 1)
                )
            elif sign == "<":
                high = parts
            elif sign == "<=":
                high = (*parts[:-1], parts[-1] + 1)
        if low:
            least.append(low)
        if below is not None:
            below = [*below, high] if high else None
    return (
        ".".join(map(str, min(least))) if least else "",
        ".".join(map(str, max(below))) if below else "",
    )


def _htaccess(path: str, data: bytes) -> list[Clue]:
    at = re.search(rb"(?im)^\s*RewriteRule\s", data)
    return [Clue("rewriting", "mod_rewrite", path, line_of(data, at.start()), 0.8)] if at else []


def _version_file(path: str, data: bytes) -> list[Clue]:
    text = data[:400].decode("utf-8", "replace").strip()
    for number, line in enumerate(text.splitlines()[:6], 1):
        if found := version_in(line):
            return [Clue("version", found, path, number, 0.9)]
        keyed = re.match(r"(?i)^\W*(?:version|release)\W+v?(\d[\w.~+-]*)\W*$", line)
        if keyed and version_in(keyed[1]):
            return [Clue("version", version_in(keyed[1]), path, number, 0.85)]
    return []


def _manifest(path: str, data: bytes) -> list[Clue]:
    """Small files that describe the application itself; only near the top of the tree."""
    if path.count("/") > 2 or len(data) > 20_000:
        return []
    text, name = data.decode("utf-8", "replace"), path.rsplit("/", 1)[-1]
    sure = 0.75 if re.match(r"(?i)(?:version|release|about|product)\.\w+$", name) else 0.5
    found = []
    for m in re.finditer(
        r"""(?im)(?:^\s*<version>|(?:^|[{,])\s*["']?(?:version|app_version|release)["']?\s*[:=]\s*)["']?v?(\d[\w.~+-]*)""",
        text,
    ):
        if version_in(m[1]):
            found.append(Clue("version", version_in(m[1]), path, text.count("\n", 0, m.start(1)) + 1, sure))
            break
    return found


def json_object(data: bytes) -> dict[str, Any]:
    try:
        loaded = json.loads(data)
    except (ValueError, RecursionError):
        return {}
    return loaded if isinstance(loaded, dict) else {}


def _thin_front(path: str, name: str, data: bytes) -> list[Clue]:
    """A front page that loads no program: it greets, leads elsewhere, or tells people to point the site elsewhere."""
    if not re.match(r"index\.(php|html?)$", name) or path.count("/") > 2 or len(data) > 4000:
        return []
    if re.search(rb"(?i)\b(require|include)(_once)?\b|\bnew\s+\w|\bfunction\b|<form|<script", data):
        return []
    return [Clue("thin-front", name, path, 1, 0.7)]
