"""What an administrator does beside the browser: archives unpacked into a site, databases made, files changed as the login."""

from __future__ import annotations

import os
import shutil
import subprocess
import tarfile
import time
import zipfile
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Page, expect

from highshelf.practice.panel.databases import PRIVILEGES, Databases
from highshelf.practice.panel.postgresql import PostgresqlDatabases
from tests.support import Hosting

SECRET = "Low-water-mark-7"


@dataclass(frozen=True)
class Made:
    """A database with its user; the password is SECRET."""

    name: str
    user: str


class ByHand:
    """One customer's hands."""

    def __init__(self, hosting: Hosting, key: str) -> None:
        self.hosting, self.key = hosting, key
        self.login = str(hosting.customer(key)["login"])
        self.number = str(hosting.customer(key)["number"])
        self.address = str(hosting.customer(key)["address"])
        self.root = hosting.root(key)

    def unpack(self, archive: Path, into: Path, wrapper: str = "") -> Path:
        """The contents of the wrapper folder go to `into`, dotfiles included."""
        draft = into.parent / f"draft-{archive.name}"
        if archive.suffix == ".zip":
            zipfile.ZipFile(archive).extractall(draft)
        else:
            with tarfile.open(archive) as tar:
                tar.extractall(draft)
        shutil.copytree(draft / wrapper, into, dirs_exist_ok=True)
        shutil.rmtree(draft)
        # All releases of ours bear one time: PHP's opcode cache would take another application's file of this name for this one.
        for path in into.rglob("*"):
            os.utime(path)
        self.own(into)
        return into

    def own(self, path: Path) -> None:
        subprocess.run(["chown", "-R", f"{self.login}:{self.login}", str(path)], check=True)

    def put(self, path: Path, text: str) -> None:
        path.write_text(text)
        self.own(path)

    def run(self, *words: str, text: str = "", cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            ["runuser", "-u", self.login, "--", *words], input=text, capture_output=True, text=True, cwd=cwd
        )

    def mariadb(self, name: str) -> Made:
        panel = Databases(self.hosting.layout.database_socket, self.number, 12)
        made = Made(panel.create_database(name, "utf8mb4_unicode_ci"), panel.create_user(name, SECRET))
        panel.attach(made.name, made.user, list(PRIVILEGES))
        return made

    def postgresql(self, name: str) -> Made:
        layout = self.hosting.layout
        panel = PostgresqlDatabases(layout.postgresql_socket, layout.port("postgresql"), self.number)
        made = panel.create(name, SECRET)
        return Made(made, made)


def look_until(page: Page, address: str, text: str, patience_seconds: int = 20) -> None:
    """Load the page again until it shows the text: PHP's opcode cache may serve a changed file's old code for seconds."""
    deadline_at = time.monotonic() + patience_seconds
    while True:
        page.goto(address)
        try:
            expect(page.locator("body")).to_contain_text(text, timeout=500)
            return
        except AssertionError:
            if time.monotonic() > deadline_at:
                raise
