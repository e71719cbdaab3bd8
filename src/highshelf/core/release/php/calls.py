"""PHP's own functions, by what they do with what they are given: its manual (php.net) is the source of the places of arguments."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

# What gives back what it was given, by the place of that argument.
TRANSPARENT = {
    **dict.fromkeys(
        (
            *("trim", "ltrim", "rtrim", "chop", "strip_tags", "htmlspecialchars", "htmlentities", "html_entity_decode"),
            *(
                "addslashes",
                "stripslashes",
                "strtolower",
                "strtoupper",
                "ucfirst",
                "lcfirst",
                "mb_strtolower",
                "strval",
            ),
            *("intval", "filter_var", "urldecode", "rawurldecode", "urlencode", "mysql_real_escape_string", "substr"),
            *("mysql_escape_string", "addcslashes", "quotemeta", "nl2br", "mb_substr", "utf8_encode", "utf8_decode"),
            *("escapeshellarg", "quote", "escape", "real_escape_string", "escape_string", "json_encode", "serialize"),
            *(
                "sqlite_escape_string",
                "basename",
                "stripcslashes",
                "mb_convert_encoding",
                "mb_strimwidth",
                "rawurlencode",
            ),
        ),
        0,
    ),
    **dict.fromkeys(("mysqli_real_escape_string", "mysqli_escape_string", "iconv", "pg_escape_string"), -1),
    **dict.fromkeys(("pg_escape_literal", "pg_escape_identifier", "preg_replace", "str_ireplace"), -1),
    **dict.fromkeys(("password_hash", "md5", "sha1", "crypt", "crc32"), 0),
    **dict.fromkeys(("hash", "hash_hmac"), 1),
}
# What makes of a password something that it cannot be read from again, by the place of the password.
HASHES = {"password_hash": 0, "md5": 0, "sha1": 0, "crypt": 0, "hash": 1, "sodium_crypto_pwhash_str": 0}
LOGIN = ((0, "database.host", 0.97), (1, "database.user", 0.97), (2, "database.password", 0.97))
MYSQLI = (*LOGIN, (3, "database.name", 0.97), (4, "database.port", 0.95))
FOREIGN = "foreign"
# name -> (place of the argument, what it is, how sure)
SINKS: dict[str, tuple[tuple[int, str, float], ...]] = {
    "mysqli_connect": MYSQLI,
    "new mysqli": MYSQLI,
    "mysql_connect": LOGIN,
    "mysql_pconnect": LOGIN,
    "mysqli_real_connect": tuple((at + 1, value, sure) for at, value, sure in MYSQLI),
    "real_connect": MYSQLI,
    # Of an object of PHP's own, or of a class that is like it.
    "connect": tuple((at, value, 0.8) for at, value, _ in MYSQLI),
    "new pdo": ((1, "database.user", 0.97), (2, "database.password", 0.97)),
    "mysqli_select_db": ((1, "database.name", 0.97),),
    "mysql_select_db": ((0, "database.name", 0.97),),
    "select_db": ((0, "database.name", 0.95),),
    "date_default_timezone_set": ((0, "site.timezone", 0.9),),
    "new datetimezone": ((0, "site.timezone", 0.8),),
    "setlocale": ((1, "site.language", 0.6),),
    "mail": ((0, "admin.email", 0.7),),
    "password_verify": ((0, "setup.password", 0.7),),
    **{
        name: tuple((at, FOREIGN, 0.9) for at in range(5))
        for name in (
            *("ldap_connect", "ldap_bind", "imap_open", "ftp_connect", "ftp_ssl_connect", "ftp_login", "ssh2_connect"),
            *(
                "ssh2_auth_password",
                "ldap_search",
                "snmpget",
                "memcache_connect",
                "addserver",
                "new memcached",
                "new redis",
            ),
        )
    },
}
# Functions that look whether something is an address for mail: the place of what is looked at, and what else stands in the call.
CHECKS: dict[str, tuple[tuple[int, str], ...]] = {
    "filter_var": ((0, r"FILTER_VALIDATE_EMAIL"),),
    "preg_match": ((1, r"@"),),
    "strpos": ((0, r"['\"]@['\"]"),),
    "str_contains": ((0, r"['\"]@['\"]"),),
}
# What is given a name that is no field's.
NAMING = frozenset(
    [
        *(
            "define",
            "defined",
            "constant",
            "ini_get",
            "ini_set",
            "getenv",
            "extension_loaded",
            "function_exists",
            "header",
        ),
        *("class_exists", "require", "include", "file_get_contents", "file_exists", "is_file", "is_dir", "is_writable"),
        *(
            "session_name",
            "phpversion",
            "date",
            "fopen",
            "dirname",
            "realpath",
            "version_compare",
            "count",
            "exit",
            "die",
        ),
        *(
            "isset",
            "empty",
            "query",
            "prepare",
            "exec",
            "method_exists",
            "strlen",
            "trim",
            "print",
            "printf",
            "t",
            "_",
            "__",
        ),
    ]
)
ACCESSOR = re.compile(
    r"(?:get_?|read_?|fetch_?|safe_?)?(?:post|request|req|param|params|input|field|form|posted|submitted)(?:_?(?:var|value|param|data|string|str|text|int|field))?"
)
ASKED = re.compile(r"(?i)request|input|req\b|post|form|param")
METHODS = frozenset(
    [
        *("get", "post", "input", "getpost", "getvar", "param", "getparam", "value", "string", "str", "body", "field"),
        *("text", "int", "integer", "number", "line", "trimmed", "secret", "raw", "query", "data"),
    ]
)


HASHING = re.compile(
    r"(?:hash|encode|encrypt|crypt|make|digest)_?(?:pass(?:word)?|pwd)|(?:pass(?:word)?|pwd)_?(?:hash|encode|encrypt|crypt|digest)"
)


def hashes(name: str, text: str) -> bool:
    """Whether a call makes a password unreadable: PHP's own do, and what is called so."""
    return (
        name in HASHES
        or HASHING.fullmatch(name) is not None
        or re.match(r"(?i)\\?\w*hash\w*::make\(", text) is not None
    )


def accessor(name: str, about: str, literals: Sequence[str | None]) -> str | None:
    """The field that a call asks for what was sent: `post('x')`, `$request->get('x')`, `filter_input(INPUT_POST, 'x')`."""
    if name == "filter_input":
        return literals[1] if len(literals) > 1 else None
    if not literals or literals[0] is None or not re.fullmatch(r"[\w.\[\]-]{1,60}", literals[0]):
        return None
    if ACCESSOR.fullmatch(name) or (name in METHODS and ASKED.search(about)):
        return literals[0]
    return None


def formatted(values: Sequence[tuple[Any, ...]], gap: Any) -> tuple[Any, ...]:
    """What `sprintf` makes of a format and its arguments, as pieces."""
    text = "".join(p for p in values[0] if isinstance(p, str))
    made, at, number = [], 0, 1
    for mark in re.finditer(r"%(?:(\d+)\$)?[-+ 0]*\d*(?:\.\d+)?([bcdeEfFgGosuxX%])", text):
        made.append(text[at : mark.start()])
        at = mark.end()
        if mark[2] == "%":
            made.append("%")
            continue
        which = int(mark[1]) if mark[1] else number
        number += 0 if mark[1] else 1
        made += values[which] if 0 < which < len(values) else (gap,)
    return (*made, text[at:])
