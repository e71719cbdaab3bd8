"""Literals of PHP sources, by the grammar: constants, variables, entries of arrays however deep, properties."""

from __future__ import annotations

import re
from collections.abc import Iterator

from tree_sitter import Node

from highshelf.core.config.literals import (
    FALSE,
    MOST_BYTES,
    TRUE,
    Kind,
    Lines,
    Literal,
    encoded,
    is_number,
    told,
)
from highshelf.core.errors import ConfigurationError
from highshelf.core.release.php.source import parser_of_php

# PHP's double quotes (language reference, strings).
ESCAPES = {"n": "\n", "t": "\t", "r": "\r", "v": "\v", "e": "\x1b", "f": "\f", "\\": "\\", "$": "$", '"': '"'}
MOST_DEEP = 200
BOXES = ("program", "php_tag", "expression_statement", "return_statement", "compound_statement", "if_statement")


class Php:
    """`define`, `const`, `$x = …`, `$x['a']['b'] = …`, `['a' => ['b' => …]]`, properties and constants of classes."""

    name = "PHP"

    def literals(self, data: bytes) -> list[Literal]:
        if len(data) > MOST_BYTES:
            raise ConfigurationError("this file is too large for a configuration", hint="edit it by hand")
        root = parser_of_php()[0].parse(data).root_node
        comments: list[tuple[int, int]] = []
        found = list(_walk(data, root, comments))
        return told(found, Lines(data, comments, _clean))

    def spell(self, data: bytes, literal: Literal, value: str) -> bytes:
        if literal.kind == "flag" and value.lower() in (*TRUE, *FALSE):
            return b"true" if value.lower() in TRUE else b"false"
        if literal.kind == "number" and is_number(value):
            return value.encode()
        quoted = value.replace("\\", "\\\\").replace("'", "\\'")
        return b"'" + encoded(quoted, data) + b"'"


def _clean(text: str) -> str:
    return re.sub(r"^\s*(?:/\*+|\*+/?|//+|#+)\s?|\s*\*+/\s*$|[*=#-]{3,}", "", text.strip()).strip(" *")


def _walk(data: bytes, root: Node, comments: list[tuple[int, int]]) -> Iterator[Literal]:
    """All literals with a name, outermost first; comments on the way."""
    waiting: list[tuple[Node, int]] = [(root, 0)]
    while waiting:
        node, depth = waiting.pop()
        if node.type == "comment":
            comments.append((node.start_byte, node.end_byte))
            continue
        named, value = _named(data, node)
        if named and value is not None:
            yield from _values(data, named, value, comments, 0)
            continue
        if node.type == "return_statement" and node.named_children:
            yield from _values(data, (), node.named_children[0], comments, 0)
            continue
        if depth < MOST_DEEP:
            waiting += [(child, depth + 1) for child in reversed(node.named_children)]


def _text(data: bytes, node: Node) -> str:
    return data[node.start_byte : node.end_byte].decode("utf-8", "surrogateescape")


def _named(data: bytes, node: Node) -> tuple[tuple[str, ...], Node | None]:
    """The name that a node gives something, and what it gives; ((), None) where it gives nothing."""
    children = [c for c in node.named_children if c.type != "comment"]
    if node.type == "assignment_expression" and len(children) == 2:
        return _target(data, children[0]), children[1]
    if node.type == "const_element" and len(children) >= 2:
        return (_text(data, children[0]),), children[-1]
    if node.type == "property_element" and len(children) >= 2:
        value = children[-1]
        return (_text(data, children[0]),), value.named_children[0] if value.type == "property_initializer" else value
    if (
        node.type == "function_call_expression"
        and children
        and _text(data, children[0]).lower().lstrip("\\")
        in (
            "define",
            "ini_set",
        )
    ):
        given = [a.named_children[-1] for a in children[-1].named_children if a.type == "argument" and a.named_children]
        if len(given) >= 2 and (key := _plain(data, given[0])) is not None:
            return (key,), given[1]
    return (), None


