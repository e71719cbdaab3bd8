"""In other people's hands: who may do what, what is written down of it, and who is kept waiting by whom."""

from __future__ import annotations

import shutil
import socket
import sqlite3
import stat
import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import httpx
import pytest
from pydantic import SecretStr

from highshelf.client import Client, ServiceError
from highshelf.schemas.models import AccountChange, AccountNew, PlanNew
from highshelf.service.throttle import TRIES
from highshelf.store.store import Store
from highshelf.store.tables import JobRow, PlanRow
from tests.support import Service, until

GOOD = "heron tide plank seven"
OWN = {"Sec-Fetch-Site": "same-origin"}
PUBLIC = "https://shelf.saltmarsh.example"


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("safe") / "data")
    running.start()
    yield running
    running.stop()


@pytest.fixture
def door(tmp_path: Path) -> Iterator[Service]:
    """A service of its own for those who try and fail: they are remembered for ten minutes."""
    running = Service(tmp_path / "data")
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="module")
def people(service: Service) -> dict[str, httpx.Client]:
    """Two operators' browsers."""
    mara = browser(service)
    made = mara.post("/session/accept", json={"code": service.welcome, "name": "mara", "password": GOOD}, headers=OWN)
    mara.headers["X-High-Shelf"] = made.json()["csrf"]
    code = mara.post("/operators/invite", json={"name": "tomas"}).json()["link"].partition("#")[2]
    tomas = browser(service)
    made = tomas.post("/session/accept", json={"code": code, "name": "", "password": GOOD}, headers=OWN)
    tomas.headers["X-High-Shelf"] = made.json()["csrf"]
    return {"mara": mara, "tomas": tomas}


def browser(service: Service) -> httpx.Client:
    return httpx.Client(base_url=f"http://localhost:{service.port}/api/v1", timeout=60)


def account(name: str = "yard", **more: object) -> AccountNew:
    fields = {
        "name": name,
        "transfer": "sftp://keeper@files.saltmarsh.example:22",
        "password": SecretStr("Kept-for-files-1"),
        "root": "www",
        "address": "https://yard.saltmarsh.example/",
        "panel": "https://panel.saltmarsh.example/",
    }
    return AccountNew.model_validate({**fields, **more})


@pytest.fixture
def client(service: Service) -> Iterator[Client]:
    with service.client as found:
        yield found
        for one in found.account_list().items:
            found.account_remove(one.name)


# one process


def test_a_second_service_on_the_folder_is_refused_and_changes_nothing(service: Service) -> None:
    before = {p.name: p.read_bytes() for p in (service.data / "address", service.data / "token", service.data / "lock")}
    other = Service(service.data)
    told = other.cli("serve", "--port", str(other.port))
    assert told.returncode == 1 and "in-use" in told.stderr and f":{service.port}" in told.stderr
    assert {name: (service.data / name).read_bytes() for name in before} == before
    assert service.client.health().jobs_open == 0


def test_a_taken_port_is_refused_before_the_first_link_is_made_anew(service: Service, tmp_path: Path) -> None:
    other = Service(tmp_path / "data")
    told = other.cli("serve", "--port", str(service.port), "--data", str(tmp_path / "data"))
    assert told.returncode == 1 and "cannot be listened on" in told.stderr
    assert [p.name for p in (tmp_path / "data").iterdir()] == ["lock"]


# who is kept waiting


def answers(service: Service) -> None:
    """A call that needs a thread is answered while others wait."""
    with service.client as client:
        assert client.account_list().total == 0


