"""Tables that an installer, or the application itself, wants to find in the database: which dump of the release brings them. Pure.

Rules:
1. A page that names one of the release's dumps and says that it is to be imported is believed once the installer has the database's
   login, or where it leads no further; not where it asks for the database itself: such an installer makes the tables.
2. The server's own words for a table that is not there are believed wherever they stand; a page's own where nothing leads on.
3. Which dump it is has to be plain: by name, by the kind of server, by being the only one. Once only, into a database without tables.
"""

from __future__ import annotations

import posixpath
import re

from highshelf.core.database.dumps import first_dumps
from highshelf.core.database.statements import Server
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.walk.beginning import told_addresses
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import Import

TRIED = "import"
# MariaDB 1146, PostgreSQL 42P01, SQLite; and how frameworks call the same.
NO_TABLE = re.compile(
    r"(?i)42S02|42P01|base table or view not found|table '[^']+' doesn't exist|relation \"[^\"]+\" does not exist|no such table|undefined table"
)


def wanted_import(page: Page, know: Knowledge, *, blocked: bool, given: bool = False) -> Import | None:
    """The dumps to bring in now, or None.

    Args:
        blocked: whether the page leads no further as it is.
        given: whether the installer has been given values of ours.
    """
    if TRIED in know.tried or not know.dumps or not know.values.get("database.name") or (know.witness.tables or 0) > 0:
        return None
    if blocked and told_addresses(page):
        # An installer that the page tells of makes them itself.
        return None
    said = " ".join((*page.told, *page.complaints(), *page.php_faults, *know.witness.log, page.text[:20_000]))
    named = _named(page, know)
    if named and (blocked or given) and not _asks_for_database(page):
        return _import(know, named, f"the page names {', '.join(named)}")
    if NO_TABLE.search(said) and (blocked or not _asks_for_database(page)):
        return _import(know, (), "a table is not there")
    if blocked and any(_says_missing(s) for s in (*page.told, *page.complaints())):
        return _import(know, named, "tables are missing")
    return None


def _import(know: Knowledge, named: tuple[str, ...], why: str) -> Import | None:
    server: Server = "postgresql" if know.values.get("database.kind") == "postgresql" else "mariadb"
    paths = first_dumps(list(know.dumps), know.dumps, server, named, know.fills)
    return Import(tuple(paths), why) if paths else None


def _named(page: Page, know: Knowledge) -> tuple[str, ...]:
    """Dumps that a sentence about importing speaks of."""
    words = lexicon()
    sentences = [s for s in (*page.told, *page.complaints()) if words.says("importing", s)]
    return tuple(
        path
        for path in know.dumps
        if any(re.search(rf"(?<![\w.-]){re.escape(posixpath.basename(path))}(?![\w-])", s) for s in sentences)
    )


def _says_missing(sentence: str) -> bool:
    words = lexicon()
    return words.says("tables", sentence) and (words.says("missing", sentence) or words.says("unable", sentence))


def _asks_for_database(page: Page) -> bool:
    return any(f.typed and f.kind in ("text", "password") for form in page.forms for f in form.fields)
