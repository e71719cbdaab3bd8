"""One parsed PHP source, and the questions that all readers ask of it: literals, branches, paths."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from functools import cache

import tree_sitter_php
from tree_sitter import Language, Node, Parser, Query, QueryCursor

from highshelf.core.release.clues import ASKS_FOR_LIBRARIES, Clue

# Of the processor, not of the clock: what is found is the same on a busy machine.
SECONDS_A_FILE = 1.0
MAX_LOOKED_AT_BYTES = 4_000

QUERY = """
(function_call_expression function: [(name) (qualified_name)] @name) @call
(object_creation_expression [(name) (qualified_name)] @name) @new
(binary_expression) @compare
(const_element) @constant
(assignment_expression) @assigned
(property_element) @property
(array_element_initializer) @pair
(array_creation_expression) @array
[(function_definition) (method_declaration)] @function
[(string) (encapsed_string)] @text
"""

INSTALLER_PATH = re.compile(
    r"(?i)(^|/)(install\w*|setup\w*|check\w*|requirements?\w*|upgrade\w*|environment\w*|wizard\w*|bootstrap\w*|index)(/|\.php$|\.inc$|[.-])"
)
GENERAL_PATH = re.compile(
    r"(?i)(^|/)(common|init\w*|functions?|global|config\w*|core|main|load\w*|start\w*|header|autoload|app|kernel|require\w*)([._-]\w+)*\.(php|inc)$"
)
ENDS = re.compile(rb"(?i)\b(exit|die|throw|abort|trigger_error)\b")
# It ends, or is noted among what is missing.
NOTED = re.compile(rb"(?i)\b(?:exit|die|throw|abort|trigger_error)\b|^\s*\$\w*(?:missing|error|issue|problem|fail)")
COMPLAINS = re.compile(
    rb"(?i)error|fail|require|need|must|missing|at least|or newer|not supported|too old|minimum|warn"
)
OPTIONAL = re.compile(
    r"(?i)option|recommend|suggest|wish|nice|warn|could|may|advis|good to have|not (?:needed|required|necessary)|nothing waits"
    r"|\bopt\b|\bhint\b"
)


@cache
def parser_of_php() -> tuple[Parser, Query]:
    language = Language(tree_sitter_php.language_php())
    return Parser(language), Query(language, QUERY)


class Source:
    """One parsed file. What is asked for beyond SECONDS_A_FILE is answered as if there were nothing."""

    def __init__(self, path: str, data: bytes, small: bytes, root: Node, query: Query) -> None:
        self.path, self.data, self.root = path, data, root
        # ASCII letters only, so places in it are places in the data.
        self.small = small
        self.until = time.thread_time() + SECONDS_A_FILE
        # They come in no order that could be relied on.
        found = QueryCursor(query, match_limit=20_000).captures(root)
        self.found = {name: sorted(nodes, key=lambda n: (n.start_byte, -n.end_byte)) for name, nodes in found.items()}
        self.installs = bool(INSTALLER_PATH.search(path) or ASKS_FOR_LIBRARIES.search(path))
        self.calls = [(self.text(n).lower().lstrip("\\"), n.parent) for n in self.found.get("name", []) if n.parent]
        self.constants = self._constants()

    def clue(self, what: str, value: str, node: Node, sure: float) -> Clue:
        return Clue(what, value, self.path, node.start_point[0] + 1, sure)

    def text(self, node: Node | None) -> str:
        if node is None:
            return ""
        end = min(node.end_byte, node.start_byte + MAX_LOOKED_AT_BYTES)
        return self.data[node.start_byte : end].decode("utf-8", "replace")

    def late(self) -> bool:
        return time.thread_time() > self.until

    def literal(self, node: Node | None) -> str | None:
        """The text of a string, number or constant of this file; None for what is only known at run time."""
        if node is None:
            return None
        if node.type == "argument" and node.named_children:
            node = node.named_children[-1]
        if node.type in ("string", "encapsed_string"):
            parts = node.named_children
            if any(p.type not in ("string_content", "escape_sequence") for p in parts):
                return None
            return "".join(self.text(p) for p in parts)
        if node.type in ("integer", "float"):
            return self.text(node).replace("_", "")
        if node.type in ("name", "variable_name", "class_constant_access_expression"):
            return self.constants.get(self.text(node).rsplit("::", 1)[-1].lstrip("$").lower())
        return None

    def _constants(self) -> dict[str, str]:
        self.constants = {}
        return {name.lstrip("$").lower(): value for name, value, _ in self.named_values()}

    def named_values(self) -> Iterator[tuple[str, str, Node]]:
        """Constants, defines, assignments, properties and array entries that are plain texts or numbers."""
        for node in self.found.get("constant", []):
            children = node.named_children
            if len(children) >= 2 and (value := self.literal(children[-1])) is not None:
                yield self.text(children[0]), value, node
        for name, call in self.calls if hasattr(self, "calls") else ():
            if name == "define" and call.type == "function_call_expression":
                arguments = self.arguments(call)
                if len(arguments) >= 2:
                    key, value = self.literal(arguments[0]), self.literal(arguments[1])
                    if key is not None and value is not None:
                        yield key, value, call
        for node in self.found.get("assigned", []):
            left, right = node.child_by_field_name("left"), node.child_by_field_name("right")
            if left is not None and (value := self.literal(right)) is not None:
                yield re.split(r"->|::", self.text(left))[-1].strip("[]'\" "), value, node
        for node in self.found.get("property", []):
            children = node.named_children
            if len(children) >= 2:
                last = children[-1]
                value = self.literal(last.named_children[0] if last.type == "property_initializer" else last)
                if value is not None:
                    yield self.text(children[0]), value, node
        for node in self.found.get("pair", []):
            children = node.named_children
            if len(children) == 2:
                key, value = self.literal(children[0]), self.literal(children[1])
                if key is not None and value is not None:
                    yield key, value, node

    def arguments(self, call: Node) -> list[Node]:
        arguments = call.child_by_field_name("arguments")
        if arguments is None:
            arguments = next((c for c in call.named_children if c.type == "arguments"), None)
        return [n for n in arguments.named_children if n.type == "argument"] if arguments is not None else []

    def near(self, node: Node) -> bytes:
        """What stands around it, in the same function."""
        start, end = node.start_byte - 300, node.end_byte + 300
        outer = node.parent
        while outer is not None and outer.type not in ("function_definition", "method_declaration"):
            outer = outer.parent
        if outer is not None:
            start, end = max(start, outer.start_byte), min(end, outer.end_byte)
        return self.data[max(start, 0) : end]

    def branches(self, node: Node) -> tuple[bytes, bytes]:
        """The texts of what happens when the condition around `node` holds, and when it does not; b"" without one."""
        inner, outer = node, node.parent
        turned = False
        for _ in range(8):
            if outer is None or self.late():
                return b"", b""
            if outer.type == "unary_op_expression" and self.text(outer).startswith("!"):
                turned = not turned
            if outer.type in ("if_statement", "else_if_clause", "conditional_expression"):
                body = outer.child_by_field_name("body")
                other = outer.child_by_field_name("alternative")
                condition = outer.child_by_field_name("condition")
                if condition is None or not (condition.start_byte <= inner.start_byte < condition.end_byte):
                    return b"", b""
                texts = [
                    self.data[n.start_byte : min(n.end_byte, n.start_byte + 2000)] if n is not None else b""
                    for n in (body, other)
                ]
                return (texts[1], texts[0]) if turned else (texts[0], texts[1])
            if outer.type == "binary_expression" and re.search(r"(?i)\b(or)\b|\|\|", self.text(outer)[:300]):
                right = outer.child_by_field_name("right")
                # `version_compare(…) or die(…)`: what stands right of it happens when it does not hold.
                if (
                    right is not None
                    and inner.start_byte < right.start_byte
                    and NOTED.search(self.data[right.start_byte : right.end_byte][:60])
                ):
                    return b"", self.data[right.start_byte : right.end_byte][:600]
            outer = outer.parent
        return b"", b""

    def condition(self, node: Node) -> Node:
        """The whole condition that a call stands in: through brackets, negations, "and" and "or"."""
        while node.parent is not None and (
            node.parent.type in ("parenthesized_expression", "unary_op_expression")
            or (node.parent.type == "binary_expression" and _joins(self.text(_operator(node.parent))))
        ):
            if node.parent.parent is not None and node.parent.parent.type in (
                "if_statement",
                "else_if_clause",
                "while_statement",
            ):
                # The brackets of the statement itself.
                return node if node.parent.type == "parenthesized_expression" else node.parent
            node = node.parent
        return node

    def marks(self, node: Node) -> dict[str, str]:
        """What stands beside a thing in its row of a table: `['label' => …, 'must' => true, 'fine' => extension_loaded(…)]`.

        Keys and texts in small letters; a value that only run time knows is "?".
        """
        row = node
        for _ in range(6):
            if row.parent is None or row.type in ("if_statement", "function_definition", "method_declaration"):
                return {}
            row = row.parent
            if row.type == "array_creation_expression":
                break
        else:
            return {}
        return self.pairs(row)

    def pairs(self, row: Node) -> dict[str, str]:
        """The plain keys and values of an array; entries without a key are called by their number."""
        found = {}
        for number, element in enumerate(row.named_children):
            parts = element.named_children
            if not parts:
                continue
            key = self.literal(parts[0]) if len(parts) > 1 else str(number)
            last = parts[-1]
            said = self.text(last) if last.type in ("boolean", "name") else self.literal(last)
            if key is not None:
                found[key.lower()] = "?" if said is None else said.lower()
        return found

    def place(self, node: Node) -> str:
        """The path that is asked for, without what only run time knows: `__DIR__ . '/../data'` is `data`.

        A constant that another file sets stands there as `{NAME}`: what it is, is found out when all have been read.
        """
        return _plain(self._path(node))

    def _path(self, node: Node | None) -> str:
        if node is not None and node.type == "argument" and node.named_children:
            node = node.named_children[-1]
        if node is None:
            return ""
        if node.type == "binary_expression":
            tail = self._path(node.child_by_field_name("right"))
            return self._path(node.child_by_field_name("left")) + tail if tail else ""
        if node.type == "name":
            known = self.literal(node)
            return ("" if self.text(node).startswith("__") else "{" + self.text(node) + "}") if known is None else known
        if node.type in ("string", "encapsed_string"):
            found = self.literal(node)
            if found is None:
                texts = [self.text(p) for p in node.named_children if p.type == "string_content"]
                found = texts[-1] if texts else ""
            return found
        return ""


def _operator(node: Node) -> Node | None:
    return node.child_by_field_name("operator")


def _joins(operator: str) -> bool:
    return operator.lower() in ("&&", "||", "and", "or")


def _plain(path: str) -> str:
    return re.sub(r"^(?:\.{0,2}/)+", "", path.strip()).rstrip("/")
