"""`highshelf installation …`: what stands where, and how to get in."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.common import (
    DONE,
    FAILED,
    USAGE,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    Yes,
    be_sure,
    client,
    facts,
    fail,
    listed,
    out,
    part_of,
    printable,
    secret_from,
    show,
    table,
)
from highshelf.cli.given import settings_of
from highshelf.cli.jobs import ended_job, print_plan, tell_job
from highshelf.cli.words import Words

if TYPE_CHECKING:
    from highshelf.client import Client
    from highshelf.schemas.models import InstallationOut, PlanOut, Rechecked

app = typer.Typer(
    cls=Words, no_args_is_help=True, help="Installations: what stands where, its secrets, its handover sheet."
)


def _no_more(one: InstallationOut) -> str:
    """What is told behind the address of one that stands there no more."""
    if one.taken_back is not None:
        kept = ", files and database kept" if one.taken_back.kept_in else ""
        return f" (taken back{kept})"
    return f" (replaced by {one.replaced_by})" if one.replaced_by else ""


@app.command("list")
def listing(
    account: Annotated[str, typer.Option(help="Only this account's.")] = "",
    wrong: Annotated[
        bool, typer.Option("--wrong", help="Only those in which the last look saw something wrong.")
    ] = False,
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    as_json: Json = False,
) -> None:
    """List installations, the newest first."""
    with client(as_json) as service:
        found = service.installation_list(account, part_of(limit, offset, sort, find), wrong=wrong)
        rows = [
            [
                i.id,
                f"{i.application} {i.version}",
                i.account,
                i.address + _no_more(i),
                i.created_at.strftime("%Y-%m-%d %H:%M"),
            ]
            for i in found.items
        ]
        show(
            found,
            as_json,
            lambda: listed(
                found,
                offset,
                ["installation", "application", "account", "address", "since"],
                rows,
                "No installation fits." if find or account or wrong else "Nothing is installed yet.",
            ),
        )


def _taken_back(one: InstallationOut) -> str:
    back = one.taken_back
    if back is None:
        return ""
    parts = [f"{back.at:%Y-%m-%d %H:%M} by the job {back.job}"]
    if back.kept_in:
        parts.append(
            f"its files are kept in {back.kept_in}, its database stays: `highshelf installation restore {one.id}` brings it back, "
            f"`highshelf installation remove {one.id}` removes what is kept"
        )
    if back.left:
        parts.append(f"still there: {', '.join(back.left)}")
    return "; ".join(parts)


def _looked_at(one: InstallationOut) -> str:
    """When it was looked at last, what came of it, and whether it is by itself."""
    seen = one.rechecked
    last = "never since it was proven" if seen is None else f"{seen.at:%Y-%m-%d %H:%M}: {seen.wrong or 'nothing'} wrong"
    return last + (f"; by itself every {one.recheck_hours} h" if one.recheck_hours else "")


@app.command("show")
def show_installation(installation: str, as_json: Json = False) -> None:
    """Show an installation, without secrets."""
    with client(as_json) as service:
        found = service.installation_show(installation)

        def people() -> None:
            facts(
                [
                    ("installation", found.id),
                    ("application", f"{found.application} {found.version}"),
                    ("replaced by", found.replaced_by and f"{found.replaced_by}: nothing of this one stands any more"),
                    ("taken back", _taken_back(found)),
                    ("looked at", _looked_at(found)),
                    ("site", found.address),
                    ("administration", found.login_address),
                    ("on the host", f"{found.target} on {found.account}"),
                    ("above it", found.facts.get("beside") and f"the rest of the release, in {found.facts['beside']}"),
                    ("administrator", found.admin_name or "none: this application has none of its own"),
                    ("database", f"{found.database} (user {found.database_user})" if found.database else "none"),
                    ("secrets", ", ".join(found.credentials) + f"  (highshelf installation reveal {found.id} NAME)"),
                ]
            )

        show(found, as_json, people)


@app.command("settings")
def settings(installation: str, as_json: Json = False) -> None:
    """Show the configuration files of an installation as they stand on the host. Secrets are left out."""
    with client(as_json) as service:
        found = service.installation_settings(installation)

        def people() -> None:
            for one in found.items:
                out.print(f"{one.path} ({one.format}{', mode ' + one.mode if one.mode else ''})", markup=False)
                rows = [[s.name, "(secret)" if s.secret else printable(s.value), str(s.line)] for s in one.settings]
                table(["setting", "value", "line"], rows, "It sets nothing that can be read.")
            if not found.items:
                out.print("No configuration file is known: the application keeps its settings elsewhere.", markup=False)

        show(found, as_json, people)


@app.command("change")
def change(
    installation: str,
    values: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="NAME=VALUE...",
            help="Settings and what they become; `installation settings` lists them. @FILE as the value reads it from a file, - from "
            "standard input; a secret is never given in clear.",
        ),
    ] = None,
    file: Annotated[str, typer.Option(help="The configuration file, where several have such a setting.")] = "",
    undo: Annotated[bool, typer.Option("--undo", help="Put back what the last change found.")] = False,
    as_json: Json = False,
) -> None:
    """Change settings on the host. Site and login are looked at before and after; when they break, everything is put back."""
    if undo == bool(values):
        fail(
            "input",
            "say what is to be changed, or --undo",
            "highshelf installation change ID NAME=VALUE",
            as_json,
            USAGE,
        )
    with client(as_json) as service:
        if undo:
            done = service.installation_change_undo(installation)
        else:
            done = service.installation_change(installation, settings_of(values or [], as_json), file)

        def people() -> None:
            what = "put back" if undo else "changed"
            named = ", ".join(done.names)
            out.print(f"{what}: {named} in {done.file}" if named else f"nothing changed in {done.file}", markup=False)
            for line in done.seen:
                out.print(f"  {line}", markup=False)

        show(done, as_json, people)


@app.command("undo")
def undo(
    installation: str,
    changed_too: Annotated[
        bool,
        typer.Option(
            "--changed-too",
            help="Also when it changed since it was proven: its files and its database are kept then, as with --keep.",
        ),
    ] = False,
    keep: Annotated[
        bool,
        typer.Option("--keep", help="Keep its files and its database aside: `installation restore` brings it back."),
    ] = False,
    plan_only: Annotated[bool, typer.Option("--plan", help="Only tell what would be done.")] = False,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Take an installation back: its files and its database go, and what stood there before stands there again."""
    with client(as_json) as service:
        found = service.installation_show(installation)
        made = service.installation_undo(found.id, changed_too=changed_too, keep=keep)
        _run(service, made, f"Undo {found.application} at {found.address}?", plan_only, yes, as_json)


