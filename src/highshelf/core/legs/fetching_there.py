"""The host fetches the archive itself: begun in its shell, looked after from here, believed only by its hash.

Rules:
1. What signs in to the makers' site never goes to the host; an address that wants it is refused there, and another way is taken.
2. The fetching goes on without us: after a break or a restart it is found by its number, which lies beside it there from its first
   moment, or begun anew where it stopped.
3. Cancelled means that it is ended there within two seconds; so does taking back.
"""

from __future__ import annotations

import posixpath
import shlex
from typing import Any

from highshelf.core.errors import CancelledError, HelperError, HighShelfError, ShellError
from highshelf.core.legs.carrying import Teller
from highshelf.core.legs.job import Done, Job, Result
from highshelf.core.legs.trees import command_fault, holding_folder, run_or_fail, take_file_away
from highshelf.core.ports import Ran
from highshelf.core.sizes import size_text

LOOK_SECONDS = 0.5
LOG, NUMBER = "fetch.log", "fetch.pid"


def carry_fetched(job: Job, name: str) -> Result:
    """Raises ShellError when the host cannot fetch it, or fetched something else."""
    folder, address = holding_folder(job), job.plan.published
    path = posixpath.join(folder, name)
    with job.archive(job.way.archive) as source:
        size = source.seek(0, 2)
    if not _runs(job, folder) and not _is_right(job, path, size):
        # Written down before it begins: taking back ends what may run there.
        job.journal.keep("place", "carry", {"fetches": address})
        _begin(job, folder, name, address)
    teller = Teller(job, size)
    try:
        while _runs(job, folder):
            there = job.files().stat(path)
            teller(there.size_bytes if there is not None else 0)
            job.cancel.rest(LOOK_SECONDS)
    except CancelledError:
        end_fetching(job)
        raise
    if not _is_right(job, path, size):
        raise _what_came(job, folder, name, address)
    run_or_fail(job, f"cd {shlex.quote(folder)} && rm -f {LOG} {NUMBER}")
    return Done(f"{size_text(size)} fetched by the host itself, the same by its hash (SHA-256)", {"bytes": size})


def carry_by_helper(job: Job) -> Result:
    """PHP on the host fetches the archive in pieces of two seconds. Raises HelperError when it cannot, or fetched something else."""
    address, path = job.plan.published, posixpath.join(holding_folder(job), "archive.zip")
    with job.archive(job.way.archive) as source:
        size = source.seek(0, 2)
    teller, before = Teller(job, size), -1
    answer: dict[str, Any] = {"there": 0, "why": "", "sha256": ""}
    while answer["there"] < size and not answer["why"]:
        job.cancel.check()
        answer = job.helper().call("fetch", {"address": address, "size": size})
        if answer["there"] <= before:
            answer["why"] = answer["why"] or "nothing more came"
        before = answer["there"]
        teller(min(before, size))
    if answer["sha256"] != job.plan.release:
        take_file_away(job, path)
        told = answer["why"] or "what came is not the release"
        raise HelperError(f"PHP on the host could not fetch {address}: {told}")
    return Done(f"{size_text(size)} fetched by PHP on the host, the same by its hash (SHA-256)", {"bytes": size})


def end_fetching(job: Job) -> None:
    """End what still fetches there; nothing happens when nothing does."""
    folder = holding_folder(job)
    if job.shell() is not None and job.files().stat(posixpath.join(folder, NUMBER)) is not None:
        run_or_fail(job, f"cd {shlex.quote(folder)} && {{ {OURS_RUNS} && kill $n; rm -f {NUMBER}; }}")


def _begin(job: Job, folder: str, name: str, address: str) -> None:
    """Start it so that it outlives this connection, its process number beside it."""
    url = shlex.quote(address)
    with_curl = f"nohup curl -fsSL --max-redirs 5 -C - -o {name} {url}"
    with_wget = f"nohup wget -q -c -O {name} {url}"
    told = run_or_fail(
        job,
        f"cd {shlex.quote(folder)} && if command -v curl >/dev/null 2>&1; then {with_curl} >{LOG} 2>&1 </dev/null & "
        f"else {with_wget} >{LOG} 2>&1 </dev/null & fi; echo $! | tee {NUMBER}",
    )
    number = told.strip().splitlines()[-1] if told.strip() else ""
    if not number.isdigit():
        raise ShellError(f"the shell there started nothing: {told.strip()[:200]}")


# Numbers are used again: where the host has ps, the process must be one that has our archive in its command.
OURS_RUNS = (
    f'n=$(cat {NUMBER} 2>/dev/null) && [ -n "$n" ] && kill -0 $n 2>/dev/null'
    " && { ! command -v ps >/dev/null 2>&1 || ps -p $n -o args= | grep -q archive; }"
)


def _runs(job: Job, folder: str) -> bool:
    return run_or_fail(job, f"cd {shlex.quote(folder)} && {OURS_RUNS} && echo yes || echo no").strip() == "yes"


def _is_right(job: Job, path: str, size: int) -> bool:
    there = job.files().stat(path)
    if there is None or there.size_bytes != size:
        return False
    return run_or_fail(job, f"sha256sum < {shlex.quote(path)}").split()[0] == job.plan.release


def _what_came(job: Job, folder: str, name: str, address: str) -> HighShelfError:
    told = run_or_fail(
        job, f"cd {shlex.quote(folder)} && tail -c 300 {LOG} 2>/dev/null; rm -f {name} {LOG} {NUMBER}"
    ).strip()
    return command_fault(f"the host could not fetch {address}", Ran(1, "", told or "what came is not the release"))
