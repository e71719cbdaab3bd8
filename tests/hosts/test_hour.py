"""An hour's ordinary work as a script that nobody watches (hour.sh): every command returns within its bound, with the exit code it should have."""

from __future__ import annotations

import csv
import secrets
import subprocess
import sys
from pathlib import Path

from highshelf.practice.moorings import build as moorings
from highshelf.practice.quaystore.build import build_archive as quaystore
from tests.support import Hosting, Service

SCRIPT = Path(__file__).with_name("hour.sh")
WHO = ("ferry", "choir", "seeds", "yard", "regatta", "birds")
EACH, LOST = 5, "lost-1"
LONGEST_SECONDS = 1_200
COLUMNS = (
    "name",
    "title",
    "transfer",
    "password",
    "root",
    "address",
    "reach",
    "panel",
    "panel_login",
    "panel_primer",
    "email",
)


def accounts(hosting: Hosting, path: Path) -> None:
    """Thirty: each customer five times under names of their own, one of them replaced by an account that leads nowhere."""
    with path.open("w", newline="") as file:
        rows = csv.DictWriter(file, COLUMNS)
        rows.writeheader()
        for number in range(1, EACH + 1):
            for key in WHO:
                name = LOST if (key, number) == ("yard", EACH) else f"{key}-{number}"
                new = hosting.new_account(key, name=name, title=f"{key.title()} {number}")
                row = {column: getattr(new, column) or "" for column in COLUMNS}
                row["password"] = new.password.get_secret_value() if new.password else ""
                if name == LOST:
                    row["transfer"] = "sftp://keeper@127.0.0.1:9"
                rows.writerow(row)


def test_an_hour_of_work_runs_by_itself(clean: Hosting, service: Service, tidebook: Path, tmp_path: Path) -> None:
    accounts(clean, tmp_path / "accounts.csv")
    for built, name in (
        (tidebook, "tidebook.zip"),
        (quaystore(tmp_path), "quaystore.zip"),
        (moorings.build_archive(tmp_path), "moorings.zip"),
        (moorings.build_module(tmp_path), "berthplan.zip"),
    ):
        (tmp_path / name).write_bytes(built.read_bytes())
    (tmp_path / "key.txt").write_text(moorings.make_key(1) + "\n")
    (tmp_path / "word.txt").write_text(secrets.token_urlsafe(15) + "-aB7\n")
    done = subprocess.run(
        ["bash", str(SCRIPT), str(tmp_path)],
        env={**service.environment, "PYTHON": sys.executable},
        stdin=subprocess.DEVNULL,
        capture_output=True,
        text=True,
        timeout=LONGEST_SECONDS,
    )
    assert done.returncode == 0, f"{done.stdout}\n{done.stderr}\n{service.log.read_text()[-1500:]}"
    assert "commands, each within its bound" in done.stdout
