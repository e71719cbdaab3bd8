"""Prove: front page, administrator's login, a wrong password, what must not be served. Only then is it an installation."""

from __future__ import annotations

from typing import Any

from highshelf.core.errors import ProofError
from highshelf.core.legs.job import Act, Ask, Done, Job, Result
from highshelf.core.legs.looking import behind, works_soon
from highshelf.core.legs.standing import note_stand
from highshelf.core.pages.reader import read
from highshelf.core.prove.again import some
from highshelf.core.prove.login import Attempt, Door, find_doors, sign_in
from highshelf.core.prove.pages import insecure
from highshelf.core.values import generate_password


def front(job: Job) -> Result:
    faults = works_soon(job)
    if faults:
        raise ProofError(faults[0], hint="look at the front page with a browser and at the host's PHP log")
    snapshot = job.fetch(fresh=True).get(job.place.address)
    page = read(snapshot)
    faults, looked = behind(job, page)
    mixed = insecure(snapshot.html, snapshot.url)
    told = f"front page answers 200 without PHP errors: “{page.title}”"
    told += f"; {looked - len(faults)} of {looked} pages that it links to answer as well" if looked else ""
    for fault in faults:
        job.say(f"the front page links to a page that does not work: {fault}")
    if mixed:
        job.say(f"the front page is secure and loads {some(mixed)} without TLS: browsers leave that out")
    known = {"behind": [fault.split(" ", 1)[0] for fault in faults], "insecure": mixed}
    return Done(told, {"title": page.title, **known})


NOBODY = "admin.none"
# The first login of an application, as its manual tells it: asked for, so often at most.
FIRST_NAME, FIRST_PASSWORD, FIRST_TRIES = "first-login.name", "first-login.password", "first-login.tries"
MOST_TRIES = 3


def _asks_for_nobody(job: Job) -> bool:
    """Whether the installer asked for no administrator's name or password, and no text tells a login."""
    used = job.journal.facts("walk", "converse").get("used", [])
    told = job.values.get("published.password") or job.values.get("told.password")
    return not {"admin.name", "admin.password"} & set(used) and not told


def door(job: Job) -> Result:
    """Find the pages with a login form."""
    known = [job.place.route(job.primer.login_address)] if job.primer and job.primer.login_address else []
    # A folder that had to be renamed before anybody may come in.
    known += [job.place.url(pair.split("\t")[1] + "/") for pair in (job.values.get("tidy.renamed") or "").splitlines()]
    ended = job.values.get("walk.ended") or ""
    doors = find_doors(
        job.fetch(fresh=True), job.place.address, [*known, *([ended] if ended.startswith(job.place.address) else [])]
    )
    if not doors and _asks_for_nobody(job):
        job.values.set(NOBODY, "yes")
        return Done(_none_told(job), {"doors": []})
    if not doors:
        raise ProofError(
            "no page was found where the administrator signs in", hint="give its address in a primer (login_address: …)"
        )
    return Done(f"login page found: {doors[0].url}", {"doors": [[d.url, d.title] for d in doors]})


def _none_told(job: Job) -> str:
    """What is known of an application where no page signs anybody in: its sources may speak against it."""
    told = "nothing asked for an administrator and no page signs one in"
    against = next((d.where for d in job.findings.details if d.what == "signs-in" and d.value == "own"), "")
    if job.findings.first_login == "own" and against:
        return f"{told}; yet {against} takes a password: whether there is an administrator is not proven"
    return f"{told}: this application has none of its own"


def _try(job: Job, url: str, password: str, name: str = "") -> Attempt:
    return sign_in(job.fetch(fresh=True), Door(url, ""), name or job.values.get("admin.name") or "", password)


def _names(job: Job) -> list[str]:
    """What may be the administrator's login: the name that the installer was given, and the address where it took one."""
    used = job.journal.facts("walk", "converse").get("used", [])
    name, mail = job.values.get("admin.name") or "", job.values.get("admin.email") or ""
    if "admin.name" not in used and (told := job.values.get("told.name")) and not job.values.get("published.password"):
        # The installer asked for no name and told one.
        return [told, *([mail] if "admin.email" in used and mail else [])]
    if "admin.email" not in used or not mail:
        return [name]
    known = "admin.name" in used or job.values.get("published.password") or job.values.get(FIRST_PASSWORD)
    return [name, mail] if known else [mail, name]


