"""Words that several fields share: "User / Password" before two fields with a stroke between them. Pure."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from highshelf.core.pages.page import Field

BETWEEN = re.compile(r"\s*[/|·•&+,;]\s*|\s+(?:and|und|et|y|e|en|i)\s+", re.I)
ONLY_BETWEEN = re.compile(r"\s*(?:[/|·•&+,;:-]|and|und|et|y|e|en|i)?\s*", re.I)
SHARING = ("text", "password", "email", "url", "number", "tel", "select")


def parted(fields: Sequence[Field]) -> tuple[Field, ...]:
    """The fields with their own part of a label that stands before all of them; those behind have nothing but what parts them."""
    result = list(fields)
    for n, field in enumerate(fields):
        parts = [p.strip(" :*") for p in BETWEEN.split(field.label)] if field.kind in SHARING else []
        behind = fields[n + 1 : n + len(parts)]
        shares = len(parts) > 1 and len(behind) == len(parts) - 1 and all(parts)
        if shares and all(f.kind in SHARING and ONLY_BETWEEN.fullmatch(f.label) for f in behind):
            for k, part in enumerate(parts):
                result[n + k] = replace(fields[n + k], label=part)
    return tuple(result)