def test_silent_hosts_hold_up_nobody_else(service: Service, client: Client, tidebook: Path) -> None:
    """More previews and checks than there are threads, at a server that takes connections and says nothing."""
    client.release_check_in(tidebook)
    with socket.create_server(("127.0.0.1", 0), backlog=200) as silent:
        port = silent.getsockname()[1]
        client.account_add(account("silent", transfer=f"sftp://x@127.0.0.1:{port}"))
        begun = threading.Barrier(91)

        def look(number: int) -> None:
            # Making ninety clients takes seconds: nobody looks before all of them are there.
            with service.client as own:
                begun.wait()
                if number % 2:
                    assert own.plan_preview(PlanNew(account="silent", release="tidebook")).plan is None
                else:
                    own.account_check("silent", wait_seconds=10)

        with ThreadPoolExecutor(90) as pool:
            waiting = [pool.submit(look, n) for n in range(90)]
            begun.wait()
            client.account_check("silent", wait_seconds=0)
            # The newest of them may wait behind the one that looks.
            surveys = client.account_surveys
            until(lambda: any(s.state == "running" for s in surveys("silent").items), "nobody looks", 20)
            for _ in range(5):
                assert client.account_show("silent").name == "silent"
            assert not any(w.done() for w in waiting), "they wait, and others do not"
            silent.close()
            for one in waiting:
                one.result()
    until(lambda: client.account_survey("silent").finished_at is not None, "the survey never ended", 60)


def test_tries_are_counted_before_they_are_hashed(door: Service) -> None:
    """Sixty at once: five are looked at, the others are told to wait, and nobody else waits meanwhile."""

    def attempt(_: int) -> int:
        with browser(door) as one:
            return one.post(
                "/session", json={"name": "flooded", "password": "wrong wrong wrong"}, headers=OWN
            ).status_code

    with ThreadPoolExecutor(60) as pool:
        found = list(pool.map(attempt, range(60)))
    assert sorted(set(found)) == [401, 429] and found.count(401) == TRIES["both"]


def test_a_made_up_sender_is_not_believed(door: Service) -> None:
    found = []
    with browser(door) as one:
        for number in range(TRIES["sender"] + 1):
            headers = {**OWN, "X-Forwarded-For": f"192.0.2.{number}"}
            body = {"name": f"guess{number}", "password": "wrong wrong wrong"}
            found.append(one.post("/session", json=body, headers=headers).status_code)
    assert found[-1] == 429


def test_what_strangers_fail_at_does_not_keep_an_operator_out_of_a_known_browser(door: Service) -> None:
    mara = browser(door)
    body = {"code": door.welcome, "name": "mara", "password": GOOD}
    assert mara.post("/session/accept", json=body, headers=OWN).status_code == 201
    right = {"name": "mara", "password": GOOD}
    with browser(door) as stranger:
        wrong = {"name": "mara", "password": "wrong wrong wrong"}
        while stranger.post("/session", json=wrong, headers=OWN).status_code != 429:
            pass
        assert stranger.post("/session", json=right, headers=OWN).status_code == 429
    assert mara.post("/session", json=right, headers=OWN).status_code == 200


def test_many_listeners_take_no_threads(service: Service) -> None:
    def listen(opened: threading.Semaphore, over: threading.Event) -> None:
        headers = {"Authorization": f"Bearer {service.token}"}
        with httpx.stream("GET", f"http://127.0.0.1:{service.port}/api/v1/watch", headers=headers, timeout=30) as line:
            next(line.iter_lines())
            opened.release()
            over.wait(30)

    opened, over = threading.Semaphore(0), threading.Event()
    threads = [threading.Thread(target=listen, args=(opened, over)) for _ in range(80)]
    for thread in threads:
        thread.start()
    try:
        for _ in threads:
            assert opened.acquire(timeout=30)
        answers(service)
    finally:
        over.set()
        for thread in threads:
            thread.join()


@pytest.mark.parametrize("path", ["/accounts", "/accounts/import", "/releases?file_name=a.zip", "/plans", "/jobs"])
def test_nothing_of_a_body_is_read_before_it_is_known_who_asks(service: Service, path: str) -> None:
    head = f"POST /api/v1{path} HTTP/1.1\r\nHost: localhost\r\nContent-Length: 629145600\r\n\r\n"
    with socket.create_connection(("127.0.0.1", service.port), 10) as line:
        line.sendall(head.encode())
        assert line.recv(100).startswith(b"HTTP/1.1 401 ")


@pytest.mark.parametrize("size", [(1 << 20) + 1, 600 << 20])
def test_a_body_has_a_bound_for_those_we_know_too(service: Service, size: int) -> None:
    head = f"POST /api/v1/accounts HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer {service.token}\r\nContent-Length: {size}\r\n\r\n"
    with socket.create_connection(("127.0.0.1", service.port), 10) as line:
        line.sendall(head.encode())
        assert line.recv(100).startswith(b"HTTP/1.1 413 ")


