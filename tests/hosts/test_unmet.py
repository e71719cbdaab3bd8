"""A plan that is bound to fail forbids its job: a person says that it is meant in spite of that, or mends the host first."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.schemas.models import PlanNew
from tests.support import Hosting, Service

INSTALL = """<?php
if (version_compare(PHP_VERSION, '{php}', '<')) {{ die('Tidemark needs PHP {php} or newer.'); }}
if (!extension_loaded('{extension}')) {{ die('Tidemark needs {extension}.'); }}
if (!empty($_POST['title'])) {{ file_put_contents(__DIR__ . '/mark.json', json_encode($_POST)); die('Tidemark is installed.'); }}
echo '<form method=post><label>Site title <input name=title></label><button>Install</button></form>';
"""


def tidemark(folder: Path, version: str, *, php: str = "8.0", extension: str = "mbstring") -> Path:
    path = folder / f"tidemark-{version}.zip"
    with zipfile.ZipFile(path, "w") as box:
        box.writestr(f"tidemark-{version}/install.php", INSTALL.format(php=php, extension=extension))
        box.writestr(f"tidemark-{version}/index.php", "<?php if (!is_file(__DIR__ . '/mark.json')) { header('Location: install.php'); exit; } echo '<h1>Tides</h1>';\n")  # fmt: skip
    return path


@pytest.mark.parametrize(
    ("version", "wants", "told"),
    [("1.0", {"php": "9.5"}, "PHP 9.5 or newer"), ("2.0", {"extension": "imagick"}, "PHP with imagick")],
    ids=["php", "extension"],
)
def test_what_the_account_surely_has_not_forbids_the_job(
    clean: Hosting, service: Service, tmp_path: Path, version: str, wants: dict[str, str], told: str
) -> None:
    client = service.client
    # No panel: nothing there switches extensions.
    client.account_add(clean.new_account("choir").model_copy(update={"panel": "", "panel_user": ""}))
    made = client.release_check_in(tidemark(tmp_path, version, **wants))
    before = client.plan_make(PlanNew(account="choir", release=made.sha256, at="/mark"))
    assert before.forbids == [], "nobody has looked at the account yet: then nothing is sure"
    client.account_check("choir")
    plan = client.plan_make(PlanNew(account="choir", release=made.sha256, at="/mark"))
    assert len(plan.forbids) == 1 and told in plan.forbids[0]
    assert not any(told in note for note in plan.warnings)
    with pytest.raises(ServiceError) as caught:
        client.job_start(plan.id)
    assert (caught.value.status, caught.value.fault.code) == (409, "unmet") and told in str(caught.value)

    matched = service.cli("release", "match", made.sha256[:12], "choir")
    assert matched.returncode == 1 and "bound to fail" in matched.stdout
    planned = service.cli("plan", made.sha256[:12], "choir", "--at", "/mark")
    assert planned.returncode == 1 and "forbids" in planned.stdout
    refused = service.cli("install", made.sha256[:12], "choir", "--at", "/mark")
    assert refused.returncode == 1 and "--in-spite" in refused.stderr
    assert client.job_list().total == 0

    started = service.cli_json("install", made.sha256[:12], "choir", "--at", "/mark", "--in-spite", "--no-follow")
    log = client.job_log(started["id"]).items
    assert any("started in spite of it" in e.text and told in e.text for e in log)
    assert service.wait(started["id"]).state == "failed"
    assert not (clean.root("choir") / "mark").exists()


def test_what_an_operator_knows_better_forbids_nothing(clean: Hosting, service: Service, tmp_path: Path) -> None:
    client = service.client
    client.account_add(clean.new_account("choir"))
    made = client.release_check_in(tidemark(tmp_path, "3.0", php="9.1"))
    client.account_check("choir")
    wanted = PlanNew(account="choir", release=made.sha256, at="/mark")
    assert client.plan_make(wanted).forbids
    client.release_correct(made.sha256, {"php": "8.0"})
    assert client.plan_make(wanted).forbids == []
    assert client.release_match(made.sha256, "choir").forbids is False