@app.command("recheck")
def recheck(installation: str, as_json: Json = False) -> None:
    """Look at everything once more that was proven, and what has changed since. Exit code 1 when something is wrong."""
    with client(as_json) as service:
        job = service.installation_recheck(installation)
        ended = ended_job(service, job.id, as_json)
        if ended.state != "done":
            fail("job", f"the job {job.id} ended as {ended.state}", f"highshelf job show {job.id}", as_json)
        found = service.installation_show(installation).rechecked
        assert found is not None
        show(found, as_json, lambda: _print_seen(found))
    raise typer.Exit(FAILED if any(one.state == "wrong" for one in found.seen) else DONE)


@app.command("schedule")
def schedule(
    installation: str,
    hours: Annotated[int, typer.Option("--hours", min=0, max=24 * 366, help="Every so many hours; 0 is never.")] = 24,
    as_json: Json = False,
) -> None:
    """Have an installation looked at again by itself. `installation list --wrong` shows what was seen to be wrong."""
    with client(as_json) as service:
        found = service.installation_schedule(installation, hours)
        told = f"every {hours} hours" if hours else "only when it is asked for"
        show(
            found,
            as_json,
            lambda: out.print(f"{found.application} at {found.address} is looked at {told}", markup=False),
        )


MARKS = {"right": "[green]✓[/]", "wrong": "[red]✗[/]", "unknown": "[magenta]?[/]"}


def _print_seen(found: Rechecked) -> None:
    width = max((len(one.name) for one in found.seen), default=0) + 2
    for one in found.seen:
        out.print(f"{MARKS[one.state]} {one.name:<{width}}", end="")
        out.print(one.told, markup=False)
    counts = {state: sum(one.state == state for one in found.seen) for state in MARKS}
    told = f"{counts['wrong']} of {len(found.seen)} are wrong" if counts["wrong"] else "nothing is wrong"
    out.print(f"\n{told}" + (f", {counts['unknown']} could not be seen" if counts["unknown"] else ""), markup=False)


