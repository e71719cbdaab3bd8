"""A request that is sent again gets the first answer again, and nothing is done a second time."""

from __future__ import annotations

import sqlite3
import threading
import zipfile
from pathlib import Path
from typing import Any

import httpx
import pytest

from tests.support import Service

LICENCE = {"release": "berth", "account": "quay", "key": "AAAA-made-up-key-1"}
ACCOUNT = {
    "name": "yard",
    "transfer": "sftp://yard@files.saltmarsh.example",
    "password": "Slack-water-31",
    "root": "www",
    "address": "http://yard.saltmarsh.example/",
}


@pytest.fixture
def post(service: Service) -> Any:
    base = f"http://127.0.0.1:{service.port}/api/v1"

    def send(path: str, key: str, body: Any = None, **more: Any) -> httpx.Response:
        headers = {"Authorization": f"Bearer {service.token}"} | ({"Idempotency-Key": key} if key else {})
        return httpx.post(base + path, headers=headers, json=body, timeout=60, **more)

    return send


@pytest.fixture
def ready(post: Any, service: Service, tmp_path: Path) -> None:
    assert post("/accounts", "", {**ACCOUNT, "name": "quay"}).status_code == 201
    with zipfile.ZipFile(tmp_path / "berth-1.0.zip", "w") as box:
        box.writestr("berth-1.0/index.php", "<?php echo 'Berths';")
    service.client.release_check_in(tmp_path / "berth-1.0.zip")


@pytest.mark.usefixtures("ready")
def test_what_was_made_is_made_once_and_told_twice(service: Service, post: Any) -> None:
    first, second = (post("/licences", "one-key", LICENCE) for _ in range(2))
    assert first.status_code == second.status_code == 201, first.text
    assert second.content == first.content and second.headers["content-type"] == first.headers["content-type"]
    assert "x-answered-before" not in first.headers and second.headers["x-answered-before"] == "yes"
    assert service.client.licence_list().total == 1
    assert post("/licences", "another-key", {**LICENCE, "key": "BBBB"}).status_code == 201
    assert service.client.licence_list().total == 2
    service.stop()
    service.start()
    assert post("/licences", "one-key", LICENCE).content == first.content, "also after a restart"


@pytest.mark.usefixtures("ready")
def test_a_key_is_its_operators_own(service: Service, post: Any) -> None:
    """Another operator's key of the same text is another one: its answer is told to nobody else."""
    assert post("/licences", "shared", LICENCE).status_code == 201
    link = post("/operators/invite", "", {"name": "mara"}).json()["link"]
    base = f"http://127.0.0.1:{service.port}"
    with httpx.Client(base_url=base, headers={"Origin": base}, timeout=30) as mara:
        password = "heron tide plank seven"
        welcome = {"code": link.rpartition("#")[2], "name": "mara", "password": password}
        assert mara.post("/api/v1/session/accept", json=welcome).status_code < 300
        own = mara.post("/api/v1/licences", json={**LICENCE, "key": "DDDD"}, headers={"Idempotency-Key": "shared"})
        assert own.status_code == 201 and "x-answered-before" not in own.headers, own.text
    assert service.client.licence_list().total == 2


@pytest.mark.usefixtures("ready")
def test_a_key_is_for_one_thing_only(post: Any) -> None:
    assert post("/licences", "one-thing", LICENCE).status_code == 201
    for path, body in (("/licences", {**LICENCE, "key": "CCCC"}), ("/accounts", ACCOUNT)):
        other = post(path, "one-thing", body)
        assert other.status_code == 422 and "another request" in other.json()["message"]


def test_a_refusal_made_nothing_and_may_be_tried_again(post: Any) -> None:
    assert post("/accounts", "mended", {**ACCOUNT, "transfer": "nowhere"}).status_code == 422
    made = post("/accounts", "mended", ACCOUNT)
    assert made.status_code == 201, made.text
    # Without a key it is another request, and the name is taken.
    assert post("/accounts", "", ACCOUNT).status_code == 409
    assert post("/accounts", "mended", ACCOUNT).content == made.content


@pytest.mark.parametrize("key", ["two words", "x" * 129, "tide\x7f"])
def test_what_is_no_key_is_said(post: Any, key: str) -> None:
    answer = post("/licences", key, LICENCE)
    assert answer.status_code == 422 and "UUID" in answer.json()["hint"], answer.text


@pytest.mark.usefixtures("ready")
def test_many_at_once_make_one(service: Service, post: Any) -> None:
    found: list[httpx.Response] = []
    together = [
        threading.Thread(target=lambda: found.append(post("/licences", "all-at-once", LICENCE))) for _ in range(8)
    ]
    for one in together:
        one.start()
    for one in together:
        one.join()
    assert {a.status_code for a in found} <= {201, 409} and any(a.status_code == 201 for a in found)
    assert len({a.content for a in found if a.status_code == 201}) == 1
    assert service.client.licence_list().total == 1


def test_an_archive_is_taken_once(service: Service, post: Any, tidebook: Path) -> None:
    def send() -> httpx.Response:
        return httpx.post(
            f"http://127.0.0.1:{service.port}/api/v1/releases",
            params={"file_name": tidebook.name},
            content=tidebook.read_bytes(),
            headers={"Authorization": f"Bearer {service.token}", "Idempotency-Key": "an-archive"},
            timeout=120,
        )

    first, second = send(), send()
    assert first.status_code == second.status_code == 201, first.text
    assert first.json() == second.json() and second.headers["x-answered-before"] == "yes"


def test_a_kept_answer_is_sealed_and_a_key_that_was_cut_off_says_so(service: Service, post: Any) -> None:
    assert post("/accounts", "sealed", ACCOUNT).status_code == 201
    database = service.data / "highshelf.sqlite"
    with sqlite3.connect(database) as kept:
        rows = kept.execute("select ref, sealed from secret where ref like 'repeat/%'").fetchall()
        assert len(rows) == 1 and b"yard" not in rows[0][1] and "sealed" not in rows[0][0]
    from highshelf.store.repeats import Kept, begin, end, ref_of
    from highshelf.store.store import Store

    service.stop()
    store = Store(service.data)
    try:
        ref = ref_of("token", "sealed")
        known = begin(store, ref, "")
        assert known is not None and known.status == 201
        end(store, ref, Kept(known.mark))
    finally:
        store.close()
    service.start()
    cut = post("/accounts", "sealed", ACCOUNT)
    assert cut.status_code == 409 and "nobody knows" in cut.json()["message"], cut.text
