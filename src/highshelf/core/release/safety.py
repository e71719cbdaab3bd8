"""What in an archive may never reach a host, and what only with an administrator's word.

Rules:
1. Refused: a name that could leave the target or cannot be written as it is, a device, a link that points outside.
2. Needs a word (`word`, given with the check-in): what one program unpacks in one way and the next in another, or what
   High Shelf has to turn into something else before it can be placed the same everywhere.
3. Every one of them is told with the member's name, all at once; nothing is mended without being told.
"""

from __future__ import annotations

import posixpath
import re
import unicodedata
from dataclasses import dataclass

from highshelf.core.errors import ArchiveError
from highshelf.core.release.contents import Member

# Sources: NAME_MAX and PATH_MAX of Linux, less what the target's own path needs.
MAX_PART_BYTES, MAX_PATH_BYTES = 255, 1024
# Marks that turn the reading direction around: "gpj.php" shows as "php.jpg".
TURNING = re.compile("[\u202a-\u202e\u2066-\u2069\u200e\u200f]")

WORDS = {
    "links": "links inside the release are placed as copies of what they point at",
    "letter-case": "names that differ by letter case only are placed as they are (the host must tell them apart)",
    "normal-form": "names that differ by the way an accent is written only are placed as they are",
    "backslashes": "backslashes in names are read as folders",
    "twice": "of files with the same name the last one counts",
    "odd-names": "names with invisible marks, or that are no text, are placed as they are",
}


DRIVE = re.compile(r"[A-Za-z]:")
# Unicode's category Cc, and halves of pairs that stand alone.
CONTROL = re.compile("[\x00-\x1f\x7f-\x9f]")
NO_TEXT = re.compile("[\ud800-\udfff]")


@dataclass(frozen=True)
class Danger:
    """One thing that is not safe: the member's name, why, and the word that lets it in ("" when none does)."""

    path: str
    why: str
    word: str = ""


def printable(name: str) -> str:
    """A name as people may see it: what is invisible or no text is spelled out."""
    return "".join(
        c if c.isprintable() and not TURNING.match(c) else c.encode("unicode_escape", "surrogatepass").decode()
        for c in name
    )


def danger(path: str) -> Danger | None:
    """What is wrong with a name by itself."""
    if DRIVE.match(path):
        return Danger(path, "an absolute path (a drive)")
    plain = path.replace("\\", "/")
    if plain.startswith("/"):
        return Danger(path, "an absolute path")
    parts = plain.split("/")
    if ".." in parts:
        return Danger(path, "leads out of the folder")
    if CONTROL.search(path):
        return Danger(path, "a control character")
    raw = path.encode("utf-8", "surrogatepass")
    if len(raw) > MAX_PATH_BYTES or any(len(part.encode("utf-8", "surrogatepass")) > MAX_PART_BYTES for part in parts):
        return Danger(path, "an over-long name")
    if not path.strip() or any(part in ("", ".") for part in parts[:-1]) or parts[-1] in ("", "."):
        return Danger(path, "an empty name")
    if "\\" in path:
        return Danger(path, "a backslash", "backslashes")
    if TURNING.search(path) or NO_TEXT.search(path):
        return Danger(path, "an invisible mark, or bytes that are no text", "odd-names")
    return None


def link_danger(member: Member) -> Danger:
    """A link points outside (refused), or inside (needs the word)."""
    target = member.link.replace("\\", "/")
    base = "" if member.hard else posixpath.dirname(member.path)
    led = posixpath.normpath(posixpath.join(base, target))
    if not target or target.startswith("/") or DRIVE.match(target) or led == ".." or led.startswith("../"):
        return Danger(member.path, f"a link that points out of the release (to {printable(member.link)})")
    return Danger(member.path, f"a link (to {printable(member.link)})", "links")


def collisions(members: list[Member]) -> list[Danger]:
    """Names that meet: the same twice, by letter case, by normal form, a file where a folder is."""
    found: list[Danger] = []
    exact: set[str] = set()
    folded: dict[str, str] = {}
    normal: dict[str, str] = {}
    for m in members:
        if m.path in exact:
            found.append(Danger(m.path, "stands in the archive twice", "twice"))
            continue
        exact.add(m.path)
        by_form = unicodedata.normalize("NFC", m.path)
        if by_form in normal:
            found.append(
                Danger(m.path, f"differs from {normal[by_form]} by the way an accent is written only", "normal-form")
            )
        elif (key := by_form.casefold()) in folded:
            found.append(Danger(m.path, f"differs from {folded[key]} by letter case only", "letter-case"))
        else:
            folded[key] = m.path
        normal.setdefault(by_form, m.path)
    folders = {parent for path in exact for parent in _parents(path)}
    found += [Danger(path, "is a file, and a folder too") for path in sorted(exact & folders)]
    return found


def _parents(path: str) -> list[str]:
    parts = path.split("/")[:-1]
    return ["/".join(parts[: i + 1]) for i in range(len(parts))]


def refuse(dangers: list[Danger], words: frozenset[str]) -> None:
    """Raise ArchiveError for all that no given word lets in."""
    left = [d for d in dangers if not d.word or d.word not in words]
    if not left:
        return
    shown = "; ".join(f"{printable(d.path)[:200]}: {d.why}" for d in left[:12]) + (
        f"; and {len(left) - 12} more" if len(left) > 12 else ""
    )
    wanted = sorted({d.word for d in left})
    if "" in wanted:
        hint = "get the release from its maker again, or mend the archive by hand"
    else:
        hint = "if you want it all the same, check it in and accept " + "; ".join(f"“{w}”: {WORDS[w]}" for w in wanted)
    raise ArchiveError(
        f"the archive is not safe to unpack: {shown}",
        hint=hint,
        dangers=[{"path": printable(d.path)[:300], "why": d.why, "word": d.word} for d in left[:200]],
        words=[w for w in wanted if w],
    )
