"""`highshelf plan`, `highshelf install`, `highshelf job …`."""

from __future__ import annotations

import sys
import time
from typing import TYPE_CHECKING, Annotated, ClassVar, NoReturn, get_args

import typer

from highshelf.cli.common import (
    DONE,
    FAILED,
    LEFT,
    USAGE,
    WAITING,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    Yes,
    be_sure,
    client,
    err,
    facts,
    fail,
    listed,
    out,
    part_of,
    show,
    table,
)
from highshelf.cli.everywhere import SAID
from highshelf.cli.given import answer_of, settings_of
from highshelf.cli.leaving import leaves_with
from highshelf.cli.words import Words
from highshelf.schemas.ways import WayWanted

if TYPE_CHECKING:
    from highshelf.client import Client
    from highshelf.schemas.models import EventOut, JobOut, PlanNew, PlanOut, WayOut

app = typer.Typer(cls=Words, no_args_is_help=True, help="Jobs: what runs, what waits for an answer, what ended how.")
Release = Annotated[str, typer.Argument(help="Name, name-version or the start of the SHA-256.")]
At = Annotated[str, typer.Option(help="Where: / for the document root, /folder for a folder in it.")]
Set = Annotated[
    list[str] | None,
    typer.Option(
        "--set",
        help="A value, such as site.title='Tide diary', or field.NAME for a field that the installer calls NAME; "
        "@FILE as the value reads it from a file, - from standard input; ? makes the job ask. A secret is never given in clear: "
        "with its name alone it is asked for. Repeat it.",
    ),
]
Database = Annotated[str, typer.Option(help="none, mariadb or postgresql; found out from the release when left out.")]
Primer = Annotated[
    str, typer.Option(help="A primer for the application instead of the one that its files fit; none does without.")
]
WAYS = get_args(WayWanted)
WayName = Annotated[
    str,
    typer.Option(
        "--way",
        help="How the files go over, if not the best way: " + ", ".join(WAYS[1:]) + ".",
    ),
]
IfThere = Annotated[
    str,
    typer.Option(
        "--if-there",
        help="What becomes of what stands at the place: beside (it stays), merge (a file that both have steps aside), "
        "replace (all of it steps aside). What steps aside is kept. Refused when left out.",
    ),
]
Configure = Annotated[
    str,
    typer.Option(
        "--configure",
        help="Who makes the configuration: installer (when left out), or sample: filled in from the release's sample before anything "
        "is asked of the application.",
    ),
]
Keep = Annotated[
    bool, typer.Option("--keep", help="When the job fails, leave everything as it is instead of taking it back.")
]
SiteAddress = Annotated[
    str, typer.Option("--site", help="The address of a further site of the account; its own when left out.")
]
InSpite = Annotated[
    bool,
    typer.Option(
        "--in-spite",
        help="Install although the account surely does not meet what the release needs. On a terminal you are asked.",
    ),
]
Follow = Annotated[bool, typer.Option("--follow/--no-follow", help="Stay and tell what happens.")]
PIPE_SECONDS = 10
SHOWN = 12
CONFIGURES = ("", "installer", "sample")
IF_THERE = ("", "beside", "merge", "replace")
KINDS = ("", "none", "mariadb", "postgresql")
ABOUT_DATABASES = ("make-database", "add-database", "try-database", "import", "export", "drop-database")
UNDER_WAY = ("queued", "running", "waiting", "paused", "undoing")
EXITS = {"done": DONE, "waiting": WAITING, "paused": WAITING, "failed": FAILED, "cancelled": FAILED}


def _new(
    release: str,
    account: str,
    site: str,
    at: str,
    pairs: list[str] | None,
    database: str,
    primer: str,
    way: str,
    if_there: str,
    configure: str,
    as_json: bool,
) -> PlanNew:
    settings = settings_of(pairs or [], as_json)
    if database not in KINDS:
        fail(
            "input",
            f"--database {database} is not a kind of database",
            "say none, mariadb or postgresql",
            as_json,
            USAGE,
        )
    if way not in WAYS:
        fail("input", f"--way {way} is no way", "say one of " + ", ".join(WAYS[1:]), as_json, USAGE)
    if if_there not in IF_THERE:
        fail("input", f"--if-there {if_there} is none of them", "say " + ", ".join(IF_THERE[1:]), as_json, USAGE)
    if configure not in CONFIGURES:
        fail("input", f"--configure {configure} is neither", "say installer or sample", as_json, USAGE)
    from highshelf.schemas.models import PlanNew

    return PlanNew(
        account=account,
        site=site,
        release=release,
        at=at,
        settings=settings,
        database=database,
        primer=primer,
        way=way,
        if_there=if_there,
        configure=configure,
    )


