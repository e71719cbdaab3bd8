"""An installation that was taken down and kept is brought back to the byte, or not at all."""

from __future__ import annotations

from pathlib import Path

import pytest

from highshelf.client.errors import ServiceError
from tests.hosts.test_undo import install, told_of
from tests.support import WHOLE, Hosting, Service


@pytest.mark.parametrize(
    ("customer", "at"),
    [("ferry", "/"), ("choir", "/notes"), ("seeds", "/"), ("yard", "/")],
    ids=["shell, root", "no shell, folder", "sftp alone, root", "PHP another user, root"],
)
def test_one_that_was_kept_stands_again_as_it_stood(
    clean: Hosting, service: Service, tidebook: Path, customer: str, at: str
) -> None:
    with service.client as client:
        client.account_add(clean.new_account(customer))
        made = install(client, service, customer, tidebook, at)
        stood = clean.picture(customer)
        # Nobody can look into yard's and seeds' databases from their hosts: with --keep that is no reason not to.
        job = service.wait(client.job_start(client.installation_undo(made.id, keep=True).id).id)
        assert job.state == "done", told_of(client, job)
        back = client.installation_show(made.id).taken_back
        assert back is not None and back.kept_in
        assert clean.picture(customer) != stood
        plan = client.installation_restore(made.id)
        assert plan.kind == "restore" and back.kept_in in plan.touches
        job = service.wait(client.job_start(plan.id).id)
        assert (job.kind, job.state) == ("restore", "done"), told_of(client, job)
        now = clean.picture(customer)
        lost = clean.root(customer).name
        if (now["tree"][lost], stood["tree"][lost]) == (
            (oct(0o40750), *stood["tree"][lost][1:]),
            (oct(0o42750), *stood["tree"][lost][1:]),
        ):
            # The system takes the bit away when a login opens a folder of a group that it is not in (chmod(2)).
            now["tree"][lost] = stood["tree"][lost]
        assert now == stood, told_of(client, job)
        shown = client.installation_show(made.id)
        assert shown.taken_back is None
        assert shown.rechecked is not None and shown.rechecked.wrong == 0, shown.rechecked
        with pytest.raises(ServiceError, match="stands where it was put"):
            client.installation_restore(made.id)
        job = service.wait(client.job_start(client.installation_undo(made.id, changed_too=True).id).id)
        assert job.state == "done", told_of(client, job)


def test_nothing_is_overwritten_by_what_comes_back(clean: Hosting, service: Service, tidebook: Path) -> None:
    with service.client as client:
        client.account_add(clean.new_account("choir"))
        made = install(client, service, "choir", tidebook, "/notes")
        job = service.wait(client.job_start(client.installation_undo(made.id, keep=True).id).id)
        assert job.state == "done", told_of(client, job)
        (clean.root("choir") / "notes").mkdir()
        (clean.root("choir") / "notes" / "index.html").write_text("somebody else's")
        clean.own("choir")
        stood = clean.picture("choir")
        job = service.wait(client.job_start(client.installation_restore(made.id).id).id)
        assert job.state == "failed" and job.error is not None, told_of(client, job)
        assert "stands where it would come back" in job.error["message"]
        assert clean.picture("choir") == stood
        assert client.installation_show(made.id).taken_back is not None


def test_one_that_is_back_part_of_the_way_is_not_removed(clean: Hosting, service: Service, tidebook: Path) -> None:
    with service.client as client:
        client.account_add(clean.new_account("choir"))
        made = install(client, service, "choir", tidebook, "/notes")
        stood = clean.picture("choir")
        job = service.wait(client.job_start(client.installation_undo(made.id, keep=True).id).id)
        assert job.state == "done", told_of(client, job)
        back = client.installation_show(made.id).taken_back
        assert back is not None
        copy = clean.home("choir") / back.kept_in
        # As a job leaves it that brought it back and stopped before anything had moved.
        copy.rename(copy.with_name(copy.name.replace(".hs-copy-", ".hs-hold-")))
        job = service.wait(client.job_start(client.installation_remove(made.id).id).id)
        assert job.state == "failed" and job.error is not None and "part of the way" in job.error["message"]
        assert made.database in clean.databases()[0]
        job = service.wait(client.job_start(client.installation_restore(made.id).id).id)
        assert job.state == "done", told_of(client, job)
        assert clean.picture("choir") == stood


def test_one_without_its_database_is_not_brought_back(clean: Hosting, service: Service, tidebook: Path) -> None:
    with service.client as client:
        client.account_add(clean.new_account("ferry"))
        made = install(client, service, "ferry", tidebook)
        job = service.wait(client.job_start(client.installation_undo(made.id, keep=True).id).id)
        assert job.state == "done", told_of(client, job)
        clean.sql(f"DROP DATABASE `{made.database}`")
        job = service.wait(client.job_start(client.installation_restore(made.id).id).id)
        assert job.state == "failed" and job.error is not None
        assert f"{made.database} is not there any more" in job.error["message"]


def test_what_it_had_replaced_steps_aside_again(clean: Hosting, service: Service, tidebook: Path) -> None:
    with service.client as client:
        client.account_add(clean.new_account("choir"))
        first = install(client, service, "choir", tidebook, "/notes")
        second = install(client, service, "choir", tidebook, "/notes", if_there="replace")
        stood = clean.picture("choir")
        job = service.wait(client.job_start(client.installation_undo(second.id, keep=True).id).id)
        assert job.state == "done", told_of(client, job)
        assert client.installation_show(first.id).replaced_by == ""
        job = service.wait(client.job_start(client.installation_restore(second.id).id).id)
        assert job.state == "done", told_of(client, job)
        assert clean.picture("choir") == stood
        assert client.installation_show(first.id).replaced_by == second.id


# Killed after the first word of bringing it back, after the second, and so on; one of them in each run, all with HIGHSHELF_WHOLE=1.
CUTS = range(12) if WHOLE else [3]


@pytest.mark.parametrize("words", CUTS)
@pytest.mark.parametrize(("customer", "at"), [("ferry", "/"), ("choir", "/notes")])
def test_one_that_is_cut_off_while_it_comes_back_goes_on(
    clean: Hosting, service: Service, tidebook: Path, customer: str, at: str, words: int
) -> None:
    with service.client as client:
        client.account_add(clean.new_account(customer))
        made = install(client, service, customer, tidebook, at)
        stood = clean.picture(customer)
        job = service.wait(client.job_start(client.installation_undo(made.id, keep=True).id).id)
        assert job.state == "done", told_of(client, job)
        job = client.job_start(client.installation_restore(made.id).id)
        for number, event in enumerate(client.job_events(job.id)):
            if number == words or event.data.get("state") == "done":
                break
    service.kill()
    service.start()
    with service.client as client:
        done = service.wait(job.id)
        assert done.state == "done", told_of(client, done)
        assert clean.picture(customer) == stood
        assert clean.leftovers() == []
