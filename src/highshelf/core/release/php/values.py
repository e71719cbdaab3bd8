"""What an expression of a source gives, as far as it can be known without running it."""

from __future__ import annotations

import re
from collections.abc import Sequence

from tree_sitter import Node

from highshelf.core.release.php.calls import ASKED, NAMING, TRANSPARENT, accessor, formatted, hashes
from highshelf.core.release.php.pieces import (
    ALL,
    GAP,
    GIVEN_BY,
    REQUEST,
    UNTOLD,
    Piece,
    Pieces,
    Scope,
    Typed,
    in_text,
    plain_name,
    sole,
    typed,
    unescaped,
)
from highshelf.core.release.php.source import Source

MOST_DEPTH = 120
MOST_CALLS = 3
# Looks at parts of one file; the largest real ones that were seen take a tenth of it. Counted, so that the same file always says the same.
MOST_LOOKS = 300_000
SHORT = 300


# Properties of a request that hold all that was sent, and methods that give it.
SENT = ("->post", "->request", "->body", "->input", "->params", "->form")
WHOLE = frozenset(["validate", "validated", "all", "only", "safe", "post", "input", "except", "toarray"])


def _asks(text: str) -> bool:
    return ASKED.search(text) is not None


class Values:
    """Looks through variables, joined texts, and functions of the same file."""

    def __init__(self, source: Source) -> None:
        self.source = source
        self._shared: dict[str, Pieces] = {}
        self._functions: dict[str, Node] = {}
        self._calls = 0
        self._looks = 0
        self._known: dict[tuple[int, tuple[Pieces, ...]], Pieces] = {}

    def _spent(self) -> bool:
        self._looks += 1
        return self._looks > MOST_LOOKS

    def _body(self, node: Node, scope: Scope, depth: int) -> None:
        """Walk what a function does."""
        raise NotImplementedError

    def _parameters(self, node: Node) -> list[str]:
        parameters = node.child_by_field_name("parameters")
        if parameters is None:
            return []
        return [
            self.source.text(p.child_by_field_name("name"))
            for p in parameters.named_children
            if p.type.endswith("parameter") or p.type == "property_promotion_parameter"
        ]

    def _promoted(self, node: Node, given: dict[str, Pieces]) -> dict[str, Pieces]:
        """What a constructor keeps by itself: `__construct(private string $host)`."""
        parameters = node.child_by_field_name("parameters")
        kept = [p for p in parameters.named_children if p.type == "property_promotion_parameter"] if parameters else []
        names = [self.source.text(p.child_by_field_name("name")) for p in kept]
        return {"->" + n[1:]: given[n] for n in names if n in given}

    def value(self, node: Node | None, scope: Scope, depth: int = 0) -> Pieces:
        """What a text is made of; GAP for what only run time knows."""
        if node is None or depth > MOST_DEPTH or self._spent():
            return (GAP,)
        s = self.source
        match node.type:
            case "string" | "integer" | "float" | "nowdoc":
                return (s.literal(node) or "",)
            case "encapsed_string" | "heredoc" | "heredoc_body":
                return self._put_together(node, scope, depth)
            case "string_content" | "escape_sequence":
                return (unescaped(s.text(node)),)
            case "binary_expression":
                return self._joined(node, scope, depth)
            case "conditional_expression":
                ways = [self.value(c, scope, depth + 1) for c in reversed(node.named_children)]
                return next((w for w in ways if typed(w)), ways[0])
            case "assignment_expression":
                return self.value(node.child_by_field_name("right"), scope, depth + 1)
            case (
                "argument" | "parenthesized_expression" | "cast_expression" | "error_suppression_expression" | "by_ref"
            ):
                return self.value(node.named_children[-1] if node.named_children else None, scope, depth + 1)
            case "function_call_expression" | "member_call_expression" | "scoped_call_expression":
                return self._result(node, scope, depth)
            case "nullsafe_member_call_expression":
                return self._result(node, scope, depth)
            case "name":
                known = s.literal(node)
                kept = scope.get(f"->const {s.text(node)}")
                return kept or ((GAP,) if known is None else (known,))
        return self._variable(node, scope, depth)

    def _variable(self, node: Node, scope: Scope, depth: int) -> Pieces:
        key = self._key(node, scope)
        if key is None:
            return (GAP,)
        if (known := scope.get(key)) is not None:
            return known
        if key in REQUEST or (key in SENT and ASKED.search(self.source.text(node))):
            return ALL
        base, _, last = key.removesuffix("]").rpartition("[")
        if base and last:
            root = base.partition("[")[0]
            if last.startswith(UNTOLD):
                return (Typed(last),) if root in REQUEST else (GAP,)
            sent = root in SENT and ASKED.search(self.source.text(node)) is not None
            if root in REQUEST or sent or scope.get(base) == ALL:
                # `$_POST['db']['host']` is the field `db[host]`.
                inner = key[len(root) :] if root in REQUEST or sent else f"[{last}]"
                first, *rest = re.findall(r"\[([^\]]*)\]", inner)
                return (Typed(first + "".join(f"[{r}]" for r in rest)),)
            if root == "$_SESSION":
                return (Typed(f"?{last}"),)
        if scope.loose and re.fullmatch(r"\$\w+", key) and key[1:].startswith(scope.prefix):
            return (Typed(key[1:].removeprefix(scope.prefix)),)
        return (GAP,)

    def _key(self, node: Node | None, scope: Scope) -> str | None:
        """A variable's name, with the plain keys that lead into it: `$cfg[db][host]`, `->host`."""
        if node is None:
            return None
        s = self.source
        if node.type == "variable_name":
            return s.text(node)
        if node.type in ("member_access_expression", "nullsafe_member_access_expression"):
            return "->" + s.text(node.child_by_field_name("name"))
        if node.type == "scoped_property_access_expression":
            return "->" + s.text(node.child_by_field_name("name")).lstrip("$")
        if node.type == "subscript_expression" and node.named_children:
            base = self._key(node.named_children[0], scope)
            if base is None or len(node.named_children) < 2:
                return None
            at = node.named_children[1]
            key = s.text(at) if at.type == "name" and in_text(node) else s.literal(at)
            if key is None and at.type == "variable_name":
                # `$_POST[$name]` in a function that is given the name.
                known = scope.get(s.text(at)) or ()
                key = known[0] if len(known) == 1 and isinstance(known[0], str) else None
                given = sole(known)
                key = UNTOLD + given if given and given.startswith("@") else key
            return None if key is None else f"{base}[{key}]"
        return None

    def _put_together(self, node: Node, scope: Scope, depth: int) -> Pieces:
        parts: list[Piece] = []
        for child in node.named_children:
            if child.type not in ("heredoc_start", "heredoc_end"):
                parts += self.value(child, scope, depth + 1)
        return tuple(parts)

    def _joined(self, node: Node, scope: Scope, depth: int) -> Pieces:
        operator = self.source.text(node.child_by_field_name("operator"))
        if operator == "??":
            left = self.value(node.child_by_field_name("left"), scope, depth + 1)
            return left if typed(left) else self.value(node.child_by_field_name("right"), scope, depth + 1)
        if operator != ".":
            return (GAP,)
        # A long row of them leans to the left, as deep as it is long.
        parts: list[Piece] = []
        at: Node | None = node
        while (
            at is not None
            and at.type == "binary_expression"
            and self.source.text(at.child_by_field_name("operator")) == "."
        ):
            parts[:0] = self.value(at.child_by_field_name("right"), scope, depth + 1)
            at = at.child_by_field_name("left")
        return (*self.value(at, scope, depth + 1), *parts)

    def _result(self, node: Node, scope: Scope, depth: int) -> Pieces:
        name, arguments = self._callee(node), self.source.arguments(node)
        values = [self.value(a, scope, depth + 1) for a in arguments]
        if name == "sprintf" and values:
            return formatted(values, GAP)
        if name in ("implode", "join") and len(arguments) == 2:
            return self._listed(arguments[1], scope, depth, between="".join(p for p in values[0] if isinstance(p, str)))
        if name in ("str_replace", "strtr", "preg_replace") and len(values) == 3:
            return values[2]
        if name == "var_export" and values:
            return ("'", *values[0], "'")
        if name == "filter_var_array" and values and values[0] == ALL:
            return ALL
        if name in ("filter_input_array", "getparsedbody") or (name in WHOLE and _asks(self.source.text(node)[:200])):
            return ALL
        if name == "json_decode" and "php://input" in self.source.text(node):
            return ALL
        if name == "array_map" and len(values) == 2:
            return values[1]
        if name in ("array_merge", "array_replace", "array_intersect_key", "array_filter", "array_diff_key"):
            return next((v for v in values if v == ALL), (GAP,))
        if hashes(name, self.source.text(node)[:60]) and (fields := [f for v in values for f in typed(v)]):
            # With a salt before or behind it, it is still that password.
            return (Typed(fields[0]),)
        if (at := TRANSPARENT.get(name)) is not None:
            return values[at] if -len(values) <= at < len(values) else (GAP,)
        about = self.source.text(node.child_by_field_name("object"))
        if (taken := accessor(name, about, [self.source.literal(a) for a in arguments])) is not None:
            return (Typed(taken),)
        known = self._functions.get(name)
        if known is not None and self._calls < MOST_CALLS and (any(typed(v) for v in values) or self._takes(known)):
            return self._entered(known, values) or (GAP,)
        if (
            known is None
            and len(values) in (1, 2)
            and (asked := plain_name(values[0])) is not None
            and name not in NAMING
        ):
            # A function of another file: whether it gives what was typed under this name is found out when all were read.
            return (Typed(f"{asked}{GIVEN_BY}{name}"),)
        sent = [v for v in values if typed(v)]
        # What cleans, quotes or escapes gives back what it was given.
        return sent[0] if len(sent) == 1 else (GAP,)

    def _entered(self, function: Node, values: Sequence[Pieces]) -> Pieces:
        """Walk a function with what it is given; what it returns."""
        key = (function.start_byte, tuple(values))
        if key in self._known:
            return self._known[key]
        # Whoever calls itself with the same gets nothing.
        self._known[key] = ()
        own = dict(zip(self._parameters(function), values, strict=False))
        self._shared.update(self._promoted(function, own))
        inner = Scope(own, self._shared)
        self._calls += 1
        self._body(function, inner, 0)
        self._calls -= 1
        self._known[key] = inner.returns
        return inner.returns

    def _takes(self, function: Node) -> bool:
        """Whether what was sent is looked at in it."""
        text = self.source.data[function.start_byte : function.end_byte]
        # One that is short only passes something on.
        return len(text) < SHORT or b"$_POST" in text or b"$_REQUEST" in text or b"INPUT_POST" in text

    def _listed(self, node: Node, scope: Scope, depth: int, *, between: str) -> Pieces:
        array = node.named_children[-1] if node.type == "argument" and node.named_children else node
        if array.type == "function_call_expression" and self._callee(array) == "array_map":
            given = self.source.arguments(array)
            array = given[1].named_children[-1] if len(given) > 1 and given[1].named_children else array
        if array.type != "array_creation_expression":
            return self.value(node, scope, depth + 1)
        parts: list[Piece] = []
        for element in array.named_children:
            parts += [
                *self.value(element.named_children[-1] if element.named_children else None, scope, depth + 1),
                between,
            ]
        return tuple(parts)

    def _callee(self, node: Node) -> str:
        if node.type == "object_creation_expression":
            named = next((c for c in node.named_children if c.type in ("name", "qualified_name")), None)
            return "new " + self.source.text(named).lower().rsplit("\\", 1)[-1]
        name = node.child_by_field_name("function") or node.child_by_field_name("name")
        return self.source.text(name).lower().lstrip("\\").rsplit("\\", 1)[-1]