def _some(names: list[str]) -> str:
    return ", ".join(names[:SHOWN]) + (f" and {len(names) - SHOWN} more" if len(names) > SHOWN else "")


def _about(seconds: float) -> str:
    """An estimate, no more exact than it is."""
    return f"about {max(1, seconds):.0f} s" if seconds < 90 else f"about {seconds / 60:.0f} min"


def _way_text(way: WayOut) -> str:
    return f"{way.name}, {_about(way.seconds)}: {way.reason}"


def print_plan(plan: PlanOut) -> None:
    carries = plan.kind == "install"
    others = ", ".join(f"{w.name} ({_about(w.seconds)})" for w in plan.ways[1:]) or "no other way is open"
    facts(
        [
            ("plan", plan.id),
            (plan.kind, f"{plan.application} on {plan.account}"),
            ("at", "" if plan.kind in ABOUT_DATABASES else f"{plan.target}  →  {plan.address}"),
            ("way", _way_text(plan.way) if carries else ""),
            ("if it fails", others if carries else ""),
            ("pace", f"at most {plan.pace_bytes // 1000} kB a second" if plan.pace_bytes and carries else ""),
            ("database", plan.database if carries else ""),
            ("what is there", plan.there),
            ("touches", _some(plan.touches) or "nothing that is there already"),
        ]
    )
    leg = ""
    for act in plan.acts:
        out.print(f"  [bold]{act.leg if act.leg != leg else '':<10}[/]", end="")
        out.print(act.what, markup=False)
        out.print(f"  {'':<10}[dim]by hand: [/]", end="")
        out.print(act.by_hand, markup=False, style="dim")
        leg = act.leg
    for need in plan.forbids:
        out.print("  [bold red]forbids[/]   ", end="")
        out.print(need, markup=False)
    for warning in plan.warnings:
        out.print("  [magenta]note[/]      ", end="")
        out.print(warning, markup=False)


def plan(
    release: Release,
    account: str,
    at: At = "/",
    site: SiteAddress = "",
    settings: Set = None,
    database: Database = "",
    primer: Primer = "",
    way: WayName = "",
    if_there: IfThere = "",
    configure: Configure = "",
    as_json: Json = False,
) -> None:
    """Say what an installation would do, act by act, and how to do each by hand. Nothing is changed.

    Exit code 1 means that the account surely does not meet what the release needs.
    """
    new = _new(release, account, site, at, settings, database, primer, way, if_there, configure, as_json)
    with client(as_json) as service:
        made = service.plan_make(new)
        show(made, as_json, lambda: print_plan(made))
        if made.forbids:
            raise typer.Exit(FAILED)


def install(
    release: Release,
    account: str,
    at: At = "/",
    site: SiteAddress = "",
    settings: Set = None,
    database: Database = "",
    primer: Primer = "",
    way: WayName = "",
    if_there: IfThere = "",
    configure: Configure = "",
    keep: Keep = False,
    in_spite: InSpite = False,
    yes: Yes = False,
    follow: Follow = True,
    as_json: Json = False,
) -> None:
    """Install a release on an account: make the plan, run it, tell what happens. Exit code 3 means it waits for an answer."""
    new = _new(release, account, site, at, settings, database, primer, way, if_there, configure, as_json)
    with client(as_json) as service:
        made = service.plan_make(new)
        told = _in_spite(made, in_spite, as_json)
        if if_there == "replace" and made.touches:
            be_sure(
                f"Replace what stands at {made.target} ({_some(made.touches)})? It steps aside and is kept",
                yes,
                as_json,
            )
        job = service.job_start(made.id, keep=keep, in_spite=in_spite or told)
        if not follow:
            show(
                job,
                as_json,
                lambda: out.print(
                    f"job {job.id} is started: `highshelf job follow {job.id}` tells what happens", markup=False
                ),
            )
            raise typer.Exit(DONE)
        if not as_json:
            if not told:
                print_plan(made)
            out.print(f"\njob {job.id}", markup=False)
        tell_job(service, job.id, as_json)


