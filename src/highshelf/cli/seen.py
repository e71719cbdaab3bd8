"""`highshelf job pages`: what a job saw of an installer, and what it did there."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from highshelf.cli.common import Json, client, facts, out, show, table

if TYPE_CHECKING:
    from highshelf.client import Client
    from highshelf.schemas.models import Listing
    from highshelf.schemas.seen import PageSeen


def add_to(jobs: typer.Typer) -> None:
    jobs.command("pages")(pages)


def pages(
    job_id: str,
    page: Annotated[int | None, typer.Option(help="One page, by its number in the list.")] = None,
    html: Annotated[
        bool, typer.Option("--html", help="With --page: its HTML alone, as it came; secrets are masked.")
    ] = False,
    pack: Annotated[
        Path | None, typer.Option("--zip", help="Write all of it into this file, for a support ticket.")
    ] = None,
    picture: Annotated[
        Path | None,
        typer.Option(
            help="With --page: write its picture (PNG) into this file; pages that a browser has shown have one."
        ),
    ] = None,
    as_json: Json = False,
) -> None:
    """Show the pages of the installer in order: how each was read, what was done on it and why."""
    with client(as_json) as service:
        if pack is not None:
            pack.write_bytes(service.job_evidence(job_id))
            out.print(f"{pack}  pages and moves of job {job_id}, secrets masked", markup=False, highlight=False)
        elif picture is not None:
            _picture(service, job_id, page, picture)
        elif page is None:
            found = service.job_pages(job_id)
            show(found, as_json, lambda: _all(found, job_id))
        else:
            _one(service, job_id, page, html=html, as_json=as_json)


def _picture(service: Client, job_id: str, page: int | None, file: Path) -> None:
    if page is None:
        raise typer.BadParameter("say of which page: --page N", param_hint="--picture")
    file.write_bytes(service.job_picture(job_id, page))
    out.print(f"{file}  page {page} of job {job_id}, secrets painted over", markup=False, highlight=False)


def _all(found: Listing[PageSeen], job_id: str) -> None:
    rows = [[str(p.number), p.title or p.url, p.topic, p.did + _with(p)] for p in found.items]
    table(["", "page", "about", "done there"], rows, f"Job {job_id} has seen no page of an installer.")


def _with(page: PageSeen) -> str:
    filled = ", ".join(dict.fromkeys(f.value for f in page.filled))
    return f" with {filled}" if filled else ""


def _one(service: Client, job_id: str, number: int, *, html: bool, as_json: bool) -> None:
    found = service.job_page(job_id, number)
    if html and not as_json:
        print(found.html)
        return
    show(found, as_json, lambda: _whole(found))


def _whole(page: PageSeen) -> None:
    said = f"{page.topic}, {page.state}" + (f", {page.outcome}" if page.outcome else "")
    facts(
        [
            ("page", page.title),
            ("address", page.url),
            ("status", page.status),
            ("answered in", f"{page.answered_seconds:.2f} s" if page.arrived_at else ""),
            ("read as", said if page.topic else ""),
            ("sure", f"{page.confidence:.0%}" if page.topic else ""),
            ("because", "; ".join(page.speaks_for)),
            ("against", "; ".join(page.against)),
            ("done there", page.did),
            ("host", page.witness),
            ("picture", f"--page {page.number} --picture FILE" if page.pictured else ""),
        ]
    )
    for one in page.filled:
        out.print(f"  {one.field} <- {one.value}", markup=False, highlight=False)
    if page.text:
        out.print("")
        out.print(page.text, markup=False, highlight=False)
