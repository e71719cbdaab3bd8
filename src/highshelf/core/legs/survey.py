"""Survey: look again at everything the plan relied on, before anything is touched."""

from __future__ import annotations

import posixpath
import time
from collections.abc import Collection, Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from highshelf.core.errors import HelperError, TargetError
from highshelf.core.legs.job import Act, Done, Job, Result
from highshelf.core.legs.trees import clear_leftovers, entries_or_none
from highshelf.core.placing.falling_back import next_way
from highshelf.core.placing.swapping import tree_of
from highshelf.core.placing.target import Target, look_at
from highshelf.core.placing.web import brought, rest_of
from highshelf.core.ports import helper_traces
from highshelf.core.prove.root import prove_root


def look_at_target(job: Job, *, with_root: bool = True) -> Target:
    """What stands at the target now.

    Args:
        with_root: whether to see that the document root is there when the target is not.

    Raises:
        TargetError: the document root is missing, or something stands there that was not there when the plan was made.
    """
    files, place = job.files(), job.place
    # A holding folder or helper of this very job, left by a step that was cut off, is ours.
    names = [posixpath.basename(p) for p in job.leftovers()]
    own = {t for n in names for t in helper_traces(n)} | {f".hs-hold-{job.id[:8]}"}
    with ThreadPoolExecutor(1) as beside:
        # One connection that takes many calls is asked both at once.
        root = beside.submit(files.stat, place.root) if with_root and files.capabilities.parallel else None
        target = _look_at(job, own)
    if with_root and not target.exists and (root.result() if root is not None else files.stat(place.root)) is None:
        raise TargetError(
            f"the document root {place.root} is not there", hint="check its name with `highshelf account check`"
        )
    if target.fingerprint != job.plan.fingerprint:
        raise TargetError(f"{place.target} changed since the plan was made", hint="make a new plan and look at it")
    if place.apart and files.stat(place.apart) is not None:
        raise TargetError(f"{place.apart} is there since the plan was made", hint="make a new plan and look at it")
    if place.split and (taken := _taken_beside(job)):
        told = f"{', '.join(taken[:5])} stand beside the document root since the plan was made"
        raise TargetError(told, hint="make a new plan and look at it")
    return target


def _taken_beside(job: Job) -> list[str]:
    there = {e.name for e in entries_or_none(job.files(), job.place.beside_root) or []}
    return sorted(there & set(rest_beside(job)))


def _look_at(job: Job, own: Collection[str]) -> Target:
    files = job.files()
    return look_at(
        job.place,
        lambda path: entries_or_none(files, path),
        files.read,
        tree_of(what_comes(job)),
        job.plan.if_there,
        own=own,
    )


def what_comes(job: Job) -> list[str]:
    """The paths below the target that the job brings there."""
    plan = job.plan
    return brought(job.contents.paths(), plan.web, plan.showing, plan.packages)


def rest_beside(job: Job) -> list[str]:
    """The names that a split release brings into the folder that holds the document root."""
    return rest_of(job.contents.paths(), job.plan.web, job.plan.packages) if job.place.split else []


def survey(job: Job) -> Result:
    clear_leftovers(job)
    if job.way.name == "shell-stream" and (shell := job.shell()) is not None:
        shell.prepare()
    target = look_at_target(job)
    account = job.account
    leads = "address led there in the account's check"
    if not job.plan.address_seen(time.time()):
        leads = "address leads there"
        prove_root(job.files(), job.fetch(), account.root, account.address, outstanding=job.outstanding, gone=job.gone)
    php = _php_version(job)
    job.values.set("host.php", php)
    there = [*target.furniture, *target.placeholders]
    state = ("holds only " + ", ".join(there)) if there else "is empty" if target.exists else "is free"
    told = f"target {job.place.target} {state}, {leads}, PHP {php}"
    return Done(told, {"php": php, "placeholders": list(target.placeholders)})


def _php_version(job: Job) -> str:
    if php := job.plan.known_php(time.time()):
        job.values.set("host.other_user", "no")
        return php
    if job.way.by_helper:
        try:
            report = job.helper().call("report", {})
            check_helper_can_place(report, job.way.name)
            return str(report["php"])
        except (HelperError, TargetError) as fault:
            after = next_way(job.plan, job.values, fault, also=(TargetError,))
            if after is None:
                raise
            job.say(f"{fault.message}; going on by {after.name}: {after.reason}")
    if job.way.name in ("files", "panel") and job.account.helper:
        return _php_by_files(job)
    shell = job.shell() if job.way.name.startswith("shell") else None
    ran = shell.run("php -r 'echo PHP_VERSION;'") if shell is not None else None
    return ran.output.strip() if ran is not None and ran.status == 0 else "unknown"


def _php_by_files(job: Job) -> str:
    """Where files go over one by one the helper may still tell of PHP, also one that runs as another user."""
    try:
        report = job.helper().call("report", {})
    except HelperError:
        return "unknown"
    other = report["user"]["id"] is not None and report["user"]["id"] != report["owner"]
    job.values.set("host.other_user", "yes" if other else "no")
    return str(report["php"])


def check_helper_can_place(report: Mapping[str, Any], way: str) -> None:
    """Raise TargetError when PHP there cannot unpack, or would make files that the transfer login cannot handle."""
    if way == "helper-tar" and not report["inflates"]:
        raise TargetError(
            "PHP on this host has no zlib, so the helper cannot unpack the packed release there",
            hint="switch the extension zlib on in the panel, or use an account with a shell",
        )
    if way in ("helper", "helper-fetch") and not report["unpacks"]:
        raise TargetError(
            "PHP on this host has no ZipArchive, so the helper cannot unpack there",
            hint="switch the extension zip on in the panel, or use an account with a shell",
        )
    user = report["user"]["id"]
    if user is not None and user != report["owner"]:
        raise TargetError(
            f"PHP on this host runs as another user (id {user}) than the transfer login (id {report['owner']}); "
            "files that it unpacks would not be the login's to change",
            hint="ask the host to run PHP as the login's own user, or use an account with a shell",
        )


ACTS = (Act("look", survey),)
