"""When a page is asked for once more in a browser, whose scripts run. Pure.

Rules:
1. Pages are walked over HTTP as long as they lead on: it is quicker, and sends nothing but what was decided.
2. What refuses says why, and would say the same in a browser; what is only silent may lack its scripts.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from highshelf.core.pages.judgement import red
from highshelf.core.pages.lexicon import lexicon
from highshelf.core.pages.page import Page
from highshelf.core.walk.moves import Finished, Stuck

# How often, a second apart, a page in a browser is looked at again before it counts as what it is: one that says that it is at work,
# one that is silent, one that seems to be the end.
WAITS, SILENT, SEEMS_OVER = 240, 8, 2
WANTED = re.compile(r"java ?script", re.I)


def wants_browser(page: Page, move: object) -> str:
    """Why a page over HTTP is better looked at in a browser, or ""."""
    if page.status >= 400 or page.fatal:
        return ""
    complaints = page.complaints()
    if any(WANTED.search(c) for c in complaints):
        return "the page says that it needs its scripts"
    if complaints:
        return ""
    if page.needs_script:
        return "the page shows nothing without its scripts"
    if not isinstance(move, Stuck) or not page.scripted or red(page):
        return ""
    return "nothing on the page leads on without its scripts"


def told_of_scripts(paths: Sequence[str], missing: str) -> list[str]:
    """What a plan says of a release whose sources show that pages are nothing without their scripts; `missing`: why there is no browser."""
    if not paths or not missing:
        return []
    return [
        f"pages of this release only work with JavaScript ({', '.join(paths[:3])}), and {missing}: where the installer needs them, "
        "the job ends there and takes everything back"
    ]


def looks_left(page: Page, move: object, looks: int) -> bool:
    """Whether a page in a browser may still go on by itself, after so many looks a second apart."""
    if not isinstance(move, Stuck | Finished):
        return False
    asks = any(f.typed for form in page.forms for f in form.fields)
    if not asks and lexicon().says("waiting", " ".join((*page.headings, *page.told))) and not page.complaints():
        return looks < WAITS
    return looks < (SILENT if isinstance(move, Stuck) else SEEMS_OVER)
