"""Look at an installation's files and compare them with its release: by the shell's hashes, by the helper's, else by sizes or by reading."""

from __future__ import annotations

import hashlib
import posixpath
import shlex
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from highshelf.core.account import Account
from highshelf.core.errors import HelperError, ShellError, TargetError
from highshelf.core.places import Place
from highshelf.core.placing.crew import list_tree, spread
from highshelf.core.placing.inspecting import Inspection, Seen, inspect, is_configuration
from highshelf.core.placing.web import RULES_FILE
from highshelf.core.plan import Plan
from highshelf.core.ports import CancelToken, Helper, HostFiles, Shell
from highshelf.core.release.contents import Contents, Member
from highshelf.engine.bench import FTP_LANES, Drivers, account_of, at_site, findings_of
from highshelf.engine.connections import Connections
from highshelf.engine.planner import find_tools
from highshelf.engine.sites import probing
from highshelf.engine.surveyor import SurveyGround
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow, InstallationRow, JobRow, PlanRow, ReleaseRow, now

LANES = 32
# What stands among others is read back, not hashed there: composer.json and its like.
LOOSE_BYTES = 8 << 20


class Inspector:
    """Every call opens a connection and closes it; a helper that it puts on the host is journalled."""

    def __init__(self, store: Store, drivers: Drivers, connections: Connections) -> None:
        self._store, self._drivers, self._connections = store, drivers, connections

    def inspect(self, number: str, *, read: bool = False) -> Inspection:
        """Compare an installation with its release.

        Args:
            read: where nobody on the host makes hashes, read every file back instead of going by sizes; slow.

        Raises:
            NotFoundError; TargetError: nothing stands there. TransferError and its kin.
        """
        row = self._store.get(InstallationRow, number, "installation")
        release = self._store.get(ReleaseRow, row.release, "release")
        plan = self._store.get(PlanRow, self._store.get(JobRow, row.job_id, "job").plan_id, "plan").body
        account = account_of(self._store.get(AccountRow, row.account, "account"))
        account = at_site(self._store, account, plan.get("site", ""))
        contents = self._store.shelf.contents(release.sha256)
        standing = self._standing(row, account, plan, contents)
        with probing(self._store, self._drivers, self._connections, account) as ground:
            if ground.files().stat(row.target) is None:
                raise TargetError(
                    f"{row.target} is not there any more", hint="was it removed by hand, or moved to another place?"
                )
            seen = self._seen(ground, standing, contents, read=read)
        configured = (self._store.values(row.job_id).get("configuration.files") or "").split("\n")
        ours = [RULES_FILE] if Plan.from_dict(plan).showing == "rules" else []
        ours += [p for p in (self._store.values(row.job_id).get("tidy.rules") or "").split("\n") if p]
        found = inspect(
            contents,
            findings_of(release),
            seen,
            configured,
            ours,
            packages=bool(plan.get("packages")),
            as_root=plan["web"] if plan.get("split") else "",
        )
        told = {
            "at": now().isoformat(),
            "same": found.same,
            "changed": len(found.changed),
            "missing": len(found.missing),
            "extra": len(found.extra),
            "unexplained": found.unexplained,
        }
        self._store.change(InstallationRow, number, facts={**row.facts, "inspected": told})
        return found

    def _standing(self, row: InstallationRow, account: Account, plan: dict[str, Any], contents: Contents) -> Standing:
        """Where it stands; of one that is split, its web folder, and each name of the rest beside it."""
        if not plan.get("split"):
            return Standing({"": row.target})
        place = Place(account.root, "", row.address, plan["web"], split=True)
        settled = self._store.journal(row.job_id).facts("place", "swap")
        rest = set(settled["beside"])
        folders = {name for name in rest if name not in contents.paths()}
        parts = {plan["web"]: place.target, **{name: place.path(name) for name in sorted(folders)}}
        return Standing(parts, place.beside_root, frozenset(settled["beside_before"]))

    def _seen(self, ground: SurveyGround, standing: Standing, contents: Contents, *, read: bool) -> Seen:
        files = ground.files()
        # A folder of the rest that is gone is told by its missing files.
        parts = {inside: path for inside, path in standing.parts.items() if files.stat(path) is not None}
        found = self._of_folders(ground, parts, contents, read=read)
        if standing.loose is None:
            return found
        return joined({"": found, ".": loose_files(files, standing, contents.paths())})

    def _of_folders(self, ground: SurveyGround, parts: Mapping[str, str], contents: Contents, *, read: bool) -> Seen:
        shell = ground.shell()
        if shell is not None and "sha256sum" in find_tools(shell):
            return joined({inside: by_shell(shell, path, _below(contents, inside)) for inside, path in parts.items()})
        if ground.account.helper:
            try:
                return joined(by_helper(ground, parts))
            except HelperError:
                # Refused by the host: what the transfer login alone can tell is still something.
                pass
        lanes = ground.line.lanes(LANES, FTP_LANES)
        return joined(
            {inside: by_listing(lanes, path, _below(contents, inside), read=read) for inside, path in parts.items()}
        )


