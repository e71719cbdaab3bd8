"""Survey: look again at everything the plan relied on, before anything is touched."""

from __future__ import annotations

import posixpath
import secrets

from highshelf.core.errors import TargetError
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.legs.trees import clear_leftovers, entries_or_none
from highshelf.core.placing.target import Target, judge_target


def look_at_target(job: Job) -> Target:
    """What stands at the target now.

    Raises:
        TargetError: the document root is missing, or something stands there that was not there when the plan was made.
    """
    files, place = job.files(), job.place
    if files.stat(place.root) is None:
        raise TargetError(
            f"the document root {place.root} is not there", hint="check its name with `highshelf account check`"
        )
    entries = entries_or_none(files, place.target)
    if entries is not None:
        # A holding folder or helper of this very job, left by a step that was cut off, is ours.
        own = {posixpath.basename(p) for p in job.leftovers()} | {f".hs-hold-{job.id[:8]}"}
        entries = [e for e in entries if e.name not in own and e.name.removesuffix(".seen.php") not in own]
    target = judge_target(place.target, entries, lambda name: files.read(posixpath.join(place.target, name)))
    if target.fingerprint != job.plan.fingerprint:
        raise TargetError(f"{place.target} changed since the plan was made", hint="make a new plan and look at it")
    return target


def survey(job: Job) -> Result:
    clear_leftovers(job)
    target = look_at_target(job)
    prove_root(job)
    php = _php_version(job)
    job.values.set("host.php", php)
    told = f"target {job.place.target} {'is empty' if target.exists else 'is free'}, address leads there, PHP {php}"
    return Done(told, {"php": php, "placeholders": list(target.placeholders)})


def prove_root(job: Job) -> None:
    """Put an unguessable file into the document root, fetch it through the address, remove it.

    Raises:
        TargetError: the address does not show what lies in the document root.
    """
    name, content = f"hs-{secrets.token_hex(12)}.txt", secrets.token_hex(16)
    path = posixpath.join(job.place.root, name)
    job.outstanding(path)
    job.files().write(path, content.encode(), 0o644)
    try:
        seen = job.fetch().get(job.account.address + name)
    finally:
        job.files().remove(path)
        job.gone(path)
    if seen.html.strip() != content:
        raise TargetError(
            f"{job.account.address} does not show what lies in {job.place.root} (status {seen.status})",
            hint="is this the right document root, does the address lead to this account? (--reach host:port for a name that points elsewhere)",
        )


def _php_version(job: Job) -> str:
    if job.plan.way["name"] == "helper":
        return str(job.helper().call("report", {})["php"])
    shell = job.shell()
    ran = shell.run("php -r 'echo PHP_VERSION;'") if shell is not None else None
    return ran.output.strip() if ran is not None and ran.status == 0 else "unknown"


ACTS = (Act("look", survey),)
