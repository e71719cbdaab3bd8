"""What is installed from a package has everything that the checkout has."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import zipfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]


def test_a_wheel_without_the_console_is_refused(tmp_path: Path) -> None:
    """As in a clone where nothing was built yet."""
    for name in ("pyproject.toml", "README.md", "LICENSE", "hatch_build.py"):
        shutil.copy(ROOT / name, tmp_path)
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("static", "__pycache__"))
    command = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(tmp_path / "made")]
    done = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True)
    assert done.returncode != 0 and "the console is not built" in done.stderr + done.stdout
    assert not list(tmp_path.glob("made/*.whl"))


def test_the_wheel_holds_the_built_console_and_all_data(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(tmp_path)]
    subprocess.run(command, cwd=ROOT, check=True, capture_output=True)
    with zipfile.ZipFile(next(tmp_path.glob("*.whl"))) as wheel:
        names = set(wheel.namelist())
        page = wheel.read("highshelf/service/static/index.html").decode()
    assets = re.findall(r'(?:src|href)="/([^"]+)"', page)
    assert len(assets) >= 4
    assert {f"highshelf/service/static/{name}" for name in assets} <= names
    for data in ("service/sheet.html", "core/pages/lexicon.yaml", "core/primers/data/panel-saltmarsh.yaml"):
        assert f"highshelf/{data}" in names
    assert not [n for n in names if n.startswith("console/") or "node_modules" in n]
