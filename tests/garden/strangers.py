"""Installers that were written by hand, page by page, walked as the garden's are: what each takes stands beside its pages.

.venv/bin/python -m tests.garden.strangers              all of them
.venv/bin/python -m tests.garden.strangers kiosk        one, its moves told
"""

from __future__ import annotations

import re
import sys
from collections.abc import Mapping
from dataclasses import replace
from html import escape
from pathlib import Path
from typing import Any
from urllib.parse import parse_qsl, urlencode, urlsplit

import yaml

from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.release.inputs import conclude
from highshelf.core.release.php import read
from highshelf.core.release.taken import Taken
from tests.garden.installer import SITE, Host, Seen
from tests.garden.traits import Traits, traits_of
from tests.garden.walk import VALUES, Conversation, Walk

FILE = Path(__file__).with_name("strangers.yaml")
PLACE = "/setup/"
SECRETS = [name for name in VALUES if "password" in name]


def all_of_them() -> dict[str, dict[str, Any]]:
    """By their names.

    Raises:
        ValueError: two of them have one name, and only one would be walked.
    """
    every = yaml.safe_load(FILE.read_text("utf-8"))
    found = {one["name"]: one for one in every}
    if len(found) != len(every):
        raise ValueError("two installers by hand have the same name")
    return found


class Stranger:
    """One of them. `installed` is the truth."""

    def __init__(self, facts: dict[str, Any], host: Host) -> None:
        self.facts, self.host, self.seen = facts, host, Seen()
        self.traits: Traits = replace(traits_of(1), witness="tables", dump="none", token="none", format="php")
        self._pages: list[dict[str, Any]] = facts["pages"]
        self._at = 0
        for page in self._pages:
            host.files |= page.get("files", {})

    def taken(self) -> dict[str, Taken]:
        """What its source says of its fields, where there is one."""
        clues = read("setup/index.php", str(self.facts.get("source", "")).encode())
        return {t.field: t for t in conclude(c for c in clues if c.what == "input")[0]}

    @property
    def installed(self) -> bool:
        return self._at >= len(self._pages)

    def request(self, method: str, url: str, fields: Mapping[str, str] | None = None) -> Snapshot:
        parts = urlsplit(url)
        given = dict(parse_qsl(parts.query, keep_blank_values=True)) | dict(fields or {})
        if self._is_trap(given):
            self.seen.outside.append(f"pressed {given}")
        if self.installed:
            return self._behind(method, parts.path, given)
        page = self._pages[self._at]
        if parts.path in ("/", "/index.php") and "front" in self.facts and self._at == 0:
            return Snapshot(url, 200, self.facts["front"])
        if page.get("by"):
            if _same(parts._replace(query=urlencode(given)).geturl(), page["by"]):
                if "needs" in page and page["needs"] not in self.host.files:
                    return self._show("")
                if "opens" in page and not self._is_open(page):
                    self.seen.outside.append("went on in spite of what is red")
                self._on()
            return self._show("")
        sends = page.get("sends", page.get("path", PLACE))
        if _same(url, sends, query=method == "POST") and (method == "POST" or page.get("method") == "get") and given:
            if complaint := self._wrong(page, given):
                return self._show(complaint)
            self._on()
        elif method == "POST":
            self.seen.outside.append(f"POST {parts.path} {given}")
        return self._show("")

    def _is_trap(self, given: Mapping[str, str]) -> bool:
        page = self._pages[min(self._at, len(self._pages) - 1)]
        traps = [*page.get("traps", ()), *self.facts.get("traps", ())]
        return any(trap in given or trap in {f"{k}={v}" for k, v in given.items()} for trap in traps)

    def _wrong(self, page: dict[str, Any], given: Mapping[str, str]) -> str:
        """What speaks against what was sent; what must not happen is written down."""
        wrong = ""
        for path, content in page.get("wants", {}).items():
            if self.host.files.get(path, "").strip() != content:
                wrong = str(page["complains"])
        if (press := page.get("press")) and press.partition("=")[::2] not in given.items():
            wrong = "pressed another button"
        for name, truth in page["takes"].items():
            sent, allowed = given.get(name, ""), [_meant(one) for one in str(truth).split("|")]
            if ("?" in allowed and sent) or (str(truth).startswith("~") and re.fullmatch(str(truth)[1:], sent)):
                continue
            if sent not in allowed:
                wrong = wrong or page.get("says", {}).get(name) or f"{name}: {sent or 'nothing'} is not taken"
                self.seen.overwritten += [f"{name}: {sent} for {truth}"] if str(truth).startswith("=") else []
            if any(
                sent == VALUES[s] and VALUES[s] not in allowed and name not in page.get("says", {}) for s in SECRETS
            ):
                self.seen.misplaced.append(f"{name}: {sent}")
        for name in set(given) - set(page["takes"]):
            if given[name] in (VALUES[s] for s in SECRETS):
                self.seen.misplaced.append(f"{name}: {given[name]}")
        return wrong

    def _on(self) -> None:
        self._at += 1
        if self.installed and not self.facts.get("stuck"):
            self.host.files["data/settings.php"] = "<?php return 1;"
            self.host.tables = 6

    def _is_open(self, page: dict[str, Any]) -> bool:
        return bool(self.host.modes.get(page["opens"], 0o755) & 0o022)

    def _show(self, complaint: str) -> Snapshot:
        if self.installed:
            return Snapshot(SITE + PLACE.lstrip("/"), 200, self.facts["end"])
        page = self._pages[self._at]
        html = str(page["html"]).replace("{complaint}", f"<p class='bad'>{escape(complaint)}</p>" if complaint else "")
        if "opens" in page:
            fine = self._is_open(page)
            html = html.replace("{row}", page["rows"][fine]).replace("{go}", page["goes"][fine])
        return Snapshot(SITE + str(page.get("path", PLACE)).lstrip("/"), 200, html)

    def _behind(self, method: str, path: str, given: Mapping[str, str]) -> Snapshot:
        if method == "POST" or (given and not path.startswith(PLACE)):
            self.seen.outside.append(f"used the finished application: {method} {path} {dict(given)}")
        if path.startswith(PLACE):
            return Snapshot(SITE + path.lstrip("/"), 200, "<html><body>This has been installed already.</body></html>")
        return Snapshot(
            SITE + path.lstrip("/"), 200, "<html><title>Front</title><body><h1>Front</h1>Words.</body></html>"
        )