def _in_spite(plan: PlanOut, said: bool, as_json: bool) -> bool:
    """Show a plan that something forbids to a person on a terminal, and ask; whether it was shown, and meant all the same."""
    if not plan.forbids or said or as_json or not sys.stdin.isatty():
        return False
    print_plan(plan)
    be_sure("The install is bound to fail. Start it in spite of that?", False, as_json)
    return True


def tell_job(service: Client, job_id: str, as_json: bool, after: int = 0, *, cancels: bool = False) -> NoReturn:
    """Tell events until the job ends or asks; then leave with the exit code. `cancels`: being cancelled is what was wanted."""
    leave(service, followed(service, job_id, as_json, after, cancels=cancels), as_json, cancels=cancels)


def leave(service: Client, job: JobOut, as_json: bool, *, cancels: bool = False) -> NoReturn:
    """Tell how a job stands that is followed no longer, and end the command with its exit code."""
    show(job, as_json, lambda: _end(service, job))
    raise typer.Exit(DONE if cancels and job.state == "cancelled" else EXITS.get(job.state, FAILED))


def followed(service: Client, job_id: str, as_json: bool, after: int = 0, *, cancels: bool = False) -> JobOut:
    """The job when it has ended, asks or rests; what it tells meanwhile is told. Ctrl-C leaves it to itself."""
    line = _Line(as_json)
    with leaves_with(LEFT, _goes_on_without_you(job_id)):
        if not as_json:
            _tell_before(service, job_id)
        # What it asks may have been told before the events that are looked at.
        asks = bool(after) and not cancels and service.job_show(job_id).state == "waiting"
        for event in () if asks else service.job_events(job_id, after):
            line.tell(event)
            if event.kind == "question" and service.job_show(job_id).state == "waiting":
                break
            # Nothing comes until somebody lets it go on: that may be never.
            if event.kind == "state" and event.data.get("state") == "paused" and service.job_show(job_id).paused:
                break
    line.end()
    return service.job_show(job_id)


def _goes_on_without_you(job_id: str) -> str:
    return (
        f"\nthe job {job_id} goes on without you\n"
        f"  → `highshelf job follow {job_id}` tells what happens, `highshelf job cancel {job_id}` stops it\n"
    )


def _tell_before(service: Client, job_id: str) -> None:
    """Say behind which job this one stands, and what that one waits for: it would say nothing for as long."""
    job = service.job_show(job_id)
    if job.state != "queued":
        return
    others = [
        j for j in service.job_list(job.account, UNDER_WAY).items if j.created_at < job.created_at and j.id != job.id
    ]
    if not others:
        return
    first = min(others, key=lambda j: j.created_at)
    question = service.job_show(first.id).question
    waits = f", which waits for an answer: {question.text}" if question is not None else f", which is {first.state}"
    out.print(f"it stands behind the job {first.id} on {job.account}{waits}", markup=False)
    later = (
        "; unless both are about the same folder it gives its place back before long" if question is not None else ""
    )
    out.print(f"  → `highshelf job show {first.id}` shows it{later}", markup=False)