@app.command("remove")
def remove(
    installation: str,
    plan_only: Annotated[bool, typer.Option("--plan", help="Only tell what would be done.")] = False,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Remove for good what was kept of an installation when it was undone: its files on the host, its database."""
    with client(as_json) as service:
        found = service.installation_show(installation)
        made = service.installation_remove(found.id)
        asked = f"Remove what is kept of {found.application} at {found.address}, for good?"
        _run(service, made, asked, plan_only, yes, as_json)


@app.command("restore")
def restore(
    installation: str,
    plan_only: Annotated[bool, typer.Option("--plan", help="Only tell what would be done.")] = False,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Bring back an installation that was taken down and kept: its files to their place, then everything is looked at as by a recheck."""
    with client(as_json) as service:
        found = service.installation_show(installation)
        made = service.installation_restore(found.id)
        _run(service, made, f"Bring {found.application} back to {found.address}?", plan_only, yes, as_json)


def _run(service: Client, plan: PlanOut, asked: str, plan_only: bool, yes: bool, as_json: bool) -> None:
    """Tell the plan, ask, and follow its job to the end."""
    if plan_only:
        show(plan, as_json, lambda: print_plan(plan))
        return
    if not as_json:
        print_plan(plan)
    be_sure(asked, yes, as_json)
    job = service.job_start(plan.id)
    if not as_json:
        out.print(f"\njob {job.id}", markup=False)
    tell_job(service, job.id, as_json)


@app.command("forget")
def forget(
    installation: str,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Let an installation out of the books. Nothing on the host is touched; its secrets leave the strongbox for good."""
    with client(as_json) as service:
        found = service.installation_show(installation)
        be_sure(
            f"Forget {found.application} at {found.address}, and drop its passwords? The site stays as it is",
            yes,
            as_json,
        )
        done = service.installation_forget(found.id)

        def people() -> None:
            out.print(
                f"{found.application} at {found.address} is forgotten; {done.secrets} secrets have left the strongbox, "
                "the site stands as it was",
                markup=False,
            )

        show(done, as_json, people)


@app.command("inspect")
def inspect(
    installation: str,
    read: Annotated[
        bool, typer.Option("--read", help="Read every file back where nobody on the host makes hashes. Slow.")
    ] = False,
    shown: Annotated[int, typer.Option(min=0, help="How many of each list to tell.")] = 20,
    as_json: Json = False,
) -> None:
    """Compare what stands on the host with the release: changed, missing, extra files. Exit code 1 when something is not explained."""
    with client(as_json) as service:
        found = service.installation_inspect(installation, read=read, shown=shown)

        def people() -> None:
            unread = f", {found.unread} of them by size alone" if found.unread else ""
            facts([("compared by", found.how), ("as in the release", f"{found.same} files{unread}")])
            for what, count, some in (
                ("changed", found.changed_count, found.changed),
                ("missing", found.missing_count, found.missing),
                ("extra", found.extra_count, found.extra),
            ):
                out.print(f"\n[bold]{what}[/] {count}")
                for one in some:
                    mark = " " if one.why else "[magenta]![/]"
                    files = f" ({one.count} files)" if one.count > 1 else ""
                    out.print(f"  {mark} ", end="")
                    out.print(f"{one.path}{files}" + (f": {one.why}" if one.why else ""), markup=False)
                if count > len(some):
                    out.print(f"    and {count - len(some)} more (--shown)", markup=False)
            told = (
                f"{found.unexplained} differences are not explained" if found.unexplained else "nothing is unexplained"
            )
            out.print(f"\n{told}", markup=False)

        show(found, as_json, people)
    raise typer.Exit(FAILED if found.unexplained else DONE)


@app.command("reveal")
def reveal(
    installation: str,
    credential: Annotated[str, typer.Argument(help="One of the installation's secrets, or all.")] = "all",
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Show secrets. That you asked is recorded."""
    with client(as_json) as service:
        if credential == "all":
            found_one = service.installation_show(installation)
            be_sure(f"Show every secret of {found_one.application} at {found_one.address}?", yes, as_json)
        found = service.installation_reveal(installation, credential)
        show(found, as_json, lambda: facts(list(found.secrets.items())))


@app.command("reveals")
def reveals(
    installation: str, limit: Limit = 50, offset: Offset = 0, sort: Sort = "", find: Find = "", as_json: Json = False
) -> None:
    """List who saw which of its secrets, and when."""
    with client(as_json) as service:
        found = service.installation_reveals(installation, part_of(limit, offset, sort, find))
        rows = [[r.at.strftime("%Y-%m-%d %H:%M:%S"), r.who, r.what] for r in found.items]
        show(
            found,
            as_json,
            lambda: listed(
                found, offset, ["when (UTC)", "who", "secret"], rows, "Nobody asked to see its secrets yet."
            ),
        )


ENDS = {
    "html": ".html",
    "pdf": ".pdf",
    "markdown": ".md",
    "json": ".json",
    "logins": ".csv",
    "bookmarks": ".bookmarks.html",
}
SEALED_END = ".asc"


@app.command("sheet")
def sheet(
    installation: str,
    to: Annotated[
        Path | None, typer.Option(help="The file to write; handover-INSTALLATION with the form's end when left out.")
    ] = None,
    form: Annotated[
        str,
        typer.Option(
            "--as",
            help="html, pdf (both on A4), markdown, json, logins (CSV for a password manager), or bookmarks (for a browser); by the file's end "
            "when left out.",
        ),
    ] = "",
    customer: Annotated[
        bool,
        typer.Option("--customer", help="The customer's part: without the hosting login, the panel and the folders."),
    ] = False,
    reveal_secrets: Annotated[
        bool,
        typer.Option(
            "--reveal", help="With the passwords in clear; that is recorded, and the file is readable by you alone."
        ),
    ] = False,
    seal: Annotated[
        bool, typer.Option("--seal", help="Seal it with a passphrase of 12 characters or more, which is asked for.")
    ] = False,
    passphrase_file: Annotated[
        Path | None, typer.Option(help="A file with the passphrase to seal it with; - reads it.")
    ] = None,
    seal_for: Annotated[
        list[Path] | None,
        typer.Option(exists=True, help="Seal it for the owner of this OpenPGP public key, a file. May be repeated."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Write the handover sheet as a file, open or sealed (OpenPGP). A file that is there is replaced."""
    plain_end = to.with_suffix("").suffix if to is not None and to.suffix.lower() == SEALED_END else ""
    end = (plain_end or (to.suffix if to is not None else "")).lower()
    form = form or next((f for f, known in ENDS.items() if known == end), "html")
    if form not in ENDS:
        fail("input", f"--as {form} is no form of the sheet", f"say {', '.join(ENDS)}", as_json, USAGE)
    passphrase = ""
    if passphrase_file is not None:
        passphrase = secret_from(passphrase_file, "Passphrase", ask=False).strip()
        if not passphrase:
            # Whoever wanted it sealed must not get it open.
            fail("input", f"there is no passphrase in {passphrase_file}", "write it into the file", as_json, USAGE)
    elif seal:
        passphrase = typer.prompt("Passphrase", hide_input=True, confirmation_prompt=True, err=True)
    sealed = bool(passphrase or seal_for)
    path = to or Path(f"handover-{installation}{ENDS[form]}{SEALED_END if sealed else ''}")
    with client(as_json) as service:
        content = service.installation_sheet(
            installation,
            reveal=reveal_secrets,
            form=form,
            customer=customer,
            passphrase=passphrase,
            keys=[key.read_text("utf-8", "replace") for key in seal_for or ()],
        )
    path.unlink(missing_ok=True)
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600 if reveal_secrets else 0o644)
    with os.fdopen(handle, "wb") as file:
        file.write(content)
    if as_json:
        told = {"form": form, "customer": customer, "revealed": reveal_secrets, "sealed": sealed}
        print(json.dumps({"sheet": str(path), **told}))
        return
    how = ", sealed" if sealed else ""
    out.print(
        f"sheet written to {path}{how}" + (" with passwords: keep it safe" if reveal_secrets and not sealed else ""),
        markup=False,
    )
    if sealed:
        out.print(f"  → whoever has the passphrase or key opens it: `gpg --decrypt {path}`", markup=False)
