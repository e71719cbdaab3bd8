"""The survey of every practice customer against what the practice host knows about itself."""

from __future__ import annotations

import random
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

import pytest

from highshelf.client import ServiceError
from highshelf.core.survey.lines import TOPICS
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.practice.layout import CUSTOMERS, Customer
from highshelf.practice.truth import truth
from highshelf.schemas.models import AccountChange
from highshelf.schemas.surveys import SurveyLine, SurveyOut
from tests.support import Hosting, Service, until

EVERYBODY = [c.key for c in CUSTOMERS]
# Lines that say how something went, or what this very machine is: they are looked at by themselves.
TOLD_ONLY = {
    "transfer.software",
    "transfer.identity",
    "transfer.encryption",
    "transfer.can",
    "transfer.limits",
    "shell.tools",
    "shell.composer",
    "space.quota",
    "web.server",
}
WITHOUT_HELPER = {
    t
    for t in TOPICS
    if t.startswith(("transfer.", "site.", "web.")) or t in ("shell.login", "panel.login", "neighbours")
} - {"site.self", "web.user_ini", "web.links"}


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    made = Service(tmp_path_factory.mktemp("survey") / "data")
    made.start()
    yield made
    made.stop()


def customer_of(hosting: Hosting, key: str) -> Customer:
    return next(c for c in hosting.layout.customers if c.key == key)


def checked(service: Service, hosting: Hosting, name: str, key: str, **changes: Any) -> SurveyOut:
    """The survey of a new account; nothing of ours may be on any home afterwards."""
    with service.client as client:
        client.account_add(hosting.new_account(key, name=name, **changes))
        found = client.account_check(name)
    assert found.finished_at is not None and hosting.leftovers() == [] and found.left == []
    return found


def by_topic(found: SurveyOut) -> dict[str, SurveyLine]:
    return {line.topic: line for line in found.lines}


def plain(topic: str, data: Any) -> Any:
    """A line's data in the terms of what the host knows of itself."""
    if topic in ("site.self", "site.name"):
        return True if data is None else data["here"]
    if topic == "site.certificate":
        return data is not None
    if topic == "php.writes":
        return "the document root" in data["can"]
    if topic == "database.server":
        return data[0]["version"]
    return data


def agrees(topic: str, seen: Any, known: Any) -> bool:
    if topic == "space.free":
        # Others write to this disk meanwhile.
        return abs(seen - known) < 2_000_000_000
    return bool(plain(topic, seen) == known)


@pytest.mark.parametrize("key", EVERYBODY)
def test_every_line_agrees_with_what_the_host_knows_of_itself(clean: Hosting, running: Service, key: str) -> None:
    found = checked(running, clean, f"{key}-all", key)
    assert found.state == "done", found.fault
    lines, known = by_topic(found), truth(clean.layout, customer_of(clean, key))
    wrong = {t: (lines[t].data, known[t]) for t in known if t not in lines or not agrees(t, lines[t].data, known[t])}
    assert wrong == {}
    assert set(TOPICS) - set(lines) <= {"shell.user", "shell.tools", "shell.php", "shell.composer", "site.others"}
    assert set(lines) - set(known) <= TOLD_ONLY
    assert all(line.how for line in found.lines)


@pytest.mark.parametrize("key", EVERYBODY)
def test_without_the_helper_what_can_be_known_is_and_the_rest_says_why(
    clean: Hosting, running: Service, key: str
) -> None:
    found = checked(running, clean, f"{key}-bare", key, helper=False)
    lines, known = by_topic(found), truth(clean.layout, customer_of(clean, key))
    wrong = {
        t: (lines[t].data, known[t]) for t in WITHOUT_HELPER & set(known) if not agrees(t, lines[t].data, known[t])
    }
    assert wrong == {}
    shell = known["shell.login"]
    for topic in ("php.user", "php.memory", "web.user_ini"):
        assert lines[topic].state == "unknown" and "not allowed" in lines[topic].how
    # Only a login over SSH makes links itself.
    assert lines["web.links"].data is (known["web.links"] and known["transfer.login"] == "sftp"), lines[
        "web.links"
    ].text
    # The shell's PHP is another program: its version and what it reaches are told as that.
    assert (lines["php.version"].data == known["php.version"]) is shell
    assert lines["site.self"].state == ("fine" if shell else "unknown")
    assert ("shell" in lines["database.server"].how) is shell
    assert lines["placing"].state == ("fine" if shell else "heed")


