"""What a PHP source needs: extensions, databases, writable folders."""

from __future__ import annotations

import re
from collections.abc import Iterator

from tree_sitter import Node

from highshelf.core.release.clues import Clue, line_of
from highshelf.core.release.php.conditions import choices
from highshelf.core.release.php.source import COMPLAINS, ENDS, GENERAL_PATH, OPTIONAL, Source
from highshelf.core.release.php.tables import EXTENSION_NAMES, SERVERS, extension_of, server_key

INSTALLER_NAME = re.compile(r"(?i)(?:^|/)(?:install\w*|setup\w*|wizard\w*|(?:install\w*|setup|wizard)/index)\.php$")
ASKING = ("extension_loaded", "function_exists", "class_exists", "is_callable")
MUST = re.compile(r"^(?:is_?)?(?:must|required?|mandatory|needed|necessary|critical)$")
MAY = re.compile(r"^(?:is_?)?(?:optional|recommended|wish|nice)$")
SAID_MUST = ("required", "mandatory", "needed", "must", "fatal", "error", "critical", "blocking", "hard")
SAID_MAY = (
    *("optional", "recommended", "suggested", "nice to have", "opt"),
    *("hint", "info", "notice", "warning", "warn", "soft"),
)
# What else could do it, and is not there either; `dl` only tries to load the extension.
ANOTHER_WAY = re.compile(r"!\s*(?!dl\b|extension_loaded|function_exists|class_exists)\w+\s*\(")
# Where a complaint goes says what it is: `$errors[] = …`, `$told['warning'][] = …`, `? CHECK_OK : CHECK_FATAL`.
BUCKET = re.compile(
    rb"\$(\w+(?:\s*(?:->|::)\s*\$?\w+)?(?:\s*\[\s*(?:['\"]?\w+['\"]?)?\s*\])*)\s*(?:\.|\[\s*\])?=(?![=>])|array_push\s*\(\s*&?\$(\w+)"
)
LEVEL = re.compile(
    rb"\b(?:self::|static::|\w+::)?[A-Z][A-Z0-9_]*(?:_|\b)(FATAL|ERROR|FAIL(?:ED|URE)?|CRITICAL|WARN(?:ING)?|NOTICE|OPTIONAL)\b"
)
HARD = re.compile(rb"(?i)fatal|err(?:or|s|no)?(?:\b|s|_|\[|')|fail|crit|missing|problem")
SOFT = re.compile(rb"(?i)warn|notice|hint|info|advi|recommend|optional|suggest")
# What a list of a single extension has to be called.
LIST_OF_NEEDS = re.compile(r"(?i)\w*(?:opt|ext|req|need|wish|recommend|modul|must)\w*['\"]?\]?\s*=>?\s*$")
NOT_SO = ("false", "0", "no", "", "optional", "recommended", "null")
# What an extension's name stands under in a row of its own; 0 is a row without keys.
ROW_NAME = re.compile(r"^(?:0|(?:php_?)?(?:name|ext\w*|module|id|key|lib\w*|check|value))$")
# A function that looks at one thing is no longer than this.
CHECK_BYTES = 1500
# A longer list is of something else.
MAX_FOLDERS = 25


def extensions(source: Source) -> Iterator[Clue]:
    asked: set[str] = set()
    for name, call in source.calls:
        if name in ASKING and call.type == "function_call_expression" and (extension := _named(source, call)):
            asked.add(extension)
            yield from _asked(source, call, extension, name == "extension_loaded")
    if b"extension_loaded" in source.data or b"get_loaded_extensions" in source.data or source.installs:
        yield from _listed(source)
    if b"function_exists" in source.data:
        yield from _listed_functions(source)
    for name, call in source.calls:
        extension = extension_of(
            "class_exists" if call.type == "object_creation_expression" else "function_exists", name
        )
        if extension and extension not in asked:
            asked.add(extension)
            yield source.clue("uses-extension", extension, call, 0.4)


