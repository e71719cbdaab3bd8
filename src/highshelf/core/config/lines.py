"""Formats of one setting a line: INI as PHP reads it, env as a shell does, a web server's directives for a folder."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

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

FLAGS = {"true": "true", "on": "true", "yes": "true", "false": "false", "off": "false", "no": "false", "none": "false"}
# What PHP's INI reader takes as it stands, without quotation marks.
PLAIN_INI = re.compile(r"[A-Za-z0-9_./:@%+,-]+(?: [A-Za-z0-9_./:@%+,-]+)*")
WORDS_OF_INI = (*FLAGS, "null")
PLAIN_ENV = re.compile(r"[A-Za-z0-9_./:@%+,=-]+")


def _lines(data: bytes) -> Iterator[tuple[int, bytes]]:
    """Each line's first byte and its bytes without the end."""
    at = 0
    for line in re.split(rb"(\r\n|\r|\n)", data):
        if line not in (b"\r\n", b"\r", b"\n"):
            yield at, line
        at += len(line)


def _clean(text: str) -> str:
    return re.sub(r"^\s*[;#]+\s?|[;#=*-]{3,}", "", text).strip()


def _small(data: bytes) -> None:
    if len(data) > MOST_BYTES:
        raise ConfigurationError("this file is too large for a configuration", hint="edit it by hand")


def _kind(text: str, quoted: bool) -> Kind:
    if quoted:
        return "text"
    return "flag" if text.lower() in FLAGS else "number" if is_number(text) else "text"


@dataclass(frozen=True)
class Ini:
    """Sections in brackets, `key = value`, `;` and `#` comments; settings that are commented out are found as well."""

    name: str = "INI"
    keys: str = r"[\w.$-]+(?:\[[\w.-]*\])?"

    def literals(self, data: bytes) -> list[Literal]:
        _small(data)
        found, comments, section = [], [], ""
        pattern = re.compile(rb"^([ \t]*)([;#]+[ \t]?)?(" + self.keys.encode() + rb")[ \t]*=[ \t]*")
        open_until = -1
        for number, (at, line) in enumerate(_lines(data), 1):
            if at < open_until:
                continue
            if heading := re.match(rb"^\s*\[([^\]]+)\]", line):
                section = heading[1].decode("utf-8", "surrogateescape").strip()
                continue
            setting = pattern.match(line)
            marked = setting is not None and setting[2] is not None
            if setting is None or (marked and not _is_setting(line[setting.end() :])):
                if re.match(rb"^\s*[;#]", line):
                    comments.append((at, at + len(line)))
                continue
            start = at + setting.end()
            text, end, quoted = _ini_value(data, start, at + len(line))
            open_until = end
            key = setting[3].decode()
            keys = re.match(r"^(.*?)\[(.*)\]$", key)
            path = (*((section,) if section else ()), *((keys[1], keys[2]) if keys else (key,)))
            kind = _kind(text, quoted)
            value = FLAGS[text.lower()] if kind == "flag" else text
            # The comment's mark and what stands before it belong to what is replaced.
            begin = at + len(setting[1]) if marked else start
            found.append(Literal(path, value, kind, begin, end, number, off=marked, section=section))
            rest = data[end : at + len(line)] if end < at + len(line) else b""
            if re.match(rb"\s*;", rest):
                comments.append((end + rest.index(b";"), at + len(line)))
        return told(found, Lines(data, comments, _clean))

    def spell(self, data: bytes, literal: Literal, value: str) -> bytes:
        text = self._spelled(data, literal, value)
        if not literal.off:
            return text
        old = data[literal.start : literal.end]
        key = re.match(rb"[;#]+[ \t]?(.*?=[ \t]*)", old)
        return (key[1] if key else b"") + text

    def _spelled(self, data: bytes, literal: Literal, value: str) -> bytes:
        if literal.kind == "flag" and value.lower() in (*TRUE, *FALSE):
            wanted = "true" if value.lower() in TRUE else "false"
            old = data[literal.start : literal.end].decode().rpartition("=")[2].strip().lower()
            pairs = (("true", "false"), ("on", "off"), ("yes", "no"))
            pair = next((p for p in pairs if old in p), pairs[0])
            return pair[wanted == "false"].encode()
        if "\0" in value:
            raise ConfigurationError("an INI file cannot hold this value", hint="choose another one")
        if PLAIN_INI.fullmatch(value) and value.lower() not in WORDS_OF_INI:
            return encoded(value, data)
        if "'" not in value:
            return b"'" + encoded(value, data) + b"'"
        if "$" in value or "\\" in value:
            raise ConfigurationError(
                f"{literal.name}: an INI file cannot hold ' together with $ or a backslash", hint="choose another value"
            )
        if re.search(r"\"[\r\n]", value):
            # PHP's reader takes a quotation mark before the end of a line for the value's end, escaped or not (zend_ini_scanner.l).
            raise ConfigurationError(
                f"{literal.name}: an INI file cannot hold ' together with \" at the end of a line",
                hint="choose another value",
            )
        return b'"' + encoded(value.replace('"', '\\"'), data) + b'"'


