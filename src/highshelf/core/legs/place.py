"""Place: the archive goes up, is unpacked in a holding folder, compared with the release, and swapped in.

Nothing that stood there is overwritten: the target was judged when the plan was made and is judged again before the swap.
"""

from __future__ import annotations

import hashlib
import posixpath
import shlex
import time
from collections.abc import Callable
from typing import Any

from highshelf.core.errors import HelperError, HighShelfError, IdentityError, ShellError, SpaceError, TransferError
from highshelf.core.legs.by_panel import carry_by_panel, unpack_by_panel
from highshelf.core.legs.carrying import PART, carry_archive, carry_files, carry_stream, compare_by_listing
from highshelf.core.legs.fetching_there import carry_by_helper, carry_fetched, end_fetching
from highshelf.core.legs.following import carry_followed, unpack_rest
from highshelf.core.legs.job import Act, Done, Job, More, Result
from highshelf.core.legs.packages import bring_packages, end_packages
from highshelf.core.legs.swapping import DENY, swap, unswap
from highshelf.core.legs.trees import (
    HASH_OF_ALL,
    LISTED,
    Reach,
    clear_leftovers,
    holding_folder,
    remove_tree,
    run_or_fail,
    take_file_away,
    tree_inside,
    unpacked_tree,
)
from highshelf.core.placing.crew import do_all
from highshelf.core.placing.falling_back import TRIED, next_way
from highshelf.core.placing.identity import compare
from highshelf.core.placing.ways import Way
from highshelf.core.placing.web import RULES_FILE, rules
from highshelf.core.ports import Order
from highshelf.core.sizes import size_text

UNZIP_WITH_PHP = (
    "$a = new ZipArchive(); if ($a->open('archive.zip') !== true || !$a->extractTo('tree'))"
    " { fwrite(STDERR, 'cannot unpack'); exit(1); }"
)


# What was seen so lately is not looked at again.
FRESH_SECONDS = 60
STAGE = "place.stage"
STAGES = ("carry", "unpack", "identity")


def archive_name(way: Way) -> str:
    """What the archive is called in the holding folder; "" for a way without one."""
    if way.name == "shell-stream":
        return PART
    if way.name == "files":
        return ""
    return "archive.zip" if way.archive == "zip" else "archive.tar"


def hold(job: Job) -> Result:
    files, folder = job.files(), holding_folder(job)
    job.journal.intend("place", "hold", {"folder": folder})
    made, shut, inside = do_all(
        [files],
        [
            Order("make_folder", folder),
            Order("chmod", folder, _holding_mode(job)),
            Order("make_folder", posixpath.join(folder, "tree")),
        ],
        job.cancel,
    )
    for path, fault in ((folder, made), (posixpath.join(folder, "tree"), inside)):
        # It may be there since a step that was cut off.
        if fault is not None and files.stat(path) is None:
            raise fault
    if shut is not None:
        raise shut
    if not job.plan.holding_beside:
        files.write(posixpath.join(folder, ".htaccess"), DENY, 0o644)
    return Done(f"holding folder {folder}", {"folder": folder})


def _holding_mode(job: Job) -> int:
    """Closed where only the login itself works in it; PHP has to get in where it unpacks."""
    return 0o700 if job.plan.holding_beside and job.way.name.startswith("shell") else 0o755


def unhold(job: Job, facts: dict[str, Any]) -> None:
    clear_leftovers(job)
    remove_tree(job, facts["folder"])


def _to(stage: str) -> Callable[[Job], Result]:
    """An act that does all stages up to its own: after a way failed, its successor begins where it has to."""

    def act(job: Job) -> Result:
        now = job.values.get(STAGE) or STAGES[0]
        if STAGES.index(now) > STAGES.index(stage):
            return Done("done before the service was stopped")
        try:
            result = {"carry": _carry, "unpack": _unpack, "identity": _compare}[now](job)
        except SpaceError as fault:
            raise _with_need(job, fault) from None
        except HighShelfError as fault:
            return _fall_back(job, now, fault)
        if not isinstance(result, Done):
            return result
        if now != STAGES[-1]:
            job.values.set(STAGE, STAGES[STAGES.index(now) + 1])
        return result if now == stage else More(result.told)

    return act


def _with_need(job: Job, fault: SpaceError) -> SpaceError:
    """The error with how much the release needs there, and what is left, where the server tells."""
    need = f"unpacked the release takes {size_text(job.contents.unpacked_bytes)}"
    if archive_name(job.way):
        with job.archive(job.way.archive) as source:
            need += f", and {size_text(source.seek(0, 2))} for the archive while it is unpacked"
    try:
        free = job.files().facts().free_bytes
    except HighShelfError:
        free = None
    left = f"; {size_text(free)} are free there now" if free is not None else ""
    return SpaceError(f"{fault.message}; {need}{left}", hint=fault.hint, **fault.context)