def test_the_survey_tells_the_customers_apart_and_what_it_means(clean: Hosting, running: Service) -> None:
    yard = by_topic(checked(running, clean, "yard-apart", "yard"))
    assert yard["php.user"].state == "heed" and "www-data" in yard["php.user"].text
    assert yard["placing"].state == "heed" and "another user" in yard["placing"].text
    assert "belongs to www-data" in yard["undoing"].text
    assert yard["transfer.encryption"].state == "heed" and "in the clear" in yard["transfer.encryption"].text
    regatta = by_topic(checked(running, clean, "regatta-apart", "regatta"))
    assert regatta["site.beside"].state == "heed" and "inside the document root" in regatta["undoing"].text
    birds = by_topic(checked(running, clean, "birds-apart", "birds"))
    assert birds["web.htaccess"].text == "not honoured"
    assert "memory_limit = 96M" in birds["php.pinned"].text and "error_reporting = 22519" in birds["php.pinned"].text
    assert "self-signed" in birds["site.certificate"].text
    assert "leads nowhere yet" in birds["site.name"].text and "reaches nothing" in birds["site.self"].text


@pytest.mark.parametrize("key", EVERYBODY)
def test_the_document_root_is_found_when_nobody_says_it(clean: Hosting, running: Service, key: str) -> None:
    found = checked(running, clean, f"{key}-found", key, root="")
    assert found.state == "done", found.fault
    assert running.client.account_show(f"{key}-found").root == customer_of(clean, key).seen_root
    assert "found among" in by_topic(found)["site.root"].how


def test_a_root_that_is_not_there_and_an_address_that_shows_another_folder(clean: Hosting, running: Service) -> None:
    found = checked(running, clean, "choir-lost", "choir", root="public")
    assert found.state == "failed" and found.fault is not None
    assert "no document root public" in found.fault.message and "htdocs" in found.fault.hint
    lines = by_topic(found)
    # What was found before it is kept, and the panel was looked at all the same.
    assert lines["transfer.login"].state == "fine" and lines["panel.login"].state == "fine"
    assert lines["site.root"].state == "bad" and lines["php.version"].state == "unknown"
    elsewhere = checked(running, clean, "choir-elsewhere", "choir", root="private")
    assert elsewhere.fault is not None and "status 404" in elsewhere.fault.message
    stray = checked(running, clean, "seeds-stray", "seeds", root="", address=clean.customer("ferry")["address"])
    assert stray.fault is not None and "no folder of this account shows" in stray.fault.message


def test_a_wrong_certificate_is_told_where_nobody_said_to_speak_to_it_all_the_same(
    clean: Hosting, running: Service
) -> None:
    address = f"https://127.0.0.1:{clean.layout.port('web-tls')}/"
    found = checked(running, clean, "birds-plain", "birds", address=address, reach="")
    assert found.fault is not None and "certificate of 127.0.0.1 is refused" in found.fault.message
    assert "reached" in found.fault.hint
    assert "self-signed" in by_topic(found)["site.certificate"].text
    spoken = checked(running, clean, "birds-spoken", "birds", address=address, reach=address[8:-1])
    assert spoken.state == "done" and by_topic(spoken)["site.certificate"].state == "heed"


def test_a_login_that_fails_ends_it_and_says_so(clean: Hosting, running: Service) -> None:
    from pydantic import SecretStr

    found = checked(running, clean, "choir-shut", "choir", password=SecretStr("wrong-tide-7"))
    assert found.state == "failed" and found.fault is not None and found.fault.code == "login-refused"
    assert "wrong-tide-7" not in found.model_dump_json()
    told = running.cli("account", "check", "choir-shut")
    assert told.returncode == 1 and "login-refused" in told.stdout