# where secrets go


@pytest.mark.parametrize(
    ("change", "secret"),
    [
        ({"transfer": "sftp://keeper@evil.saltmarsh.example:22"}, {"password": "Another-one-2"}),
        ({"transfer": "sftp://keeper@files.saltmarsh.example:2222"}, {"password": "Another-one-2"}),
        ({"transfer": "ftp://keeper@files.saltmarsh.example:22"}, {"password": "Another-one-2"}),
        ({"panel": "https://evil.saltmarsh.example/"}, {"panel_password": "Another-one-2"}),
        ({"panel": "http://panel.saltmarsh.example/"}, {"password": "Another-one-2"}),
    ],
)
def test_a_password_goes_to_no_other_server_than_it_was_given_for(
    client: Client, service: Service, change: dict[str, str], secret: dict[str, str]
) -> None:
    client.account_add(account())
    before = client.account_show("yard")
    with pytest.raises(ServiceError) as caught:
        client.account_change("yard", AccountChange.model_validate(change))
    assert caught.value.fault.code == "input" and "password" in caught.value.fault.message
    assert client.account_show("yard") == before, "nothing of the change is kept"
    with pytest.raises(ServiceError):
        client.account_change("yard", AccountChange.model_validate({**change, "password": ""}))
    changed = client.account_change("yard", AccountChange.model_validate({**change, **secret}))
    assert changed != before
    told = client.record_list("yard").items
    assert (
        told[0].who == "token" and told[0].kind.endswith("-changed") and "no longer" in told[0].text
    ) or "before" in told[0].text


def test_another_login_at_the_same_server_and_a_key_need_no_new_password(client: Client) -> None:
    client.account_add(account())
    client.account_change("yard", AccountChange(transfer="sftp://other@files.saltmarsh.example:22"))
    client.account_add(account("by-key", password=SecretStr(""), agent=True))
    client.account_change("by-key", AccountChange(transfer="sftp://keeper@new.saltmarsh.example:22"))
    assert client.account_show("by-key").transfer.endswith("new.saltmarsh.example:22")


@pytest.mark.parametrize(
    "change",
    [
        {"reach": "192.0.2.7:443"},
        {"address": "https://evil.saltmarsh.example/"},
        {"transfer": "sftp://a@b.example:22", "password": "x"},
    ],
)
def test_nothing_is_led_elsewhere_while_a_job_sends_secrets_there(
    client: Client, service: Service, change: dict[str, str]
) -> None:
    client.account_add(account())
    store = Store(service.data)
    store.add(PlanRow(id="p", account="yard", release="ab", body={"database": "none", "address": "x", "target": "y"}))
    store.add(JobRow(id="j", plan_id="p", account="yard", application="ledger", state="waiting", error={"code": "x"}))
    try:
        with pytest.raises(ServiceError) as caught:
            client.account_change("yard", AccountChange.model_validate(change))
        assert caught.value.fault.code == "conflict" and "under way" in caught.value.fault.message
    finally:
        store.delete(JobRow, "j")
        store.delete(PlanRow, "p")
        store.close()


def test_a_changed_reach_is_written_down(client: Client) -> None:
    client.account_add(account())
    client.account_change("yard", AccountChange(reach="192.0.2.7:443"))
    assert [(r.kind, r.about) for r in client.record_list().items][:1] == [("reach-changed", "yard")]


@pytest.mark.parametrize("kind", ["transfer", "panel", "address"])
def test_our_own_network_is_not_spoken_to_unless_it_was_said(tmp_path: Path, kind: str) -> None:
    """A service that was told nothing: an account leads to the machine itself, or to where a cloud gives out keys."""
    running = Service(tmp_path / "data")
    running.inside = ""
    running.start()
    try:
        with socket.create_server(("127.0.0.1", 0)) as listening, running.client as client:
            listening.settimeout(0.2)
            port = listening.getsockname()[1]
            client.account_add(account("inner", transfer=f"sftp://x@localhost:{port}"))
            survey = client.account_check("inner", wait_seconds=20)
            assert survey.fault is not None and survey.fault.code == "own-network"
            assert f"--inside localhost:{port}" in survey.fault.hint
            with pytest.raises(TimeoutError):
                listening.accept()
    finally:
        running.stop()


