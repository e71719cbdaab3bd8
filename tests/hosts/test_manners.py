"""Commands as they are used in scripts and by hand: help, versions, secrets, Ctrl-C, exit codes, streams."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from highshelf.client import Client
from highshelf.schemas.models import PlanNew
from tests.support import Hosting, Service


@pytest.fixture
def ready(clean: Hosting, service: Service, tidebook: Path) -> Service:
    service.client.account_add(clean.new_account("ferry"))
    service.client.release_check_in(tidebook)
    return service


SAID = [
    (["--version"], 0, "highshelf 0."),
    (["-h"], 0, "--install-completion"),
    (["help"], 0, "Commands:"),
    (["help", "job", "answer"], 0, "highshelf job answer"),
    (["job", "answer", "-h"], 0, "Left out, it is asked for"),
    (["help", "jub"], 2, "did you mean job?"),
    (["help", "job", "anser"], 2, "did you mean answer?"),
    (["job", "anser"], 2, "Did you mean answer"),
    (["installation", "revel"], 2, "No such command"),
    (["help", "licence", "revela"], 2, "there is no command"),
    (["install", "x", "y", "--set", "admin.password=abc"], 2, "admin.password=@FILE"),
    (["install", "x", "y", "--set", "field.smtp_pwd=abc"], 2, "is a secret"),
    (["install", "x", "y", "--set", "licence.key=abc"], 2, "standard input"),
    (["install", "x", "y", "--set", "admin.password"], 2, "has no value"),
    (["install", "x", "y", "--set", "site.title=@/nowhere/at/all"], 2, "cannot be read"),
    (["install", "x", "y", "--set", "a=-", "--set", "b=-"], 2, "only one value"),
    (["account", "show", "Fery"], 2, "did you mean ferry?"),
    (["release", "show", "tidebok"], 2, "did you mean tidebook?"),
    (["plan", "tidebook-1.4.3", "ferry"], 2, "did you mean tidebook-1.4.2?"),
    (["account", "show", "nothing-like-it"], 2, "`highshelf account list` shows what there is"),
    (["install", "x", "y", "--configure", "both"], 2, "say installer or sample"),
]


def test_what_commands_say(ready: Service) -> None:
    for words, code, part in SAID:
        done = ready.cli(*words)
        assert done.returncode == code, (words, done.stdout, done.stderr)
        # Help is folded to the terminal's width.
        assert not re.search(r"mean.*\breveals?\b", done.stderr), "what shows secrets is never offered"
        assert part in " ".join((done.stdout if code == 0 else done.stderr).split()), (words, done.stdout, done.stderr)


def test_secrets_come_from_files_and_standard_input(ready: Service, tmp_path: Path) -> None:
    file = tmp_path / "word"
    file.write_text("Ebb-and-flow-77\n")
    with ready.client as client:
        for given, text in ((f"admin.password=@{file}", ""), ("admin.password=-", "Ebb-and-flow-77\n")):
            done = ready.cli("plan", "tidebook", "ferry", "--set", given, "--json", text=text)
            assert done.returncode == 0, done.stderr
            plan = json.loads(done.stdout)
            assert "Ebb-and-flow-77" not in done.stdout and client.plan_show(plan["id"]).account == "ferry"


def test_errors_for_programs_are_not_among_the_answers(ready: Service) -> None:
    done = ready.cli("job", "show", "none", "--json")
    assert (done.returncode, done.stdout) == (2, "") and json.loads(done.stderr)["error"]["code"] == "not-found"


def test_the_environment_tells_programs_where_the_service_is(ready: Service, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HIGHSHELF_URL", ready.client.url)
    monkeypatch.setenv("HIGHSHELF_TOKEN", ready.token)
    with Client.from_environment() as client:
        assert client.health().version
    monkeypatch.delenv("HIGHSHELF_TOKEN")
    monkeypatch.setenv("HIGHSHELF_TOKEN_FILE", "/nowhere/at/all")
    with pytest.raises(OSError):
        Client.from_environment()


def test_ctrl_c_leaves_the_job_and_says_how_to_come_back(clean: Hosting, ready: Service) -> None:
    with ready.client as client:
        first = client.job_start(client.plan_make(PlanNew(account="ferry", release="tidebook", at="/a", settings={"site.title": "?"})).id)  # fmt: skip
        ready.wait(first.id, ("waiting",))
        # The second one stands behind it, and says nothing for as long as that waits.
        command = [sys.executable, "-u", "-m", "highshelf", "install", "tidebook", "ferry", "--at", "/b"]
        left = subprocess.Popen(command, env={**os.environ, **ready.environment}, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)  # fmt: skip
        assert left.stdout is not None
        told = ""
        for line in left.stdout:
            told += line
            if "→" in line and "job show" in line:
                break
        left.send_signal(signal.SIGINT)
        _, complaint = left.communicate(timeout=30)
        second = next(line for line in told.splitlines() if line.startswith("job ")).split()[1]
        assert f"it stands behind the job {first.id} on ferry, which waits for an answer" in told
        assert left.returncode == 130, (told, complaint)
        assert f"the job {second} goes on without you" in complaint and f"highshelf job cancel {second}" in complaint
        assert client.job_show(second).state == "queued"
        for job in (second, first.id):
            assert ready.cli("job", "cancel", job, "--yes").returncode == 0


def test_commands_return_whatever_the_job_waits_for(clean: Hosting, ready: Service) -> None:
    """Resuming what waits for an answer asks again; answering what rests says that it rests; nothing waits for ever."""
    begun = ready.cli("install", "tidebook", "ferry", "--at", "/diary", "--set", "site.title=?")
    assert begun.returncode == 3, begun.stdout + begun.stderr
    with ready.client as client:
        job = client.job_list("ferry").items[0].id
    again = ready.cli("job", "resume", job)
    assert again.returncode == 3 and "does not rest" in again.stdout and "highshelf job answer" in again.stdout, again
    assert ready.cli("job", "pause", job).returncode == 0
    held = ready.cli("job", "answer", job, "Boats")
    assert held.returncode == 3 and f"highshelf job resume {job}" in held.stdout, held.stdout + held.stderr
    assert ready.cli("job", "follow", job).returncode == 3
    done = ready.cli("job", "resume", job)
    assert done.returncode == 0, done.stdout + done.stderr


def test_what_was_replaced_is_marked_as_such(clean: Hosting, ready: Service) -> None:
    assert ready.cli("install", "tidebook", "ferry", "--at", "/diary").returncode == 0
    assert ready.cli("install", "tidebook", "ferry", "--at", "/diary", "--if-there", "replace", "--yes").returncode == 0
    with ready.client as client:
        new, old = client.installation_list().items
        assert (new.replaced_by, old.replaced_by) == ("", new.id)
    listed = ready.cli("installation", "list").stdout
    assert (
        f"(replaced by {new.id})" in listed
        and "nothing of this one" in ready.cli("installation", "show", old.id).stdout
    )


def test_an_installation_is_let_go_with_its_secrets_and_stands_as_it_was(clean: Hosting, ready: Service) -> None:
    assert ready.cli("install", "tidebook", "ferry", "--at", "/diary").returncode == 0
    with ready.client as client:
        made = client.installation_list().items[0]
        before = clean.picture("ferry")
        assert ready.cli("account", "remove", "ferry").returncode == 1
        # A script that does not say that it is meant is told what to say.
        unsaid = ready.cli("installation", "forget", made.id)
        assert unsaid.returncode == 2 and "--yes" in unsaid.stderr, unsaid
        sealed = client.strongbox_verify().secrets
        done = ready.cli("installation", "forget", made.id, "--yes")
        assert done.returncode == 0 and "the site stands as it was" in done.stdout, done.stdout + done.stderr
        assert client.installation_list().total == 0 and clean.picture("ferry") == before
        assert (
            client.job_show(made.job).state == "done"
            and "forgotten since" in ready.cli("job", "follow", made.job).stdout
        )
        assert any(r.kind == "forgotten" and r.about == made.id for r in client.record_list().items)
        assert ready.cli("account", "remove", "ferry").returncode == 0
        assert client.strongbox_verify().secrets < sealed - 4
    assert clean.databases()[0], "its database stands too"


def test_several_accounts_are_checked_by_one_command(clean: Hosting, ready: Service) -> None:
    ready.client.account_add(clean.new_account("choir"))
    lost = clean.new_account("yard").model_copy(update={"name": "lost", "transfer": "sftp://nobody@127.0.0.1:9"})
    ready.client.account_add(lost)
    done = ready.cli("account", "check", "ferry", "choir")
    assert done.returncode == 0 and "ferry" in done.stdout and "choir" in done.stdout, done.stdout + done.stderr
    every = ready.cli("account", "check", "--all", "--json")
    states = {one["account"]: one["state"] for one in json.loads(every.stdout)["items"]}
    assert every.returncode == 1 and states == {"ferry": "done", "choir": "done", "lost": "failed"}, states
    assert ready.cli("account", "check").returncode == 2
    assert ready.cli("account", "check", "--all", "ferry").returncode == 2


def test_a_job_is_told_an_event_a_line_or_not_at_all(ready: Service) -> None:
    told = ready.cli("install", "tidebook", "ferry", "--at", "/lines", "--jsonl")
    assert told.returncode == 0, told.stderr
    *events, job = [json.loads(line) for line in told.stdout.splitlines()]
    assert {e["leg"] for e in events} >= {"survey", "place", "walk", "prove"} and job["state"] == "done"
    quiet = ready.cli("install", "tidebook", "ferry", "--at", "/quiet", "--quiet")
    assert (quiet.returncode, quiet.stdout) == (0, ""), quiet.stderr
    loud = ready.cli("--quiet", "install", "tidebook", "ferry", "--at", "/quiet")
    assert loud.returncode == 1 and "target" in loud.stderr


def test_what_cannot_be_taken_back_wants_a_word_in_a_script(ready: Service) -> None:
    assert ready.cli("install", "tidebook", "ferry", "--at", "/diary", "--no-follow").returncode == 0
    with ready.client as client:
        job = client.job_list("ferry").items[0].id
        refused = ready.cli("job", "cancel", job)
        assert refused.returncode == 2 and "--yes" in refused.stderr
        assert client.job_show(job).state != "cancelled" and ready.wait(job).state == "done"
        number = client.job_show(job).installation
    for words in (
        ("install", "tidebook", "ferry", "--at", "/diary", "--if-there", "replace"),
        ("installation", "reveal", number),
        ("installation", "forget", number),
        ("installation", "undo", number),
    ):
        done = ready.cli(*words)
        assert done.returncode == 2 and "--yes" in done.stderr, (words, done.stdout, done.stderr)
    # One secret by its name is what was asked for.
    assert ready.cli("installation", "reveal", number, "application").returncode == 0


def test_what_was_given_for_nothing_is_told_and_what_cannot_be_is_refused(clean: Hosting, ready: Service) -> None:
    wrong = ready.cli("plan", "tidebook", "ferry", "--at", "/tide", "--set", "admin.email=keeper", "--set", "site.timezone=London")  # fmt: skip
    assert wrong.returncode == 2 and "admin.email=keeper" in wrong.stderr and "site.timezone=London" in wrong.stderr
    given = ("--set", "site.title=Ferry diary", "--set", "site.currency=GBP", "--set", "field.nobody=x")
    done = ready.cli("install", "tidebook", "ferry", "--at", "/tide", *given)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "given, but nothing here asked for it: field.nobody, site.currency" in done.stdout
