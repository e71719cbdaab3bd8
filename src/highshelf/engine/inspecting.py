"""Look at an installation's files and compare them with its release: by the shell's hashes, by the helper's, else by sizes or by reading."""

from __future__ import annotations

import hashlib
import posixpath
import shlex
from collections.abc import Sequence

from highshelf.core.errors import HelperError, ShellError, TargetError
from highshelf.core.placing.crew import list_tree, spread
from highshelf.core.placing.inspecting import Inspection, Seen, inspect
from highshelf.core.placing.web import RULES_FILE
from highshelf.core.ports import CancelToken, HostFiles, Shell
from highshelf.core.release.contents import Contents, Member
from highshelf.engine.bench import FTP_LANES, Drivers, account_of, at_site, findings_of
from highshelf.engine.connections import Connections
from highshelf.engine.planner import find_tools
from highshelf.engine.sites import probing
from highshelf.engine.surveyor import SurveyGround
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow, InstallationRow, JobRow, PlanRow, ReleaseRow, now

LANES = 32


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
        with probing(self._store, self._drivers, self._connections, account) as ground:
            if ground.files().stat(row.target) is None:
                raise TargetError(
                    f"{row.target} is not there any more", hint="was it removed by hand, or moved to another place?"
                )
            seen = self._seen(
                ground, row.target, posixpath.relpath(row.target or ".", account.root or "."), contents, read=read
            )
        configured = (self._store.values(row.job_id).get("configuration.files") or "").split("\n")
        ours = [RULES_FILE] if plan.get("web") and not plan.get("apart") else []
        found = inspect(contents, findings_of(release), seen, configured, ours, packages=bool(plan.get("packages")))
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

    def _seen(self, ground: SurveyGround, target: str, folder: str, contents: Contents, *, read: bool) -> Seen:
        shell = ground.shell()
        if shell is not None and "sha256sum" in find_tools(shell):
            return by_shell(shell, target, contents)
        if ground.account.helper:
            try:
                return by_helper(ground, folder)
            except HelperError:
                # Refused by the host: what the transfer login alone can tell is still something.
                pass
        return by_listing(ground.line.lanes(LANES, FTP_LANES), target, contents, read=read)


def by_shell(shell: Shell, target: str, contents: Contents) -> Seen:
    """Names of all files, hashes of those that the release has: what was uploaded since may be gigabytes. Raises ShellError."""
    place = shlex.quote(target)
    names = shell.run(f"cd {place} && find . -type f -print0 | tr '\\0' '\\n'", timeout_seconds=600)
    if names.status != 0:
        raise ShellError(f"the files could not be listed: {(names.complaint or names.output).strip()[:200]}")
    there = [n.removeprefix("./") for n in names.output.splitlines() if n]
    wanted = set(contents.paths())
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


def by_helper(ground: SurveyGround, folder: str) -> Seen:
    """Every file's hash, in slices. Raises HelperError."""
    helper = ground.helper(ground.account.root, ground.account.address, (folder or ".",))
    hashes: dict[str, str] = {}
    try:
        while True:
            after = max(hashes, default="", key=lambda p: p.encode())
            answer = helper.call("hashes", {"folder": 0, "inside": "", "after": after})
            hashes |= answer["hashes"] or {}
            if answer["done"]:
                break
            if not answer["hashes"]:
                raise HelperError("the helper makes no progress in comparing files")
    finally:
        helper.remove()
    return Seen(dict.fromkeys(hashes, -1), hashes, "SHA-256 by PHP there")


def by_listing(lanes: Sequence[HostFiles], target: str, contents: Contents, *, read: bool) -> Seen:
    """Names and sizes; with `read` every file of the release comes back and is hashed here."""
    files, _ = list_tree(lanes, target, CancelToken())
    sizes = {path: size for path, (size, _) in files.items()}
    hashes: dict[str, str] = {}

    def look(lane: HostFiles, member: Member) -> None:
        content = lane.read(posixpath.join(target, member.path), member.size_bytes + 1)
        hashes[member.path] = hashlib.sha256(content).hexdigest()

    if read:
        wanted = [m for m in contents.files if sizes.get(m.path) == m.size_bytes]
        spread(lanes, wanted, look, CancelToken(), repeats=True)
    return Seen(sizes, hashes, "every file read back" if read else "names and sizes: nobody on this host makes hashes")
