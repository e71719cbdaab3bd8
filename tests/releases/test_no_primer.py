"""Nine releases installed without a primer, each on a customer without a shell and on one whose PHP is another user.

What does not finish has to say exactly what is missing. Whatever the end, nothing that stood there is changed by it.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from highshelf.practice.moorings import build as moorings
from highshelf.practice.quaystore import build as quaystore
from highshelf.practice.seedledger import build as seedledger
from highshelf.practice.tidebook import build as tidebook
from highshelf.schemas.models import JobOut, PlanNew
from tests.releases.third_party import archive
from tests.support import Hosting, Service

DEMO: dict[str, Callable[[Path], Path]] = {
    "tidebook": tidebook.build_archive,
    "quaystore": quaystore.build_archive,
    "seedledger": seedledger.build_archive,
    "moorings": moorings.build_archive,
}
# Words of the end; "" is finished.
ENDS = {
    "tidebook": "",
    "shaarli": "",
    "ocsinventory-reports": "",
    "tt-rss": "",
    "quaystore": "",
    "seedledger": "",
    "moorings": "Module berthplan",
    "zabbix-frontend-php": "",
    "postfixadmin": "dbconfig.inc.php",
}
# Where PHP's log lies in nobody's reach, the status is all that can be told.
NO_LOG = {("postfixadmin", "yard"): "status 500"}
# Nobody there can be asked to import: an operator is, and this one says yes and does nothing.
BY_HAND = {
    ("seedledger", "yard"): "not in the database",
    ("zabbix-frontend-php", "yard"): "Cannot connect to the database",
}
# What only a manual tells, and what an operator says of an import.
MANUAL = {"first-login.name": "Admin", "first-login.password": "zabbix", "import.by-hand": "it is imported"}


def answered(service: Service, job_id: str) -> JobOut:
    """Wait for the end; what only an operator can say is said: the licence, its key."""
    for _ in range(5):
        # A hundred thousand rows of a dump take their time on a busy machine.
        job = service.wait(job_id, seconds=400)
        if job.state != "waiting":
            break
        assert job.question is not None
        accepts = job.question.value.startswith("accept.")
        said = MANUAL.get(job.question.value, "yes" if accepts else moorings.make_key(3))
        service.client.job_answer(job_id, job.question.id, said)
    return job


def _shown_in_a_browser(service: Service, job: JobOut) -> None:
    """What its scripts draw was seen, in pictures too, and the office has a name that nobody guesses."""
    client = service.client
    pages = client.job_pages(job.id).items
    drawn = [p.number for p in pages if p.pictured]
    assert len(drawn) > 5 and not pages[0].pictured
    assert client.job_picture(job.id, drawn[0]).startswith(b"\x89PNG")
    assert job.installation is not None
    (renamed,) = client.installation_show(job.installation).facts["renamed"].items()
    assert renamed[0] == "office" and renamed[1].startswith("office-") and len(renamed[1]) > 14


@pytest.mark.parametrize("key", ["choir", "yard"])
@pytest.mark.parametrize("release", ENDS)
def test_it_finishes_or_says_what_is_missing(
    clean: Hosting, service: Service, tmp_path: Path, release: str, key: str
) -> None:
    service.client.account_add(clean.new_account(key))
    with service.client as client:
        assert service.client.account_check(key).state == "done"
        before = clean.picture(key)
        made = client.release_check_in(DEMO[release](tmp_path) if release in DEMO else archive(release))
        plan = client.plan_make(PlanNew(account=key, release=made.sha256[:12], at="/here"))
        job = answered(service, client.job_start(plan.id).id)
        told = [e.text for e in client.job_log(job.id).items]
        if release == "quaystore":
            _shown_in_a_browser(service, job)
    if not ENDS[release] and (release, key) not in BY_HAND:
        assert job.state == "done", "\n".join([str(job.error), *told])
        return
    wanted = (NO_LOG | BY_HAND).get((release, key), ENDS[release])
    assert job.state == "failed" and job.error is not None and wanted in job.error["message"], (job.error, told)
    assert clean.picture(key) == before and clean.leftovers() == []
