"""The package manager of PHP projects brings what a release only names, on the host, before the swap.

Rules:
1. Only where the application's primer says so, the release does not bring it, and the account's shell has a version that is new enough.
2. It runs in the holding folder, in the background there: it may take minutes, and our connection may break meanwhile.
3. Scripts and plugins of packages run only when the primer says so: they are other people's programs with this customer's rights.
4. Afterwards the release's own files must still be the release's.
"""

from __future__ import annotations

import posixpath
import shlex
from typing import Any

from highshelf.core.errors import CancelledError, IdentityError, ShellError
from highshelf.core.legs.job import Done, Job, Result
from highshelf.core.legs.trees import LISTED, MODES, holding_folder, run_or_fail, unpacked_tree
from highshelf.core.placing.packages import AUTOLOAD, BROUGHT, is_enough, said_in, version_in
from highshelf.core.release.contents import Contents

LOOK_SECONDS = 1.0
LOG, NUMBER, ENDED = "packages.log", "packages.pid", "packages.ended"
INSTALL = "composer install --no-dev --no-interaction --no-progress --no-ansi --prefer-dist --optimize-autoloader"
# Nothing of its own stays in the customer's home; who has settings there, such as passwords of makers, keeps using them.
AT_HOME = (
    'h=$(pwd) && export h COMPOSER_CACHE_DIR="$h/composer-cache" && '
    '{ [ -d ~/.config/composer ] || [ -d ~/.composer ] || export COMPOSER_HOME="$h/composer"; }'
)
HINT = "log in to the shell and run `composer install --no-dev` in the release's folder: what does it say?"


def bring_packages(job: Job) -> Result:
    """Raises ShellError: it is too old, or fails there. IdentityError: it changed the release's own files."""
    folder = shlex.quote(holding_folder(job))
    if not job.journal.facts("place", "packages").get("begun"):
        version = version_in(run_or_fail(job, f"cd {folder} && {AT_HOME} && composer --no-ansi --version"))
        if not is_enough(version, job.plan.packages):
            raise ShellError(
                f"the package manager of PHP there is {version}, and {job.plan.packages} is wanted",
                hint="ask the host for a newer one, or take a release that brings its packages",
            )
        job.journal.intend("place", "packages", {"begun": True, "version": version})
        _begin(job, folder)
    try:
        status = _await(job, folder)
    except CancelledError:
        end_packages(job, {"begun": True})
        raise
    told = run_or_fail(job, f"cd {folder} && tail -c 3000 {LOG}; rm -f {LOG} {NUMBER} {ENDED}").strip()
    if status != "0":
        # Another try begins anew.
        job.journal.intend("place", "packages", {})
        raise ShellError(f"the package manager of PHP failed (status {status}): {said_in(told)}", hint=HINT)
    return _checked(job)


def _begin(job: Job, folder: str) -> None:
    primer = job.primer
    trusted = primer is not None and primer.packages is not None and primer.packages.scripts
    command = INSTALL + ("" if trusted else " --no-plugins --no-scripts")
    inside = shlex.quote(posixpath.relpath(unpacked_tree(job), holding_folder(job)))
    work = shlex.quote(f'cd {inside} && {command}; echo $? > "$h/{ENDED}"')
    run_or_fail(
        job,
        f"cd {folder} && rm -f {ENDED} && {AT_HOME} && {{ s=$(command -v setsid || echo nohup); "
        f"$s sh -c {work} >{LOG} 2>&1 </dev/null & echo $! >{NUMBER}; }}",
    )


def _await(job: Job, folder: str) -> str:
    """The command's status, once it has ended; its last line is told meanwhile. Raises ShellError when it vanished."""
    last = ""
    look = f"cd {folder} && {{ cat {ENDED} 2>/dev/null || {{ kill -0 $(cat {NUMBER}) 2>/dev/null && echo runs; }} || echo gone; tail -n 1 {LOG}; }}"
    while True:
        state, _, line = run_or_fail(job, look).strip().partition("\n")
        if state.isdigit():
            return state
        if state == "gone":
            job.journal.intend("place", "packages", {})
            raise ShellError("the package manager of PHP vanished in the middle of its work", hint=HINT)
        if line.strip() and line != last:
            job.say(f"packages: {line.strip()[:120]}")
            last = line
        job.cancel.rest(LOOK_SECONDS)


def _checked(job: Job) -> Done:
    """What it brought; the release's own files are compared once more."""
    tree = shlex.quote(unpacked_tree(job))
    listed = run_or_fail(job, f"cd {tree} && {MODES} && {LISTED} | tr '\\0' '\\n'")
    lines = (line.partition("  ") for line in listed.splitlines() if line)
    hashes = {path.removeprefix("./"): digest for digest, _, path in lines}
    changed = _changed(job.contents, hashes)
    if changed:
        raise IdentityError(f"the package manager of PHP changed the release's own files: {', '.join(changed[:5])}")
    if AUTOLOAD not in hashes:
        raise ShellError(f"the package manager of PHP ended well, and {AUTOLOAD} is not there", hint=HINT)
    count = len(hashes) - len(job.contents.files)
    version = job.journal.facts("place", "packages")["version"]
    return Done(f"packages brought by composer {version}: {count} files in {BROUGHT}/", {"files": count})


def _changed(contents: Contents, hashes: dict[str, str]) -> list[str]:
    return sorted(p for p, member in contents.paths().items() if hashes.get(p) != member.sha256)


def end_packages(job: Job, facts: dict[str, Any]) -> None:
    """End what still runs there; what it brought goes with the holding folder."""
    if facts.get("begun") and job.files().stat(posixpath.join(holding_folder(job), NUMBER)) is not None:
        folder = shlex.quote(holding_folder(job))
        run_or_fail(
            job,
            f"cd {folder} && n=$(cat {NUMBER}) && {{ kill -- -$n || kill $n || true; }} 2>/dev/null; rm -f {NUMBER}",
        )
