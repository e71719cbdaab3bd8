"""What a text in a source is made of, and the variables that hold such texts."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from tree_sitter import Node

REQUEST = ("$_POST", "$_REQUEST", "$_GET")
# Stands before the number of an argument by whose text a field is called; nobody knows yet which.
UNTOLD = "="
# Stands between a field and the function that may give what was typed into it.
GIVEN_BY = "\x05"


@dataclass(frozen=True)
class Typed:
    """What somebody typed into a field; or, as `@name:0`, whatever a function is given."""

    field: str


class _Gap:
    """What only run time knows."""


GAP = _Gap()
Piece = str | Typed | _Gap
Pieces = tuple[Piece, ...]
# The whole of what was sent.
ALL = (Typed("*"),)


@dataclass
class Scope:
    """The variables of one function; those of objects and sessions are shared by all."""

    own: dict[str, Pieces]
    shared: dict[str, Pieces]
    loose: bool = False
    returns: Pieces = ()
    # What stands before the names of fields that became variables.
    prefix: str = ""
    # Variables that are another one, or a part of it: `$s = $this->given['store']`.
    others: dict[str, str] = field(default_factory=dict)

    def get(self, key: str) -> Pieces | None:
        found = (self.shared if _is_shared(key) else self.own).get(key)
        base, bracket, rest = key.partition("[")
        if found is None and bracket and base in self.others:
            return self.get(f"{self.others[base]}[{rest}")
        return found

    def put(self, key: str, value: Pieces) -> None:
        there = self.shared if _is_shared(key) else self.own
        # A default beside what was typed is no news, nor whatever a function may be given.
        before = typed(there.get(key, ()))
        if not before or (typed(value) and (before[0].startswith("@") or not typed(value)[0].startswith("@"))):
            there[key] = value


def _is_shared(key: str) -> bool:
    return key.startswith(("->", "$_SESSION", "$GLOBALS"))


def typed(pieces: Pieces) -> list[str]:
    return [p.field for p in pieces if isinstance(p, Typed)]


def sole(pieces: Pieces) -> str | None:
    """The field that this is, whatever quotation marks stand around it; a table's prefix is often given its last mark."""
    rest = [p for p in pieces if not (isinstance(p, str) and p.strip("'\" _") == "")]
    name = rest[0].field if len(rest) == 1 and isinstance(rest[0], Typed) else "*"
    return None if name == "*" or name.startswith(UNTOLD) else name


def plain_name(value: Pieces) -> str | None:
    """A plain name that a function is given, such as a field's."""
    name = value[0] if len(value) == 1 else None
    return name if isinstance(name, str) and re.fullmatch(r"[A-Za-z][\w.\[\]-]{0,40}", name) else None


def told(value: Pieces) -> list[object]:
    return [p if isinstance(p, str) else {"f": p.field} if isinstance(p, Typed) else None for p in value]


def in_text(node: Node) -> bool:
    """Whether it stands plainly in a text, where keys have no quotation marks: `"$row[name]"`."""
    return node.parent is not None and node.parent.type in ("encapsed_string", "heredoc_body")


def parts(key: str) -> list[str]:
    """`$cfg[db][host]` as its keys."""
    base, *rest = re.split(r"\[", key.replace("]", ""))
    return [base.removeprefix("->"), *rest]


def unescaped(text: str) -> str:
    return {"\\n": "\n", "\\t": "\t", "\\r": "", "\\$": "$", '\\"': '"', "\\\\": "\\", "\\'": "'"}.get(text, text)
