"""PHP settings that an installer finds too low, or the other way round: which value they want, where a customer may set them. Pure.

Rules:
1. Only settings that PHP takes from a file in the site's folder (its manual: INI_ALL and INI_PERDIR), and only those that a red row names.
2. The value is the one that the row tells; where it tells only what is, the usual one, when that is more.
3. Nothing is set while something else is red that no setting mends: it would be waited for in vain.
"""

from __future__ import annotations

import re

from highshelf.core.pages.judgement import red
from highshelf.core.pages.page import Check, Page
from highshelf.core.walk.knowledge import Knowledge
from highshelf.core.walk.moves import Tune

# What is usually asked for, and the most that is ever set.
SIZES = {"memory_limit": ("256M", 1 << 30), "post_max_size": ("64M", 1 << 30), "upload_max_filesize": ("64M", 1 << 30)}
COUNTS = {
    "max_execution_time": ("300", 3600),
    "max_input_time": ("300", 3600),
    "max_input_vars": ("5000", 100_000),
    "max_input_nesting_level": ("64", 1000),
    "session.gc_maxlifetime": ("1440", 86_400),
    "pcre.backtrack_limit": ("1000000", 100_000_000),
    "pcre.recursion_limit": ("100000", 10_000_000),
    "default_socket_timeout": ("60", 600),
    "precision": ("14", 17),
}
FLAGS = {
    "short_open_tag": "On",
    "register_argc_argv": "On",
    "session.use_cookies": "On",
    "session.use_only_cookies": "On",
    "session.auto_start": "Off",
    "session.use_trans_sid": "Off",
    "zlib.output_compression": "Off",
    "output_buffering": "Off",
    "display_errors": "Off",
    "implicit_flush": "Off",
    "mbstring.encoding_translation": "Off",
}
ZONE = "date.timezone"
UNITS = {"": 1, "k": 1 << 10, "m": 1 << 20, "g": 1 << 30}
NUMBER = re.compile(r"(?<![\w.])(\d{1,10})\s?([kmg])?(?:i?b|bytes?)?(?![\w.]\d)", re.I)
WANTED = re.compile(
    r"(?i)(?:should|must|has to|needs? to|required|expected|wanted|recommended)\W+(?:be\W+|value\W+)?(on|off|enabled|disabled|yes|no)\b"
)


def tuned(page: Page, know: Knowledge) -> Tune | None:
    """The settings to be made, or None where none is named, all were tried, or something else is red as well."""
    rows = red(page)
    if not rows or not know.tunes:
        return None
    wanted = [(_wanted(row, know)) for row in rows]
    if any(one is None for one in wanted):
        return None
    new = tuple(dict.fromkeys(one for one in wanted if one is not None and mark_of(one[0]) not in know.tried))
    return Tune(new, ", ".join(row.label for row in rows)[:200]) if new else None


def mark_of(name: str) -> str:
    """How it is remembered that a setting was made."""
    return f"tune {name}"


def _wanted(row: Check, know: Knowledge) -> tuple[str, str] | None:
    said = f"{row.label} {row.told}"
    name = _named(said)
    if name in SIZES:
        return _more(name, said, *SIZES[name], sized=True)
    if name in COUNTS:
        return _more(name, said, *COUNTS[name], sized=False)
    if name in FLAGS:
        wish = WANTED.search(said)
        on = wish[1].lower() in ("on", "enabled", "yes") if wish else FLAGS[name] == "On"
        return name, "On" if on else "Off"
    if name == ZONE:
        return name, know.values.get("site.timezone") or "UTC"
    return None


def _named(said: str) -> str:
    """The setting that a row is about, by its name or by the same words without what joins them; "" when it is none, or several."""
    flat = re.sub(r"[\s_]+", " ", said.lower())
    names = (*SIZES, *COUNTS, *FLAGS, ZONE)
    found = {n for n in names if re.search(rf"(?<![\w.]){re.escape(n.replace('_', ' '))}(?![\w.]\w)", flat)}
    # A name that stands in a longer one is not meant.
    found = {n for n in found if not any(n != other and n in other for other in found)}
    return found.pop() if len(found) == 1 else ""


def _more(name: str, told: str, usual: str, most: int, *, sized: bool) -> tuple[str, str] | None:
    """The largest number of the row: what is wanted is more than what is."""
    without = re.sub(re.escape(name).replace("_", "[ _]"), " ", told, flags=re.I)
    numbers = [int(n) * (UNITS[(unit or "").lower()] if sized else 1) for n, unit in NUMBER.findall(without)]
    if sized:
        numbers = [n for n in numbers if n >= 1 << 20]
    default = _bytes(usual) if sized else int(usual)
    wanted = max(numbers, default=0) if len(numbers) >= 2 else default
    if (len(numbers) == 1 and wanted <= numbers[0]) or not 0 < wanted <= most:
        return None
    return name, f"{-(-wanted // (1 << 20))}M" if sized else str(wanted)


def _bytes(text: str) -> int:
    return int(text[:-1]) * UNITS[text[-1].lower()]
