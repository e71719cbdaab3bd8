"""Labelled pages from the garden, in the format that tests/pages/score.py reads: the truth is the installer's own.

.venv/bin/python -m tests.pages.from_garden FOLDER [--pages N] [--first SEED]
"""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from highshelf.core.pages.snapshot import Snapshot
from tests.garden.installer import SETUP, SITE, Host, Installer
from tests.garden.markup import Control
from tests.garden.traits import Traits
from tests.garden.walk import VALUES

ASKS = {
    "database.name": "db.name",
    "database.user": "db.user",
    "database.password": "db.password",
    "database.host": "db.host",
    "database.port": "db.port",
    "database.kind": "db.kind",
    "database.prefix": "db.prefix",
    "admin.name": "admin.name",
    "admin.password": "admin.password",
    "admin.email": "admin.email",
    "site.title": "site.title",
    "setup.password": "setup password",
    "admin.firstname": "first name",
    "admin.lastname": "last name",
    "site.organisation": "organisation",
    "site.country": "country",
}
# What may be left or chosen, and what is chosen by what else can be.
EITHER_WAY = ("?", "no demo")
KINDS = {
    "welcome": "other",
    "licence": "licence",
    "checks": "checks",
    "database": "database",
    "all": "database",
    "site": "site",
    "admin": "account",
}
# Kinds that are as right: where all is asked on one page, and where a first page only leads on.
ALSO = {
    "licence": ["options"],
    "welcome": ["progress"],
    "all": ["account", "site"],
    "site": ["options"],
    "checks": ["error"],
}


def hardness(t: Traits) -> int:
    """How many of the traits are there that readers stumbled over."""
    odd = (
        t.labels in ("by name", "placeholder", "aria", "sibling"),
        t.button in ("image", "title"),
        t.bare,
        t.group == "none",
    )
    decoys = (
        t.decoy != "none",
        t.foreign != "none",
        t.module,
        t.presets,
        t.extras,
        t.second_mail,
        t.noise,
        t.step_list != "none",
    )
    unsaid = (t.kind in ("custom", "by options"), t.lead != "form", t.language != "en", t.forgery == "name", t.one_page)
    return sum((*odd, *decoys, *unsaid))


def pages_of(seed: int) -> Iterator[tuple[Snapshot, dict[str, Any]]]:
    """The pages of one installer in their order, each first as it comes, then with the complaint of a form that was sent empty."""
    installer = Installer(seed, Host(dict(VALUES)))
    for step, name in enumerate(installer.steps):
        if name not in KINDS:
            continue
        installer.stand_at(step)
        shown = installer.request("GET", SITE + SETUP)
        yield shown, _label(installer, name, shown, "")


def _label(installer: Installer, step: str, shown: Snapshot, outcome: str) -> dict[str, Any]:
    traits, said = installer.traits, installer.button_of(step)
    blocked = step == "checks" and installer.blocks_checks
    link = traits.lead != "form" and step in ("welcome", "checks")
    controls = [c for c in installer.asks.controls(step) if c.meaning not in EITHER_WAY]
    if not link and traits.save and controls:
        said = installer.says("save_on")
    if not link and traits.arrow == "alone":
        # As the reader calls an arrow that points on.
        said = "next"
    return {
        "app": installer.app,
        "url": shown.url,
        "status": shown.status,
        "kind": KINDS[step],
        "also": ALSO.get(step, []),
        "controls": [_control(c, n, controls) for n, c in enumerate(controls)],
        "forward": "none" if blocked else f"{'link' if link else 'button'} {said}",
        "outcome": "failure" if blocked else outcome,
        "detail": f"seed {installer.seed}",
    }


def _control(control: Control, number: int, among: list[Control]) -> dict[str, Any]:
    again = any(c.meaning == control.meaning == "admin.password" for c in among[:number])
    asks = "admin.password.repeat" if again else ASKS.get(control.meaning, "option")
    return {"name": control.name, "asks": asks, "decide": control.meaning in ASKS}


def write(folder: Path, pages: int, first: int = 1) -> None:
    """Write so many pages, those of the hardest installers among twenty times as many seeds."""
    from tests.garden.traits import traits_of

    seeds = sorted(range(first, first + 20 * pages), key=lambda s: -hardness(traits_of(s)))
    folder.mkdir(parents=True, exist_ok=True)
    lines: list[str] = []
    for seed in seeds:
        for number, (shown, label) in enumerate(pages_of(seed)):
            name = f"{seed}-{number:02}.html"
            (folder / name).write_text(shown.html, "utf-8")
            lines.append(json.dumps({**label, "file": name}))
        if len(lines) >= pages:
            break
    (folder / "labels.jsonl").write_text("\n".join(lines[:pages]) + "\n", "utf-8")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("folder", type=Path)
    parser.add_argument("--pages", type=int, default=200)
    parser.add_argument("--first", type=int, default=1)
    options = parser.parse_args()
    write(options.folder, options.pages, options.first)


if __name__ == "__main__":
    main()