def _target(data: bytes, node: Node) -> tuple[str, ...]:
    """The keys of what is assigned to; () where one of them is only known at run time."""
    if node.type == "variable_name":
        return (_text(data, node),)
    if node.type == "subscript_expression" and len(node.named_children) == 2:
        outer, key = _target(data, node.named_children[0]), _plain(data, node.named_children[1])
        return (*outer, key) if outer and key is not None else ()
    if node.type in ("member_access_expression", "scoped_property_access_expression"):
        return (re.split(r"->|::", _text(data, node))[-1],)
    return ()


def _values(
    data: bytes, path: tuple[str, ...], node: Node, comments: list[tuple[int, int]], depth: int
) -> Iterator[Literal]:
    """The literal itself, or those of an array."""
    if node.type == "array_creation_expression" and depth < MOST_DEEP:
        number = 0
        for entry in node.named_children:
            if entry.type == "comment":
                comments.append((entry.start_byte, entry.end_byte))
            if entry.type != "array_element_initializer":
                continue
            parts = []
            for child in entry.named_children:
                if child.type == "comment":
                    comments.append((child.start_byte, child.end_byte))
                else:
                    parts.append(child)
            key = _plain(data, parts[0]) if len(parts) == 2 else str(number)
            number += len(parts) == 1
            if key is not None and parts:
                yield from _values(data, (*path, key), parts[-1], comments, depth + 1)
        return
    if path and (read := _literal(data, node)) is not None:
        yield Literal(path, read[0], read[1], node.start_byte, node.end_byte, node.start_point[0] + 1)


def _plain(data: bytes, node: Node) -> str | None:
    read = _literal(data, node)
    if read is not None:
        return read[0]
    return _text(data, node) if node.type in ("name", "class_constant_access_expression") else None


def _literal(data: bytes, node: Node) -> tuple[str, Kind] | None:
    """What a literal means, and of which kind it is; None for what is no literal."""
    match node.type:
        case "string":
            inside = _text(data, node)[1:-1]
            return re.sub(r"\\([\\'])", r"\1", inside), "text"
        case "encapsed_string":
            if any(c.type not in ("string_content", "escape_sequence") for c in node.named_children):
                return None
            return _unescaped(_text(data, node)[1:-1]), "text"
        case "heredoc" | "nowdoc":
            return _document(data, node)
        case "integer":
            return _text(data, node).replace("_", ""), "number"
        case "float":
            return _text(data, node), "number"
        case "boolean":
            return _text(data, node).lower(), "flag"
        case "null":
            return "", "null"
        case "unary_op_expression" if re.fullmatch(r"-\d+", _text(data, node)):
            return _text(data, node), "number"
    return None


def _document(data: bytes, node: Node) -> tuple[str, Kind] | None:
    """A heredoc or nowdoc without anything to be put in, its indentation taken away as PHP 7.3 and later do."""
    whole = re.fullmatch(
        r"<<<[ \t]*(['\"]?)(\w+)\1(?:\r\n|\r|\n)(.*?)(?:\r\n|\r|\n)?([ \t]*)\2", _text(data, node), re.S
    )
    if whole is None:
        return None
    quote, inside, indent = whole[1], whole[3], whole[4]
    if quote != "'" and re.search(r"(?<!\\)(?:\$[A-Za-z_{]|\{\$)", inside):
        return None
    inside = re.sub(rf"(?m)^{re.escape(indent)}", "", inside) if indent else inside
    return (inside if quote == "'" else _unescaped(inside)), "text"


def _unescaped(text: str) -> str:
    def one(m: re.Match[str]) -> str:
        said = m[1]
        if said in ESCAPES:
            return ESCAPES[said]
        if said[0] == "x":
            return bytes([int(said[1:], 16)]).decode("utf-8", "surrogateescape")
        if said[0] == "u":
            return chr(int(said[2:-1], 16))
        return bytes([int(said, 8) & 255]).decode("utf-8", "surrogateescape")

    return re.sub(r"\\([ntrvef\\$\"]|x[0-9A-Fa-f]{1,2}|u\{[0-9A-Fa-f]{1,6}\}|[0-7]{1,3})", one, text)