def _named(source: Source, call: Node) -> str:
    """The extension that a call asks for, or ""."""
    function = call.child_by_field_name("function")
    name = source.text(function).lower().lstrip("\\")
    arguments = source.arguments(call) if name in ASKING else []
    value = source.literal(arguments[0]) if arguments else None
    return extension_of(name, value) if value else ""


def _asked(source: Source, call: Node, extension: str, by_name: bool) -> Iterator[Clue]:
    """One extension that is asked for, as far as the program makes something of the answer."""
    condition = source.condition(call)
    alone, several = choices(source, condition, lambda node: _named(source, node))
    sure, wish = _weight(source, call, by_name)
    if not wish and _only_with(source, call, condition):
        # `!function_exists('curl_init') && !ini_get('allow_url_fopen')`: something else can stand for it.
        sure, wish = 0.5, True
    what = "wished-extension" if wish else "extension"
    if extension in several:
        # The first of them speaks for all.
        if several[0] == extension and not wish:
            yield source.clue("one-of-extensions", " or ".join(sorted(several)), call, sure)
        yield source.clue("wished-extension", extension, call, 0.3)
    elif extension in alone:
        yield source.clue(what, extension, call, sure)


def _only_with(source: Source, call: Node, condition: Node) -> bool:
    """Whether it is missed only together with something that is no extension."""
    node = call
    while node != condition and node.parent is not None:
        node, inner = node.parent, node
        if node.type != "binary_expression" or source.text(node.child_by_field_name("operator")).lower() not in (
            "&&",
            "and",
        ):
            continue
        if any(c != inner and ANOTHER_WAY.match(source.text(c)) for c in node.named_children):
            return True
    return False


def _weight(source: Source, call: Node, by_name: bool) -> tuple[float, bool]:
    """How sure it is that what is asked for is needed, or (True) only wished."""
    _, ending = source.branches(call)
    said = ending.decode("utf-8", "replace")
    if ENDS.search(ending) or (source.installs and COMPLAINS.search(ending) and not OPTIONAL.search(said)):
        # One feature's file that gives up without a function speaks for that feature.
        whole = source.installs or GENERAL_PATH.search(source.path)
        return (0.85 if by_name else 0.75) if whole else 0.55 if by_name else 0.4, False
    if (must := _level(source, call, ending)) is not None and (
        source.installs or GENERAL_PATH.search(source.path) or COMPLAINS.search(ending)
    ):
        return (0.7 if must else 0.6), not must
    marks = source.marks(call)
    if (must := required_by(marks)) is not None:
        return (0.75 if must else 0.6), not must
    if source.installs:
        near = source.near(call)
        if OPTIONAL.search(near.decode("utf-8", "replace")):
            return 0.6 if by_name else 0.5, True
        # Only asked about, in a page that tells what is there: that may be a need or a mere sight.
        return (0.6 if by_name else 0.5) if COMPLAINS.search(near) else 0.4, False
    return 0.3, True


def _level(source: Source, call: Node, ending: bytes) -> bool | None:
    """Whether it is an error or a warning that an extension is missing: by where the complaint goes, or by a constant of a check."""
    for part in (ending, *(_later(source, call) if not ending else ())):
        put = [m[1] or m[2] for m in BUCKET.finditer(part)]
        hard, soft = (any(kind.search(p) for p in put) for kind in (HARD, SOFT))
        if hard != soft:
            return hard
    levels = {m[1] for m in LEVEL.finditer(_function_of(source, call))} if source.installs else set()
    hard, soft = (any(kind.search(level) for level in levels) for kind in (HARD, SOFT))
    return hard if hard != soft else None


def _function_of(source: Source, node: Node) -> bytes:
    """The text of the function around it, when that is short: one that looks at one thing."""
    outer: Node | None = node
    while outer is not None and outer.type not in ("function_definition", "method_declaration"):
        outer = outer.parent
    if outer is None or outer.end_byte - outer.start_byte > CHECK_BYTES:
        return b""
    return source.data[outer.start_byte : outer.end_byte]


