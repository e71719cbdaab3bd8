"""A letter that opens several accounts, as one letter for each of them. Pure.

Rules:
1. There are several only where passwords for bringing files differ, and logins or servers do too.
2. A part begins where something that an account has once is said a second time; the heading above it belongs to it.
3. What stands before the first part and after the last one is said of all of them; lines keep their numbers.
4. A site that is greeted by its name is not the name of several.
"""

from __future__ import annotations

from dataclasses import replace

from highshelf.core.letter.pairs import lines_of
from highshelf.core.letter.read import Letter, candidates_of, read_letter

ONCE = ("transfer.login", "transfer.password", "transfer.host", "address", "temporary", "root", "customer")
# More than anybody sends in one letter.
MOST_ACCOUNTS = 40


def letters_in(text: str) -> list[Letter]:
    """Each account's letter, in their order; one, where there is one."""
    starts, end = _starts(text)
    if len(starts) < 2:
        return [read_letter(text)]
    lines = lines_of(text)
    ends = [*starts[1:], end + 1]
    found = []
    for begin, stop in list(zip(starts, ends, strict=True))[:MOST_ACCOUNTS]:
        own = [line if n < starts[0] or begin <= n < stop or n > end else "" for n, line in enumerate(lines, 1)]
        letter = read_letter("\n".join(own))
        found.append(replace(letter, found=tuple(s for s in letter.found if s.name != "title")))
    return found


def _starts(text: str) -> tuple[list[int], int]:
    """The first line of each part, and the last line that belongs to one."""
    candidates = [c for c in candidates_of(text) if c.name in ONCE and not c.pair.sentence]
    # Two ways to the same files, each with a password of its own, are one account's.
    by_kind: dict[str, set[str]] = {}
    for c in candidates:
        if c.name == "transfer.password":
            by_kind.setdefault(c.kind, set()).add(c.text)
    if not any(len(passwords) > 1 for passwords in by_kind.values()):
        return [], 0
    said = [(c.pair.line, c.name, c.text) for c in candidates]
    different = {name: {t for _, n, t in said if n == name} for name in ONCE}
    if max(len(different["transfer.login"]), len(different["transfer.host"])) < 2:
        return [], 0
    lines = [*lines_of(text), ""]
    starts: list[int] = []
    seen: dict[str, str] = {}
    for line, name, value in sorted(said):
        # A customer's number is said of all of them where there is only one.
        if name == "customer" and len(different[name]) < 2:
            continue
        again = name in seen and (seen[name] != value or name == "transfer.host")
        if not starts or (again and "transfer.login" in seen):
            starts.append(_above(lines, line, starts[-1] if starts else 0))
            seen = {}
        seen[name] = value
    last = max(line for line, name, _ in said if name.startswith("transfer."))
    while last < len(lines) and lines[last].strip():
        last += 1
    return starts, last


def _above(lines: list[str], line: int, least: int) -> int:
    """The first line of the paragraph that a line stands in, or of the heading above it."""
    first = line
    while first - 1 > least and lines[first - 2].strip():
        first -= 1
    return first