def _is_setting(rest: bytes) -> bool:
    """Whether what follows `; name =` is a setting that was commented out, not a sentence with a sign in it."""
    text = re.sub(rb"\s+[;#].*$", b"", rest).strip()
    return text.startswith((b'"', b"'")) or text.count(b" ") < 2


def _ini_value(data: bytes, start: int, line_end: int) -> tuple[str, int, bool]:
    """The value from `start`, where it ends, and whether it is quoted; quoted ones may go over lines."""
    if quoted := re.compile(rb"'([^']*)'|\"((?:\\.|[^\"\\])*)\"", re.S).match(data, start):
        if quoted[1] is not None:
            return quoted[1].decode("utf-8", "surrogateescape"), quoted.end(), True
        inside = quoted[2].decode("utf-8", "surrogateescape")
        return re.sub(r'\\(["\\])', r"\1", inside), quoted.end(), True
    plain = re.compile(rb"[^;\r\n]*").match(data, start, line_end)
    text = plain[0].rstrip() if plain else b""
    return text.decode("utf-8", "surrogateescape"), start + len(text), False


@dataclass(frozen=True)
class Env:
    """`KEY=value` and `export KEY=value`, as a POSIX shell reads them (XCU 2.2, quoting)."""

    name: str = "env"

    def literals(self, data: bytes) -> list[Literal]:
        _small(data)
        found, comments = [], []
        open_until = -1
        for number, (at, line) in enumerate(_lines(data), 1):
            if at < open_until:
                continue
            setting = re.match(rb"^([ \t]*)(#+[ \t]?)?((?:export[ \t]+)?[A-Za-z_][\w.]*)=", line)
            marked = setting is not None and setting[2] is not None
            if setting is None or (marked and not _is_setting(line[setting.end() :])):
                if re.match(rb"^\s*#", line):
                    comments.append((at, at + len(line)))
                continue
            start = at + setting.end()
            text, end, quoted = _env_value(data, start, at + len(line))
            open_until = end
            key = setting[3].decode().split()[-1]
            kind = _kind(text, quoted)
            value = FLAGS[text.lower()] if kind == "flag" else text
            begin = at + len(setting[1]) if marked else start
            found.append(Literal((key,), value, kind, begin, end, number, off=marked))
            if behind := re.compile(rb"[ \t]+#").match(data, end):
                comments.append((behind.end() - 1, at + len(line)))
        return told(found, Lines(data, comments, _clean))

    def spell(self, data: bytes, literal: Literal, value: str) -> bytes:
        text = self._spelled(data, literal, value)
        key = re.match(rb"#+[ \t]?(.*?=)", data[literal.start : literal.end]) if literal.off else None
        return (key[1] if key else b"") + text

    def _spelled(self, data: bytes, literal: Literal, value: str) -> bytes:
        if literal.kind == "flag" and value.lower() in (*TRUE, *FALSE):
            return b"true" if value.lower() in TRUE else b"false"
        if "\0" in value:
            raise ConfigurationError("an env file cannot hold this value", hint="choose another one")
        if PLAIN_ENV.fullmatch(value) and value.lower() not in FLAGS:
            return encoded(value, data)
        if "'" not in value:
            return b"'" + encoded(value, data) + b"'"
        return b'"' + encoded(re.sub(r'([\\"$`])', r"\\\1", value), data) + b'"'


