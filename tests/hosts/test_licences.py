"""Licence keys: filed for a customer, taken by one installation, given back when it is taken back."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.practice.moorings.build import MODULE_FOLDER, build_archive, build_module, make_key
from highshelf.schemas.models import PlanNew
from highshelf.schemas.shelf import LicenceNew
from tests.support import Hosting, Service


@pytest.fixture
def moorings(clean: Hosting, service: Service, tmp_path: Path) -> str:
    """Moorings on the shelf, out of its two archives, and two accounts."""
    service.client.account_add(clean.new_account("ferry"))
    service.client.account_add(clean.new_account("choir"))
    part = f"{MODULE_FOLDER}={build_module(tmp_path)}"
    release = service.cli_json("release", "check-in", str(build_archive(tmp_path)), "--part", part)
    assert release["name"] == "moorings" and release["files"] > 15
    return str(release["sha256"])


def filed(service: Service, release: str, account: str, seed: int, *more: str) -> str:
    told = service.cli("licence", "add", release, account, "--key-file", "-", *more, text=make_key(seed) + "\n")
    assert told.returncode == 0 and make_key(seed) not in told.stdout, told.stderr
    return told.stdout.split()[1].rstrip(":")


def planned(service: Service, release: str, account: str, **more: object) -> str:
    plan = PlanNew.model_validate({"account": account, "release": release, "at": "/harbour", **more})
    return service.client.plan_make(plan).id


def to_its_licence(service: Service, moorings: str) -> str:
    """A job that stands before the question whether the licence is agreed to; its key is filed and taken."""
    licence = filed(service, moorings, "ferry", 1)
    job = service.client.job_start(planned(service, moorings, "ferry"))
    assert service.client.licence_list().items[0].used_by == [job.id]
    # A second job may not have it meanwhile; nor may it be forgotten.
    with pytest.raises(ServiceError) as fault:
        service.client.licence_remove(licence)
    assert "is using this key" in fault.value.fault.message
    waiting = service.wait(job.id)
    assert waiting.state == "waiting" and waiting.question is not None, waiting.error
    assert "agree" in waiting.question.text
    return str(job.id)


def test_a_key_goes_into_its_field_and_the_proof_that_the_installer_wanted_goes_again(
    clean: Hosting, service: Service, moorings: str
) -> None:
    job = to_its_licence(service, moorings)
    question = service.client.job_show(job).question
    assert question is not None
    service.client.job_answer(job, question.id, "yes")
    ended = service.wait(job)
    assert ended.state == "done", ended.error
    log = [e.text for e in service.client.job_log(job).items]
    assert any("Check the key with licence (key)" in text for text in log if "press" in text), log
    # The file that shows whose the place is was made, and did not stay.
    [placed] = [text for text in log if "the installer asks for moorings-proof-" in text]
    proof = re.findall(r"moorings-proof-\w+\.txt", placed)[0]
    assert any(proof in text and "was taken away again" in text for text in log), log
    assert not (clean.root("ferry") / "harbour" / proof).exists()
    assert (clean.root("ferry") / "harbour/index.php").exists()
    assert service.client.licence_list().items[0].used_by != []
    assert make_key(1) not in " ".join(log)
    evidence = [p for p in (service.data / "evidence").rglob("*.json") if make_key(1) in p.read_text()]
    assert evidence == []
    # Its last page tells in a sentence as whom one signs in, and the page behind the door wants another password than everybody's.
    [made] = service.client.installation_list().items
    assert made.admin_name == "harbourmaster" and made.facts["published_login"] is False
    assert any("one of the job's own now" in text for text in log), log
    assert service.client.installation_reveal(made.id, "application").secrets["application"] != "ebbandflow"


def test_a_key_is_free_again_when_the_job_is_taken_back(clean: Hosting, service: Service, moorings: str) -> None:
    job = to_its_licence(service, moorings)
    service.client.job_cancel(job)
    service.wait(job, ("cancelled",))
    assert service.client.licence_list().items[0].used_by == []
    assert clean.leftovers() == []


def test_one_key_is_for_one_installation_unless_it_was_said(service: Service, moorings: str) -> None:
    licence = filed(service, moorings, "ferry", 2)
    first, second = planned(service, moorings, "ferry"), planned(service, moorings, "ferry")
    with service.client as client:
        job = client.job_start(first)
        with pytest.raises(ServiceError) as fault:
            client.job_start(second)
        assert fault.value.fault.code == "conflict" and "--several" in fault.value.fault.hint
        # A plan made now knows that none is free, and another customer's keys are nobody else's.
        told = client.plan_show(planned(service, moorings, "ferry"))
        assert any("is used already" in w for w in told.warnings)
        other = client.plan_show(planned(service, moorings, "choir"))
        assert not any("licence key" in w for w in other.warnings)
        assert service.cli("licence", "change", licence, "--several").returncode == 0
        assert client.job_start(second).state == "queued"
        for one in (job.id, client.job_list().items[0].id):
            client.job_cancel(one)
        service.wait(job.id, ("cancelled", "failed"))


def test_keys_are_sealed_listed_without_the_key_and_shown_to_who_asks(service: Service, moorings: str) -> None:
    licence = filed(service, moorings, "ferry", 3)
    key = make_key(3)
    listed = service.cli("licence", "list", "--account", "ferry")
    assert licence in listed.stdout and "…" + key[-4:] in listed.stdout and key not in listed.stdout
    with pytest.raises(ServiceError) as fault:
        service.client.licence_add(LicenceNew.model_validate({"release": moorings, "account": "choir", "key": key}))
    assert "filed already" in fault.value.fault.message
    kept = [p for p in service.data.rglob("*") if p.is_file()]
    assert [p.name for p in kept if key.encode() in p.read_bytes()] == []
    assert service.cli("licence", "reveal", licence).stdout.strip() == key
    assert service.cli("licence", "remove", licence).returncode == 0
    assert "No licence key is filed" in service.cli("licence", "list").stderr
    gone = service.cli("licence", "reveal", licence)
    assert gone.returncode == 2 and "there is no licence" in gone.stderr


def test_a_key_given_with_the_plan_is_used_instead(service: Service, moorings: str) -> None:
    licence = filed(service, moorings, "ferry", 4)
    with service.client as client:
        job = client.job_start(planned(service, moorings, "ferry", settings={"licence.key": make_key(5)}))
        assert next(x for x in client.licence_list().items if x.id == licence).used_by == []
        client.job_cancel(job.id)
        service.wait(job.id, ("cancelled", "failed"))


def test_an_account_that_is_forgotten_takes_its_keys_along(clean: Hosting, service: Service, moorings: str) -> None:
    filed(service, moorings, "ferry", 6)
    filed(service, moorings, "choir", 7)
    with service.client as client:
        client.account_remove("ferry")
        client.account_add(clean.new_account("ferry"))
        # Whoever bears the name next does not get another customer's key.
        assert [x.account for x in client.licence_list().items] == ["choir"]
