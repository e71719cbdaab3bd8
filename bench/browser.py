"""The same pages through both drivers: installers of the garden over loopback, by HTTP and in Chromium.

    .venv/bin/python bench/browser.py [--seeds 6] [--first 1] [--smallest]

Seconds a page from asking for it, or pressing on it, to having it read; memory is the proportional share of all of the browser's
processes (PSS) at its highest, looked at after each page. The last line is JSON.
"""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections.abc import Mapping
from pathlib import Path
from statistics import median
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.garden.installer import SITE, Host, Installer
from tests.garden.rendered import InBrowser, Shown, served
from tests.garden.walk import VALUES, Conversation, Walk

from highshelf.core.origins import Origins
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.ports import CancelToken
from highshelf.drivers.browser.chromium import Browsers
from highshelf.drivers.browser.driver import BrowserTalk
from highshelf.drivers.http.fetch import HttpFetch

AIM_MB = 400


def memory_mb() -> float:
    """Of all processes of the browser that this one has started: they name its profile."""
    total = 0
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            if "highshelf-browser-" in folder.joinpath("cmdline").read_text("utf-8", "replace"):
                lines = folder.joinpath("smaps_rollup").read_text().splitlines()
                total += sum(int(line.split()[1]) for line in lines if line.startswith("Pss:"))
        except OSError:
            continue
    return total / 1024


class OverHttp:
    """The installer asked for over HTTP, timed."""

    def __init__(self, installer: Installer, fetch: HttpFetch, spent: list[float]) -> None:
        self._installer, self._fetch, self._spent = installer, fetch, spent

    def __getattr__(self, name: str) -> Any:
        return getattr(self._installer, name)

    def request(self, method: str, url: str, fields: Mapping[str, str] | None = None) -> Snapshot:
        begun = time.monotonic()
        given = list((fields or {}).items())
        if method == "POST":
            found = self._fetch.post(url, given)
        else:
            found = self._fetch.get(
                url + ("&" if "?" in url else "?") + "&".join(f"{n}={v}" for n, v in given) if given else url
            )
        self._spent.append(time.monotonic() - begun)
        return found


class Timed:
    """A browser's conversation, timed; how much memory it took at most."""

    def __init__(self, talk: BrowserTalk, spent: list[float]) -> None:
        self._talk, self._spent, self.most_mb = talk, spent, 0.0

    def __getattr__(self, name: str) -> Any:
        return getattr(self._talk, name)

    def get(self, url: str) -> Snapshot:
        return self._timed(lambda: self._talk.get(url))

    def press(self, at: str, fields: Any) -> tuple[Snapshot, bool]:
        return self._timed(lambda: self._talk.press(at, fields))

    def _timed(self, work: Any) -> Any:
        begun = time.monotonic()
        found = work()
        self._spent.append(time.monotonic() - begun)
        self.most_mb = max(self.most_mb, memory_mb())
        return found


def measure(browsers: Browsers, seed: int) -> dict[str, Any]:
    """One installer of the garden, plain pages, by both."""
    spent: dict[str, list[float]] = {"http": [], "browser": []}
    ended: dict[str, str] = {}
    most_mb = 0.0
    for way in spent:
        values, found = dict(VALUES), Walk(seed)
        installer = Installer(seed, Host(values))
        with served(installer, "", plain=True) as port:
            line = lambda port=port: HttpFetch(Origins.of(SITE), address=SITE, reach=f"127.0.0.1:{port}")  # noqa: E731
            if way == "http":
                with line() as fetch:
                    Conversation(OverHttp(installer, fetch, spent[way]), values).go_through(found)  # type: ignore[arg-type]
            else:
                timed = Timed(BrowserTalk(browsers, f"seed {seed}", line, CancelToken()), spent[way])
                InBrowser(Shown(installer, timed), values).go_through(found)  # type: ignore[arg-type]
                most_mb = timed.most_mb
                timed.leave()
        ended[way] = found.how
    return {"spent": spent, "ended": ended, "most_mb": most_mb}


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seeds", type=int, default=6)
    parser.add_argument("--first", type=int, default=2)
    parser.add_argument("--smallest", action="store_true", help="the smallest size, to see that this works")
    options = parser.parse_args()
    browsers = Browsers()
    seeds = range(options.first, options.first + (1 if options.smallest else options.seeds))
    found = [measure(browsers, seed) for seed in seeds]
    browsers.close()
    told: dict[str, Any] = {}
    for way in ("http", "browser"):
        all_of = [s for one in found for s in one["spent"][way]]
        told[way] = {
            "pages": len(all_of),
            "median_ms": round(median(all_of) * 1000),
            "worst_ms": round(max(all_of) * 1000),
        }
        told[way]["ended"] = [one["ended"][way] for one in found]
        print(way, told[way])
    told["most_mb"] = round(max(one["most_mb"] for one in found))
    print(f"memory {told['most_mb']} MB at most (aim {AIM_MB})")
    print(json.dumps(told))


if __name__ == "__main__":
    main()