def _env_value(data: bytes, start: int, line_end: int) -> tuple[str, int, bool]:
    if quoted := re.compile(rb"'([^']*)'|\"((?:\\.|[^\"\\])*)\"", re.S).match(data, start):
        if quoted[1] is not None:
            return quoted[1].decode("utf-8", "surrogateescape"), quoted.end(), True
        inside = quoted[2].decode("utf-8", "surrogateescape")
        return re.sub(r'\\([\\"$`])', r"\1", inside), quoted.end(), True
    plain = re.compile(rb"(?:(?!\s#)[^\r\n])*").match(data, start, line_end)
    text = plain[0].rstrip() if plain else b""
    return text.decode("utf-8", "surrogateescape"), start + len(text), False


# Directives of which the first word is the setting's own name.
NAMED = ("php_value", "php_flag", "php_admin_value", "setenv", "define", "sethandler")
DIRECTIVE = re.compile(rb"^([ \t]*)(#[ \t]?)?([A-Za-z_]\w+)[ \t]+(?:([\w.]+)[ \t]+)?(?=[^\s])")
KNOWN = re.compile(
    r"(?i)php_(?:admin_)?(?:value|flag)|setenv|rewritebase|authuserfile|authname|errordocument|directoryindex"
)


@dataclass(frozen=True)
class Directives:
    """`.htaccess`: what is set by a directive of one or two words (httpd's configuration syntax)."""

    name: str = ".htaccess"

    def literals(self, data: bytes) -> list[Literal]:
        _small(data)
        found, comments = [], []
        for number, (at, line) in enumerate(_lines(data), 1):
            word = re.match(rb"^([ \t]*)(#[ \t]?)?([A-Za-z_]\w+)[ \t]+", line)
            if word is None or not KNOWN.fullmatch(word[3].decode()):
                if re.match(rb"^\s*#", line):
                    comments.append((at, at + len(line)))
                continue
            directive, place = word[3].decode(), word.end()
            path: tuple[str, ...] = (directive,)
            if directive.lower() in NAMED or directive.lower() == "errordocument":
                key = re.compile(rb"([\w.-]+)[ \t]+").match(line, place)
                if key is None:
                    continue
                path, place = (directive, key[1].decode()), key.end()
            text, end = _argument(data, at + place, at + len(line))
            kind: Kind = "flag" if directive.lower() == "php_flag" else "number" if is_number(text) else "text"
            value = FLAGS.get(text.lower(), text) if kind == "flag" else text
            begin = at + len(word[1]) if word[2] else at + place
            found.append(Literal(path, value, kind, begin, end, number, off=word[2] is not None))
        return told(found, Lines(data, comments, _clean))

    def spell(self, data: bytes, literal: Literal, value: str) -> bytes:
        if re.search(r"[\0\r\n]", value) or value.endswith("\\"):
            raise ConfigurationError(f"{literal.name}: a directive cannot hold this value", hint="choose another one")
        if literal.kind == "flag" and value.lower() in (*TRUE, *FALSE):
            text = b"on" if value.lower() in TRUE else b"off"
        elif re.fullmatch(r"[^\s\"'\\]+", value):
            text = encoded(value, data)
        elif '"' not in value:
            text = b'"' + encoded(value, data) + b'"'
        elif "'" not in value:
            text = b"'" + encoded(value, data) + b"'"
        else:
            raise ConfigurationError(
                f"{literal.name}: a directive cannot hold both quotation marks", hint="choose another one"
            )
        if not literal.off:
            return text
        old = data[literal.start : literal.end]
        return re.sub(rb"^#[ \t]?", b"", old[: len(old) - len(old.split(None, len(literal.path))[-1])]) + text


def _argument(data: bytes, start: int, line_end: int) -> tuple[str, int]:
    quoted = re.compile(rb"\"([^\"\r\n]*)\"|'([^'\r\n]*)'").match(data, start, line_end)
    if quoted:
        return (quoted[1] if quoted[1] is not None else quoted[2]).decode("utf-8", "surrogateescape"), quoted.end()
    plain = data[start:line_end].rstrip()
    return plain.decode("utf-8", "surrogateescape"), start + len(plain)
