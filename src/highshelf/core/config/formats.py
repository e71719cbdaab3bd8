"""Which format a file has: by what stands in it first, by its name where that says nothing."""

from __future__ import annotations

import posixpath
import re

from highshelf.core.config.lines import Directives, Env, Ini
from highshelf.core.config.literals import Format
from highshelf.core.config.php import Php
from highshelf.core.config.trees import Json, Xml, Yaml
from highshelf.core.errors import ConfigurationError
from highshelf.core.release.names import SAMPLE_MARKS

ENDINGS: dict[str, Format] = {
    "php": Php(),
    "inc": Php(),
    "ini": Ini(),
    "cfg": Ini(),
    "conf": Ini(),
    "cnf": Ini(),
    "properties": Ini(),
    "env": Env(),
    "yml": Yaml(),
    "yaml": Yaml(),
    "neon": Yaml(),
    "json": Json(),
    "xml": Xml(),
    "htaccess": Directives(),
}


def format_of(path: str, data: bytes) -> Format:
    """The format of a configuration file.

    Raises:
        ConfigurationError: neither its name nor what stands in it says which.
    """
    text = data.lstrip(b"\xef\xbb\xbf \t\r\n")
    parts = [p for p in re.split(r"[._-]+", posixpath.basename(path).lower()) if p]
    said = [p for p in parts if p in ENDINGS and p not in SAMPLE_MARKS]
    # An INI file that PHP would run begins with a line that ends the script: its settings are INI all the same.
    if "ini" in said and not re.match(rb"<\?php\s*(?![;#])[$\w/*]", text):
        return ENDINGS["ini"]
    if re.match(rb"(?i)<\?(?:php\b|=|\s)", text):
        return ENDINGS["php"]
    if text.startswith(b"<"):
        return ENDINGS["xml"]
    if "htaccess" in said or "env" in said:
        return ENDINGS["htaccess" if "htaccess" in said else "env"]
    if said and said[-1] not in ("php", "inc"):
        return ENDINGS[said[-1]]
    lines = [line for line in text.splitlines() if line.strip()]
    if lines and all(re.match(rb"\s*(?:[;#]|\[[^\]]*\]|[\w.-]+\s*=)", line) for line in lines):
        return ENDINGS["ini"]
    raise ConfigurationError(f"{path} is in no format that can be read here", hint="edit it by hand")
