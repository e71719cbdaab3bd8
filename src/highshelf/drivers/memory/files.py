"""HostFiles kept in a dictionary."""

from __future__ import annotations

import posixpath
from collections.abc import Sequence
from typing import BinaryIO

from highshelf.core.errors import HighShelfError, MissingFileError, TransferError
from highshelf.core.ports import CancelToken, Capabilities, Entry, Order, Progress, TransferFacts, one_by_one

BLOCK = 65_536


class MemoryFiles:
    """A small file tree; folders must be made before files go into them, as on a host."""

    idle_dropped_seconds: float | None = None

    def __init__(self) -> None:
        self._files: dict[str, tuple[bytes, int]] = {}
        self._folders: dict[str, int] = {"": 0o755}

    @property
    def capabilities(self) -> Capabilities:
        return Capabilities(atomic_replace=True, chmod=True, append=True, encrypted=True, parallel=True)

    def facts(self) -> TransferFacts:
        return TransferFacts(software="memory", listing="memory")

    def entries(self, path: str) -> list[Entry]:
        folder = _norm(path)
        if folder not in self._folders:
            raise MissingFileError(f"there is no folder {path}")
        files = [
            Entry(posixpath.basename(p), "file", len(c), m)
            for p, (c, m) in self._files.items()
            if posixpath.dirname(p) == folder
        ]
        folders = [
            Entry(posixpath.basename(p), "folder", 0, m)
            for p, m in self._folders.items()
            if p and posixpath.dirname(p) == folder
        ]
        return sorted(files + folders, key=lambda e: e.name)

    def stat(self, path: str) -> Entry | None:
        path = _norm(path)
        if path in self._files:
            content, mode = self._files[path]
            return Entry(posixpath.basename(path), "file", len(content), mode)
        return Entry(posixpath.basename(path), "folder", 0, self._folders[path]) if path in self._folders else None

    def read(self, path: str, limit_bytes: int = 1 << 20) -> bytes:
        if _norm(path) not in self._files:
            raise MissingFileError(f"there is no file {path}")
        return self._files[_norm(path)][0][:limit_bytes]

    def write(self, path: str, content: bytes, mode: int | None = None) -> None:
        self._need_parent(path)
        self._files[_norm(path)] = (content, mode if mode is not None else 0o644)

    def upload(
        self,
        path: str,
        source: BinaryIO,
        *,
        offset: int = 0,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> None:
        self._need_parent(path)
        held = self._files.get(_norm(path), (b"", 0o644))[0][:offset]
        source.seek(offset)
        while block := source.read(BLOCK):
            if cancel is not None:
                cancel.check()
            held += block
            self._files[_norm(path)] = (held, 0o644)
            if progress is not None:
                progress(len(held))
        self._files[_norm(path)] = (held, 0o644)

    def rename(self, old: str, new: str) -> None:
        old, new = _norm(old), _norm(new)
        self._need_parent(new)
        if new in self._folders or (new in self._files and old in self._folders):
            raise TransferError(f"{new} is there already")
        if old in self._files:
            self._files[new] = self._files.pop(old)
            return
        if old not in self._folders:
            raise MissingFileError(f"there is no {old}")
        inside = old + "/"
        self._folders = {
            (new + p[len(old) :] if p == old or p.startswith(inside) else p): m for p, m in self._folders.items()
        }
        self._files = {(new + p[len(old) :] if p.startswith(inside) else p): c for p, c in self._files.items()}

    def remove(self, path: str) -> None:
        if self._files.pop(_norm(path), None) is None:
            raise MissingFileError(f"there is no file {path}")

    def make_folder(self, path: str) -> None:
        self._need_parent(path)
        if _norm(path) in self._folders or _norm(path) in self._files:
            raise TransferError(f"{path} is there already")
        self._folders[_norm(path)] = 0o755

    def remove_folder(self, path: str) -> None:
        if _norm(path) not in self._folders:
            raise MissingFileError(f"there is no folder {path}")
        if self.entries(path):
            raise TransferError(f"the folder {path} is not empty")
        del self._folders[_norm(path)]

    def link(self, path: str, to: str) -> None:
        raise TransferError(f"linking {path}: nothing here can be a link")

    def chmod(self, path: str, mode: int) -> None:
        path = _norm(path)
        if path in self._files:
            self._files[path] = (self._files[path][0], mode)
        elif path in self._folders:
            self._folders[path] = mode
        else:
            raise MissingFileError(f"there is no {path}")

    def bulk(self, orders: Sequence[Order]) -> list[HighShelfError | None]:
        return one_by_one(self, orders)

    def tree(self, path: str) -> dict[str, list[Entry]] | None:
        return None

    def close(self) -> None:
        pass

    def _need_parent(self, path: str) -> None:
        if posixpath.dirname(_norm(path)) not in self._folders:
            raise MissingFileError(f"there is no folder {posixpath.dirname(_norm(path))}")


def _norm(path: str) -> str:
    return posixpath.normpath(path).strip("/").replace("//", "/") if path.strip("/.") else ""