def _fall_back(job: Job, stage: str, fault: HighShelfError) -> Result:
    """Go on by the next way, with the archive that is there already if that way wants the same one; else raise the fault."""
    before = job.way
    after = next_way(job.plan, job.values, fault)
    if after is None:
        raise fault
    same = archive_name(before) and archive_name(before) == archive_name(after) and stage != "carry"
    if not same and archive_name(before):
        take_file_away(job, posixpath.join(holding_folder(job), archive_name(before)))
    remove_tree(job, posixpath.join(holding_folder(job), "tree"))
    job.files().make_folder(posixpath.join(holding_folder(job), "tree"))
    job.files().chmod(holding_folder(job), _holding_mode(job))
    job.journal.keep("place", "carry", {})
    job.journal.keep("place", "unpack", {})
    job.values.set(STAGE, "unpack" if same else "carry")
    return More(f"{before.name} failed: {fault.message}; going on by {after.name}: {after.reason}")


def _carry(job: Job) -> Result:
    way = job.way
    if way.name == "shell-stream":
        return carry_stream(job)
    if way.name == "files":
        return carry_files(job)
    if way.name == "shell-fetch":
        return carry_fetched(job, archive_name(way))
    if way.name == "helper-fetch":
        return carry_by_helper(job)
    if way.name == "panel":
        return carry_by_panel(job, archive_name(way))
    if way.name == "helper-tar":
        return carry_followed(job, archive_name(way))
    return carry_archive(job, archive_name(way))


def _unpack(job: Job) -> Result:
    way = job.way.name
    if way in ("shell-stream", "files"):
        return Done("")
    if way in ("helper", "helper-fetch"):
        return _unpack_slice(job)
    if way == "helper-tar":
        return unpack_rest(job)
    if way == "panel":
        return unpack_by_panel(job, archive_name(job.way))
    folder = shlex.quote(holding_folder(job))
    command = {
        "shell-unzip": "unzip -q -o archive.zip -d tree",
        "shell-fetch": "unzip -q -o archive.zip -d tree"
        if job.way.archive == "zip"
        else "tar xmf archive.tar --no-same-owner -C tree",
        # Owners and modes in the archive are its maker's; ours are set afterwards.
        "shell-tar": "tar xmf archive.tar --no-same-owner -C tree",
        "shell-php": f"php -r {shlex.quote(UNZIP_WITH_PHP)}",
    }[way]
    # The files are of this moment: PHP's opcode cache looks at nothing but their times, and many archives give all of theirs the same.
    fresh = "find tree -type f -exec touch {} +"
    run_or_fail(job, f"cd {folder} && rm -rf tree && mkdir tree && {command} && {fresh}")
    return Done(f"unpacked over the shell ({way.removeprefix('shell-')})")


def _unpack_slice(job: Job) -> Result:
    cursor = int(job.journal.facts("place", "unpack").get("next", 0))
    answer = job.helper().call("unpack", {"next": cursor})
    job.journal.keep("place", "unpack", {"next": answer["next"], "all": answer["all"]})
    if answer["next"] == cursor and cursor < answer["all"]:
        raise HelperError(
            "the helper makes no progress in unpacking", hint="PHP's time limit on this host is too short for one file"
        )
    if answer["next"] < answer["all"]:
        return More(
            f"unpacked {answer['next']} of {answer['all']} entries",
            {"files": answer["next"], "of_files": answer["all"]},
        )
    return Done(f"unpacked through the helper ({answer['all']} entries)")


def rules_wanted(job: Job) -> bool:
    """Whether rules of ours lead into the web folder."""
    return job.plan.showing == "rules"


def _compare(job: Job) -> Result:
    if rules_wanted(job):
        # Ours, of a try that was cut off behind the comparison.
        take_file_away(job, posixpath.join(unpacked_tree(job), RULES_FILE))
    if job.way.name in ("files", "panel"):
        return _finished(job, _compare_as_can_be(job))
    if not job.way.by_helper:
        return _finished(job, _compared_by_shell(job))
    alike = _as_it_came(job, "unpack") or _all_by_helper(job)
    count = len(job.contents.files) if alike else compare(job.contents, _hashes_by_helper(job))
    return _finished(job, _identical(count))


def _compared_by_shell(job: Job) -> Done:
    if _as_it_came(job, "carry") or _all_at_once(job):
        return _identical(len(job.contents.files))
    return _identical(compare(job.contents, _hashes_by_shell(job)))


def _identical(count: int) -> Done:
    told = f"{count} files are identical with the release (SHA-256), dotfiles included; folders 755, files 644"
    return Done(told, {"files": count})


def _compare_as_can_be(job: Job) -> Result:
    """By the shell where the account has one with tools, else by PHP and listings, else by listings and what is read back."""
    hashed = 0
    try:
        if any(way.name.startswith("shell") for way in job.plan.open_ways):
            return _compared_by_shell(job)
        hashed = _hashed_beside(job)
    except (ShellError, HelperError) as fault:
        job.say(f"no hashes can be had there: {fault.message}")
    return compare_by_listing(job, hashed=hashed)