# who may do what


def test_only_oneself_or_the_machine_sets_a_new_password(service: Service, people: dict[str, httpx.Client]) -> None:
    tomas = people["tomas"]
    refused = tomas.post("/operators/invite", json={"name": "mara"})
    assert (refused.status_code, refused.json()["code"]) == (403, "forbidden")
    assert tomas.post("/operators/invite", json={"name": "newcomer"}).status_code == 201
    assert people["mara"].post("/operators/invite", json={"name": "mara"}).status_code == 201
    for handed_on in ({"X-Forwarded-For": "192.0.2.1"}, {"Forwarded": "for=192.0.2.1"}, {"Via": "1.1 proxy"}):
        headers = {"Authorization": f"Bearer {service.token}", **handed_on}
        with browser(service) as one:
            assert one.post("/operators/invite", json={"name": "mara"}, headers=headers).status_code == 403


def test_a_reset_from_the_machine_is_written_down_and_told_at_the_next_sign_in(
    service: Service, people: dict[str, httpx.Client]
) -> None:
    made = service.cli_json("operator", "invite", "tomas")
    code = made["link"].partition("#")[2]
    with browser(service) as one:
        answer = one.post("/session/accept", json={"code": code, "name": "", "password": GOOD + " eight"}, headers=OWN)
        assert answer.status_code == 201
        assert ["made (by token)" in answer.json()["news"][0], "set by the link" in answer.json()["news"][1]] == [
            True,
            True,
        ]
    with browser(service) as one:
        told = one.post("/session", json={"name": "tomas", "password": GOOD + " eight"}, headers=OWN)
        assert told.json()["news"] == [], "told once"
    kinds = [r.kind for r in service.client.record_list("tomas").items]
    assert {"reset-made", "reset-used"} <= set(kinds)
    assert people["tomas"].get("/accounts").status_code == 401, "the old session is over"
    assert "a link to set a new password was made" in service.cli("record", "list", "--about", "tomas").stdout


# the key, the schema, the shelf, the disk


def test_every_secret_can_be_tried(service: Service, client: Client) -> None:
    client.account_add(account())
    assert "secrets open" in service.cli("strongbox", "verify").stdout
    store = Store(service.data)
    with sqlite3.connect(service.data / "highshelf.sqlite") as database:
        database.execute(
            "UPDATE secret SET sealed = x'00112233445566778899aabbccddeeff' WHERE ref = 'account/yard/transfer'"
        )
    told = service.cli("strongbox", "verify")
    assert told.returncode == 1 and "does not open: account/yard/transfer" in told.stdout
    store.close()


def test_a_check_whose_secret_does_not_open_ends_and_says_so(service: Service, client: Client) -> None:
    client.account_add(account())
    with sqlite3.connect(service.data / "highshelf.sqlite") as database:
        database.execute(
            "UPDATE secret SET sealed = x'00112233445566778899aabbccddeeff' WHERE ref = 'account/yard/transfer'"
        )
    survey = client.account_check("yard", wait_seconds=20)
    assert survey.fault is not None and survey.fault.code == "strongbox"


@pytest.mark.parametrize("damage", ["key gone", "key foreign", "newer", "no database"])
def test_a_folder_that_is_not_right_is_told_in_one_sentence_and_left_as_it_is(tmp_path: Path, damage: str) -> None:
    running = Service(tmp_path / "data")
    running.start()
    with running.client as client:
        client.account_add(account())
    running.stop()
    key, database = running.data / "strongbox.key", running.data / "highshelf.sqlite"
    if damage == "key gone":
        key.unlink()
    elif damage == "key foreign":
        key.write_text("cd" * 32)
    elif damage == "newer":
        with sqlite3.connect(database) as found:
            found.execute("UPDATE alembic_version SET version_num = '9999'")
    else:
        database.write_bytes(b"no database at all" * 999)
        for beside in running.data.glob("highshelf.sqlite-*"):
            beside.unlink()
    address = (running.data / "address").read_text()
    told = running.cli("serve", "--port", str(running.port))
    assert told.returncode == 1 and "Traceback" not in told.stderr + told.stdout
    assert "strongbox:" in told.stderr if damage.startswith("key") else "store:" in told.stderr
    assert (running.data / "address").read_text() == address and key.exists() == (damage != "key gone")


