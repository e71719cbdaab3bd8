"""A practice host that somebody works with is nobody else's to stop or to remove."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
from pathlib import Path

import pytest

from highshelf.practice import host, users
from highshelf.practice.claim import held
from highshelf.practice.faults import PracticeError
from highshelf.practice.layout import Layout
from tests.support import SOURCE, Hosting

DEMO = """
import sys
from pathlib import Path
from highshelf.practice import demo
folder = Path(sys.argv.pop(1))
demo.folder_for = lambda port: folder
sys.exit(demo.main())
"""


def demo(folder: Path, port: int, here: Path) -> subprocess.CompletedProcess[str]:
    """`bin/demo --once` of another checkout, on this practice host's folder."""
    command = [sys.executable, "-c", DEMO, str(folder), "--once", "--port", str(port)]
    environment = {**os.environ, "PYTHONPATH": str(SOURCE)}
    return subprocess.run(command, cwd=here, env=environment, capture_output=True, text=True, timeout=60)


def standing(hosting: Hosting) -> tuple[dict[str, int], list[int], int]:
    """Servers, users, and files of a practice host."""
    found = host.status(hosting.layout)
    return found.servers, users.user_ids(hosting.layout), sum(1 for _ in hosting.home("ferry").rglob("*"))


@pytest.mark.parametrize("elsewhere", [False, True])
def test_a_second_demo_is_refused_by_name_and_harms_nothing(clean: Hosting, tmp_path: Path, elsewhere: bool) -> None:
    """On the same ports, and on others: what matters is whose the host is."""
    before = standing(clean)
    port = clean.layout.base_port + (4000 if elsewhere else 0)
    told = demo(clean.layout.folder, port, tmp_path)
    assert told.returncode == 1 and "in use by a run of the tests, process" in told.stderr, told.stderr
    assert standing(clean) == before


def test_a_taken_port_is_refused_before_anything_is_stopped_or_removed(tmp_path: Path) -> None:
    layout = Layout(tmp_path / "host", 21400)
    layout.folder.mkdir()
    (layout.folder / "customers.json").write_text("{}")
    with socket.create_server(("127.0.0.1", layout.base_port + 99)):
        told = demo(layout.folder, layout.base_port, tmp_path)
    assert told.returncode == 1 and "is in use" in told.stderr
    assert (layout.folder / "customers.json").exists() and not (tmp_path / ".demo").exists()


def test_commands_are_refused_while_somebody_holds_it(clean: Hosting) -> None:
    environment = {**os.environ, "PYTHONPATH": str(SOURCE)}
    before = standing(clean)
    for words in (["stop"], ["stop", "--remove"], ["start"]):
        command = [sys.executable, "-m", "highshelf", "practice", *words]
        command += ["--folder", str(clean.layout.folder), "--port", str(clean.layout.base_port)]
        told = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=60)
        assert told.returncode == 1 and "in use by a run of the tests" in told.stderr
    assert standing(clean) == before


def test_whoever_holds_it_has_it_until_the_end(tmp_path: Path) -> None:
    layout = Layout(tmp_path / "host", 21400)
    with held(layout, "one"):
        host.stop(layout)
        with pytest.raises(PracticeError, match="in use by one, process"), held(layout, "two"):
            pass
    with held(layout, "two"):
        pass
