"""Tables whose collation the installer does not take: which one they are to have. Pure.

Rules:
1. Only where a complaint speaks of the collation, and once.
2. The collation that the page itself names; else the one that the release's sources know, when all that they know sort the same way.
3. Of several character sets with the same order the widest is taken.
"""

from __future__ import annotations

import re

from highshelf.core.pages.judgement import tells_failure, tongue
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import Collate

NAME = re.compile(r"\b((?:utf8(?:mb[34])?|latin1|ucs2|utf16)_[a-z0-9]+(?:_[a-z0-9]+)*)\b")
TRIED = "collate"
WIDEST = ("utf8mb4_", "utf8mb3_", "utf8_")


def collated(page: Page, know: Knowledge, *, blocked: bool) -> Collate | None:
    """What the job's database and its tables are to be changed to, or None.

    Args:
        blocked: whether the page leads no further as it is: then its prose is believed too.
    """
    if TRIED in know.tried or not know.values.get("database.name") or know.values.get("database.kind") == "postgresql":
        return None
    words, language = lexicon(), tongue(page)
    # A page that came back may say it in plain words.
    plain = [t for t in page.told if blocked or (know.is_new(t) and tells_failure(t, language))]
    said = [s for s in (*page.complaints(), *plain) if words.says("collation", s)]
    if not said:
        return None
    named = [n for s in said for n in NAME.findall(s)]
    # What is there stands in such a sentence too, what is wanted as a rule after it.
    wanted = named[-1] if named else _of_sources(know.collations)
    return Collate(wanted, said[0][:200]) if wanted else None


def _of_sources(known: tuple[str, ...]) -> str:
    orders = {name.partition("_")[2] for name in known}
    if len(orders) != 1:
        return ""
    return next((n for start in WIDEST for n in sorted(known) if n.startswith(start)), "")
