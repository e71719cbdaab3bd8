"""Versions in a PHP source: the application's own, and those of PHP and of database servers that it asks for."""

from __future__ import annotations

import re
from collections.abc import Iterator

from tree_sitter import Node

from highshelf.core.release.clues import Clue, line_of, version_in
from highshelf.core.release.php.needs import required_by
from highshelf.core.release.php.source import COMPLAINS, ENDS, Source
from highshelf.core.release.php.tables import SERVERS, server_key

TOLD_VERSION = re.compile(rb"php\w{0,10}version\w{0,10}\s*\(\s*['\"](\d\.\d+(?:\.\d+)?)['\"]")
NEEDED_PHP = re.compile(
    r"(?i)^\$?(?:\w*?(?:min|req|need|lowest)\w*php\w*|\w*php\w*(?:min|req|need)\w*|php(?:_?version)?)$"
)
# A refusal for PHP's age speaks of it.
SAYS_VERSION = re.compile(rb"(?i)\bphp|version")
JOINED = re.compile(r"&&|\|\||\b(?:and|or|AND|OR)\b")
# `… or die(…)` joins nothing: it is what happens.
OR_ENDS = re.compile(r"(?i)(?:\|\||\bor\b)\s*(?:die|exit|trigger_error|throw)\b[\s\S]*")
# A version in such a folder is likelier that of a tool, a library or an extension.
OTHERS_VERSION = re.compile(
    r"(?i)(^|/)(scripts?|cli|bin|tools|utils?|libs?|library|libraries|contrib|packages|modules|plugins|extensions|add-?ons|themes|smarty)/.*/"
    r"|(^|/)(scripts?|cli|bin|tools)/"
)
NEEDED_SERVER = re.compile(
    r"(?i)(?:min|req|need)\w*?(mysql|mariadb|pgsql|postgres\w*)|(mysql|mariadb|pgsql|postgres\w*)\w*?(?:min|req|need)"
)
# Short and without a repeated choice: names come from archives, and a pattern that tries all ways of cutting them never ends.
OWN_VERSION = re.compile(r"(?i)version_?(?:string|number|name|full|id)?$")
MAX_NAME = 60
NOT_OWN = re.compile(
    r"(?i)php|mysql|maria|pgsql|postgres|sqlite|database|schema|\bdb|api|min|max|require|need|http|tls|ssl|jquery|css|js|protocol|format|cache|old|previous|last|client|server|plugin|theme|lib|smtp|xml|json|cookie|config|migration|update|from|to_|lang|asset|file|browser|agent|bootstrap_version|git|url|history"
)


def versions(source: Source) -> Iterator[Clue]:
    depth = source.path.count("/")
    for name, value, node in source.named_values():
        short = value.strip()
        if len(name) > MAX_NAME or len(short) > MAX_NAME:
            continue
        if NEEDED_PHP.match(name) and re.match(r"^[5-9](\.\d+){1,2}$", short):
            yield source.clue("php", short, node, 0.85 if name.lower().strip("$") != "php" or source.installs else 0.5)
        elif (server := NEEDED_SERVER.search(name)) and re.match(r"^\d+(\.\d+)+$", short):
            kind = SERVERS[server_key(server[1] or server[2])]
            yield source.clue("database-version", f"{kind} {short}", node, 0.8)
        elif (
            OWN_VERSION.search(name)
            and not NOT_OWN.search(name)
            and version_in(short)
            and re.match(r"^v?\d+\.\d", short)
        ):
            exact = bool(re.match(r"(?i)^\$?(\w*_)?version$", name))
            tool = 0.35 if OTHERS_VERSION.search(source.path) else 0.0
            yield source.clue(
                "version", version_in(short), node, max((0.85 if exact else 0.75) - 0.08 * depth - tool, 0.2)
            )


def comparisons(source: Source) -> Iterator[Clue]:
    for name, call in source.calls:
        if name != "version_compare" or call.type != "function_call_expression":
            continue
        arguments = source.arguments(call)
        if len(arguments) < 2:
            continue
        sign = source.literal(arguments[2]) if len(arguments) > 2 else _outer_sign(source, call)
        yield from _compared(source, call, source.text(arguments[0]), source.text(arguments[1]), arguments, sign or "")
    for node in source.found.get("compare", []):
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        operator = node.child_by_field_name("operator")
        if left is None or right is None or operator is None:
            continue
        for one, other, sign in ((left, right, source.text(operator)), (right, left, _turned(source.text(operator)))):
            named = source.text(one)
            number = source.literal(other)
            if number is None or not number.isdigit() or len(named) > 40:
                continue
            if named == "PHP_VERSION_ID" and 50000 <= int(number) < 100000:
                n = int(number)
                found = f"{n // 10000}.{n // 100 % 100}" + (f".{n % 100}" if n % 100 else "")
                yield from _judged(source, node, found, sign)
            elif named == "PHP_MAJOR_VERSION" and 5 <= int(number) <= 9:
                yield from _judged(source, node, f"{number}.0", sign)


IS_PHP = re.compile(r"^\\?(?:PHP_VERSION|phpversion\(\))$", re.I)
LEAST = re.compile(r"(?i)^(?:min(?:imum)?|least|from|required?|needed|since|wanted|>=)$")


