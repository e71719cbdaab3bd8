"""The panel's habits with websites: a subdomain of the customer's domain, with a folder of its own in the customer's home."""

from __future__ import annotations

import os
import re
import signal
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from highshelf.practice.panel.databases import Refusal

PLACEHOLDER = "<!doctype html><title>{name}</title><p>This space at the Saltmarsh Web Co-op is reserved. A website will be here soon.</p>\n"


@dataclass(frozen=True)
class Websites:
    """One customer's further websites. `facts` are the customer's in the panel's settings; the server is told to look again."""

    facts: dict[str, Any]
    sites: Path
    pid_file: Path

    @property
    def domain(self) -> str:
        return str(self.facts["domain"])

    def _file(self, name: str) -> Path:
        return self.sites / f"{self.facts['login']}.{name}.conf"

    def names(self) -> list[str]:
        start = f"{self.facts['login']}."
        return sorted(p.name.removeprefix(start).removesuffix(".conf") for p in self.sites.glob(f"{start}*.conf"))

    def create(self, label: str, folder: str) -> None:
        """Make the folder where it is missing, and the website.

        Raises:
            Refusal: a name or folder that the panel does not take.
        """
        if not re.fullmatch(r"[a-z][a-z0-9-]{0,30}", label):
            raise Refusal("Please use small letters, digits and hyphens for the subdomain.")
        if not re.fullmatch(r"[A-Za-z0-9][A-Za-z0-9._-]*(/[A-Za-z0-9][A-Za-z0-9._-]*)*", folder):
            raise Refusal("Please name a folder below your home.")
        name = f"{label}.{self.domain}"
        if name in self.names():
            raise Refusal(f"{name} exists already.")
        root = Path(self.facts["home"])
        for part in folder.split("/"):
            root = root / part
            if not root.exists():
                root.mkdir()
                os.chown(root, self.facts["uid"], self.facts["gid"])
        if not any(root.iterdir()):
            page = root / "index.html"
            page.write_text(PLACEHOLDER.format(name=name))
            os.chown(page, self.facts["uid"], self.facts["gid"])
        self._file(name).write_text(str(self.facts["host"]).replace("@NAME@", name).replace("@ROOT@", str(root)))
        self._look_again()

    def drop(self, name: str) -> None:
        """The website goes; its folder stays. Raises Refusal."""
        if name not in self.names():
            raise Refusal("There is no such website.")
        self._file(name).unlink()
        self._look_again()

    def _look_again(self) -> None:
        # Apache: SIGUSR1 is a graceful restart (httpd, "Stopping and Restarting").
        os.kill(int(self.pid_file.read_text()), signal.SIGUSR1)
