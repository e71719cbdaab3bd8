"""`highshelf release …`: the shelf."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from highshelf.cli.common import (
    FAILED,
    USAGE,
    Find,
    Json,
    Limit,
    Offset,
    Sort,
    amount,
    client,
    err,
    facts,
    fail,
    listed,
    out,
    part_of,
    printable,
    show,
    table,
)
from highshelf.cli.words import Words

if TYPE_CHECKING:
    from highshelf.client import Client
    from highshelf.schemas.models import ReleaseOut
    from highshelf.schemas.shelf import MatchLineOut

app = typer.Typer(cls=Words, no_args_is_help=True, help="Releases on the shelf: archives checked in once, used often.")


Release = Annotated[str, typer.Argument(help="Name, name-version or the start of the SHA-256.")]


def print_release(release: ReleaseOut) -> None:
    """What is known of a release, for people."""
    found = release.findings
    pre = ", a pre-release" if found.get("pre_release") else ""
    facts(
        [
            ("release", f"{release.name} {release.version}{pre}"),
            ("sha-256", release.sha256),
            ("FAULTY", release.fault),
            (
                "archive",
                f"{release.file_name} ({found.get('packed') or release.format}), {amount(release.size_bytes)} packed, "
                f"{amount(release.unpacked_bytes)} in {release.files} files",
            ),
            ("packed for hosts", ", ".join(f"{form} {amount(size)}" for form, size in sorted(release.forms.items()))),
            ("from", release.origin.get("address", "")),
            ("compared", "; ".join(release.origin.get("compared", [])) or ("with nothing" if release.origin else "")),
            ("wrapper", found.get("wrapper") or "none: the files lie at the top"),
            (
                "web folder",
                f"{found['web_folder']}/, the rest outside the document root" if found.get("web_folder") else "",
            ),
            ("PHP", _php(found)),
            ("extensions", _listed(found, "extensions") or "none that are not always there"),
            ("one of", "; ".join(found.get("alternatives") or [])),
            ("wished for", _listed(found, "wished_extensions")),
            ("PHP settings", ", ".join(f"{n} {v}" for n, v in (found.get("php_settings") or {}).items())),
            ("database", _databases(found) or "no connection to one was found"),
            ("installer", _listed(found, "installers", 4) or _routes(found) or _by_deeds(found) or "none was found"),
            ("first login", _first_login(found)),
            ("corrected", ", ".join(found.get("corrected") or {})),
            ("in the terminal", _listed(found, "terminal_installers", 4)),
            ("unquoted names", _unquoted(found)),
            ("samples", _listed(found, "samples", 4)),
            ("SQL files", _dumps(found)),
            ("writable", _listed(found, "writable", 8)),
            ("administration", _listed(found, "administration")),
            (
                "JavaScript",
                "parts only run with it: " + _listed(found, "javascript", 3) if found.get("javascript") else "",
            ),
            ("rewriting", "its .htaccess rewrites addresses" if found.get("rewriting") else ""),
            ("texts", _listed(found, "readmes", 8)),
            ("licence", _listed(found, "licences")),
            ("dotfiles", _listed(found, "dotfiles", 6)),
            ("heed", "\n".join(found.get("notes", [])[:12])),
        ]
    )


FIRST_LOGINS = {
    "asked": "its installer takes the administrator's name and password",
    "own": "pages sign people in; nothing tells how the first of them is made",
    "server": "signing in is left to the web server",
    "none": "nothing was found that signs anybody in",
}


def _first_login(found: dict[str, Any]) -> str:
    if told := found.get("published_login"):
        return f"published: {' / '.join(told)}"
    return FIRST_LOGINS.get(found.get("first_login") or "", "")


def _unquoted(found: dict[str, Any]) -> str:
    places = _listed(found, "unquoted_names", 3)
    return f"the database's name, in {places}: one with a hyphen may break there" if places else ""


def _routes(found: dict[str, Any]) -> str:
    routes = found.get("installer_routes") or []
    return f"at the address {', '.join('/' + r for r in routes)}, no file of its own" if routes else ""


def _listed(found: dict[str, Any], name: str, most: int = 20) -> str:
    values = [str(v) for v in found.get(name) or []]
    return ", ".join(values[:most]) + (f" and {len(values) - most} more" if len(values) > most else "")


def _by_deeds(found: dict[str, Any]) -> str:
    """What no name calls an installer, and takes a database's login all the same."""
    files = _listed(found, "setting_up", 4)
    return f"{files} (by what it does)" if files else ""


