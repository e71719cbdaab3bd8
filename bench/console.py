"""The console's weight, the seconds it takes to build, and what a browser paints when.

    .venv/bin/python bench/console.py [--runs 5]

Run as root after bin/_setup: it starts one service on an empty data folder and Debian's Chromium, without a cache, once a run.
First paint and the page being ready are counted from the start of the navigation.
"""

from __future__ import annotations

import argparse
import gzip
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from statistics import median

from playwright.sync_api import Browser, sync_playwright

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.console.pages import Console
from tests.support import Service

ROOT = Path(__file__).resolve().parents[1]
STATIC = ROOT / "src/highshelf/service/static"
PAINT = "performance.getEntriesByName('first-contentful-paint')[0].startTime"


def weigh() -> None:
    for kind in ("js", "css", "woff2", "html"):
        files = [f.read_bytes() for f in STATIC.rglob(f"*.{kind}")]
        packed = sum(len(gzip.compress(f)) for f in files)
        print(f"{kind:<6}{len(files)} files  {sum(map(len, files)) / 1000:7.1f} kB  {packed / 1000:6.1f} kB as gzip")


def build_seconds() -> float:
    node = ROOT / ".venv/node"
    environment = {**os.environ, "PATH": f"{node}:{os.environ['PATH']}"} if shutil.which("node") is None else None
    started = time.monotonic()
    command = ["npm", "run", "--silent", "build", "--", "--logLevel", "error"]
    subprocess.run(command, cwd=ROOT / "console", check=True, env=environment, stdout=subprocess.DEVNULL)
    return time.monotonic() - started


def visit(browser: Browser, base: str, state: str | None, ready: str) -> tuple[float, float]:
    """Milliseconds to the first paint, and to the text that says that the page is ready."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, storage_state=state)
    page = context.new_page()
    page.goto(base)
    page.get_by_text(ready).first.wait_for()
    shown = page.evaluate("performance.now()")
    paint = page.evaluate(PAINT)
    context.close()
    return float(paint), float(shown)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("--smallest", action="store_true", help="one visit and no build, to see that this works")
    options = parser.parse_args()
    runs = 1 if options.smallest else options.runs
    if not options.smallest:
        built = [build_seconds() for _ in range(3)]
        print(f"build  {median(built):.1f} s (median of 3)")
    weigh()
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        service = Service(Path(folder) / "data")
        service.start()
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        try:
            state = f"{folder}/state.json"
            context = browser.new_context()
            Console(context.new_page(), service).become_first()
            context.storage_state(path=state)
            context.close()
            base = f"http://localhost:{service.port}/"
            for name, kept, ready in (("sign-in", None, "Password"), ("Today", state, "Three steps")):
                seen = [visit(browser, base, kept, ready) for _ in range(runs)]
                paint, shown = (median(column) for column in zip(*seen, strict=True))
                print(f"{name:<8}first paint {paint:4.0f} ms, ready {shown:4.0f} ms (median of {runs}, no cache)")
        finally:
            browser.close()
            service.stop()


if __name__ == "__main__":
    main()
