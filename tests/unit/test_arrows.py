"""Imports point inward only (DESIGN: the house)."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

SOURCE = Path(__file__).resolve().parents[2] / "src" / "highshelf"
MAY = {
    "core": {"core"},
    "drivers": {"core", "drivers"},
    "store": {"core", "store"},
    "engine": {"core", "store", "engine"},
    "schemas": {"schemas"},
    "client": {"schemas", "client"},
    "cli": {"client", "schemas", "cli"},
    "service": {"core", "store", "engine", "schemas", "service", ""},
}
ROOTS = {"service/app.py": {"drivers"}}
LIBRARIES_OF_ONE_ROOM = {
    "dbos": "engine",
    "sqlmodel": ("store", "service"),
    "sqlalchemy": "store",
    "fastapi": ("service", "practice"),
    "typer": ("cli", "__main__.py"),
    "pwdlib": "store",
    "asyncssh": "drivers",
    "ftplib": "drivers",
    "httpx": ("drivers", "client"),
}


def imports() -> list[tuple[str, str]]:
    found = []
    for path in SOURCE.rglob("*.py"):
        name = str(path.relative_to(SOURCE))
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
                found.append((name, node.module))
            elif isinstance(node, ast.Import):
                found += [(name, alias.name) for alias in node.names]
    return found


def test_rooms_import_inward_only() -> None:
    wrong = []
    for name, module in imports():
        room = name.split("/")[0]
        if not module.startswith("highshelf") or room not in MAY:
            continue
        target = module.split(".")[1] if "." in module else ""
        if target not in MAY[room] | ROOTS.get(name, set()):
            wrong.append(f"{name} imports {module}")
    assert wrong == []


@pytest.mark.parametrize("library", LIBRARIES_OF_ONE_ROOM)
def test_a_library_stays_in_its_room(library: str) -> None:
    rooms = LIBRARIES_OF_ONE_ROOM[library]
    allowed = (rooms,) if isinstance(rooms, str) else rooms
    users = {name.split("/")[0] for name, module in imports() if module.split(".")[0] == library}
    assert users, f"nobody uses {library}: take it out of this list"
    assert users <= set(allowed)


def test_errors_import_nothing_of_ours() -> None:
    assert not [m for n, m in imports() if n == "core/errors.py" and m.startswith("highshelf")]