def _php(found: dict[str, Any]) -> str:
    parts = [
        f"{found['php']} or newer" if found.get("php") else "",
        f"older than {found['php_below']}" if found.get("php_below") else "",
    ]
    return ", ".join(p for p in parts if p) or ("nothing says which" if found.get("has_php") else "there is none in it")


def _databases(found: dict[str, Any]) -> str:
    versions = found.get("database_versions") or {}
    return " or ".join(f"{k} {versions[k]} or newer" if k in versions else k for k in found.get("databases") or [])


def _dumps(found: dict[str, Any]) -> str:
    insists = _listed(found, "dump_databases")
    return _listed(found, "dumps", 4) + (f" (for a database called {insists})" if insists else "")


def _evidence(release: ReleaseOut) -> None:
    found = release.findings
    rows = [
        [name.replace("_", " "), _said(found.get(name)), how_sure(sure)] for name, sure in found.get("sure", {}).items()
    ]
    table(["finding", "is", "how sure"], rows, "It was checked in before findings were weighed.")
    _corrections(release)
    out.print("")
    fields = [
        [f["field"], _for(f), f["where"], how_sure(f["sure"]) if f["value"] else ""] for f in found.get("fields", [])
    ]
    if fields:
        table(["field of its installer", "is for", "where its source says so", "how sure"], fields, "")
        out.print("")
    clues = [[d["what"], d["value"], d["where"], f"{d['sure']:.0%}"] for d in found.get("details", [])]
    table(["clue", "says", "where", "weight"], clues, "Nothing in it speaks for itself.")


def _for(told: dict[str, Any]) -> str:
    """What the installer's source does with a field, for people."""
    ways = [
        "another server" if told["value"] == "foreign" else told["value"],
        *(f"or {other}" for other in told["others"]),
        f"the same as {told['again']}" if told["again"] else "",
        "an address for mail" if told["mail"] else "",
        f"at least {told['least']} letters" if told["least"] else "",
        f"at most {told['most']} letters" if told["most"] else "",
    ]
    return ", ".join(w for w in ways if w) or "nothing says so"


def _corrections(release: ReleaseOut) -> None:
    """What an operator knew better, beside what was read."""
    for name, kept in release.findings.get("corrected", {}).items():
        now, was = _said(release.findings.get(name)), _said(kept["was"])
        out.print(f"{name} is {now} by {kept['by']}, {kept['at']}; read was {was}", markup=False, highlight=False)


def _said(value: object) -> str:
    """A finding's value, for people."""
    if isinstance(value, dict):
        value = [f"{name} {wanted}" for name, wanted in value.items()]
    if isinstance(value, list):
        return (
            ", ".join(map(str, value[:6])) + (f" and {len(value) - 6} more" if len(value) > 6 else "") or "none found"
        )
    return str(value) if value not in ("", None) else "nothing says so"


def _is(name: str, value: object) -> str:
    return "the root itself" if name == "web_folder" and not value else _said(value)


def _how(value: object, share: float) -> str:
    return "only not found" if not value and share < 0.45 else how_sure(share)


def how_sure(share: float) -> str:
    """How a plan treats it: from three quarters on it is acted on, below a half it is a guess."""
    word = "sure" if share >= 0.75 else "likely" if share >= 0.45 else "a guess"
    return f"{word} ({share:.0%})"


Accept = Annotated[
    list[str] | None,
    typer.Option("--accept", help="Let in a danger by its word, such as links or letter-case. May be repeated."),
]


@app.command("check-in")
def check_in(
    archive: Annotated[Path, typer.Argument(help="zip, tar, tar.gz, tar.bz2, tar.xz, tar.zst or 7z.")],
    part: Annotated[
        list[str] | None,
        typer.Option(
            "--part",
            help="FOLDER=FILE: a further archive of the same release and where its contents belong. May be repeated.",
        ),
    ] = None,
    accept: Accept = None,
    as_json: Json = False,
) -> None:
    """Check in a release's archive: hashed, read, kept. The same bytes twice are one release."""
    parts = [("", archive), *(_part(p, as_json) for p in part or [])]
    for _, path in parts:
        if not path.is_file():
            fail("input", f"there is no file {path}", "give the path of the release's archive", as_json, USAGE)
    with client(as_json) as service:
        before = {r.sha256 for r in service.release_list().items} if len(parts) > 1 else set()
        sent = [_send(service, path, accept or [], as_json) for _, path in parts]
        release = sent[0]
        if len(parts) > 1:
            release = service.release_join([(r.sha256, f) for r, (f, _) in zip(sent, parts, strict=True)], accept or [])
            # Parts that came only for this release are in it now, and are no releases of their own.
            for one in {r.sha256 for r in sent} - before:
                service.release_remove(one)
        show(release, as_json, lambda: print_release(release))