def _later(source: Source, call: Node) -> Iterator[bytes]:
    """What happens where a variable that the answer is kept in says no: `$has = function_exists(…); … if (!$has) { … }`."""
    kept = call.parent
    left = kept.child_by_field_name("left") if kept is not None and kept.type == "assignment_expression" else None
    if left is None or left.type != "variable_name":
        return
    name = re.escape(source.data[left.start_byte : left.end_byte])
    for m in re.finditer(rb"\bif\s*\(\s*(!\s*)?" + name + rb"\s*\)", source.data[call.end_byte :]):
        at = call.end_byte + m.end()
        node = source.root.descendant_for_byte_range(at - 2, at - 1)
        while node is not None and node.type != "if_statement":
            node = node.parent
        if node is None:
            return
        body, other = node.child_by_field_name("body"), node.child_by_field_name("alternative")
        ending = body if m[1] else other
        yield (
            source.data[ending.start_byte : min(ending.end_byte, ending.start_byte + 2000)]
            if ending is not None
            else b""
        )


def required_by(marks: dict[str, str]) -> bool | None:
    """Whether a row of a table says that it is needed; None where it does not say."""
    for key, said in marks.items():
        if MUST.search(key) and said != "?":
            return said not in NOT_SO and not OPTIONAL.search(said)
        if MAY.search(key) and said != "?":
            return said in NOT_SO
    for said in marks.values():
        if said in SAID_MUST:
            return True
        if said in SAID_MAY:
            return False
    return None


def _listed(source: Source) -> Iterator[Clue]:
    """Lists of extensions' names, as installers go through them."""
    for node in source.found.get("array", []):
        names: dict[str, bool] = {}
        for element in node.named_children:
            parts = element.named_children
            value = source.literal(parts[0]) if parts else None
            if len(parts) == 1 and parts[0].type == "array_creation_expression":
                value, parts = _named_in(source, parts[0]), [parts[0], parts[0]]
            # `'Zip archives' => 'zip'`: the name may be the value of a title.
            if len(parts) > 1 and (value is None or value.lower() not in EXTENSION_NAMES):
                other = source.literal(parts[-1])
                value, parts = (other, parts[-1:]) if other and other.lower() in EXTENSION_NAMES else (value, parts)
            if value and value.lower() in EXTENSION_NAMES:
                names[value.lower()] = _must_be(source, parts)
        before = source.data[max(node.start_byte - 60, 0) : node.start_byte].decode("utf-8", "replace")
        if len(names) * 2 < len(node.named_children) or (len(names) < 2 and not LIST_OF_NEEDS.search(before)):
            continue
        # Beside another list: only what stands directly before this one is its own.
        before = re.split(r"\]\s*,|\)\s*,", before)[-1]
        demanded = not OPTIONAL.search(before)
        databases = [n for n in names if n in SERVERS]
        for name, must in names.items():
            # A list of nothing but drivers is a choice among them, not a need of each.
            if len(databases) < 2 or name not in SERVERS:
                yield source.clue("extension" if must and demanded else "wished-extension", name, node, 0.75)
        for name in databases:
            yield source.clue("database", SERVERS[name], node, 0.5)


def _named_in(source: Source, row: Node) -> str | None:
    """The extension that a row of a list is about: `['name' => 'gd', 'required' => false]`, `['gd', 'pictures', true]`."""
    pairs = source.pairs(row) if row.type == "array_creation_expression" else {}
    said = [v for k, v in pairs.items() if ROW_NAME.search(k) and v in EXTENSION_NAMES]
    return said[0] if said else None


def _must_be(source: Source, parts: list[Node]) -> bool:
    """Whether the entry of a list says that its extension is needed: `'gd' => false` and words such as "optional" say no."""
    if len(parts) < 2:
        return True
    if parts[-1].type == "array_creation_expression":
        return required_by(source.pairs(parts[-1])) is not False
    said = source.text(parts[-1]).lower().strip("'\"")
    return said not in NOT_SO and not OPTIONAL.search(said)


