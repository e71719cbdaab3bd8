"""What a command costs before it does anything: processor seconds of whole processes, beside `python -c pass` in the same run.

    .venv/bin/python bench/commands.py [--runs 9] [--smallest]

`account list` asks a service of its own on loopback, with one account. The last line is JSON: medians in seconds, ratios.
"""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from statistics import median

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.support import Service

from highshelf.schemas.models import AccountNew

AIMS_SECONDS = {"help": 0.25, "account list": 0.40}


def processor_seconds(command: list[str], environment: dict[str, str]) -> float:
    """User and system time of one process and what it started."""
    before = os.times()
    done = subprocess.run(command, env=environment, capture_output=True, text=True)
    after = os.times()
    assert done.returncode == 0, done.stderr
    return after.children_user - before.children_user + after.children_system - before.children_system


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=9)
    parser.add_argument("--smallest", action="store_true")
    given = parser.parse_args()
    runs = 1 if given.smallest else given.runs
    with tempfile.TemporaryDirectory() as folder:
        service = Service(Path(folder) / "data")
        service.start()
        try:
            service.client.account_add(
                AccountNew(
                    name="ferry", transfer="sftp://keeper@127.0.0.1:22", address="http://ferry.example/", agent=True
                )
            )
            # What is installed keeps its compiled form; a machine that forbids it would count the compiler.
            service.environment.pop("PYTHONDONTWRITEBYTECODE", None)
            program = [sys.executable, "-m", "highshelf"]
            commands = {
                "python": [sys.executable, "-c", "pass"],
                "help": [*program, "--help"],
                "account list": [*program, "account", "list"],
            }
            taken: dict[str, list[float]] = {name: [] for name in commands}
            for command in commands.values():
                processor_seconds(command, service.environment)
            # One after the other in turns: what else the machine does meets all alike.
            for _ in range(runs):
                for name, command in commands.items():
                    taken[name].append(processor_seconds(command, service.environment))
        finally:
            service.stop()
    found = {name: median(seconds) for name, seconds in taken.items()}
    for name, seconds in found.items():
        aim = f" (aim {AIMS_SECONDS[name]:.2f})" if name in AIMS_SECONDS else ""
        print(f"{name:<13} {seconds:.3f} s{aim}, {seconds / max(found['python'], 0.001):.0f} times python alone")
    print(json.dumps({"runs": runs, "seconds": {n: round(s, 3) for n, s in found.items()}}))


if __name__ == "__main__":
    main()
