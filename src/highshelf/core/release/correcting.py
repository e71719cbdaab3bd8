"""What an operator knows better than what was read out of a release: taken in, kept beside what was read, taken back. Pure."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from typing import Any

from highshelf.core.errors import InputError
from highshelf.core.release.php.settings import SETTINGS, amount
from highshelf.core.release.php.tables import EXTENSION_NAMES

VERSION = re.compile(r"\d+(?:\.\d+){0,3}")
KINDS = ("mariadb", "postgresql", "sqlite")
FIRST = ("", "asked", "published", "own", "server", "none")
# How each finding that can be corrected is written: a version, a word, names of extensions, kinds,
# settings such as `memory_limit=128M`, or files and folders of the release.
FORMS = {
    "title": "text",
    "version": "text",
    "php": "version",
    "php_below": "version",
    "extensions": "extensions",
    "wished_extensions": "extensions",
    "php_settings": "settings",
    "databases": "kinds",
    "first_login": "first",
    "installers": "paths",
    "samples": "paths",
    "dumps": "paths",
    "writable": "places",
    "web_folder": "place",
}
MOST = 60


def correct(
    findings: Mapping[str, Any], given: Mapping[str, str | None], paths: Collection[str], who: str, at: str
) -> dict[str, Any]:
    """Findings with corrections; None takes one back.

    Args:
        findings: as they are kept. given: finding -> what it is; several are parted by commas, "" is none.
        paths: the release's files. who, at: kept with the correction.

    Raises:
        InputError: names all that cannot be taken in.
    """
    kept = dict(findings)
    corrected = dict(kept.get("corrected") or {})
    faults = []
    for name, text in given.items():
        try:
            if name not in FORMS:
                raise ValueError(f"{name} cannot be corrected: it is one of {', '.join(FORMS)}")
            before = corrected[name]["was"] if name in corrected else kept.get(name)
            if text is None:
                if corrected.pop(name, None) is None:
                    raise ValueError(f"{name} was not corrected")
                kept[name] = before
            else:
                kept[name] = _value(FORMS[name], name, text.strip(), paths)
                corrected[name] = {"was": before, "by": who, "at": at}
        except ValueError as fault:
            faults.append(str(fault))
    if faults:
        raise InputError("; ".join(faults), hint="`highshelf release show REF` tells what was read")
    return {**kept, "corrected": corrected}


def _value(form: str, name: str, text: str, paths: Collection[str]) -> str | list[str] | dict[str, str]:
    several = [part.strip().strip("/") for part in text.split(",") if part.strip()]
    folders = {"/".join(p.split("/")[:n]) for p in paths for n in range(1, p.count("/") + 1)}
    match form:
        case "version":
            if text and not VERSION.fullmatch(text):
                raise ValueError(f"{name}: {text!r} is no version such as 8.1")
            return text
        case "extensions":
            _known(name, [e.lower() for e in several], EXTENSION_NAMES, "an extension of PHP that is known here")
            return sorted(e.lower() for e in several)
        case "kinds":
            _known(name, several, KINDS, f"one of {', '.join(KINDS)}")
            return sorted(several)
        case "settings":
            return _settings(name, several)
        case "first":
            _known(name, [text], FIRST, f"one of {', '.join(FIRST[1:])}")
            return text
        case "paths":
            _known(name, several, paths, "a file of the release")
            return several
        case "places":
            _known(name, several, {*paths, *folders}, "a file or folder of the release")
            return several
        case "place":
            _known(name, several[:1], folders, "a folder of the release")
            return several[0] if several else ""
        case _:
            if len(text) > 100 or not text.isprintable():
                raise ValueError(f"{name}: at most 100 characters that can be shown")
            return text


def _known(name: str, given: list[str], known: Collection[str], what: str) -> None:
    strange = [g for g in given if g not in known]
    if strange or len(given) > MOST:
        raise ValueError(f"{name}: {', '.join(strange[:5])} is not {what}" if strange else f"{name}: at most {MOST}")


def _settings(name: str, several: list[str]) -> dict[str, str]:
    """`memory_limit=128M` and its like."""
    found: dict[str, str] = {}
    for part in several:
        setting, parted, value = (p.strip() for p in part.replace(":", "=").partition("="))
        if setting not in SETTINGS or not parted or not (least := amount(setting, value)):
            known = ", ".join(SETTINGS)
            raise ValueError(f"{name}: {part!r} is not such as memory_limit=128M; known are {known}")
        found[setting] = least
    return dict(sorted(found.items()))
