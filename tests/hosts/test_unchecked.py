"""A release with a web folder on an account that nobody has checked: its address ends in that folder, and the plan said so."""

from __future__ import annotations

from pathlib import Path

import httpx
import pytest

from highshelf.practice.seedledger.build import build_archive
from highshelf.schemas.models import PlanNew
from tests.releases.test_no_primer import answered
from tests.support import Hosting, Service


@pytest.mark.parametrize(("key", "at"), [("ferry", "/here"), ("choir", "/")])
def test_a_web_folder_on_an_account_that_was_never_checked(
    clean: Hosting, service: Service, tmp_path: Path, key: str, at: str
) -> None:
    service.client.account_add(clean.new_account(key))
    with service.client as client:
        made = client.release_check_in(build_archive(tmp_path))
        plan = client.plan_make(PlanNew(account=key, release=made.sha256[:12], at=at))
        job = answered(service, client.job_start(plan.id).id)
        assert job.state == "done", "\n".join([str(job.error), *(e.text for e in client.job_log(job.id).items)])
        assert job.installation is not None
        stands = client.installation_show(job.installation)
    said = " ".join(plan.warnings)
    assert f"the application's address will be {plan.address}" in said and f"account check {key}" in said
    assert plan.address.endswith("/public/") and stands.address == plan.address
    direct = plan.address.replace("choir.saltmarsh.example", "127.0.0.1")
    headers = {"Host": httpx.URL(plan.address).netloc.decode()}
    above = direct.removesuffix("public/")
    for path in ("database/seedledger.mysql.sql", "README.md", "composer.json"):
        assert httpx.get(above + path, headers=headers).status_code == 403, path
    assert httpx.get(direct, headers=headers).status_code == 200
    walked = next(a["told"] for a in stands.facts["acts"] if a["act"] == "converse")
    assert "wrote config/settings.php" in walked and "hs-" not in walked
    told = next(a["told"] for a in stands.facts["acts"] if a["act"] == "shut-away")
    assert told.startswith("shut to visitors: ") and "still" not in told and stands.facts["shown"] == []
    with service.client as client:
        found = client.installation_inspect(stands.id)
        assert found.unexplained == 0 and any("rules of High Shelf" in d.why for d in found.extra), found
        again = service.wait(client.installation_recheck(stands.id).id)
        seen = {one["name"]: one["state"] for one in client.installation_show(stands.id).facts["rechecked"]["seen"]}
        assert again.state == "done" and seen["served"] == "right" and "wrong" not in seen.values(), seen
