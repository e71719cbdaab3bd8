"""`python -m highshelf.practice.panel CONFIG`: serve the panel, and the order counter beside it, until told to stop."""

from __future__ import annotations

import json
import sys
import threading
from pathlib import Path
from typing import Any

import uvicorn
from fastapi import FastAPI

from highshelf.practice.counter.app import create_counter
from highshelf.practice.panel.app import create_panel


def serve(app: FastAPI, settings: dict[str, Any]) -> None:
    uvicorn.run(app, host=settings["host"], port=settings["port"], log_level="warning")


def main() -> None:
    settings = json.loads(Path(sys.argv[1]).read_text())
    counter = settings["counter"]
    # The main thread alone hears that it is time to stop, and takes the other with it.
    threading.Thread(target=serve, args=(create_counter(counter), counter), daemon=True).start()
    serve(create_panel(settings), settings)


main()
