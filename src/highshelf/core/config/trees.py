"""Formats that are trees: YAML and XML by well-kept parsers that tell where things stand, JSON by a scanner of our own."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from typing import Any
from xml.parsers import expat
from xml.sax.saxutils import escape

import yaml

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

MOST_DEEP = 100
KINDS: dict[str, Kind] = {
    "tag:yaml.org,2002:int": "number",
    "tag:yaml.org,2002:float": "number",
    "tag:yaml.org,2002:bool": "flag",
    "tag:yaml.org,2002:null": "null",
}


# What YAML prints as it is (1.2, 5.1), without what version 1.1 takes for ends of lines (1.1, 5.4).
NOT_PLAIN = re.compile(r"[^\x20-\x7e\xa0-\u2027\u202a-\ud7ff\ue000-\ufefe\uff00-\ufffd\U00010000-\U0010ffff]")


def _flag(value: str) -> str | None:
    return "true" if value.lower() in TRUE else "false" if value.lower() in FALSE else None


class Yaml:
    """Scalars of mappings and lists, of the first document; what an alias repeats is set where it stands first."""

    name = "YAML"

    def literals(self, data: bytes) -> list[Literal]:
        if len(data) > MOST_BYTES:
            raise ConfigurationError("this file is too large for a configuration", hint="edit it by hand")
        text = _text(data)
        try:
            root = next(iter(yaml.compose_all(text, Loader=yaml.SafeLoader)), None)
        except (yaml.YAMLError, RecursionError, ValueError) as fault:
            raise ConfigurationError(f"this is no YAML: {str(fault)[:200]}", hint="mend the file first") from fault
        # Where YAML counts letters, a file is cut by bytes.
        bytes_at = _offsets(text)
        found = [
            Literal(
                path,
                _read_yaml(node),
                KINDS.get(node.tag, "text"),
                bytes_at(node.start_mark.index),
                bytes_at(node.end_mark.index),
                node.start_mark.line + 1,
            )
            for path, node in (_scalars(root) if root is not None else ())
        ]
        found = [one for one in found if not data[one.start : one.end].startswith((b"|", b">"))]
        comments = [
            (bytes_at(m.start(1)), bytes_at(m.end(1))) for m in re.finditer(r"(?m)(?:^|(?<=\s))(#[^\r\n]*)$", text)
        ]
        inside = [(one.start, one.end) for one in found]
        comments = [c for c in comments if not any(start <= c[0] < end for start, end in inside)]
        return told(found, Lines(data, comments, lambda t: t.strip().lstrip("#").strip()))

    def spell(self, data: bytes, literal: Literal, value: str) -> bytes:
        if literal.kind == "flag" and (said := _flag(value)) is not None:
            return said.encode()
        if literal.kind == "number" and is_number(value):
            return self._apart(data, literal, value.encode())
        if re.search(NOT_PLAIN, value):
            # RFC 8259's escapes are YAML's too, as long as nothing is a pair of surrogates (YAML 1.2, 5.7).
            text = json.dumps(value, ensure_ascii=False)
            text = re.sub(r"[\x7f-\x9f\ufeff\u2028\u2029\ufffe\uffff]", lambda m: f"\\u{ord(m[0]):04x}", text)
            return self._apart(data, literal, encoded(text, data))
        quoted = "'" + value.replace("'", "''") + "'"
        return self._apart(data, literal, encoded(quoted, data))

    def _apart(self, data: bytes, literal: Literal, text: bytes) -> bytes:
        """`key:` with nothing behind it wants a space before its value."""
        return b" " + text if data[literal.start - 1 : literal.start] == b":" else text


def _read_yaml(node: yaml.ScalarNode) -> str:
    if node.tag == "tag:yaml.org,2002:null":
        return ""
    if node.tag == "tag:yaml.org,2002:bool":
        return "true" if node.value.lower() in ("true", "yes", "on") else "false"
    return str(node.value)


def _text(data: bytes) -> str:
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def _offsets(text: str) -> Any:
    """From the number of a letter to the number of its byte."""
    if text.isascii():
        return lambda index: index
    sums = [0]
    for letter in text:
        sums.append(sums[-1] + len(letter.encode()))
    return lambda index: sums[min(index, len(text))]


def _scalars(root: yaml.Node) -> Iterator[tuple[tuple[str, ...], yaml.ScalarNode]]:
    waiting: list[tuple[tuple[str, ...], yaml.Node]] = [((), root)]
    seen: set[int] = set()
    while waiting:
        path, node = waiting.pop()
        if id(node) in seen or len(path) > MOST_DEEP:
            continue
        seen.add(id(node))
        if isinstance(node, yaml.ScalarNode) and path:
            yield path, node
        elif isinstance(node, yaml.MappingNode):
            keys = [(k, v) for k, v in node.value if isinstance(k, yaml.ScalarNode)]
            waiting += [((*path, str(k.value)), v) for k, v in reversed(keys)]
        elif isinstance(node, yaml.SequenceNode):
            waiting += [((*path, str(n)), v) for n, v in reversed(list(enumerate(node.value)))]


TOKEN = re.compile(rb'\s*("(?:\\.|[^"\\])*"|[{}\[\],:]|[^\s{}\[\],:"]+)', re.S)


class Json:
    """RFC 8259. Comments are not part of it, and a file with some is refused."""

    name = "JSON"

    def literals(self, data: bytes) -> list[Literal]:
        if len(data) > MOST_BYTES:
            raise ConfigurationError("this file is too large for a configuration", hint="edit it by hand")
        try:
            json.loads(data)
        except (ValueError, RecursionError) as fault:
            raise ConfigurationError(f"this is no JSON: {fault}", hint="mend the file first") from fault
        lines = Lines(data, (), str)
        return [
            Literal(path, value, kind, start, end, lines.of(start)) for path, value, kind, start, end in _tokens(data)
        ]

    def spell(self, data: bytes, literal: Literal, value: str) -> bytes:
        if literal.kind == "flag" and (said := _flag(value)) is not None:
            return said.encode()
        if literal.kind == "number" and is_number(value):
            return value.encode()
        return json.dumps(value, ensure_ascii=bool(re.search("[\ud800-\udfff]", value))).encode()


def _tokens(data: bytes) -> Iterator[tuple[tuple[str, ...], str, Kind, int, int]]:
    """Values with their path; the file is known to be JSON."""
    path: list[str | int] = []
    key_next = False
    at = len(data) - len(data.lstrip(b"\xef\xbb\xbf"))
    while (token := TOKEN.match(data, at)) is not None:
        text, start, at = token[1], token.start(1), token.end()
        if text in (b"{", b"["):
            path.append("" if text == b"{" else 0)
            key_next = text == b"{"
        elif text in (b"}", b"]"):
            path.pop()
        elif text == b",":
            last = path[-1]
            path[-1] = last + 1 if isinstance(last, int) else last
            key_next = not isinstance(last, int)
        elif text == b":":
            key_next = False
        elif key_next:
            path[-1] = str(json.loads(text))
        elif path:
            kind: Kind = "text" if text[:1] == b'"' else "null" if text == b"null" else "number"
            kind = "flag" if text in (b"true", b"false") else kind
            value = str(json.loads(text)) if kind == "text" else "" if kind == "null" else text.decode()
            yield tuple(str(p) for p in path), value, kind, start, at


class Xml:
    """Texts of elements without others in them, and attributes; an element with a name or key is told by it."""

    name = "XML"

    def literals(self, data: bytes) -> list[Literal]:
        if len(data) > MOST_BYTES:
            raise ConfigurationError("this file is too large for a configuration", hint="edit it by hand")
        reader = _XmlReader(data)
        return told(reader.found, Lines(data, reader.comments, lambda t: re.sub(r"<!--|-->", "", t).strip()))

    def spell(self, data: bytes, literal: Literal, value: str) -> bytes:
        if re.search(r"[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]", value):
            raise ConfigurationError(f"{literal.name}: an XML file cannot hold this value", hint="choose another one")
        more = {"\r": "&#13;"}
        if literal.path[-1].startswith("@"):
            more |= {'"': "&quot;", "'": "&apos;", "\n": "&#10;", "\t": "&#9;"}
        text = escape(value, more)
        charset = re.match(rb"<\?xml[^>]*encoding=[\"']([\w-]+)", data)
        return text.encode(charset[1].decode() if charset else "utf-8", "xmlcharrefreplace")


class _XmlReader:
    """One reading: leaves and attributes with where they stand."""

    def __init__(self, data: bytes) -> None:
        self._data = data
        self.found: list[Literal] = []
        self.comments: list[tuple[int, int]] = []
        self._path: list[str] = []
        # For each open element: where its text begins, and whether it is a leaf so far.
        self._open: list[tuple[int, bool]] = []
        parser = expat.ParserCreate()
        parser.StartElementHandler = self._start
        parser.EndElementHandler = self._end
        parser.CommentHandler = self._comment
        parser.EntityDeclHandler = self._entity
        self._parser = parser
        try:
            parser.Parse(data, True)
        except expat.ExpatError as fault:
            raise ConfigurationError(f"this is no XML: {fault}", hint="mend the file first") from fault

    def _entity(self, *_: Any) -> None:
        raise ConfigurationError("this XML defines entities of its own", hint="edit it by hand")

    def _comment(self, text: str) -> None:
        at = self._parser.CurrentByteIndex
        self.comments.append((at, self._data.index(b"-->", at) + 3))

    def _start(self, name: str, attributes: dict[str, str]) -> None:
        at = self._parser.CurrentByteIndex
        tag = re.compile(rb"<[^\s/>]+(?:\s+[^\s=/>]+\s*=\s*(?:\"[^\"]*\"|'[^']*'))*\s*/?>").match(self._data, at)
        if tag is None:
            raise ConfigurationError("this XML is written in a way that cannot be kept", hint="edit it by hand")
        if self._open:
            self._open[-1] = (self._open[-1][0], False)
        called = next((attributes[n] for n in ("name", "key", "id") if n in attributes), "")
        self._path.append(f"{name}[{called}]" if called else name)
        self._open.append((tag.end(), not tag[0].endswith(b"/>")))
        for one in re.finditer(rb"\s([^\s=/>]+)\s*=\s*(?:\"([^\"]*)\"|'([^']*)')", tag[0]):
            key = one[1].decode("utf-8", "replace")
            group = 2 if one[2] is not None else 3
            if key in attributes and key not in ("name", "key", "id") and not key.startswith("xmlns"):
                self._keep((*self._path, f"@{key}"), attributes[key], at + one.start(group), at + one.end(group))

    def _end(self, name: str) -> None:
        start, leaf = self._open.pop()
        end = self._parser.CurrentByteIndex
        raw = self._data[start:end]
        if leaf and end >= start and b"<" not in raw:
            self._keep(tuple(self._path), _unescaped_xml(raw, self._data), start, end)
        self._path.pop()

    def _keep(self, path: tuple[str, ...], value: str, start: int, end: int) -> None:
        self.found.append(Literal(path, value, "text", start, end, self._data.count(b"\n", 0, start) + 1))


def _unescaped_xml(raw: bytes, data: bytes) -> str:
    charset = re.match(rb"<\?xml[^>]*encoding=[\"']([\w-]+)", data)
    text = raw.decode(charset[1].decode() if charset else "utf-8", "replace").replace("\r\n", "\n").replace("\r", "\n")
    named = {"lt": "<", "gt": ">", "amp": "&", "quot": '"', "apos": "'"}

    def one(m: re.Match[str]) -> str:
        if m[1] in named:
            return named[m[1]]
        number = int(m[1][2:], 16) if m[1][1:2] in "xX" else int(m[1][1:]) if m[1][1:].isdigit() else -1
        return chr(number) if 0 <= number < 0x110000 else m[0]

    return re.sub(r"&(#?\w+);", one, text)