def _part(text: str, as_json: bool) -> tuple[str, Path]:
    folder, equals, path = text.partition("=")
    if not equals or not path:
        fail(
            "input",
            f"{text} is no FOLDER=FILE",
            "such as --part addons=tides-2.zip; an empty folder is the root",
            as_json,
            USAGE,
        )
    return folder, Path(path)


def _send(service: Client, archive: Path, accept: list[str], as_json: bool) -> ReleaseOut:
    size = archive.stat().st_size
    terminal = sys.stderr.isatty() and not as_json

    def sent(count: int) -> None:
        if terminal:
            err.print(
                f"\r{archive.name}: {amount(count)} of {amount(size)}" + (", reading it" if count == size else ""),
                end="\n" if count == size else "",
            )

    from highshelf.client import calls

    return service.send(calls.release_check_in(archive, accept), sent)


@app.command("list")
def listing(limit: Limit = 50, offset: Offset = 0, sort: Sort = "", find: Find = "", as_json: Json = False) -> None:
    """List what stands on the shelf, the newest first."""
    with client(as_json) as service:
        found = service.release_list(part_of(limit, offset, sort, find))
        rows = [
            [
                r.name,
                r.version,
                r.sha256[:12],
                amount(r.size_bytes),
                str(r.files),
                r.checked_in_at.strftime("%Y-%m-%d %H:%M"),
            ]
            for r in found.items
        ]
        show(
            found,
            as_json,
            lambda: listed(
                found,
                offset,
                ["name", "version", "sha-256", "packed", "files", "checked in"],
                rows,
                "No release fits."
                if find
                else "The shelf is empty: `highshelf release check-in FILE` puts the first release there.",
            ),
        )


@app.command("show")
def show_release(
    ref: Release,
    evidence: Annotated[
        bool, typer.Option("--evidence", help="Also list what was read where, and how sure it is.")
    ] = False,
    as_json: Json = False,
) -> None:
    """Show what was read out of a release."""
    with client(as_json) as service:
        release = service.release_show(ref)

        def tell() -> None:
            print_release(release)
            if evidence:
                _evidence(release)

        show(release, as_json, tell)


@app.command("join")
def join(
    release: Release,
    part: Annotated[
        list[str], typer.Argument(help="FOLDER=RELEASE: another release on the shelf and where its contents belong.")
    ],
    accept: Accept = None,
    as_json: Json = False,
) -> None:
    """Make one release out of several on the shelf; they stay what they are."""
    parts = [(release, ""), *((str(p), f) for f, p in (_part(text, as_json) for text in part))]
    with client(as_json) as service:
        made = service.release_join(parts, accept or [])
        show(made, as_json, lambda: print_release(made))


@app.command("correct")
def correct(
    ref: Release,
    values: Annotated[
        list[str] | None,
        typer.Argument(
            help="FINDING=VALUE, such as php=8.1 or extensions=gd,mbstring; nothing behind the sign is none. May be repeated."
        ),
    ] = None,
    reset: Annotated[
        list[str] | None,
        typer.Option("--as-read", help="Take a correction back, by the finding's name. May be repeated."),
    ] = None,
    as_json: Json = False,
) -> None:
    """Say what is right where something was read wrongly; plans go by it."""
    given: dict[str, str | None] = dict.fromkeys(reset or [])
    for text in values or []:
        name, sign, value = text.partition("=")
        if not sign:
            fail("input", f"{text} is no FINDING=VALUE", "such as php=8.1", as_json, USAGE)
        given[name.replace("-", "_")] = value
    if not given:
        fail("input", "nothing to correct was given", "such as php=8.1, or --as-read php", as_json, USAGE)
    with client(as_json) as service:
        release = service.release_correct(ref, given)

        def tell() -> None:
            print_release(release)
            _corrections(release)

        show(release, as_json, tell)


