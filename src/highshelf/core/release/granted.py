"""The licence that a sentence grants: in a readme, or at the head of the page that a release begins with. Pure."""

from __future__ import annotations

import re
from functools import cache

from highshelf.core.release.clues import Clue, line_of

HEAD_BYTES = 4_000
# Family, its titles, and whether it comes in versions.
FAMILIES = (
    ("AGPL", r"(?:GNU )?Affero (?:General )?Public Licen[cs]e|AGPL", True),
    ("LGPL", r"(?:GNU )?(?:Lesser|Library) (?:General )?Public Licen[cs]e|LGPL", True),
    ("GPL", r"(?:GNU )?General Public Licen[cs]e|(?:GNU )?GPL", True),
    ("MPL", r"Mozilla Public Licen[cs]e|MPL", True),
    ("EUPL", r"European Union Public Licen[cs]e|EUPL", True),
    ("Apache", r"Apache(?: Software)? Licen[cs]e|Apache", True),
    ("MIT", r"(?:MIT|Expat)(?: Licen[cs]e)?", False),
    ("ISC", r"ISC(?: Licen[cs]e)?", False),
    ("Zlib", r"zlib(?:/libpng)?(?: Licen[cs]e)?", False),
)
TITLES = "|".join(f"(?P<{name}>{said})" for name, said, _ in FAMILIES)
# "under the terms of the …", "Lizenz: …", "@license …"; an address of the text may stand between.
UNDER = (
    r"under(?: the)?(?: terms| conditions)?(?: of)?|subject to|covered by|unter(?: den| der| dem)?(?: Bedingungen)?(?: der| von)?"
    r"|sous(?: les termes de)?(?: la)?|bajo(?: los términos de)?(?: la)?|sotto(?: la)?|sob a|onder de|na (?:licencji|warunkach)"
)
CALLED = r"licen[cs]ed?|lizenz|licencia|licenza|licença|licentie|licencja"
GRANTED = (
    rf"(?i)(?:\b(?:{UNDER})|(?<!\w)@?(?:{CALLED})\s*(?::|=>?|\bis\b|\s))"
    rf"\s*(?:(?:the|a|der|die|la|le|l'|de)\s+)?(?:https?://\S+\s+)?(?:the\s+)?(?:{TITLES})(?:\b|(?=v\d))"
)
VERSION = re.compile(r"(?i)^[^.;]{0,90}?\b(?:v(?:ersion)?\.?\s*)?(\d(?:\.\d)?)\b|^.{0,140}?\bversion\s+(\d(?:\.\d)?)\b")
IN_ADDRESS = re.compile(r"(?i)/(agpl|lgpl|gpl|mpl|apache|licenses/mit|licenses/LICENSE)-?(\d(?:\.\d)?)?")
# Somebody else's: a library that is mentioned, a list.
OTHERS = re.compile(
    r"(?i)\b(?:librar(?:y|ies)|bundled|icons?|fonts?|third[- ]part|includes?|uses|based on|bibliothek|images?|logo)\b"
)


@cache
def _grants() -> re.Pattern[str]:
    return re.compile(GRANTED)


def granted(path: str, data: bytes, sure: float) -> list[Clue]:
    """The first grant of a text, at most one clue `licence`: with its version where it tells one."""
    raw = data[: HEAD_BYTES * 4].decode("utf-8", "replace")
    flat = re.sub(r"[\s*#]+|//(?=\s)", " ", raw)
    for m in _grants().finditer(flat):
        if OTHERS.search(re.split(r"[.;]\s", flat[max(m.start() - 100, 0) : m.start()])[-1]):
            continue
        name = next(n for n, _, _ in FAMILIES if m[n])
        versioned = next(v for n, _, v in FAMILIES if n == name)
        at = raw.lower().find(m[name].split()[0].lower())
        return [
            Clue(
                "licence",
                name + (_version(flat, m.start(), m.end()) if versioned else ""),
                path,
                line_of(data, max(at, 0)),
                sure,
            )
        ]
    return []


def _version(flat: str, start: int, end: int) -> str:
    told = IN_ADDRESS.search(flat[start : end + 60])
    said = VERSION.search(flat[end : end + 200])
    number = (told[2] if told and told[2] else None) or (said and (said[1] or said[2])) or ""
    return f"-{number if '.' in number else number + '.0'}" if number else ""
