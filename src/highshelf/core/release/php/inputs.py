"""What becomes of what somebody types: each field of a form is followed through the source that takes it.

Rules:
1. Only texts are followed, in the order in which they stand; of two values the one that somebody typed is kept.
2. A function of the same file is walked anew with what it is given; of another file, what it is given is noted.
3. What is found are facts: "it is the first argument of `mysqli_connect`", "it stands in this text". What that means is
   concluded elsewhere (`core/release/inputs.py`), from the facts of all files.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator

from tree_sitter import Node

from highshelf.core.release.clues import Clue, line_of
from highshelf.core.release.php.calls import CHECKS, SINKS, TRANSPARENT, hashes
from highshelf.core.release.php.pieces import ALL, REQUEST, UNTOLD, Pieces, Scope, Typed, parts, sole, told, typed
from highshelf.core.release.php.source import Source
from highshelf.core.release.php.tables import SERVERS
from highshelf.core.release.php.values import MOST_CALLS, MOST_DEPTH, Values

# Only files with one of these are followed. In small letters.
TAKES = (
    b"$_post",
    b"$request->",
    b"$req->",
    b"$input->",
    b"$form->",
    b"$_request",
    b"input_post",
    b"getparsedbody",
    b"->request",
    b"->input",
    b"->post",
    b"php://input",
)
# What is done with it where something is set up, wherever that is.
CONNECTS = (
    *(b"mysqli_connect", b"new mysqli", b"new \\mysqli", b"real_connect", b"mysql_connect", b"mysql_pconnect"),
    *(b"new pdo", b"new \\pdo", b"pg_connect", b"create table", b"create database"),
)
# One of these is part of each of the above: five searches where there is none.
CONNECT_STEMS = (b"mysql", b"real_connect", b"pdo", b"pg_connect", b"create ")
WRITES, WRITTEN = (b"file_put_contents", b"fwrite(", b"fputs("), (b"<?php", b"var_export", b"define(")
KEPT_AS_DATA = re.compile(rb"file_put_contents\s*\([^;]{0,200}(?:json_encode|serialize|yaml_emit)\s*\(")
SQL = re.compile(r"(?i)\s*(?:insert|replace|update)\s")
SETTER = re.compile(r"(?:set|put|save|add|update|write|store|config)\w*")
GIVER = re.compile(
    rb"(?i)\bfunction\s+(\w+)\s*\([^)$]*\$(\w+)[^)]*\)[^{]{0,60}\{[^}]{0,400}?\$_(?:POST|REQUEST)\s*\[\s*\$\2\s*\]"
)
# Where something is set up it may be taken by functions of any name.
SETS_UP = re.compile(r"(?i)(?:^|[/_.-])(?:\w*install\w*|\w*setup\w*|\w*wizard\w*)(?:/|[\w.-]*\.(?:php|inc|phtml)$)")
TAKEN_BY = re.compile(rb"\w*(?:post|request|param|input|field)\w*\s*\(\s*['\"]")
# Several things that were typed, given on together: whoever takes them may stand in another file.
HANDS_ON = re.compile(rb"\((?:\s*(?:\w+\()?\$_post\s*\[\s*['\"]\w+['\"]\s*\]\)?\s*,){2}")
MOST_BYTES = 120_000
MAIL_CHECK = re.compile(r"(?:valid\w*|check\w*|is)_?e?_?mail|mail_?(?:valid|check|ok)")
# What stands around a name in a template.
MARKS = "{}%#@[]<>_ "
MOST_FACTS = 250
MOST_TEXT = 6_000
# A text with less than this around what was typed says nothing.
LEAST_TEXT = 3


def keeps(path: str, small: bytes, connects: bool | None = None) -> bool:
    """Whether a source, in small letters, takes what somebody typed and may keep it: then it is worth reading.

    Args:
        connects: whether it connects to a database, where that is known.
    """
    if SETS_UP.search(path):
        return len(small) < MOST_BYTES and (any(w in small for w in TAKES) or TAKEN_BY.search(small) is not None)
    # The rarest first: most files of an application do neither.
    if b"$_post" in small and HANDS_ON.search(small):
        return True
    connects = _connects(small) if connects is None else connects
    writes = any(w in small for w in WRITES)
    if not (connects or writes) or not any(word in small for word in (*TAKES, b"request_method")):
        return False
    # A file of settings: PHP to be run, or data.
    settings = (*WRITTEN, b"request_method")
    written = writes and any(w in small.removeprefix(b"<?php") for w in settings)
    return connects or written or KEPT_AS_DATA.search(small) is not None


def _connects(small: bytes) -> bool:
    return any(w in small for w in CONNECT_STEMS) and any(w in small for w in CONNECTS)


def givers(path: str, data: bytes) -> list[Clue]:
    """Functions that give what was typed under a name that they are given; too small a thing to parse a file for."""
    if b"$_POST[" not in data and b"$_REQUEST[" not in data:
        return []
    return [
        Clue("input", json.dumps({"gives": f"@{m[1].decode().lower()}:0"}), path, line_of(data, m.start()), 0.8)
        for m in list(GIVER.finditer(data))[:20]
    ]


def inputs(source: Source) -> Iterator[Clue]:
    """Facts about what is typed, each as a clue `input` whose value is JSON: see `Tracer.fact`."""
    small = source.small
    connects = _connects(small)
    if (connects and len(small) < MOST_BYTES and b"function" in small) or keeps(source.path, small, connects):
        tracer = Tracer(source)
        tracer.run()
        yield from tracer.found


class Tracer(Values):
    """One file, walked once from top to bottom; functions where they stand and where they are called."""

    def __init__(self, source: Source) -> None:
        super().__init__(source)
        self.found: list[Clue] = []
        self._seen: set[str] = set()

    def run(self) -> None:
        root = self.source.root
        self._collect(root)
        self._walk(root, Scope({}, self._shared), 0)

    def fact(self, node: Node, sure: float, **said: object) -> None:
        """`{"is": value, "field": f}`, `{"path": [keys], "field": f}`, `{"text": [pieces]}`, `{"given": [name, at], "field": f}`,
        `{"again": [f, f]}`, `{"mail": f}`, `{"least": n, "field": f}`, `{"most": n, "field": f}`; a piece is a text, `{"f": field}` or null.
        """
        value = json.dumps(said, ensure_ascii=False, sort_keys=True)
        if value not in self._seen and len(self.found) < MOST_FACTS:
            self._seen.add(value)
            self.found.append(self.source.clue("input", value, node, sure))

    # Walking.

    def _collect(self, root: Node) -> None:
        names: dict[str, int] = {}
        for node in self.source.found.get("function", []):
            name = self.source.text(node.child_by_field_name("name")).lower()
            outer = node.parent.parent if node.parent is not None else None
            if name == "__construct" and outer is not None:
                name = "new " + self.source.text(outer.child_by_field_name("name")).lower()
            names[name] = names.get(name, 0) + 1
            self._functions[name] = node
        # Of two of one name nobody knows which is meant.
        self._functions = {n: f for n, f in self._functions.items() if names[n] == 1}

    def _walk(self, node: Node, scope: Scope, depth: int) -> None:
        if depth > MOST_DEPTH or self._spent():
            return
        if node.type in ("function_definition", "method_declaration"):
            return self._function(node, scope, depth)
        for child in node.named_children:
            self._walk(child, scope, depth + 1)
        match node.type:
            case "assignment_expression":
                self._assign(node, scope, self.value(node.child_by_field_name("right"), scope))
            case "augmented_assignment_expression":
                left = self._key(node.child_by_field_name("left"), scope)
                before = scope.get(left) or () if left else ()
                self._assign(node, scope, (*before, *self.value(node.child_by_field_name("right"), scope))[-400:])
            case "function_call_expression" | "member_call_expression" | "scoped_call_expression":
                self._call(node, scope)
            case "nullsafe_member_call_expression" | "object_creation_expression":
                self._call(node, scope)
            case "foreach_statement":
                self._each(node, scope)
            case "binary_expression":
                self._compare(node, scope)
            case "array_element_initializer":
                self._element(node, scope)
            case "encapsed_string" | "heredoc":
                self._text(node, self.value(node, scope))
            case "return_statement" if node.named_children:
                value = self.value(node.named_children[0], scope)
                scope.returns = value if typed(value) or not scope.returns else scope.returns
                for field in typed(value):
                    if field.startswith(UNTOLD):
                        self.fact(node, 0.9, gives=field.removeprefix(UNTOLD))
        return None

    def _function(self, node: Node, scope: Scope, depth: int) -> None:
        """Where it stands it is walked for what it does with whatever it is given."""
        name = self.source.text(node.child_by_field_name("name")).lower()
        outer = node.parent.parent if node.parent is not None else None
        if name == "__construct" and outer is not None:
            name = "new " + self.source.text(outer.child_by_field_name("name")).lower()
        given: dict[str, Pieces] = {p: (Typed(f"@{name}:{n}"),) for n, p in enumerate(self._parameters(node))}
        inner = Scope(given, self._shared)
        for kept, value in self._promoted(node, given).items():
            inner.put(kept, value)
        self._body(node, inner, depth)

    def _body(self, node: Node, scope: Scope, depth: int) -> None:
        body = node.child_by_field_name("body")
        if body is not None:
            self._walk(body, scope, depth + 1)

    def _assign(self, node: Node, scope: Scope, value: Pieces) -> None:
        left = node.child_by_field_name("left")
        if left is None:
            return
        key = self._key(left, scope)
        right = node.child_by_field_name("right")
        if key is None:
            self._apart(left, right, scope)
            self._whole(left, right, scope)
            return
        if right is not None and (other := self._key(right, scope)) is not None and re.fullmatch(r"\$\w+", key):
            scope.others[key] = other
        if left.type == "member_access_expression" and (field := sole(value)) is not None:
            # `$user->password = …`: what is kept of a person.
            self.fact(node, 0.85, table=self.source.text(left.named_children[0]).lstrip("$"), columns={key[2:]: field})
        if right is not None and right.type == "array_creation_expression":
            self._array(key, right, scope)
        scope.put(key, value)
        self._path(node, parts(key), value, 0.7)
        if right is not None and right.type in ("binary_expression", "function_call_expression"):
            self._text(node, value)

    def _whole(self, left: Node, right: Node | None, scope: Scope) -> None:
        """`$x[$k] = trim($_POST[$k])` for each of them: `$x` is all that was sent. `$$k = …`: each is a variable of its own."""
        text = self.source.text(right)
        sent = any(r in text for r in REQUEST) or any(typed(v) == ["*"] and k in text for k, v in scope.own.items())
        if not sent:
            return
        if left.type == "dynamic_variable_name":
            scope.loose = True
        elif left.type == "subscript_expression" and left.named_children:
            base = self._key(left.named_children[0], scope)
            scope.put(base or "", ALL)

    def _apart(self, left: Node, right: Node | None, scope: Scope) -> None:
        """`[$h, $u] = [$_POST['a'], $_POST['b']]`: each for itself."""
        lists = ("array_creation_expression", "list_literal")
        if left.type in lists and right is not None and right.type == "array_creation_expression":
            for one, given in zip(left.named_children, right.named_children, strict=False):
                name = self._key(one.named_children[-1] if one.type == "array_element_initializer" else one, scope)
                if name is not None and given.named_children:
                    scope.put(name, self.value(given.named_children[-1], scope))

    def _array(self, base: str, array: Node, scope: Scope) -> None:
        for element in array.named_children:
            if len(element.named_children) != 2:
                continue
            key, last = self.source.literal(element.named_children[0]), element.named_children[1]
            if key is None:
                continue
            if last.type == "array_creation_expression":
                self._array(f"{base}[{key}]", last, scope)
            else:
                value = self.value(last, scope)
                scope.put(f"{base}[{key}]", value)

    def _element(self, node: Node, scope: Scope) -> None:
        """`'host' => $h`, with the keys of the arrays that it stands in."""
        if len(node.named_children) != 2:
            return
        value = self.value(node.named_children[1], scope)
        if sole(value) is None:
            return
        keys, at = list[str](), node
        while at is not None and at.type in ("array_element_initializer", "array_creation_expression"):
            if at.type == "array_element_initializer" and len(at.named_children) == 2:
                keys.insert(0, (self.source.literal(at.named_children[0]) or "?").strip(MARKS) or "?")
            at = at.parent  # type: ignore[assignment]
        if at is not None and at.type == "assignment_expression":
            keys[:0] = parts(self._key(at.child_by_field_name("left"), scope) or "")
        self._path(node, keys, value, 0.85)

    def _path(self, node: Node, keys: list[str], value: Pieces, sure: float) -> None:
        field = sole(value)
        if keys and keys[0] in (*REQUEST, "$_SESSION", "$GLOBALS", "$_COOKIE"):
            keys = keys[1:]
        if field is not None and keys and keys[-1].lstrip("$") != field:
            self.fact(node, sure, path=keys[-5:], field=field)

    def _text(self, node: Node, value: Pieces) -> None:
        words = sum(len(p.strip()) for p in value if isinstance(p, str))
        if not [f for f in typed(value) if f != "*"] or words < LEAST_TEXT or words > MOST_TEXT:
            return
        self.fact(node, 0.85, text=told(value))

    def _call(self, node: Node, scope: Scope) -> None:
        name, arguments = self._callee(node), self.source.arguments(node)
        values = [self.value(a, scope) for a in arguments]
        if name == "extract" and values and values[0] == ALL:
            scope.loose = True
            said = self.source.text(arguments[1]) if len(arguments) > 2 else ""
            scope.prefix = f"{self.source.literal(arguments[2])}_" if said.endswith("PREFIX_ALL") else ""
        self._sinks(node, name, arguments, values, scope)
        for value in values:
            # What was added to line by line is read where it goes to.
            self._text(node, value)
        known = self._functions.get(name)
        if known is not None and self._calls < MOST_CALLS and any(typed(v) for v in values):
            self._entered(known, values)
        elif known is None and name not in TRANSPARENT:
            for at, value in enumerate(values):
                if (field := sole(value)) is not None and not field.startswith("@"):
                    self.fact(node, 0.8, given=[name, at], field=field)

    def _sinks(self, node: Node, name: str, arguments: list[Node], values: list[Pieces], scope: Scope) -> None:
        for at, meaning, sure in SINKS.get(name, ()):
            if at < len(values) and (field := sole(values[at])) is not None:
                self.fact(node, sure, **{"is": meaning, "field": field})
        is_hash = hashes(name, self.source.text(node)[:60])
        hashed = [f for v in values for f in typed(v) if f != "*"] if is_hash else []
        if hashed:
            # What else is put in with it, a name, is the salt.
            self.fact(node, 0.7 if len(hashed) == 1 else 0.6, **{"is": "admin.password", "field": hashed[0]})
        if name == "define" and len(values) == 2 and (key := self.source.literal(arguments[0])):
            self._path(node, [key], values[1], 0.85)
            scope.put(f"->const {key}", values[1])
        elif (
            len(values) == 1 and (put := re.fullmatch(r"(?:set|with|add)_?(\w+)", name)) and (field := sole(values[0]))
        ):
            self._put(node, put[1], field)
        elif len(values) in (2, 3) and SETTER.fullmatch(name) and (key := self.source.literal(arguments[0])):
            whose = [self.source.text(node.child_by_field_name("object"))] if node.type.startswith("member") else []
            self._path(node, [*whose, *re.split(r"[./]", key)], values[1], 0.8)
        if name in ("str_replace", "strtr") and arguments:
            self._replaced(node, arguments, scope)
        self._named(node, name, arguments, values, scope)
        self._statements(node, name, arguments, values, scope)
        self._rows(node, arguments, scope)
        self._checks(node, name, values)

    def _put(self, node: Node, name: str, field: str) -> None:
        """`$user->setLogin(…)`, also one after the other: something of whatever the row begins with."""
        at: Node | None = node
        while at is not None and at.type in ("member_call_expression", "scoped_call_expression"):
            first = at
            at = at.child_by_field_name("object")
        whose = self.source.text(at or first.child_by_field_name("scope")).lstrip("$").rsplit("\\", 1)[-1]
        self.fact(node, 0.85, table=whose, columns={name: field})

    def _named(self, node: Node, name: str, arguments: list[Node], values: list[Pieces], scope: Scope) -> None:
        """`new Login(host: $h, user: $u)`: what is called by its name is that."""
        columns = {}
        for argument, value in zip(arguments, values, strict=True):
            label = argument.child_by_field_name("name")
            if label is not None and (field := sole(value)) is not None:
                columns[self.source.text(label)] = field
                if name.startswith("new "):
                    scope.put("->" + self.source.text(label), value)
        if columns:
            self.fact(node, 0.85, table=name.removeprefix("new "), columns=columns)

    def _replaced(self, node: Node, arguments: list[Node], scope: Scope) -> None:
        """What stands in a template is the name of what is put there."""
        arrays = [a.named_children[-1] for a in arguments[:2] if a.named_children]
        if len(arrays) == 2 and all(a.type == "array_creation_expression" for a in arrays):
            for mark, given in zip(arrays[0].named_children, arrays[1].named_children, strict=False):
                if mark.named_children and given.named_children:
                    key = self.source.literal(mark.named_children[0])
                    self._path(
                        node,
                        [key.strip(MARKS)] if key else [],
                        self.value(given.named_children[-1], scope),
                        0.8,
                    )
        elif len(arrays) == 2 and (key := self.source.literal(arrays[0])):
            self._path(node, [key.strip(MARKS)], self.value(arrays[1], scope), 0.8)

    def _bound(self, node: Node, arguments: list[Node], values: list[Pieces], scope: Scope, *, first: int) -> None:
        """What is given to a statement that was prepared: by its place, or by its name."""
        prepared = scope.get("?sql") or ()
        given: dict[str, str] = {}
        array = arguments[-1].named_children[-1] if arguments and arguments[-1].named_children else None
        if array is not None and array.type == "array_creation_expression":
            for at, element in enumerate(e for e in array.named_children if e.named_children):
                named = self.source.literal(element.named_children[0]) if len(element.named_children) == 2 else None
                if (field := sole(self.value(element.named_children[-1], scope))) is not None:
                    given[named.lstrip(":") if named else str(at)] = field
        else:
            given = {str(n): f for n, v in enumerate(values[first:]) if (f := sole(v)) is not None}
        if prepared and given:
            self.fact(node, 0.85, statement=told(prepared), fields=given)

    def _bound_by_name(self, node: Node, arguments: list[Node], values: list[Pieces], scope: Scope) -> None:
        name = self.source.literal(arguments[0]) if len(arguments) > 1 else None
        field = sole(values[1]) if len(values) > 1 else None
        if name and field and (prepared := scope.get("?sql")):
            at = str(int(name) - 1) if name.isdigit() and int(name) else name.lstrip(":")
            self.fact(node, 0.85, statement=told(prepared), fields={at: field})

    def _statements(self, node: Node, name: str, arguments: list[Node], values: list[Pieces], scope: Scope) -> None:
        texts = [v for v in values if any(isinstance(p, str) and " " in p for p in v)]
        if name in ("prepare", "mysqli_prepare", "pg_prepare") and texts:
            scope.own["?sql"] = texts[-1]
        elif name in ("bindvalue", "bindparam"):
            self._bound_by_name(node, arguments, values, scope)
        elif name in ("bind_param", "mysqli_stmt_bind_param"):
            self._bound(node, [], values, scope, first=1 if name == "bind_param" else 2)
        elif len(arguments) >= 1 and name in ("execute", "mysqli_stmt_execute"):
            self._bound(node, arguments, [], scope, first=0)
        elif len(values) >= 2 and texts and SQL.match("".join(p for p in texts[0] if isinstance(p, str))):
            # A call of the application's own, or PHP's: a statement, and what is put into it.
            inner = Scope({"?sql": texts[0]}, scope.shared)
            inner.own.update(scope.own | {"?sql": texts[0]})
            self._bound(node, arguments, [], inner, first=0)

    def _rows(self, node: Node, arguments: list[Node], scope: Scope) -> None:
        """`insert('users', ['login' => $l])`: a table, and what goes into its columns."""
        if (
            len(arguments) < 2
            or not (table := self.source.literal(arguments[0]))
            or not re.fullmatch(r"\W*\w+\W*", table)
        ):
            return
        array = arguments[1].named_children[-1] if arguments[1].named_children else None
        if array is None or array.type != "array_creation_expression":
            return
        columns = {}
        for element in array.named_children:
            key = self.source.literal(element.named_children[0]) if len(element.named_children) == 2 else None
            field = sole(self.value(element.named_children[-1], scope)) if key else None
            if key and field:
                columns[key] = field
        if columns:
            self.fact(node, 0.85, table=table, columns=columns)

    def _checks(self, node: Node, name: str, values: list[Pieces]) -> None:
        whole = self.source.text(node)
        for at, pattern in CHECKS.get(name, ()):
            if at < len(values) and (field := sole(values[at])) is not None and re.search(pattern, whole):
                self.fact(node, 0.85, mail=field)
        if MAIL_CHECK.search(name) and values and (field := sole(values[0])) is not None:
            self.fact(node, 0.8, mail=field)

    def _each(self, node: Node, scope: Scope) -> None:
        """`foreach ($_POST as $k => $v)`: what is made of `$v` under `$k` is all that was sent."""
        text = self.source.text(node)[:400]
        found = re.match(r"(?i)foreach\s*\(\s*(\$\w+)\s+as\s+(\$\w+)\s*=>\s*&?(\$\w+)", text)
        if not found or (found[1] not in REQUEST and scope.own.get(found[1]) != ALL):
            return
        for base in re.findall(rf"(\$\w+)\[{re.escape(found[2])}\]\s*=", self.source.text(node)):
            scope.put(base, ALL)
        scope.loose = (
            scope.loose or re.search(rf"\$\${re.escape(found[2][1:])}\s*=", self.source.text(node)) is not None
        )

    def _compare(self, node: Node, scope: Scope) -> None:
        operator = self.source.text(node.child_by_field_name("operator"))
        left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
        if operator in ("==", "===", "!=", "!==", "<>"):
            a, b = sole(self.value(left, scope)), sole(self.value(right, scope))
            if a and b and a != b:
                self.fact(node, 0.9, again=[a, b])
            elif (field := a or b) and (self.source.literal(right if a else left) or "").lower() in SERVERS:
                self.fact(node, 0.8, **{"is": "database.kind", "field": field})
            elif (field := a or b) and re.search(
                r"(?i)file_get_contents|fgets|(?:setup|install)\w*_?(?:pass|token|key|code|secret)",
                self.source.text(right if a else left),
            ):
                self.fact(node, 0.8, **{"is": "setup.password", "field": field})
        elif operator in ("<", "<=", ">", ">=") and left is not None and left.type == "function_call_expression":
            self._length(node, operator, left, right, scope)

    def _length(self, node: Node, operator: str, left: Node, right: Node | None, scope: Scope) -> None:
        if self._callee(left) not in ("strlen", "mb_strlen", "iconv_strlen"):
            return
        number, arguments = self.source.literal(right), self.source.arguments(left)
        field = sole(self.value(arguments[0], scope)) if arguments else None
        if field and number and number.isdigit() and 0 < int(number) < 1000:
            least = {"<": int(number), "<=": int(number) + 1}.get(operator)
            most = {">": int(number), ">=": int(number) - 1}.get(operator)
            if least:
                self.fact(node, 0.8, least=least, field=field)
            if most:
                self.fact(node, 0.8, most=most, field=field)
