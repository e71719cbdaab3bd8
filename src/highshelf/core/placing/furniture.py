"""What is the host's own, or ours, in a document root."""

from __future__ import annotations

import re

FURNITURE = frozenset(
    {
        "cgi-bin",
        ".well-known",
        "stats",
        "webstat",
        "webalizer",
        "awstats",
        "error",
        "errors",
        "error_docs",
        "logs",
        ".ftpquota",
        ".quota",
    }
)
PLACEHOLDERS = ("index.html", "index.htm", "default.html", "default.htm", "index.shtml")
# Probes, helpers and holding folders of High Shelf itself: they come and go while somebody checks the account beside a plan or a
# job. What an earlier installation replaced stays in a folder of ours, too.
OURS = re.compile(r"hs-[0-9a-f]{24}(\.txt|\.php)?(\.seen\.(php|txt))?|\.hs-kept-[0-9a-f]{8}")