def signs_in(job: Job) -> Result:
    """Sign in as the administrator, at the first door that works."""
    if job.values.get(NOBODY) == "yes":
        return Done("nobody has to sign in here", {"url": ""})
    if (question := _first_login(job)) is not None:
        return question
    name, attempts = _names(job)[0], []
    tries = [(name, url) for name in _names(job) for url, _ in job.journal.facts("prove", "door")["doors"]]
    for name, url in tries:
        attempt = _try(job, url, job.values.get("admin.password") or "", name)
        if attempt.inside:
            job.values.set("admin.name", name)
            if word := job.values.get(FIRST_PASSWORD):
                # A word that stands in a manual is no word to hide in other texts.
                job.values.set("published.password", word, secret=True)
            return Done(f"administrator {name} {attempt.told}, at {url}", {"url": url})
        attempts.append(f"{url}: {attempt.told}")
    if _asks_for_nobody(job) and (again := _asked_again(job, attempts)) is not None:
        return again
    raise ProofError(
        f"the administrator {name} cannot sign in: " + "; ".join(attempts), hint="look at the login page by hand"
    )


def _first_login(job: Job) -> Ask | None:
    """A login that came with the application, and that nothing in the release tells, is known to whoever has read its manual."""
    if not _asks_for_nobody(job) or job.plan.settings.get("admin.name"):
        # What an operator gave is tried as it is.
        return None
    name, word = job.values.get(FIRST_NAME), job.values.get(FIRST_PASSWORD)
    if not name:
        why = (
            "The installer asked for no administrator, nothing in the release tells a login, and the application wants one at "
            f"{job.journal.facts('prove', 'door')['doors'][0][0]}. "
        )
        return Ask(FIRST_NAME, f"{why}With which name does one sign in the first time (its manual says)?")
    if not word:
        return Ask(FIRST_PASSWORD, f"And with which password does {name} sign in the first time?", secret=True)
    job.values.set("admin.name", name)
    job.values.set("admin.password", word, secret=True)
    # Whoever has the manual has it too.
    job.values.set("admin.published", "yes")
    return None


def _asked_again(job: Job, attempts: list[str]) -> Ask | None:
    tries = int(job.values.get(FIRST_TRIES) or "1")
    if tries >= MOST_TRIES:
        return None
    job.values.set(FIRST_TRIES, str(tries + 1))
    refused = job.values.get(FIRST_NAME)
    job.values.set(FIRST_NAME, "")
    job.values.set(FIRST_PASSWORD, "", secret=True)
    return Ask(
        FIRST_NAME, f"{refused} with that password is refused ({'; '.join(attempts)}). Which name is the first login's?"
    )


def wrong_password(job: Job) -> Result:
    if job.values.get(NOBODY) == "yes":
        return Done("there is no login to try a wrong password at")
    attempt = _try(job, job.journal.facts("prove", "signs-in")["url"], generate_password())
    if attempt.inside:
        raise ProofError(
            "the administrator's login accepts a wrong password", hint="do not put this site in front of the public"
        )
    return Done(f"a wrong password is refused: {attempt.told}")


def not_served(job: Job) -> Result:
    """Installer, configuration and dotfiles must not come out of the web server."""
    checked: list[str] = []
    secrets = [s for s in job.values.secrets() if len(s) > 7]
    fetch = job.fetch(fresh=True)
    kept = job.values.get("tidy.kept") or ""
    for path in job.findings.installers[:6]:
        if kept and path.startswith(tuple(kept.split(", "))):
            continue
        snapshot = fetch.get(job.place.url(path))
        page = read(snapshot)
        if (
            snapshot.status == 200
            and any(f.typed and f.kind == "password" for form in page.forms for f in form.fields)
            and job.place.url(path) == snapshot.url
        ):
            raise ProofError(f"the installer still answers at {path}")
        checked.append(f"{path}: {snapshot.status}")
    for path in (job.values.get("configuration.files") or "").split():
        snapshot = fetch.get(job.place.url(path))
        if snapshot.status == 200 and any(s in snapshot.html for s in secrets):
            raise ProofError(f"the web server shows the configuration {path}", hint="deny it in .htaccess")
        checked.append(f"{path}: {snapshot.status}, nothing of it shown")
    for path in [p for p in job.findings.dotfiles if p.rsplit("/", 1)[-1].startswith(".ht")][:6]:
        snapshot = fetch.get(job.place.url(path))
        if snapshot.status == 200:
            raise ProofError(f"the web server shows {path}", hint="deny files that begin with .ht")
        checked.append(f"{path}: {snapshot.status}")
    names = [c.split(":")[0] for c in checked]
    told = ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
    return Done(
        f"not shown by the web server: {told}" if told else "there is nothing that must not be served",
        {"checked": checked},
    )


def register(job: Job) -> Result:
    facts: dict[str, Any] = {
        "door": job.journal.facts("prove", "signs-in")["url"],
        "title": job.journal.facts("prove", "front").get("title", ""),
    }
    number = job.register(facts)
    return Done(f"installation {number} is written down", {"installation": number})


ACTS = (
    Act("front", front),
    Act("door", door),
    Act("signs-in", signs_in),
    Act("wrong-password", wrong_password),
    Act("not-served", not_served),
    Act("stand", note_stand),
    Act("register", register),
)
