"""PHP's settings that a source looks at, with what it wants of them: in tables, in comparisons, beside the call that asks. Pure."""

from __future__ import annotations

import re
from collections.abc import Iterator

from tree_sitter import Node

from highshelf.core.release.clues import Clue
from highshelf.core.release.php.source import Source

SETTINGS = (
    *("memory_limit", "upload_max_filesize", "post_max_size"),
    *("max_execution_time", "max_input_time", "max_input_vars"),
)
SIZES = SETTINGS[:3]
WANTED = re.compile(r"\s*(\d{1,12})\s*([KMG]?)B?\s*", re.I)
PRODUCT = re.compile(r"\(?\s*\d{1,6}(?:\s*\*\s*\d{1,6}){1,3}\s*\)?")
WANTS = re.compile(r"^(?:min\w*|require\w*|need\w*|want\w*|expect\w*|at_?least|recommend\w*|value|should\w*|2)$")
OF_A_CHECK = 1500


def amount(name: str, said: str) -> str:
    """What is wanted, as `php.ini` has it: bytes in the shortest way, seconds as they are; "" for what is none."""
    if PRODUCT.fullmatch(said):
        said = str(_product(said))
    found = WANTED.fullmatch(said)
    if found is None or int(found[1]) == 0:
        return ""
    if name not in SIZES:
        return found[1] if not found[2] else ""
    size = int(found[1]) << {"": 0, "k": 10, "m": 20, "g": 30}[found[2].lower()]
    return "" if size < 1 << 20 else f"{size >> 20}M"


def _product(said: str) -> int:
    result = 1
    for part in re.findall(r"\d+", said):
        result *= int(part)
    return result


def read(source: Source) -> Iterator[Clue]:
    """Clues `php-setting`: `name value`."""
    if b"ini_get" not in source.small:
        return
    for node in source.found.get("pair", []):
        parts = node.named_children
        name = source.literal(parts[0]) if len(parts) == 2 else None
        if name in SETTINGS and source.installs and (value := amount(name, source.literal(parts[1]) or "")):
            yield source.clue("php-setting", f"{name} {value}", node, 0.6)
    for called, call in source.calls:
        arguments = source.arguments(call) if called == "ini_get" else []
        name = source.literal(arguments[0]) if arguments else None
        if name in SETTINGS and (value := _beside(source, call, name) or _compared(source, call, name)):
            yield source.clue("php-setting", f"{name} {value}", call, 0.7 if source.installs else 0.5)


def _beside(source: Source, call: Node, name: str) -> str:
    """What stands beside the call that asks: in its row of a table, or among the arguments of a check."""
    row = source.marks(call)
    for key, said in row.items():
        if WANTS.match(key) and (value := amount(name, said)):
            return value
    outer = call.parent.parent if call.parent is not None else None
    for other in outer.named_children if outer is not None and outer.type == "arguments" else []:
        if value := amount(name, source.literal(other) or ""):
            return value
    return ""


def _compared(source: Source, call: Node, name: str) -> str:
    """The number that the value, or the variable it is kept in, has to reach."""
    kept = call.parent
    left = kept.child_by_field_name("left") if kept is not None and kept.type == "assignment_expression" else None
    asked = source.text(left) if left is not None else source.text(call)
    start, end = _around(call)
    for node in source.found.get("compare", []):
        if not start <= node.start_byte < end:
            continue
        one, other = node.child_by_field_name("left"), node.child_by_field_name("right")
        sign = source.text(node.child_by_field_name("operator"))
        for mine, number, signs in ((one, other, ("<", ">=")), (other, one, (">", "<="))):
            if mine is None or number is None or sign not in signs or asked not in source.text(mine):
                continue
            if value := amount(name, source.literal(number) or source.text(number)):
                return value
    return ""


def _around(call: Node) -> tuple[int, int]:
    """Where its function, or what stands near it, begins and ends."""
    outer: Node | None = call
    while outer is not None and outer.type not in ("function_definition", "method_declaration"):
        outer = outer.parent
    if outer is not None and outer.end_byte - outer.start_byte <= OF_A_CHECK:
        return outer.start_byte, outer.end_byte
    return call.start_byte - 200, call.end_byte + 300