class _Line:
    """Progress: one line that is written over on a terminal, a line every ten seconds in a pipe."""

    MARKS: ClassVar[dict[str, str]] = {
        "act": "[green]✓[/]",
        "error": "[red]✗[/]",
        "undo": "[magenta]↶[/]",
        "question": "[magenta]?[/]",
        "cancelled": "[magenta]■[/]",
    }

    def __init__(self, quiet: bool) -> None:
        self._quiet = quiet
        self._terminal = sys.stdout.isatty()
        self._open = False
        self._leg = ""
        self._told_at = time.monotonic()

    def tell(self, event: EventOut) -> None:
        if SAID.lines:
            print(event.model_dump_json(), flush=True)
            return
        if self._quiet or SAID.quiet or event.kind in ("state", "leg"):
            return
        # What an act came to stays, with figures or without.
        passing = "bytes" in event.data and event.kind != "act"
        if passing and not self._terminal and time.monotonic() - self._told_at < PIPE_SECONDS:
            return
        self._told_at = time.monotonic()
        self.end()
        # place and database run side by side: each line says whose it is, loudly when that changes.
        style = "dim" if event.leg == self._leg else "bold"
        self._leg = event.leg
        out.print(f"{self.MARKS.get(event.kind, '[dim]·[/]')} [{style}]{event.leg:<9}[/] ", end="")
        if passing and self._terminal:
            print(event.text, end="", flush=True)
            self._open = True
            return
        out.print(event.text, markup=False)
        if hint := event.data.get("hint"):
            out.print(f"  {'':<9} → {hint}", markup=False)

    def end(self) -> None:
        if self._open:
            print("\r\x1b[K", end="")
            self._open = False


def _end(service: Client, job: JobOut) -> None:
    out.print()
    if job.state == "done" and job.kind in ABOUT_DATABASES:
        out.print(f"`highshelf database list {job.account}` shows the databases there", markup=False)
    elif job.state == "done" and not job.installation:
        out.print("it is done; what it installed was forgotten since", markup=False)
    elif job.state == "done" and job.kind != "install":
        out.print(
            f"`highshelf installation show {job.installation}` tells what is left of it, if anything", markup=False
        )
    elif job.state == "done":
        installed = service.installation_show(job.installation)
        facts(
            [
                ("site", installed.address),
                ("administration", installed.login_address),
                ("administrator", installed.admin_name or "none: this application has none of its own"),
                ("installation", installed.id),
                ("password", installed.admin_name and f"highshelf installation reveal {installed.id} application"),
                ("sheet", f"highshelf installation sheet {installed.id}"),
            ]
        )
    elif job.state == "paused" or (job.paused and job.question is None):
        out.print(f"the job rests; `highshelf job resume {job.id}` lets it go on", markup=False)
    elif job.question is not None:
        facts(
            [
                ("question", job.question.text),
                ("choices", ", ".join(job.question.options)),
                (
                    "answer",
                    f"highshelf job answer {job.id}"
                    + (" (it is asked for, unseen)" if job.question.secret else " 'your answer'"),
                ),
            ]
        )
    elif job.error is not None:
        undone = (
            "it stays where it stopped; `highshelf installation undo` goes on from there"
            if job.kind in ("undo", "remove")
            else "it stays where it stopped; `highshelf installation restore` goes on from there"
            if job.kind == "restore"
            else "everything was taken back"
            if not any(a.state in ("done", "intended", "undo-failed") for a in job.acts)
            else "left as it is; `highshelf job show` lists what was done"
        )
        # What is told when nothing else is.
        telling = err if SAID.quiet else out
        telling.print(f"[red]{job.state}[/] in {job.error['leg']}: ", end="")
        telling.print(f"{job.error['message']} ({undone})", markup=False)
        if job.error.get("hint"):
            telling.print(f"  → {job.error['hint']}", markup=False)


def ended_job(service: Client, job_id: str, as_json: bool) -> JobOut:
    """The job when it has ended; what it tells meanwhile is told on a terminal. Leaves when it waits for somebody."""
    line = _Line(as_json)
    for event in service.job_events(job_id):
        if out.is_terminal:
            line.tell(event)
        if event.kind == "question":
            tell_job(service, job_id, as_json)
    line.end()
    return service.job_show(job_id)


@app.command("list")
def listing(
    account: Annotated[str, typer.Option(help="Only this account's.")] = "",
    state: Annotated[
        list[str] | None,
        typer.Option(help="queued, running, waiting, paused, undoing, done, failed or cancelled. Repeat it."),
    ] = None,
    limit: Limit = 50,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    as_json: Json = False,
) -> None:
    """List jobs, the newest first."""
    with client(as_json) as service:
        found = service.job_list(account, tuple(state or ()), part_of(limit, offset, sort, find))
        rows = [
            [j.id, j.kind, j.account, j.application, j.state, j.created_at.strftime("%Y-%m-%d %H:%M")]
            for j in found.items
        ]
        show(
            found,
            as_json,
            lambda: listed(
                found,
                offset,
                ["job", "kind", "account", "application", "state", "started"],
                rows,
                "No job fits."
                if find or account or state
                else "No jobs yet: `highshelf install RELEASE ACCOUNT` starts the first one.",
            ),
        )


