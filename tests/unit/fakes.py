"""A job in memory: the real legs against the memory driver, a journal in a dictionary, scripted web pages."""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, BinaryIO
from urllib.parse import urlsplit

from highshelf.core.account import Account, parse_transfer
from highshelf.core.errors import FetchError, HelperError, LineDroppedError
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.places import Place, place_at
from highshelf.core.placing.falling_back import way_now
from highshelf.core.placing.pace import Pace
from highshelf.core.placing.swapping import IfThere, tree_of
from highshelf.core.placing.target import look_at
from highshelf.core.placing.ways import Way
from highshelf.core.placing.web import brought
from highshelf.core.plan import Plan
from highshelf.core.ports import CancelToken, Capabilities, FileField, Progress
from highshelf.core.release.contents import Contents, Member
from highshelf.core.release.findings import Findings, find
from highshelf.core.release.laying import contents_of
from highshelf.core.release.reading import read_file
from highshelf.drivers.memory import MemoryFiles

ADDRESS = "http://yard.saltmarsh.example/"


class Flaky(MemoryFiles):
    """Memory files whose connection is lost just before, or just after, the n-th change."""

    def __init__(self) -> None:
        super().__init__()
        self.fail_at: int | None = None
        self.after = False
        self.changes = 0

    def _count(self, change: Callable[[], None]) -> None:
        self.changes += 1
        due = self.fail_at == self.changes
        if due and not self.after:
            raise LineDroppedError("the line is gone")
        change()
        if due:
            raise LineDroppedError("the line is gone")

    def rename(self, old: str, new: str) -> None:
        self._count(lambda: super(Flaky, self).rename(old, new))

    def remove(self, path: str) -> None:
        self._count(lambda: super(Flaky, self).remove(path))

    def make_folder(self, path: str) -> None:
        self._count(lambda: super(Flaky, self).make_folder(path))

    def remove_folder(self, path: str) -> None:
        self._count(lambda: super(Flaky, self).remove_folder(path))

    def write(self, path: str, content: bytes, mode: int | None = None) -> None:
        self._count(lambda: super(Flaky, self).write(path, content, mode))

    @property
    def capabilities(self) -> Capabilities:
        return Capabilities(True, True, True, True)

    def tree(self, folder: str = "") -> dict[str, bytes | None]:
        """Path -> content (None for a folder)."""
        found: dict[str, bytes | None] = {}
        for entry in self.entries(folder):
            path = f"{folder}/{entry.name}".strip("/")
            if entry.kind == "folder":
                found[path] = None
                found |= self.tree(path)
            else:
                found[path] = self.read(path)
        return found


class DictJournal:
    def __init__(self) -> None:
        self.rows: dict[tuple[str, str], tuple[str, dict[str, Any]]] = {}

    def state(self, leg: str, act: str) -> str:
        return self.rows.get((leg, act), ("", {}))[0]

    def facts(self, leg: str, act: str) -> dict[str, Any]:
        return dict(self.rows.get((leg, act), ("", {}))[1])

    def intend(self, leg: str, act: str, facts: dict[str, Any]) -> None:
        self.rows[(leg, act)] = ("intended", facts)

    def keep(self, leg: str, act: str, facts: dict[str, Any]) -> None:
        self.rows[(leg, act)] = (self.state(leg, act) or "intended", facts)

    def done(self, leg: str, act: str, facts: dict[str, Any]) -> None:
        self.rows[(leg, act)] = ("done", {**self.facts(leg, act), **facts})


class Site:
    """Scripted pages: path -> answer, or a function of the posted fields and the session."""

    def __init__(self, pages: Mapping[str, Any]) -> None:
        self.pages, self.asked = pages, [""][:0]

    def visit(self) -> Visit:
        return Visit(self)


class Visit:
    """One conversation with a site; `session` is what its cookie stands for."""

    def __init__(self, site: Site) -> None:
        self.site = site
        self.session: dict[str, str] = {}

    def _answer(self, url: str, fields: dict[str, str] | None) -> Snapshot:
        parts = urlsplit(url)
        if parts.netloc != urlsplit(ADDRESS).netloc:
            raise FetchError(f"{url} is elsewhere")
        self.site.asked.append(url)
        path = parts.path.lstrip("/") + (f"?{parts.query}" if parts.query else "")
        page = self.site.pages.get(path, self.site.pages.get(parts.path.lstrip("/"), (404, "not found")))
        answer = page(fields, self.session) if callable(page) else page
        status, html = answer if isinstance(answer, tuple) else (200, answer)
        return Snapshot(url, status, html)

    def get(self, url: str) -> Snapshot:
        return self._answer(url, None)

    def post(self, url: str, fields: Sequence[tuple[str, str]], *, multipart: bool = False) -> Snapshot:
        return self._answer(url, dict(fields))

    def send_file(
        self,
        url: str,
        fields: Sequence[tuple[str, str]],
        file: FileField,
        *,
        progress: Progress | None = None,
        cancel: CancelToken | None = None,
    ) -> Snapshot:
        raise NotImplementedError

    def send_json(self, url: str, body: bytes, headers: Mapping[str, str]) -> tuple[int, Mapping[str, str], bytes]:
        raise NotImplementedError

    def cookies(self) -> str:
        return repr(self.session)

    def restore(self, cookies: str) -> None:
        pass


