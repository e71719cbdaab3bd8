"""One survey, from the login to what it all means.

Rules:
1. Every file and folder of ours is told to `outstanding` before it is made and to `gone` after it was seen to be gone.
2. A part that cannot be found out gives lines that say so; only a login that fails ends the survey early.
3. By the shell where there is one; PHP by the helper with the account's consent; else by transfer and web alone.
"""

from __future__ import annotations

import posixpath
from collections.abc import Mapping
from typing import Any

from highshelf.core.errors import CancelledError, HighShelfError, LineDroppedError, TargetError, TransferError
from highshelf.core.ports import HostFiles, Shell
from highshelf.core.survey import judge, neighbours, php, site, web
from highshelf.core.survey.ground import Ground
from highshelf.core.survey.lines import Survey
from highshelf.core.survey.probes import OwnFolder, can_hold_beside, file_beside, tell_refused
from highshelf.core.survey.roots import MOST_PROOFS, Shown, guess_roots, listing_of, show_test
from highshelf.core.survey.shell import ask_shell, path_seen, self_by_curl, tell_shell
from highshelf.core.survey.transfer import tell_transfer

NO_HELPER = "the helper is not allowed on this account"


def survey_account(ground: Ground, survey: Survey) -> None:
    """Find out everything; lines go to `survey` as they are known.

    Raises:
        TransferError and its kin: the login does not work. TargetError: no document root is shown at the address.
    """
    account = ground.account
    files = ground.files()
    tell_transfer(survey, account, files, ground.fingerprint(), ground.limits, ground.outside)
    shell = ground.shell()
    told = ask_shell(shell) if shell is not None else None
    tell_shell(survey, told, account.transfer.kind)
    site.tell_name(survey, account, ground.outside)
    site.tell_certificate(survey, account, ground.outside, ground.pin)
    fault: HighShelfError | None = None
    try:
        root = settle_root(ground, survey)
        _at_the_site(ground, survey, root, shell if told is not None else None)
    except (CancelledError, AssertionError):
        raise
    except HighShelfError as caught:
        fault = caught
        if not survey.has("site.root"):
            survey.say("site.root", caught.message, "web: a file put there was asked for", "bad")
    _others(ground, survey)
    _panel(ground, survey)
    why = fault.message if fault is not None else "neither shell nor helper could tell"
    survey.unknown(
        (
            "site.address",
            "site.self",
            "site.beside",
            "site.refused",
            *web.TOPICS,
            *php.TOPICS,
            "database.server",
            "neighbours",
        ),
        why,
    )
    survey.unknown(("space.free", "space.quota"), "neither this login nor PHP there tells")
    judge.tell_placing(survey, account)
    judge.tell_undoing(survey)
    if fault is not None:
        raise fault


def settle_root(ground: Ground, survey: Survey) -> str:
    """The document root: the account's own when it is proven, else the one that is found.

    Raises:
        TargetError: none is shown at the address.
    """
    account, files = ground.account, ground.files()
    if account.root and files.stat(account.root) is None:
        raise TargetError(
            f"there is no document root {account.root} on this account",
            hint=f"the login sees: {_seen(files)}; leave the root out to have it looked for, or make it with "
            f"`highshelf account make-root {account.name}`",
        )
    asked: list[str] = (
        [account.root] if account.root else [g.path for g in guess_roots(files, account.address)][:MOST_PROOFS]
    )
    shown: Shown | None = None
    for path in asked:
        try:
            shown = show_test(files, ground.fetch(), path, account.address, ground.outstanding, ground.gone)
        except LineDroppedError:
            raise
        except TransferError:
            # A folder that cannot be written is no root to install into.
            continue
        if shown.fits:
            found = "proven" if account.root else f"found among {len(asked)}, and proven"
            survey.say("site.root", path, f"web: {found}: a file put there was fetched at {account.address}", data=path)
            survey.say("site.address", account.address, "web: it shows the document root", data=account.address)
            if not account.root:
                ground.found_root(path)
            return path
    answers = f" (there {shown.told} answers)" if shown is not None else ""
    if account.root:
        raise TargetError(
            f"{account.address} does not show what lies in {account.root}{answers}",
            hint="is the document root right? does the address lead to this account? "
            "(for a name that points elsewhere, say where it is reached: host:port)",
        )
    raise TargetError(
        f"no folder of this account shows at {account.address}{answers}",
        hint=f"tried: {', '.join(asked) or 'nothing'}; does the address lead to this account?",
    )


def _seen(files: HostFiles) -> str:
    return ", ".join(e.name for e in listing_of(files, "") if e.kind == "folder")[:300] or "no folders at all"


def _at_the_site(ground: Ground, survey: Survey, root: str, shell: Shell | None) -> None:
    account, files, fetch = ground.account, ground.files(), ground.fetch()
    web.tell_server(survey, fetch.get(account.address))
    beside = can_hold_beside(files, root, ground.outstanding, ground.gone)
    where = (
        "files can wait there before they are swapped in"
        if beside
        else "nothing can be made there: files wait inside the root"
    )
    survey.say("site.beside", where, "transfer: tried with a folder, gone again", "fine" if beside else "heed", beside)
    tell_refused(ground, survey, root)
    neighbours.tell_neighbours(survey, neighbours.find_neighbours(files, root))
    with OwnFolder(ground, root) as probe:
        web.tell_htaccess(survey, files, fetch, probe)
        with file_beside(ground, root if beside else "", probe.word) as path:
            web.tell_links(survey, files, fetch, probe, path)
        if shell is not None:
            seen = path_seen(shell, probe.folder, "real.txt")
            if seen:
                ground.found_place(
                    "shell", posixpath.dirname(seen), "proven: a file put there over the transfer was read by the shell"
                )
        _ask_php(ground, survey, probe, root, shell)


