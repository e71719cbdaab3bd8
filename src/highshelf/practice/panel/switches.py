"""The panel's habits with PHP: a time zone, and extensions that are off until somebody wants them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from highshelf.practice.panel.databases import Refusal
from highshelf.practice.servers.php import SWITCHES, look_again, switches_text

ZONES = ("UTC", "Europe/Berlin", "Europe/London", "Europe/Madrid", "Europe/Paris")


@dataclass(frozen=True)
class Switches:
    """One customer's; `file` is part of the customer's pool."""

    file: Path
    pid_file: Path

    def read(self) -> tuple[str, tuple[str, ...]]:
        """The time zone ("" for none) and the extensions that are on."""
        text = self.file.read_text()
        zone = re.search(r"date\.timezone\] = (\S+)", text)
        return zone[1] if zone else "", tuple(re.findall(r"extension\] = (\w+)\.so", text))

    def write(self, zone: str, extensions: tuple[str, ...]) -> None:
        """Change both. Raises Refusal: not on offer."""
        if zone and zone not in ZONES:
            raise Refusal("Please choose one of the time zones offered.")
        if set(extensions) - set(SWITCHES):
            raise Refusal("Please choose among the extensions offered.")
        self.file.write_text(switches_text(zone, extensions))
        look_again(self.pid_file)
