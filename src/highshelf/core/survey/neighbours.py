"""What other applications stand on the account: found by what lies in folders, named by their own files."""

from __future__ import annotations

import json
import posixpath
import re
from dataclasses import dataclass

from highshelf.core.errors import HighShelfError
from highshelf.core.placing.furniture import FURNITURE
from highshelf.core.ports import Entry, HostFiles
from highshelf.core.survey.lines import Survey
from highshelf.core.survey.roots import listing_of

MOST_FOLDERS = 60
PARTS = re.compile(
    r"^(index\.php|composer\.(json|lock)|vendor|(config|settings|configuration)([\w.-]*\.(php|inc|ya?ml|ini|json))?|install(er)?|setup|admin\w*|lib|libraries|includes?|src|modules|plugins|themes|templates|\.env)$",
    re.I,
)
ENOUGH = 3


@dataclass(frozen=True)
class Neighbour:
    """An application that stands there; `name` is "" when its files do not tell."""

    folder: str
    name: str


def find_neighbours(files: HostFiles, root: str) -> list[Neighbour]:
    """Applications in the document root and in the folders right below it."""
    top = listing_of(files, root)
    found = [Neighbour(root, _name(files, root, top))] if _is_application(top) else []
    folders = [
        e.name for e in top if e.kind == "folder" and e.name not in FURNITURE and not e.name.startswith((".", "hs-"))
    ]
    # Folders of an application are its own parts, not neighbours: only what has a front page of its own counts.
    for name in folders[:MOST_FOLDERS]:
        path = posixpath.join(root, name)
        inside = listing_of(files, path)
        if _is_application(inside) and any(e.name.lower() == "index.php" for e in inside):
            found.append(Neighbour(path, _name(files, path, inside)))
    return found


def application_at(files: HostFiles, path: str, entries: list[Entry]) -> str:
    """What the application in a folder calls itself, or "" when none stands there or it does not tell."""
    return _name(files, path, entries) if _is_application(entries) else ""


def _is_application(entries: list[Entry]) -> bool:
    parts = {e.name.lower() for e in entries if PARTS.match(e.name)}
    return len(parts) >= ENOUGH or ("index.php" in parts and len(entries) > 3)


def _name(files: HostFiles, path: str, entries: list[Entry]) -> str:
    names = {e.name.lower(): e.name for e in entries if e.kind == "file"}
    if "composer.json" in names:
        try:
            found = json.loads(files.read(posixpath.join(path, names["composer.json"]), 65_536))
            if isinstance(found, dict) and isinstance(found.get("name"), str):
                return str(found["name"])
        except (ValueError, HighShelfError):
            pass
    readme = next((n for low, n in sorted(names.items()) if low.startswith("readme")), "")
    if readme:
        try:
            text = files.read(posixpath.join(path, readme), 2048).decode("utf-8", "replace")
        except HighShelfError:
            return ""
        line = next((s for s in (re.sub(r"^[#=*\s]+|[#=*\s]+$", "", s) for s in text.splitlines()) if s), "")
        return re.sub(r"<[^>]*>", "", line)[:60]
    return ""


def tell_neighbours(survey: Survey, found: list[Neighbour]) -> None:
    text = "; ".join(f"{n.name or 'an application'} in {n.folder}" for n in found) or "none seen"
    survey.say(
        "neighbours", text, "transfer: listings of the document root",
        "heed" if found else "fine", [{"folder": n.folder, "name": n.name} for n in found],
    )  # fmt: skip