def rows(source: Source) -> Iterator[Clue]:
    """A row of a table of needs: `['min' => '8.1', 'has' => PHP_VERSION]`, or one under the key `php`."""
    for node in source.found.get("array", []):
        parts = [e.named_children for e in node.named_children if e.named_children]
        if not 1 < len(parts) < 9:
            continue
        outer = node.parent.named_children if node.parent is not None else []
        about = bool(outer) and node in outer[1:] and (source.literal(outer[0]) or "").lower() == "php"
        if not about and not any(IS_PHP.match(source.text(p[-1]).strip()) for p in parts):
            continue
        for part in parts:
            said = source.literal(part[-1]) or ""
            key = (source.literal(part[0]) or "") if len(part) > 1 else ""
            if re.match(r"^[5-9](\.\d+){1,2}$", said) and (LEAST.match(key) or (not about and not key)):
                yield source.clue("php", said, part[-1], 0.75)


def told_versions(source: Source) -> Iterator[Clue]:
    """`checkPhpVersion('7.4', PHP_VERSION)`: a function or method whose name and argument say it."""
    for m in TOLD_VERSION.finditer(source.small):
        # PHP's own phpversion('extension') is another thing.
        if not m[0].startswith(b"phpversion") or source.data[m.start() - 1 : m.start()].isalnum():
            yield Clue("php", m[1].decode(), source.path, line_of(source.data, m.start()), 0.7)


def _outer_sign(source: Source, call: Node) -> str:
    """`version_compare(a, b) < 0` and its like."""
    outer = call.parent
    operator = outer.child_by_field_name("operator") if outer is not None else None
    return source.text(operator) if operator is not None else ""


def _compared(source: Source, call: Node, one: str, other: str, arguments: list[Node], sign: str) -> Iterator[Clue]:
    is_php = re.compile(r"(?i)^\\?(PHP_VERSION|phpversion\(\)|\$\w*php_?version\w*)$")
    for mine, node, direction in ((one, arguments[1], sign), (other, arguments[0], _turned(sign))):
        number = source.literal(node)
        if number is None or not re.match(r"^\d+(\.\d+){0,3}", number):
            continue
        if is_php.match(mine.strip()):
            if re.match(r"^[5-9](\.|$)", number):
                yield from _judged(source, call, re.match(r"^\d+(\.\d+){0,2}", number)[0], direction)  # type: ignore[index]
        elif server := re.search(r"(?i)(mysql|maria|pgsql|postgres|server_info|serverversion|server_version)", mine):
            near = source.path.encode() + source.near(call)
            kind = server_key(server[1]) or ("pgsql" if re.search(rb"(?i)pgsql|postgres", near) else "mysql")
            if re.search(r"(?i)oracle|sqlite|mssql|sqlsrv|db2", source.path):
                continue
            if direction in ("<", "lt", "<=", "le", ">=", "ge", ">", "gt"):
                sure = _refused(source, call, direction)
                yield source.clue("database-version", f"{SERVERS[kind]} {number}", call, sure)


def _refused(source: Source, call: Node, sign: str) -> float:
    """How sure it is that an older server is refused, and not merely spoken to in another way."""
    branch, other = source.branches(call)
    ending = branch if sign in ("<", "lt", "<=", "le") else other
    if ENDS.search(ending) or COMPLAINS.search(ending):
        return 0.7
    # Kept in a variable or given back: somebody looks at it later.
    return 0.6 if not branch and not other else 0.3


def _judged(source: Source, node: Node, number: str, sign: str) -> Iterator[Clue]:
    """What a comparison of PHP's version with a number means: what its program does with the answer tells."""
    old = sign in ("<", "lt", "<=", "le")
    new = sign in (">=", "ge", ">", "gt")
    if not old and not new:
        return
    branch, other = source.branches(node)
    ending, passing = (branch, other) if old else (other, branch)
    # Asked together with something else, it is that which matters as often as not.
    whole = source.condition(node)
    joined = whole != node and JOINED.search(OR_ENDS.sub("", source.text(whole))) is not None
    said = SAYS_VERSION.search(branch if new and not ENDS.search(ending) else ending) is not None
    must = required_by(source.marks(node))
    if new and ENDS.search(branch) and (said or COMPLAINS.search(branch)) and not ENDS.search(other):
        # Newer than this is what it does not run on.
        yield source.clue("php-below", number, node, 0.5)
    elif ENDS.search(ending):
        sure = 0.9 if said else 0.55
        yield source.clue("php", number, node, (0.7 if said else 0.2) if joined else sure)
    elif must is not None:
        yield source.clue("php", number, node, 0.8 if must else 0.2)
    elif source.installs and (not branch or COMPLAINS.search(branch + other)):
        yield source.clue("php", number, node, 0.75)
    elif COMPLAINS.search(ending) and said:
        yield source.clue("php", number, node, 0.6)
    elif passing and not ending:
        # Only something more is done on a newer one.
        yield source.clue("php", number, node, 0.1)
    else:
        yield source.clue("php", number, node, 0.15)


def _turned(sign: str) -> str:
    return {"<": ">", ">": "<", "<=": ">=", ">=": "<=", "lt": "gt", "gt": "lt", "le": "ge", "ge": "le"}.get(sign, sign)