def test_a_limit_that_the_server_enforces_is_waited_out_and_kept(clean: Hosting, running: Service) -> None:
    held = [FtpFiles(clean.login("choir"), password=clean.password("choir")) for _ in range(10)]
    with running.client as client:
        client.account_add(clean.new_account("choir", name="choir-full"))
        begun = client.account_check("choir-full", wait_seconds=0)
        until(lambda: client.account_show("choir-full").limits != {}, "nothing was learned")
        assert client.account_survey("choir-full", begun.id).finished_at is None
        with pytest.raises(ServiceError, match="being checked just now"):
            client.account_remove("choir-full")
        for files in held:
            files.close()
        until(lambda: client.account_survey("choir-full", begun.id).finished_at is not None, "it never ended")
        assert client.account_survey("choir-full").state == "done"
        limits = client.account_show("choir-full").limits
        assert limits["connections"] == 10 and limits["pause_seconds"] >= 1 and "10" in limits["told"]
        again = by_topic(client.account_check("choir-full"))
        assert again["transfer.limits"].text.startswith("10 connections at once")
        # Another server has other habits, and what was proven at the old place is not known of the new one.
        changed = client.account_change("choir-full", AccountChange(transfer=clean.login("yard").address, password="x"))
        assert (changed.limits, changed.places, changed.checked_at, changed.fingerprint) == ({}, {}, None, "")


def test_neighbours_are_named_by_their_own_files(clean: Hosting, running: Service) -> None:
    root = clean.root("ferry")
    for folder, name in (("", "readme.txt"), ("log-book", "composer.json")):
        (root / folder).mkdir(exist_ok=True)
        (root / folder / "index.php").write_text("<?php echo 1;")
        (root / folder / "config.php").write_text("<?php")
        (root / folder / "lib").mkdir()
        (root / folder / name).write_text(
            '{"name": "saltmarsh/log-book"}' if folder else "# Harbour lights 2.1\n\nRead me."
        )
    (root / "pictures").mkdir()
    lines = by_topic(checked(running, clean, "ferry-neighbours", "ferry"))
    assert lines["neighbours"].data == [
        {"folder": "www", "name": "Harbour lights 2.1"},
        {"folder": "www/log-book", "name": "saltmarsh/log-book"},
    ]


def held_in_the_act(service: Service, hosting: Hosting) -> bool:
    """Hold the service still; let it go on when nothing of ours is on the host just then."""
    if not hosting.leftovers():
        return False
    service.hold()
    if hosting.leftovers():
        return True
    service.go_on()
    return False


def test_a_service_killed_at_random_moments_leaves_nothing(clean: Hosting, tmp_path: Path) -> None:
    """Ten times: killed somewhere in a survey, started again, and then nothing of ours is on the host."""
    service = Service(tmp_path / "data")
    service.start()
    dice, seen = random.Random(20711), []
    try:
        with service.client as client:
            for key in ("ferry", "choir", "seeds", "yard", "regatta"):
                client.account_add(clean.new_account(key))
        for turn in range(10):
            key = ("ferry", "choir", "seeds", "yard", "regatta")[turn % 5]
            with service.client as client:
                begun = client.account_check(key, wait_seconds=0)
                ended = partial(client.account_survey, key, begun.id)
                until(lambda ask=ended: ask().state != "queued", "it never began")  # type: ignore[misc]
            if turn % 2:
                # Every other time it is held still with something of ours on the host, and killed so.
                until(lambda: held_in_the_act(service, clean), "nothing of ours ever came")
            else:
                time.sleep(dice.uniform(0.0, 0.4))
            service.kill()
            seen.append(len(clean.leftovers()))
            service.start()
            with service.client as client:
                ended = partial(client.account_survey, key, begun.id)
                until(lambda ask=ended: ask().finished_at is not None, "it never ended", 60)  # type: ignore[misc]
                assert (ended().state, ended().left) == ("done", [])
            assert clean.leftovers() == []
    finally:
        service.stop()
    # Some of the ten were cut off while something of ours was there; else the test would show nothing.
    assert any(seen), seen
