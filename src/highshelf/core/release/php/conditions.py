"""What a condition about extensions means: which of them it cannot do without, and which can stand for one another. Pure.

A condition is looked at as a truth table: everything else in it is taken as it does not matter. What changes its outcome by missing
alone is needed; what changes it only when all of them are missing is one of several.
"""

from __future__ import annotations

from collections.abc import Callable, Collection

from tree_sitter import Node

from highshelf.core.release.php.source import Source

Named = Callable[[Node], str]


def asked_in(source: Source, node: Node, named: Named) -> list[str]:
    """The extensions that a condition asks for; `named` tells which one a call is about, or ""."""
    found = [named(node)] if node.type == "function_call_expression" else []
    if not any(found):
        found = [name for child in node.named_children for name in asked_in(source, child, named)]
    return [name for name in dict.fromkeys(found) if name]


def choices(source: Source, node: Node, named: Named) -> tuple[list[str], list[str]]:
    """(needed each, one of these) of a condition."""
    asked = asked_in(source, node, named)
    as_it_is = _holds(source, node, named, ())
    alone = [name for name in asked if _holds(source, node, named, (name,)) != as_it_is]
    rest = [name for name in asked if name not in alone]
    together = len(rest) > 1 and _holds(source, node, named, rest) != as_it_is
    return alone, rest if together else []


def _holds(source: Source, node: Node | None, named: Named, missing: Collection[str]) -> bool | None:
    """Whether a condition holds while these are missing and all others are there; None where it says nothing of that."""
    if node is None:
        return None
    if node.type == "function_call_expression" and (name := named(node)):
        return name not in missing
    if node.type == "unary_op_expression":
        inner = _holds(source, node.named_children[-1] if node.named_children else None, named, missing)
        return (not inner if source.text(node).startswith("!") else inner) if inner is not None else None
    if node.type == "binary_expression":
        operator = source.text(node.child_by_field_name("operator")).lower()
        sides = [_holds(source, node.child_by_field_name(side), named, missing) for side in ("left", "right")]
        known = [side for side in sides if side is not None]
        if operator in ("&&", "and"):
            return all(known) if known else None
        if operator in ("||", "or"):
            return any(known) if known else None
        return None
    if node.type == "parenthesized_expression" and node.named_children:
        return _holds(source, node.named_children[0], named, missing)
    return None