def _listed_functions(source: Source) -> Iterator[Clue]:
    """Tables of functions that are asked for one by one, each with a word whether it is needed."""
    for node in source.found.get("array", []):
        rows = [(e, e.named_children) for e in node.named_children if len(e.named_children) > 1]
        named = [(e, parts, extension_of("function_exists", source.literal(parts[0]) or "")) for e, parts in rows]
        known = [one for one in named if one[2] and one[1][-1].type == "array_creation_expression"]
        if len(known) < 2 or len(known) * 3 < len(rows):
            continue
        for element, parts, extension in known:
            must = required_by(source.pairs(parts[-1]))
            if must is not None:
                yield source.clue("extension" if must else "wished-extension", extension, element, 0.7)


def connections(source: Source) -> Iterator[Clue]:
    for name, call in source.calls:
        if (name == "mysqli" and call.type == "object_creation_expression") or name in (
            "mysqli_connect",
            "mysqli_real_connect",
            "mysqli_init",
        ):
            yield source.clue("database", "mariadb", call, 0.9)
        elif name in ("pg_connect", "pg_pconnect"):
            yield source.clue("database", "postgresql", call, 0.9)
        elif name == "sqlite3" and call.type == "object_creation_expression":
            yield source.clue("database", "sqlite", call, 0.8)
    for node in source.found.get("text", []):
        text = source.data[node.start_byte + 1 : node.start_byte + 60].decode("utf-8", "replace")
        if re.match(r"(mysql|pgsql|postgres\w*)i?://", text):
            # An address of a database server in the way of web addresses is mostly a setting's example.
            kind = re.match(r"[a-z]+", text)
            yield source.clue("database", SERVERS[server_key(kind[0] if kind else "")], node, 0.4)
        elif m := re.match(r"(mysql|pgsql|sqlite):(host|dbname|unix_socket|port|charset|[{$/:%.'\"]|$)", text):
            yield source.clue("database", SERVERS[m[1]], node, 0.85)
        elif m := re.match(r"(pdo_mysql|pdo_pgsql|pdo_sqlite)[\"']", text):
            yield source.clue("database", SERVERS[m[1]], node, 0.6)
    yield from _by_drivers(source)


def _by_drivers(source: Source) -> Iterator[Clue]:
    """A connection whose kind comes out of a variable: the kinds that the same file tells apart by their drivers' names."""
    opens = [c for n, c in source.calls if n == "pdo" and c.type == "object_creation_expression"]
    if not any((a := source.arguments(c)) and source.literal(a[0]) is None for c in opens):
        return
    for node in source.found.get("text", []):
        said = source.literal(node)
        if said in ("mysql", "pgsql", "sqlite") and node.parent is not None:
            yield source.clue("database", SERVERS[said], node, 0.6)


def writable(source: Source) -> Iterator[Clue]:
    asks = [
        (n, c) for n, c in source.calls if n in ("is_writable", "is_writeable") and c.type == "function_call_expression"
    ]
    for name, call in source.calls:
        arguments = source.arguments(call)
        if name in ("is_writable", "is_writeable") and arguments and (place := source.place(arguments[0])):
            yield source.clue("writable", place, call, 0.7)
        elif name == "chmod" and len(arguments) > 1 and re.search(r"0?77[75]|0?66[64]", source.text(arguments[1])):
            place = source.place(arguments[0])
            if place:
                yield source.clue("writable", place, call, 0.5)
    if not asks:
        return
    for node in source.found.get("array", []):
        before = source.data[max(node.start_byte - 80, 0) : node.start_byte]
        after = source.data[node.end_byte : node.end_byte + 200]
        written, merely_read = after.find(b"is_writ"), after.find(b"is_readable")
        if merely_read >= 0 and (written < 0 or merely_read < written):
            continue
        named = re.search(rb"(?i)writ|perm|chmod", before)
        if not named and (written < 0 or not re.search(rb"(?i)dir|folder|path|array|\[|\(", before)):
            continue
        if len(node.named_children) > MAX_FOLDERS:
            continue
        for element in node.named_children:
            parts = element.named_children
            place = source.place(parts[0]) if parts else ""
            if place and re.match(r"^[\w./-]+$", place) and not re.search(r"\.(php|js|css|html?|txt|md)$", place):
                yield source.clue("writable", place, node, 0.65)


