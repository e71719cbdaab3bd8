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
from highshelf.schemas.models import PlanNew
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
    "quaystore": "needs-javascript",
    "seedledger": "not in the database",
    "moorings": "imap",
    "zabbix-frontend-php": "max_input_time",
    "postfixadmin": "dbconfig.inc.php",
}


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
        settings = {"licence.key": moorings.make_key(3)} if release == "moorings" else {}
        plan = client.plan_make(PlanNew(account=key, release=made.sha256[:12], at="/here", settings=settings))
        job = service.wait(client.job_start(plan.id).id)
        told = [e.text for e in client.job_log(job.id).items]
    if not ENDS[release]:
        assert job.state == "done", (job.error, told)
        return
    assert job.state == "failed" and job.error is not None and ENDS[release] in job.error["message"], (job, told)
    assert clean.picture(key) == before and clean.leftovers() == []