@app.command("show")
def show_job(job_id: str, as_json: Json = False) -> None:
    """Show a job: its acts, its question, how it ended."""
    with client(as_json) as service:
        job = service.job_show(job_id)

        def people() -> None:
            facts(
                [
                    ("job", job.id),
                    ("install", f"{job.application} on {job.account}"),
                    ("state", job.state),
                    ("installation", job.installation),
                ]
            )
            rows = [[a.leg, a.name, a.state, a.told] for a in job.acts]
            table(["leg", "act", "state", "what"], rows, "Nothing was done yet.")
            if job.state in ("failed", "cancelled", "waiting"):
                _end(service, job)
            for path in job.outstanding:
                out.print(f"still on the host: {path}", markup=False)

        show(job, as_json, people)


@app.command("follow")
def follow_job(job_id: str, as_json: Json = False) -> None:
    """Tell what happened and happens until the job ends or asks."""
    with client(as_json) as service:
        tell_job(service, job_id, as_json)


@app.command("answer")
def answer(
    job_id: str,
    text: Annotated[
        str | None,
        typer.Argument(
            help="The answer; @FILE, or - for standard input. Left out, it is asked for. A secret one is never taken in clear."
        ),
    ] = None,
    follow: Follow = True,
    as_json: Json = False,
) -> None:
    """Answer the job's question, and follow it on."""
    with client(as_json) as service:
        job = service.job_show(job_id)
        if job.question is None:
            fail("conflict", f"the job {job_id} asks nothing (it is {job.state})", as_json=as_json)
        given = answer_of(text, job.question.secret, as_json)
        last = max((e.id for e in service.job_log(job_id).items), default=0)
        answered = service.job_answer(job_id, job.question.id, given)
        if follow:
            tell_job(service, job_id, as_json, last)
        show(answered, as_json, lambda: out.print("answered", markup=False))


@app.command("cancel")
def cancel(
    job_id: str,
    yes: Yes = False,
    as_json: Json = False,
) -> None:
    """Stop a job and take back what it did."""
    with client(as_json) as service:
        job = service.job_show(job_id)
        if job.finished_at is None:
            be_sure(f"Cancel {job.application} on {job.account}, and take back what it did so far?", yes, as_json)
        last = max((e.id for e in service.job_log(job_id).items), default=0)
        service.job_cancel(job_id)
        tell_job(service, job_id, as_json, last, cancels=True)


@app.command("pause")
def pause(job_id: str, as_json: Json = False) -> None:
    """Let a job rest: no new byte within 2 s; what is there stays, and it goes on there later."""
    with client(as_json) as service:
        job = service.job_pause(job_id)
        show(
            job,
            as_json,
            lambda: out.print(f"it comes to rest; `highshelf job resume {job_id}` lets it go on", markup=False),
        )


@app.command("resume")
def resume(job_id: str, follow: Follow = True, as_json: Json = False) -> None:
    """Let a job that rests go on where it was, and follow it."""
    with client(as_json) as service:
        last = max((e.id for e in service.job_log(job_id).items), default=0)
        job = service.job_show(job_id)
        if job.paused or job.question is None:
            job = service.job_resume(job_id)
        elif not as_json:
            out.print("it does not rest: it waits for an answer", markup=False)
        if follow:
            tell_job(service, job_id, as_json, last)
        show(job, as_json, lambda: out.print("it goes on", markup=False))


def watch(as_json: Json = False) -> None:
    """Tell what all jobs do, live, until Ctrl-C."""
    with client(as_json) as service, leaves_with(DONE):
        for event in service.watch():
            if as_json:
                print(event.model_dump_json(), flush=True)
            elif ("bytes" not in event.data or event.kind == "act") and event.kind != "leg":
                out.print(f"{event.at:%H:%M:%S} {event.job} {event.leg:<9} {event.text}", markup=False)
