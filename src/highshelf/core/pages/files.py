"""How file names and texts of configuration files look on a page."""

from __future__ import annotations

import re

FILE_NAME = re.compile(
    r"(?:[A-Za-z]:)?[\w./\\@-]*\w\.(?:php|inc|ini|conf|cnf|json|ya?ml|xml|cfg|local|env|txt|properties)\b(?!\.\w)"
    r"|(?:(?<=\s)|(?<=^)|(?<=[\"'(/“„«‘`]))\.(?:env|htaccess|user\.ini)(?:\.\w+)?\b"
)
PHP_TEXT = re.compile(r"<\?php|\bdefine\s*\(|\breturn\s+(?:\[|array)|^\s*\$\w+(?:\[[^\]]+\])*\s*=", re.M)
# Two lines or more of name and value, a document of braces, or a tag that opens a document.
OTHER_TEXT = re.compile(r"(?:^\s*[\w.\[\]-]+\s*[=:]\s*\S.*$\s*){2,}|\A\s*[{[][\s\S]*[}\]]\s*\Z|\A\s*<\?xml", re.M)
