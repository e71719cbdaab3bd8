"""Which group a text speaks of: a database, an administrator, a site; or one that is none of ours, such as a mail server's."""

from __future__ import annotations

import re
from functools import lru_cache

from highshelf.core.pages.lexicon import fold, lexicon

# Groups whose fields are never ours, whatever their words are: a mail server has a host and a password, too.
FOREIGN = ("mail", "directory", "current", "server", "hosting", "somebody", "other")
# Looked for before the others, whose words theirs contain.
FIRST = ("setup", *FOREIGN)
TRANSFER = re.compile(r"(?<![a-z])s?ftps?(?![a-z])|(?<![a-z])ssh")


@lru_cache(maxsize=20_000)
def group_of(text: str) -> str:
    """The group's name, or "". Foreign groups are looked for first: "mail server of the site" is a mail server."""
    folded = fold(text)
    groups = lexicon().groups
    if folded.strip(" 0123456789./)(") in lexicon().lists["only_database"]:
        return "database"
    if folded.strip(" 0123456789./)(") in lexicon().lists["only_administrator"]:
        return "admin"
    for group in dict.fromkeys([*FIRST, *groups]):
        if _begun_by(groups[group]).search(folded):
            # "Database of your web space": the space is only where it lies.
            inside = group == "hosting" and _begun_by(groups["database"]).search(folded) and not TRANSFER.search(folded)
            return "database" if inside else group
    return ""


@lru_cache(maxsize=100)
def _begun_by(stems: tuple[str, ...]) -> re.Pattern[str]:
    """A stem at the beginning of a word, or after a digit."""
    return re.compile(rf"(?<![a-z])(?:{'|'.join(map(re.escape, stems))})")