def test_a_shelf_that_is_gone_makes_releases_faulty_and_the_service_starts(tmp_path: Path, tidebook: Path) -> None:
    running = Service(tmp_path / "data")
    running.start()
    try:
        with running.client as client:
            release = client.release_check_in(tidebook)
            assert release.fault == ""
        running.stop()
        shutil.rmtree(running.data / "shelf")
        running.start()
        with running.client as client:
            assert client.release_show("tidebook").fault == "its archive is not on the shelf any more"
            assert [r.fault for r in client.release_list().items] == ["its archive is not on the shelf any more"]
            with pytest.raises(ServiceError) as caught:
                client.release_files("tidebook")
            assert caught.value.fault.code == "archive"
            client.account_add(account())
            seen = client.plan_preview(PlanNew(account="yard", release="tidebook"))
            assert seen.fault is not None and "cannot be used" in seen.fault.message
        assert "FAULTY" in running.cli("release", "show", "tidebook").stdout
        with running.client as client:
            client.release_remove("tidebook")
            assert client.release_check_in(tidebook).fault == ""
    finally:
        running.stop()


def test_what_lies_in_the_folder_is_its_owners_alone(service: Service) -> None:
    open_to_others = [
        str(p.relative_to(service.data))
        for p in service.data.rglob("*")
        if p.is_file()
        and p.suffix in (".sqlite", ".key", "")
        and p.name != "address"
        and stat.S_IMODE(p.stat().st_mode) & 0o077
    ]
    assert open_to_others == [] and stat.S_IMODE(service.data.stat().st_mode) == 0o700
    assert {"engine.sqlite", "highshelf.sqlite", "token", "strongbox.key"} <= {p.name for p in service.data.iterdir()}


# small things


def test_behind_tls_the_cookie_is_bound_to_the_host_and_links_are_public(tmp_path: Path) -> None:
    running = Service(tmp_path / "data", options=("--public", PUBLIC, "--proxy", "127.0.0.1"))
    running.start()
    try:
        headers = {
            **OWN,
            "Host": "shelf.saltmarsh.example",
            "X-Forwarded-Proto": "https",
            "X-Forwarded-For": "192.0.2.9",
        }
        body = {"code": running.welcome, "name": "mara", "password": GOOD}
        with browser(running) as one:
            answer = one.post("/session/accept", json=body, headers=headers)
            assert answer.status_code == 201, answer.text
            cookies = answer.headers.get_list("Set-Cookie")
            assert len(cookies) == 2 and all(c.startswith("__Host-highshelf") and "Secure" in c for c in cookies)
            assert answer.headers["Strict-Transport-Security"] == "max-age=31536000"
            assert one.get("/session", headers={"Host": "evil.saltmarsh.example"}).status_code == 421
        assert running.cli_json("operator", "invite", "tomas")["link"].startswith(f"{PUBLIC}/welcome#")
        assert f"console      {PUBLIC}/welcome#" in running.log.read_text()
    finally:
        running.stop()


@pytest.mark.parametrize("name", ["a\x1b[31m.zip", "\x07", "   ", "/", "a\nb.zip", "x\u202ey.zip"])
def test_a_release_has_a_name_that_can_be_shown(service: Service, name: str) -> None:
    with httpx.Client(headers={"Authorization": f"Bearer {service.token}"}) as one:
        answer = one.post(f"http://127.0.0.1:{service.port}/api/v1/releases", params={"file_name": name}, content=b"PK")
    assert answer.status_code == 422


@pytest.mark.parametrize("path", ["/accounts", "/accounts/letter", "/operators/invite", "/session", "/plans"])
def test_half_a_character_is_a_422_everywhere(service: Service, path: str) -> None:
    with httpx.Client(
        headers={"Authorization": f"Bearer {service.token}", "Content-Type": "application/json", **OWN}
    ) as one:
        answer = one.post(
            f"http://127.0.0.1:{service.port}/api/v1{path}", content=b'{"name": "\\ud800", "text": "\\udc00"}'
        )
    assert answer.status_code == 422, answer.text