# In small letters; it begins with its plain word, for speed.
MAKES_TABLES = re.compile(rb"create(?<=\bcreate)\s+table\b")


def tables(source: Source) -> Iterator[Clue]:
    """A page that makes tables itself and takes what somebody typed."""
    made = MAKES_TABLES.search(source.small)
    if made and re.search(rb"\$_(?:POST|REQUEST)\b|filter_input|php://input", source.data):
        yield Clue("makes-tables", source.path, source.path, line_of(source.data, made.start()), 0.7)


# What writes, and which of its arguments says where.
WRITES = {
    **dict.fromkeys(("file_put_contents", "touch", "mkdir", "fopen"), 0),
    **dict.fromkeys(("move_uploaded_file", "copy", "rename", "imagepng", "imagejpeg"), 1),
}
# What is for its makers' or the host's own folders.
ELSEWHERE = re.compile(r"(?i)sys_get_temp_dir|tempnam|php://|/dev/|/tmp/")
BY_MAKERS = re.compile(r"(?i)(^|/)(tests?|specs?|tools?|build|bin|scripts?|docs?|examples?|utils?|dev)/")


def written(source: Source) -> Iterator[Clue]:
    """Places that are written to: files, folders that are made, an SQLite database."""
    if BY_MAKERS.search(source.path):
        return
    for name, call in source.calls:
        arguments, at = source.arguments(call), WRITES.get(name)
        if call.type == "object_creation_expression" and name in ("pdo", "sqlite3") and arguments:
            # `sqlite:PATH`; what is no path is found nowhere in the release.
            yield from _written(source, call, arguments[0], source.place(arguments[0]).rpartition(":")[2])
        elif at is not None and len(arguments) > at and call.type == "function_call_expression":
            if name == "fopen" and (
                len(arguments) < 2 or not re.match(r"[waxc]|r\+", source.literal(arguments[1]) or "")
            ):
                continue
            yield from _written(source, call, arguments[at], source.place(arguments[at]), folder=name == "mkdir")


def _written(source: Source, call: Node, said: Node, place: str, *, folder: bool = False) -> Iterator[Clue]:
    place = re.sub(r"^(?:\.{0,2}/)+", "", place)
    if place and len(place) < 120 and re.match(r"^[\w{}./ -]+$", place) and not ELSEWHERE.search(source.text(said)):
        yield source.clue("writes-to", place + ("/" if folder else ""), call, 0.6)


# What a page does that installs: it takes what somebody typed, goes by steps, or hands over to what does.
TAKES = re.compile(
    rb"(?i)\$_(?:POST|REQUEST|GET)\b|<form|\bfilter_input|wizard|\bstep|getRequest|->(?:post|input|request)\b|file_put_contents|fwrite"
    rb"|install\w*\s*\(|new\s+\w*(?:install|wizard)|new\s+\\?(?:mysqli|pdo)\b|create\s+table"
)
OPENS = re.compile(
    rb"(?i)\b(?:require|include)(?:_once)?\b[^;\n]{0,80}(?:install|setup|wizard|step|bootstrap|autoload|kernel|app)"
)


def idle(source: Source) -> Iterator[Clue]:
    """A file that is called as an installer and takes nothing from anybody: a page that shows how things stand."""
    if INSTALLER_NAME.search(source.path) and not TAKES.search(source.data) and not OPENS.search(source.data):
        yield Clue("idle-installer", source.path, source.path, 1, 0.7)


# An address that a program answers itself, without a file of that name.
ROUTE = re.compile(r"^/(setup|install(?:er|ation)?|wizard)/?$", re.I)


def routes(source: Source) -> Iterator[Clue]:
    """Addresses of an installer that a front controller compares with or lists."""
    for kind, sure in (("compare", 0.6), ("pair", 0.5)):
        for node in source.found.get(kind, []):
            for part in node.named_children:
                if (said := source.literal(part)) and (m := ROUTE.match(said)):
                    yield source.clue("installer-route", m[1].lower(), node, sure)