@app.command("texts")
def texts(ref: Release, as_json: Json = False) -> None:
    """List the readmes, installation texts and licences in a release."""
    with client(as_json) as service:
        found = service.release_texts(ref)
        rows = [[t.path, str(t.size_bytes)] for t in found.items]
        show(found, as_json, lambda: table(["path", "bytes"], rows, "It has no texts for people."))


@app.command("read")
def read(
    ref: Release,
    path: Annotated[str, typer.Argument(help="Which text; without it the installation text, or else the readme.")] = "",
    as_json: Json = False,
) -> None:
    """Read a text of a release."""
    with client(as_json) as service:
        found = service.release_read(ref, path)

        def tell() -> None:
            err.print(f"{found.path}, {found.size_bytes} bytes", style="dim")
            out.print(printable(found.text), markup=False, highlight=False, soft_wrap=True)

        show(found, as_json, tell)


@app.command("compare")
def compare(before: Release, after: Release, as_json: Json = False) -> None:
    """Compare two releases: files added, changed, removed, and what the second needs otherwise."""
    with client(as_json) as service:
        found = service.release_compare(before, after)

        def tell() -> None:
            out.print(f"from {found.before} to {found.after}", markup=False)
            out.print(
                f"{found.added_count} files added, {found.changed_count} changed, {found.removed_count} removed, {found.same} the same"
            )
            if found.needs:
                table(["need", "before", "after"], [[n.what, n.before, n.after] for n in found.needs], "")
            rows = [
                [how, p]
                for how, paths in (("added", found.added), ("changed", found.changed), ("removed", found.removed))
                for p in paths[:40]
            ]
            table(["", "file"], rows, "No file differs.")
            if (hidden := found.added_count + found.changed_count + found.removed_count - len(rows)) > 0:
                err.print(f"and {hidden} more files: --json has them", style="dim")

        show(found, as_json, tell)


@app.command("match")
def match(
    ref: Release,
    account: Annotated[str, typer.Argument(help="An account that was checked.")],
    as_json: Json = False,
) -> None:
    """Tell whether a release will run on an account: what fits, what will be red, and who can mend it.

    Exit code 1 means that an install is bound to fail.
    """
    with client(as_json) as service:
        found = service.release_match(ref, account)

        def tell() -> None:
            when = (
                f"as surveyed {found.checked_at:%Y-%m-%d %H:%M}"
                if found.checked_at
                else f"never surveyed: `highshelf account check {account}`"
            )
            out.print(f"{found.release} on {account}, {when}", markup=False)
            rows = [[m.verdict, _need(m), m.has, _mended(m)] for m in found.lines]
            table(
                ["", "the release wants", "the account has", "who mends it, and how"],
                rows,
                "It needs nothing in particular.",
            )
            if found.forbids:
                out.print("An install is bound to fail until what is red is mended.", style="bold")

        show(found, as_json, tell)
        if found.forbids:
            raise typer.Exit(FAILED)


def _need(line: MatchLineOut) -> str:
    return f"{line.need} ({line.where})" if line.where and line.verdict != "fits" else line.need


def _mended(line: MatchLineOut) -> str:
    return f"{line.by}: {line.how}" if line.by else line.how


@app.command("files")
def files(
    ref: Annotated[str, typer.Argument(help="Name, name-version or the start of the SHA-256.")],
    limit: Limit = 100,
    offset: Offset = 0,
    sort: Sort = "",
    find: Find = "",
    as_json: Json = False,
) -> None:
    """List a release's files as they will stand on the host."""
    with client(as_json) as service:
        found = service.release_files(ref, part_of(limit, offset, sort, find))
        rows = [[f.path, str(f.size_bytes), f.sha256[:16]] for f in found.items]
        show(found, as_json, lambda: listed(found, offset, ["path", "bytes", "sha-256"], rows, "No file fits."))


@app.command("remove")
def remove(
    ref: Annotated[str, typer.Argument(help="Name, name-version or the start of the SHA-256.")], as_json: Json = False
) -> None:
    """Take a release off the shelf; refused while an installation or a running job needs it."""
    with client(as_json) as service:
        release = service.release_show(ref)
        service.release_remove(release.sha256)
        show(release, as_json, lambda: out.print(f"{release.name} {release.version} is off the shelf", markup=False))
