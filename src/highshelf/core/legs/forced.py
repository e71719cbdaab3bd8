"""A login that everybody knows, where the application itself wants another password before it lets anybody on."""

from __future__ import annotations

from urllib.parse import urlsplit

from highshelf.core.errors import ProofError
from highshelf.core.legs.job import Done, Job, Result
from highshelf.core.pages.page import Page
from highshelf.core.pages.reader import read
from highshelf.core.ports import Fetch
from highshelf.core.prove.forced import Wanted, answer, wants_new
from highshelf.core.prove.login import Door, find_doors, sign_in
from highshelf.core.values import generate_password

CHANGED = "changed.password"
KEPT = "the application has the login its maker publishes; the sheet says to change it"


def change_as_asked(job: Job) -> Result:
    """Sign in with what its maker publishes; where a new password is asked for at once, give one of the job's own.

    Nothing is pressed where it is merely offered. The new one is in the strongbox before it is sent, and believed once it opens the door
    and the old one does not.
    """
    name, old = job.values.get("admin.name") or "", job.values.get("published.password") or ""
    known = [job.place.route(job.primer.login_address)] if job.primer and job.primer.login_address else []
    doors = find_doors(job.fetch(fresh=True), job.place.address, known)
    new = job.values.get(CHANGED)
    if new and (at := next((d for d in doors if sign_in(job.fetch(fresh=True), d, name, new).inside), None)):
        return _believed(job, at, name, old, new)
    for door in doors:
        fetch = job.fetch(fresh=True)
        attempt = sign_in(fetch, door, name, old)
        wanted = wants_new(attempt.page) if attempt.inside else None
        if wanted is None:
            continue
        new = generate_password()
        job.values.set(CHANGED, new, secret=True)
        job.journal.intend("tidy", "change-login", {"prepared": True})
        after = _send(fetch, attempt.page, wanted, answer(wanted, old, new))
        if sign_in(job.fetch(fresh=True), door, name, new).inside:
            return _believed(job, door, name, old, new)
        new_words = [text for text in after.told if text not in attempt.page.told]
        said = next(iter([*after.complaints(), *new_words]), f"it shows “{after.title or after.url}”")
        # Before it is cut: the half of a password that a page repeats would not be known as one.
        said = said.replace(new, "•••")
        if sign_in(job.fetch(fresh=True), door, name, old).inside:
            return Done(
                f"the application wants another password than its maker's and did not take ours ({said[:160]}); the sheet says to change it"
            )
        raise ProofError(
            f"neither the published password of {name} nor the new one opens {door.url}: {said[:160]}",
            hint="sign in by hand; the new password is in the strongbox with the job",
        )
    return Done(KEPT)


def _believed(job: Job, door: Door, name: str, old: str, new: str) -> Result:
    if sign_in(job.fetch(fresh=True), door, name, old).inside:
        return Done(
            "the application took a new password, and the one its maker publishes still opens it: the sheet says to change it"
        )
    job.values.set("admin.password", new, secret=True)
    job.values.set("admin.published", "changed")
    return Done(
        "the application asked for another password than the one its maker publishes: it has one of the job's own now"
    )


def _send(fetch: Fetch, page: Page, wanted: Wanted, fields: list[tuple[str, str]]) -> Page:
    url = wanted.button.target if wanted.button is not None and wanted.button.target else wanted.form.action
    if wanted.form.method == "get":
        # A password in an address stands in the server's log.
        return page
    if urlsplit(url).netloc != urlsplit(page.url).netloc:
        return page
    return read(fetch.post(url, fields, multipart=wanted.form.multipart))