def _hashed_beside(job: Job) -> int:
    """How many files PHP there has hashed and found as they should be; 0 where it was not asked. Raises HelperError."""
    tried = (job.values.get(TRIED) or "").split(",")
    if not job.account.helper or job.values.get("host.php") in (None, "unknown") or "helper" in tried:
        return 0
    # It may run as another user, who can read what is there and change nothing.
    return compare(job.contents, _hashes_by_helper(job, modes=False))


def _finished(job: Job, compared: Result) -> Result:
    """What is wanted beside the release's own files and modes, once these are seen to be right."""
    if isinstance(compared, Done) and rules_wanted(job):
        job.files().write(posixpath.join(unpacked_tree(job), RULES_FILE), rules(job.plan.web), 0o644)
    return _with_executables(job, compared)


def _with_executables(job: Job, compared: Result) -> Result:
    """What the primer names as a program may be run, and nothing else: what an archive says of modes is its packer's."""
    wanted = job.primer.executables if job.primer else []
    known = job.contents.paths()
    named = [path for path in wanted if path in known]
    if not isinstance(compared, Done) or not named:
        return compared
    for path in named:
        job.files().chmod(posixpath.join(unpacked_tree(job), path), 0o755)
    return Done(f"{compared.told}, but {', '.join(named)} 755", compared.facts)


def _as_it_came(job: Job, act: str) -> bool:
    """Whether the act that unpacked it, a moment ago, found all as it is in the release."""
    facts = job.journal.facts("place", act)
    return bool(facts.get("sum")) and time.time() - facts["at"] < FRESH_SECONDS and facts["sum"] == _hash_of_all(job)


def _all_at_once(job: Job) -> bool:
    """One hash over the names and hashes of all files, made there and here: a hundred bytes instead of a long list."""
    output = run_or_fail(job, f"cd {shlex.quote(unpacked_tree(job))} && {HASH_OF_ALL}")
    return output.split()[:1] == [_hash_of_all(job)]


def _hash_of_all(job: Job, after: str = "", last: str | None = None) -> str:
    """Over the files behind one name in their order, up to another one or the end."""
    digest, first = hashlib.sha256(), after.encode()
    for path, sha256 in sorted((f.path.encode(), f.sha256) for f in job.contents.files):
        if path > first and (last is None or path <= last.encode()):
            digest.update(sha256.encode() + b"  ./" + path + b"\0")
    return digest.hexdigest()


def _all_by_helper(job: Job) -> bool:
    """The same through the helper, in as many requests as its time limit asks for; False with the first that is not alike."""
    asked: dict[str, Any] = {
        "folder": Reach.HOLDING,
        "inside": tree_inside(job),
        "modes": True,
        "all": True,
        "compare": True,
    }
    # What unpacked it is there already; another file would have to be brought.
    capability = "untar" if job.way.name == "helper-tar" else "hashes"
    after = ""
    while True:
        answer = job.helper().call(capability, {**asked, "after": after})
        last, done = str(answer["last"]), bool(answer["done"])
        if answer["all"] != _hash_of_all(job, after, None if done else last) or (last == after and not done):
            return False
        if done:
            return True
        after = last
        job.say(f"alike as far as {after}; comparing the rest")
        job.cancel.check()


def _hashes_by_shell(job: Job) -> dict[str, str]:
    tree = shlex.quote(unpacked_tree(job))
    output = run_or_fail(job, f"cd {tree} && {LISTED} | tr '\\0' '\\n'")
    return {
        path.removeprefix("./"): digest
        for digest, _, path in (line.partition("  ") for line in output.splitlines())
        if path
    }


def _hashes_by_helper(job: Job, *, modes: bool = True) -> dict[str, str]:
    inside = tree_inside(job)
    hashes: dict[str, str] = {}
    while True:
        after = max(hashes, default="", key=lambda p: p.encode())
        answer = job.helper().call(
            "hashes", {"folder": Reach.HOLDING, "inside": inside, "after": after, "modes": modes}
        )
        hashes |= answer["hashes"] or {}
        if answer["done"]:
            return hashes
        if not answer["hashes"]:
            raise IdentityError("the helper makes no progress in comparing files")


def drop_archive(job: Job) -> Result:
    folder, name = holding_folder(job), archive_name(job.way)
    if name:
        take_file_away(job, posixpath.join(folder, name))
    remove_tree(job, posixpath.join(folder, "tree"))
    if name and job.files().stat(posixpath.join(folder, name)) is not None:
        raise TransferError(f"{name} is still in {folder} after it was removed")
    return Done("archive gone from the host" if name else "nothing is left of the bringing over")


ACTS = (
    Act("hold", hold, unhold),
    Act("carry", _to("carry"), lambda job, _: end_fetching(job)),
    Act("unpack", _to("unpack")),
    Act("identity", _to("identity")),
    Act("packages", bring_packages, end_packages, when="packages"),
    Act("swap", swap, unswap),
    Act("drop-archive", drop_archive),
)
