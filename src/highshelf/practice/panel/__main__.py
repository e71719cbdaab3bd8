"""`python -m highshelf.practice.panel CONFIG`: serve the panel until told to stop."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import uvicorn

from highshelf.practice.panel.app import create_panel


def main() -> None:
    settings = json.loads(Path(sys.argv[1]).read_text())
    uvicorn.run(create_panel(settings), host=settings["host"], port=settings["port"], log_level="warning")


main()