def _meant(truth: str) -> str:
    if truth == "-":
        return ""
    return VALUES.get(truth, truth.removeprefix("="))


def _same(url: str, path: str, *, query: bool = True) -> bool:
    one, other = urlsplit(url), urlsplit(path)
    asked = not query or not other.query or dict(parse_qsl(one.query)).items() >= dict(parse_qsl(other.query)).items()
    return one.path == other.path and asked


def walk_stranger(facts: dict[str, Any]) -> Walk:
    """As `tests.garden.walk.walk`, with one of these."""
    values = dict(VALUES)
    installer, found = Stranger(facts, Host(values)), Walk(0)
    way = Conversation(installer, values)  # type: ignore[arg-type]
    way.go_through(found)
    seen = installer.seen
    found.misplaced, found.outside, found.overwritten = seen.misplaced, seen.outside, seen.overwritten
    if facts.get("stuck") and found.how in ("stuck", "asked") and facts["stuck"] in found.why:
        found.how = "blocked"
    return found


def main() -> None:
    known = all_of_them()
    for name in sys.argv[1:] or known:
        one = walk_stranger(known[name])
        if sys.argv[1:]:
            print("\n".join(one.moves))
        print(f"{name:<14} {one.how:<9} {one.why[:150]}", *one.misplaced, *one.outside, *one.overwritten)


if __name__ == "__main__":
    main()
