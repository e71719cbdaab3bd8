"""A picture of what bench/placing.py measured: a bar a way, beside the time that the release's zip takes as bare bytes.

.venv/bin/python bench/placing_plot.py TABLE.json PICTURE.png
"""

from __future__ import annotations

import argparse
import json
import statistics
from html import escape
from pathlib import Path
from typing import Any

from playwright.sync_api import sync_playwright

LEFT, RIGHT, ROW, TOP = 250, 140, 46, 78
# To reach by each way, as ratios to the zip's bare bytes on the same line.
TO_REACH = {
    "shell stream, xz": 0.90,
    "shell stream, gzip only": 1.05,
    "FTPS and helper": 1.25,
    "SFTP and helper": 1.25,
    "SFTP, single files": 4.0,
    "FTPS, single files": 7.0,
}


# Round trip (ms) and rate (Mbit/s) of the line that these are for; and how wide a bar's figures are, pixels.
LINE, LABEL = (40, 20), 110


def medians(runs: list[dict[str, float]]) -> tuple[float, float]:
    """Seconds from the job's start, and of the placing alone."""
    return statistics.median(r["job"] for r in runs), statistics.median(r["place"] for r in runs)


def ratio(run: dict[str, float], usual: float) -> float:
    """To the bare line beside the run; where something else slowed that one, to the usual bare line: no way looks better for it."""
    return run["job"] / (run["limit"] if run["limit"] <= 1.1 * usual else usual)


def drawing(found: dict[str, Any], width: int = 1280) -> str:
    """An SVG: the whole bar is the job, the dark part of it the placing; a tick is what is to be reached."""
    facts = found["corpus"]
    measured = {name: runs for name, runs in found.items() if name != "corpus"}
    limit = statistics.median(r["limit"] for runs in measured.values() for r in runs)
    ways = {name: medians(runs) for name, runs in measured.items()}
    ratios = {name: statistics.median(ratio(r, limit) for r in runs) for name, runs in measured.items()}
    aims = TO_REACH if (facts.get("rtt"), facts.get("rate")) == LINE else {}
    longest = max([job for job, _ in ways.values()] + [limit * aims.get(name, 0) for name in ways])
    scale = (width - LEFT - RIGHT) / longest
    height = TOP + ROW * len(ways) + 40
    line = f"{facts['rtt']:.0f} ms, {facts['rate']:.0f} Mbit/s" if facts.get("rtt") else "loopback"
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" font-family="DejaVu Sans, sans-serif" font-size="15">',
        '<rect width="100%" height="100%" fill="#fbfaf6"/>',
        f'<text x="16" y="30" font-size="19" font-weight="bold">{facts["files"]} files, {facts["bytes"] / 1e6:.1f} MB: '
        f"seconds until verified and swapped in ({line})</text>",
        f'<text x="16" y="54" fill="#555">dark: placing; light: the job before it; '
        f"{'tick: to be reached; ' if aims else ''}dashed: the zip ({facts['zip'] / 1e6:.1f} MB) as bare bytes, {limit:.1f} s</text>",
    ]
    for row, (name, (job, place)) in enumerate(ways.items()):
        y = TOP + ROW * row
        marks = [LEFT + m * scale for m in (limit, aims.get(name, 0) * limit)]
        beside = max([LEFT + job * scale, *(m for m in marks if 0 <= m - LEFT - job * scale < LABEL)]) + 8
        parts += [
            f'<text x="{LEFT - 12}" y="{y + 20}" text-anchor="end">{escape(name)}</text>',
            f'<rect x="{LEFT}" y="{y + 4}" width="{job * scale:.1f}" height="24" fill="#9db8c4"/>',
            f'<rect x="{LEFT + (job - place) * scale:.1f}" y="{y + 4}" width="{place * scale:.1f}" height="24" fill="#2c5a6e"/>',
            f'<text x="{beside:.1f}" y="{y + 21}">{job:.1f} s, {ratios[name]:.2f}</text>',
        ]
        if name in aims:
            x = LEFT + aims[name] * limit * scale
            parts.append(f'<line x1="{x:.1f}" x2="{x:.1f}" y1="{y}" y2="{y + 32}" stroke="#b3541e" stroke-width="3"/>')
    x = LEFT + limit * scale
    parts.append(
        f'<line x1="{x:.1f}" x2="{x:.1f}" y1="{TOP - 8}" y2="{height - 30}" stroke="#333" stroke-dasharray="5 4"/>'
    )
    return "\n".join([*parts, "</svg>"])


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("table", type=Path)
    parser.add_argument("picture", type=Path)
    asked = parser.parse_args()
    svg = drawing(json.loads(asked.table.read_text()))
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])
        page = browser.new_page(viewport={"width": 1280, "height": 480})
        page.set_content(f"<style>body{{margin:0}}</style>{svg}")
        page.locator("svg").screenshot(path=str(asked.picture))
        browser.close()


if __name__ == "__main__":
    main()
