"""What PHP calls things: extensions, the functions and classes that come with them, database servers."""

from __future__ import annotations

import re

EXTENSION_NAMES = frozenset(
    [
        "apcu",
        "bcmath",
        "bz2",
        "calendar",
        "ctype",
        "curl",
        "dba",
        "dom",
        "enchant",
        "exif",
        "ffi",
        "fileinfo",
        "filter",
        "ftp",
        "gd",
        "gettext",
        "gmp",
        "hash",
        "iconv",
        "igbinary",
        "imagick",
        "imap",
        "intl",
        "json",
        "ldap",
        "libxml",
        "mbstring",
        "mcrypt",
        "memcached",
        "memcache",
        "mysqli",
        "mysqlnd",
        "mysql",
        "odbc",
        "opcache",
        "openssl",
        "pcntl",
        "pcre",
        "pdo",
        "pdo_mysql",
        "pdo_pgsql",
        "pdo_sqlite",
        "pgsql",
        "phar",
        "posix",
        "readline",
        "redis",
        "session",
        "shmop",
        "simplexml",
        "snmp",
        "soap",
        "sockets",
        "sodium",
        "spl",
        "sqlite3",
        "ssh2",
        "tidy",
        "tokenizer",
        "xml",
        "xmlreader",
        "xmlrpc",
        "xmlwriter",
        "xsl",
        "yaml",
        "zend-opcache",
        "zip",
        "zlib",
    ]
)
# A PHP without these does not exist, or hardly.
ALWAYS = frozenset(
    [
        "hash",
        "json",
        "pcre",
        "spl",
        "session",
        "filter",
        "ctype",
        "tokenizer",
        "standard",
        "core",
        "date",
        "reflection",
        "libxml",
        "random",
        "phar",
    ]
)
BY_FUNCTION = (
    (re.compile(r"^mb_"), "mbstring"),
    (re.compile(r"^curl_"), "curl"),
    (re.compile(r"^(image(create|jpeg|png|ttf|copy)|gd_info|getimagesizefromstring)"), "gd"),
    (re.compile(r"^(gzopen|gzcompress|gzinflate|gzencode|gzuncompress|gzdeflate)"), "zlib"),
    (re.compile(r"^simplexml_"), "simplexml"),
    (re.compile(r"^(xml_parser_|utf8_(en|de)code)"), "xml"),
    (re.compile(r"^(idn_to_|normalizer_|collator_|grapheme_|numfmt_|transliterator_)"), "intl"),
    (re.compile(r"^iconv"), "iconv"),
    (re.compile(r"^openssl_"), "openssl"),
    (re.compile(r"^bc(add|sub|mul|div|mod|pow|comp)$"), "bcmath"),
    (re.compile(r"^gmp_"), "gmp"),
    (re.compile(r"^ldap_"), "ldap"),
    (re.compile(r"^imap_"), "imap"),
    (re.compile(r"^ctype_"), "ctype"),
    (re.compile(r"^exif_"), "exif"),
    (re.compile(r"^(finfo_|mime_content_type)"), "fileinfo"),
    (re.compile(r"^sodium_"), "sodium"),
    (re.compile(r"^(gettext|ngettext|bindtextdomain|textdomain|dcgettext)$"), "gettext"),
    (re.compile(r"^json_"), "json"),
    (re.compile(r"^session_"), "session"),
    (re.compile(r"^mysqli_"), "mysqli"),
    (re.compile(r"^pg_"), "pgsql"),
    (re.compile(r"^(posix_)"), "posix"),
    (re.compile(r"^token_get_all$"), "tokenizer"),
    (re.compile(r"^apcu_"), "apcu"),
)
BY_CLASS = {
    "ziparchive": "zip",
    "pdo": "pdo",
    "mysqli": "mysqli",
    "domdocument": "dom",
    "simplexmlelement": "simplexml",
    "xmlreader": "xmlreader",
    "xmlwriter": "xmlwriter",
    "xsltprocessor": "xsl",
    "collator": "intl",
    "numberformatter": "intl",
    "intldateformatter": "intl",
    "transliterator": "intl",
    "normalizer": "intl",
    "messageformatter": "intl",
    "soapclient": "soap",
    "finfo": "fileinfo",
    "imagick": "imagick",
    "sqlite3": "sqlite3",
    "memcached": "memcached",
    "redis": "redis",
    "phardata": "phar",
}
SERVERS = {
    "mysql": "mariadb",
    "mysqli": "mariadb",
    "mariadb": "mariadb",
    "pdo_mysql": "mariadb",
    "pgsql": "postgresql",
    "pdo_pgsql": "postgresql",
    "postgres": "postgresql",
    "postgresql": "postgresql",
    "sqlite": "sqlite",
    "sqlite3": "sqlite",
    "pdo_sqlite": "sqlite",
}


def server_key(text: str) -> str:
    text = text.lower()
    return "mysql" if text.startswith(("mysql", "maria")) else "pgsql" if text.startswith(("pg", "postgres")) else ""


def extension_of(how: str, value: str) -> str:
    value = value.lower().lstrip("\\")
    if how == "extension_loaded":
        return value if value in EXTENSION_NAMES else ""
    if how == "class_exists":
        return BY_CLASS.get(value, "")
    return next((name for pattern, name in BY_FUNCTION if pattern.match(value)), "")