@dataclass(frozen=True)
class Standing:
    """Where the folders of an installation stand.

    Attributes:
        parts: folder as it lies in the release, "" being its root -> where it stands, as the transfer login sees it.
        loose: a folder in which single files of the release stand among others, None without; strange: the names there that are no such.
    """

    parts: Mapping[str, str]
    loose: str | None = None
    strange: frozenset[str] = frozenset()


def joined(seen: Mapping[str, Seen]) -> Seen:
    """What was seen of the parts, by path as it lies in the release."""
    sizes = {
        posixpath.normpath(posixpath.join(inside, p)): size
        for inside, one in seen.items()
        for p, size in one.sizes.items()
    }
    hashes = {
        posixpath.normpath(posixpath.join(inside, p)): digest
        for inside, one in seen.items()
        for p, digest in one.hashes.items()
    }
    return Seen(sizes, hashes, next(iter(seen.values())).how)


def loose_files(files: HostFiles, standing: Standing, wanted: Collection[str]) -> Seen:
    """The files of the release that stand among others, and the configuration made there since; the small ones are read back.

    What else the customer keeps there is nobody's business here.
    """
    base = standing.loose or ""
    ours = [e for e in files.entries(base) if e.name in wanted or is_configuration(e.name)]
    there = [e for e in ours if e.kind == "file" and e.name not in standing.strange]
    hashes = {
        e.name: hashlib.sha256(files.read(posixpath.join(base, e.name), e.size_bytes + 1)).hexdigest()
        for e in there
        if e.size_bytes <= LOOSE_BYTES
    }
    return Seen({e.name: e.size_bytes for e in there}, hashes, "read back")


def _below(contents: Contents, inside: str) -> dict[str, Member]:
    """The release's files below a folder of it, by path below that."""
    prefix = inside + "/" if inside else ""
    return {p.removeprefix(prefix): m for p, m in contents.paths().items() if p.startswith(prefix)}


def by_shell(shell: Shell, target: str, wanted: Mapping[str, Member]) -> Seen:
    """Names of all files, hashes of those that the release has: what was uploaded since may be gigabytes. Raises ShellError."""
    place = shlex.quote(target)
    names = shell.run(f"cd {place} && find . -type f -print0 | tr '\\0' '\\n'", timeout_seconds=600)
    if names.status != 0:
        raise ShellError(f"the files could not be listed: {(names.complaint or names.output).strip()[:200]}")
    there = [n.removeprefix("./") for n in names.output.splitlines() if n]
    known = [n for n in there if n in wanted]
    ran = shell.run(
        f"cd {place} && tr '\\n' '\\0' | xargs -0 -r sha256sum -z -- | tr '\\0' '\\n'",
        text="".join(n + "\n" for n in known),
        timeout_seconds=3600,
    )
    lines = (line.partition("  ") for line in ran.output.splitlines())
    return Seen(
        dict.fromkeys(there, -1), {path: digest for digest, _, path in lines if path}, "SHA-256 by the shell there"
    )


def by_helper(ground: SurveyGround, parts: Mapping[str, str]) -> dict[str, Seen]:
    """Every file's hash, in slices, of each part. Raises HelperError."""
    account = ground.account
    reaches = tuple(posixpath.relpath(path or ".", account.root or ".") for path in parts.values())
    helper = ground.helper(account.root, account.address, reaches)
    try:
        return {inside: _part_by_helper(helper, number) for number, inside in enumerate(parts)}
    finally:
        helper.remove()


def _part_by_helper(helper: Helper, number: int) -> Seen:
    hashes: dict[str, str] = {}
    while True:
        after = max(hashes, default="", key=lambda p: p.encode())
        answer = helper.call("hashes", {"folder": number, "inside": "", "after": after})
        hashes |= answer["hashes"] or {}
        if answer["done"]:
            return Seen(dict.fromkeys(hashes, -1), hashes, "SHA-256 by PHP there")
        if not answer["hashes"]:
            raise HelperError("the helper makes no progress in comparing files")


def by_listing(lanes: Sequence[HostFiles], target: str, wanted: Mapping[str, Member], *, read: bool) -> Seen:
    """Names and sizes; with `read` every file of the release comes back and is hashed here."""
    files, _ = list_tree(lanes, target, CancelToken())
    sizes = {path: size for path, (size, _) in files.items()}
    hashes: dict[str, str] = {}

    def look(lane: HostFiles, path: str) -> None:
        content = lane.read(posixpath.join(target, path), wanted[path].size_bytes + 1)
        hashes[path] = hashlib.sha256(content).hexdigest()

    if read:
        alike = [path for path, member in wanted.items() if sizes.get(path) == member.size_bytes]
        spread(lanes, alike, look, CancelToken(), repeats=True)
    return Seen(sizes, hashes, "every file read back" if read else "names and sizes: nobody on this host makes hashes")