def _ask_php(ground: Ground, survey: Survey, probe: web.Probe, root: str, shell: Shell | None) -> None:
    """PHP's lines: by the helper, else by the shell's PHP, else none."""
    account = ground.account
    call = probe.address + "real.txt"
    wanted = {
        "settings": list(php.SETTINGS),
        "greetings": list(php.database_addresses(account.database_host)),
        "calls": [call],
    }
    report = _by_helper(ground, survey, probe, root, wanted) if account.helper else None
    if report is not None:
        site.tell_self(survey, report["calls"].get(call), probe.word, account.address, "helper")
        php.tell_database(survey, report["greetings"], account.database_host, "helper")
        return
    if not account.helper:
        survey.unknown(("web.user_ini",), NO_HELPER)
    if shell is not None:
        _by_shell(ground, survey, probe, shell, wanted)
    if not account.helper:
        survey.unknown((*php.TOPICS, "site.self", "database.server"), NO_HELPER)


def _by_helper(
    ground: Ground, survey: Survey, probe: web.Probe, root: str, wanted: Mapping[str, Any]
) -> dict[str, Any] | None:
    files, beside = ground.files(), survey.data("site.beside")
    files.write(probe.path(".user.ini"), f'highlight.comment = "{web.COLOUR}"\n'.encode(), 0o644)
    helper = ground.helper(probe.folder, probe.address, ("..", "../..") if beside else ("..",))
    try:
        try:
            report = helper.call("report", wanted)
        except HighShelfError as fault:
            survey.say("php.version", f"not known: {fault.message}", "helper", "bad")
            survey.unknown(("web.user_ini", *php.TOPICS, "site.self", "database.server"), fault.message)
            return None
        if beside and not survey.data("web.links"):
            with file_beside(ground, root, probe.word) as path:
                web.tell_links_by_helper(survey, files, helper, ground.fetch(), probe, path)
    finally:
        helper.remove()
    php.tell_php(survey, report, "helper", own_id=report["owner"])
    folders = {"the document root": report["folders"][0]}
    if beside:
        folders["the folder beside it"] = report["folders"][1]
    php.tell_writes(survey, folders, "helper: a file was made there, and removed")
    php.tell_room(survey, report["folders"][0], "helper: disk_free_space")
    honoured = report["settings"].get("highlight.comment", {}).get("value") == web.COLOUR
    text = "honoured" if honoured else "not honoured"
    survey.say("web.user_ini", text, "helper: in a folder of our own", "fine" if honoured else "heed", honoured)
    ground.found_place(
        "php", str(report["folders"][0]["path"]), "proven: PHP there ran a file that was put there over the transfer"
    )
    return report


def _by_shell(ground: Ground, survey: Survey, probe: web.Probe, shell: Shell, wanted: Mapping[str, Any]) -> None:
    """What the shell's PHP tells. It may be another one than the site's, with other limits: only what holds for both is said."""
    how = "shell: its PHP"
    if survey.data("shell.php"):
        try:
            report = ground.php_over_shell(shell).report(wanted)
        except HighShelfError:
            report = None
        if report is not None:
            text = f"{report['php']} in the shell; the site's own may be another"
            survey.say("php.version", text, how, "heed", report["php"])
            php.tell_database(survey, report["greetings"], ground.account.database_host, how)
            site.tell_self(
                survey, report["calls"].get(probe.address + "real.txt"), probe.word, ground.account.address, how
            )
            return
    if "curl" in (survey.data("shell.tools") or []):
        site.tell_self(
            survey, self_by_curl(shell, probe.address + "real.txt"), probe.word, ground.account.address, "shell: curl"
        )


def _others(ground: Ground, survey: Survey) -> None:
    """Further sites are proven again, each by itself; an account without any has no line."""
    told, lost = [], []
    for one in ground.further():
        try:
            shown = show_test(
                ground.files(), ground.fetch_of(one), one.root, one.address, ground.outstanding, ground.gone
            )
        except CancelledError:
            raise
        except HighShelfError as fault:
            lost.append(f"{one.address}: {fault.message}")
            continue
        if shown.fits:
            told.append(f"{one.address} shows {one.root}")
            ground.proven(one)
        else:
            lost.append(f"{one.address} does not show {one.root} ({shown.told})")
    if told or lost:
        text = "; ".join([*lost, *told])
        survey.say(
            "site.others",
            text,
            "web: a file put there was asked for",
            "heed" if lost else "fine",
            {"shown": len(told), "lost": len(lost)},
        )


def _panel(ground: Ground, survey: Survey) -> None:
    if not ground.account.panel:
        survey.say("panel.login", "no panel is known: jobs will ask for the database", "from the account", "heed")
        return
    try:
        survey.say("panel.login", ground.panel(), "panel: signed in", data=True)
    except CancelledError:
        raise
    except HighShelfError as fault:
        survey.say("panel.login", str(fault), "panel: tried to sign in", "bad", False)