class DictValues:
    def __init__(self) -> None:
        self.held: dict[str, str] = {}
        self.sealed: set[str] = set()

    def get(self, name: str) -> str | None:
        return self.held.get(name)

    def set(self, name: str, value: str, *, secret: bool | None = None) -> None:
        self.held[name] = value
        if secret or name.endswith(".password"):
            self.sealed.add(name)

    def secrets(self) -> list[str]:
        return [self.held[n] for n in self.sealed if not n.startswith("walk.")]

    def sealed_names(self) -> list[str]:
        return sorted(self.sealed)

    def all(self) -> dict[str, str]:
        return dict(self.held)


class FakeJob:
    """The port `Job`, in memory. The release's files are `release`; `way` decides how they come to stand in the holding folder.

    `web` splits it: what lies in that folder comes to the target, the rest beside it.
    """

    def __init__(
        self,
        files: Flaky,
        release: dict[str, bytes],
        at: str = "/",
        *,
        beside: bool = True,
        site: Site | None = None,
        if_there: IfThere = "",
        web: str = "",
    ) -> None:
        self.id = "0123456789ab"
        self._files, self.site = files, site or Site({})
        self.account = Account(
            "yard", "Boat Yard", parse_transfer("ftps://yard@127.0.0.1"), "www", ADDRESS, email="yard@saltmarsh.example"
        )
        self.place: Place = replace(place_at("www", ADDRESS, at), web=web, split=bool(web))
        self.release = release
        self.contents: Contents = contents_of(
            [Member(f"yard-1.0/{p}", len(c), hashlib.sha256(c).hexdigest()) for p, c in release.items()]
        )
        self.findings: Findings = find(
            self.contents, "yard-1.0.zip", [c for p, data in release.items() for c in read_file(f"yard-1.0/{p}", data)]
        )
        self.target = look_at(
            self.place,
            lambda path: files.entries(path) if files.stat(path) else None,
            files.read,
            tree_of(brought(self.contents.paths(), web, "split" if web else "root")),
            if_there,
        )
        self.plan = Plan(
            account="yard",
            release="0" * 64,
            application="yard 1.0",
            place=at,
            address=self.place.address,
            target=self.place.target,
            fingerprint=self.target.fingerprint,
            way={"name": "helper", "archive": "zip", "reason": ""},
            holding_beside=beside,
            if_there=if_there,
            database="none",
            acts=(),
            web=web,
            split=bool(web),
        )
        self.primer = None
        self.values, self.journal, self.cancel = DictValues(), DictJournal(), CancelToken()
        self.said: list[str] = []
        self.left: list[str] = []

    def files(self) -> Flaky:
        return self._files

    def shell(self) -> None:
        return None

    def helper(self) -> Any:
        raise HelperError("this host runs no helper")

    def lanes(self, most: int) -> list[Flaky]:
        return [self._files]

    def fetch(self, *, fresh: bool = False) -> Visit:
        return self.site.visit()

    @property
    def way(self) -> Way:
        return way_now(self.plan, self.values)

    def pace(self) -> Pace:
        return Pace(self.plan.pace_bytes, self.cancel)

    def learn_rate(self, bytes_per_second: float) -> None:
        self.said.append("learned a rate")

    def archive(self, form: str) -> BinaryIO:
        packed = io.BytesIO()
        with zipfile.ZipFile(packed, "w") as made:
            for path, content in self.release.items():
                made.writestr(f"yard-1.0/{path}", content)
        packed.seek(0)
        return packed

    def say(self, text: str, **data: Any) -> None:
        self.said.append(text)

    def evidence(self, what: str, snapshot: Snapshot) -> None:
        self.said.append(f"evidence {what}")

    def outstanding(self, path: str) -> None:
        self.left.append(path)

    def gone(self, path: str) -> None:
        self.left.remove(path)

    def leftovers(self) -> list[str]:
        return list(self.left)

    def unpack(self) -> None:
        """What the unpack act would have done."""
        from highshelf.core.legs.trees import unpacked_tree

        base = unpacked_tree(self)  # type: ignore[arg-type]
        for folder in ("", *sorted({str(Path(p).parent) for p in self.release if "/" in p})):
            path = f"{base}/{folder}".rstrip("/")
            if self._files.stat(path) is None:
                MemoryFiles.make_folder(self._files, path)
        for name, content in self.release.items():
            MemoryFiles.write(self._files, f"{base}/{name}", content)
