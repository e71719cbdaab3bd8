"""`python -m highshelf.practice.vendor CONFIG`: serve the makers' site until told to stop."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import uvicorn

from highshelf.practice.vendor.app import create_vendor


def main() -> None:
    settings = json.loads(Path(sys.argv[1]).read_text())
    uvicorn.run(
        create_vendor(Path(settings["folder"])),
        host=settings["host"],
        port=settings["port"],
        ssl_certfile=settings["certificate"],
        ssl_keyfile=settings["certificate"],
        log_level="critical",
    )


main()
