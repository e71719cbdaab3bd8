"""The shelf through client and terminal: check-in with a word, parts, texts, comparison, match."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from pydantic import SecretStr

from highshelf.client import ServiceError
from highshelf.schemas.models import AccountNew
from tests.drivers.hostile import FINE, deflate_bomb, raw_zip, zipped
from tests.support import Service

NEEDY = b"<?php if (PHP_VERSION_ID < 80100) { die('PHP 8.1'); } if (!extension_loaded('gd')) { die('gd'); } new PDO('mysql:host=x');"


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("shelf") / "data")
    running.start()
    yield running
    running.stop()


def memory_bytes(service: Service) -> int:
    """What the service's process holds (proc(5), statm, second field in pages)."""
    assert service.process is not None
    return int(Path(f"/proc/{service.process.pid}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def berth(folder: Path, version: str, *more: tuple[bytes, bytes]) -> Path:
    path = folder / f"berth-{version}.zip"
    top = f"berth-{version}/".encode()
    files = [
        (b"index.php", NEEDY),
        (b"README.md", f"# Berth {version}\n\nNeeds PHP 8.1.\n".encode()),
        (b"install.txt", b"Unpack it.\n"),
    ]
    path.write_bytes(raw_zip([(top + name, data) for name, data in [*files, *more]]))
    return path


def test_a_release_is_checked_in_read_compared_and_matched(service: Service, tmp_path: Path) -> None:
    client = service.client
    old = client.release_check_in(berth(tmp_path, "1.0", (b"old.php", FINE)))
    new = client.release_check_in(berth(tmp_path, "1.1", (b"new.php", FINE)))
    assert (old.name, old.version, old.findings["php"]) == ("berth", "1.0", "8.1")
    assert client.release_check_in(tmp_path / "berth-1.0.zip").sha256 == old.sha256
    assert [t.path for t in client.release_texts("berth-1.0").items] == ["install.txt", "README.md"]
    assert client.release_read("berth-1.0").text == "Unpack it.\n"
    assert client.release_read("berth-1.0", "README.md").text.startswith("# Berth 1.0")
    found = client.release_compare("berth-1.0", "berth-1.1")
    assert (found.added, found.removed, found.changed) == (["new.php"], ["old.php"], ["README.md"])
    assert [(n.what, n.before, n.after) for n in found.needs] == [("version", "1.0", "1.1")]
    client.account_add(
        AccountNew(
            name="yard",
            transfer="sftp://yard@127.0.0.1:9",
            password=SecretStr("a-made-up-Word1"),
            root="www",
            address="http://yard.saltmarsh.example/",
        )
    )
    matched = client.release_match(new.sha256, "yard")
    assert matched.checked_at is None and {m.verdict for m in matched.lines} == {"unknown"}
    assert next(m for m in matched.lines if m.topic == "php").where == "index.php:1"
    with pytest.raises(ServiceError) as caught:
        client.release_read("berth-1.0", "NOTES")
    assert caught.value.status == 404 and "README.md" in caught.value.fault.hint


def test_a_danger_is_refused_by_name_and_let_in_by_its_word(service: Service, tmp_path: Path) -> None:
    zipped("buoy/Index.php", "buoy/index.php")(tmp_path / "buoy-2.zip")
    with pytest.raises(ServiceError) as caught:
        service.client.release_check_in(tmp_path / "buoy-2.zip")
    fault = caught.value.fault
    assert fault.code == "archive" and fault.context["words"] == ["letter-case"] and "letter-case" in fault.hint
    release = service.client.release_check_in(tmp_path / "buoy-2.zip", ["letter-case"])
    assert any("letter case" in note and "accepted" in note for note in release.findings["notes"])
    assert not list((service.data / "shelf").glob("draft-*"))


def test_archives_are_joined_and_stay_what_they_are(service: Service, tmp_path: Path) -> None:
    client = service.client
    main = client.release_check_in(berth(tmp_path, "3.0"))
    (tmp_path / "tides.zip").write_bytes(raw_zip([(b"tides/tides.php", FINE), (b"tides/lang.php", FINE)]))
    addon = client.release_check_in(tmp_path / "tides.zip")
    joined = client.release_join([(main.sha256, ""), (addon.sha256, "addons/tides")])
    assert (joined.name, joined.version, joined.format) == ("berth", "3.0", "payload")
    assert {f.path for f in client.release_files(joined.sha256).items} >= {"index.php", "addons/tides/tides.php"}
    client.release_remove(addon.sha256)
    with pytest.raises(ServiceError, match="cannot be joined again"):
        client.release_join([(joined.sha256, ""), (main.sha256, "x")])


def test_the_terminal_checks_in_parts_and_shows_evidence(service: Service, tmp_path: Path) -> None:
    (tmp_path / "tides.zip").write_bytes(raw_zip([(b"t/tides.php", FINE), (b"t/lang.php", FINE)]))
    run = service.cli("release", "check-in", str(berth(tmp_path, "4.0")), "--part", f"addons={tmp_path / 'tides.zip'}")
    assert run.returncode == 0 and "2 archives" in run.stdout and "8.1 or newer" in run.stdout, run.stdout + run.stderr
    listed = json.loads(service.cli("release", "list", "--json").stdout)["items"]
    assert [r["version"] for r in listed if r["name"] == "berth" and r["version"] == "4.0"] == ["4.0"]
    shown = service.cli("release", "show", "berth-4.0", "--evidence")
    assert "index.php:1" in shown.stdout and "90%" in shown.stdout
    assert service.cli("release", "read", "berth-4.0").stdout == "Unpack it.\n\n"
    wrong = service.cli("release", "check-in", str(tmp_path / "berth-4.0.zip"), "--part", "addons")
    assert wrong.returncode == 2 and "FOLDER=FILE" in wrong.stderr


def test_a_bomb_does_not_grow_the_service(service: Service, tmp_path: Path) -> None:
    before = memory_bytes(service)
    deflate_bomb(tmp_path / "bomb.zip")
    with pytest.raises(ServiceError, match="bomb"):
        service.client.release_check_in(tmp_path / "bomb.zip")
    assert memory_bytes(service) - before < 30 << 20


def test_primers_are_listed_checked_and_shown(service: Service, tmp_path: Path) -> None:
    own = service.data / "primers"
    own.mkdir(exist_ok=True)
    (own / "boat.yaml").write_text("kind: application\nname: boat\nrecognise: [boat.php]\n")
    (own / "wreck.yaml").write_text("kind: application\nname: wreck\nrecognize: [wreck.php]\n")
    found = {p.name: p for p in service.client.primer_list().items}
    assert found["boat"].own and not found["boat"].faults and not found["saltmarsh"].own
    assert "line 3: recognize: there is no such setting; is recognise meant?" in found["wreck"].faults
    assert "sign-in:" in service.client.primer_show("saltmarsh").text
    shown = service.cli("primer", "check", str(own / "wreck.yaml"))
    assert shown.returncode == 1 and "wreck.yaml: line 3: recognize" in shown.stdout
    assert service.cli("primer", "check", str(own / "boat.yaml")).returncode == 0
    assert "boat" in service.cli("primer", "list").stdout
    with pytest.raises(ServiceError) as caught:
        service.client.primer_show("none")
    assert caught.value.status == 404


def test_what_an_earlier_version_kept_is_read_anew(tmp_path: Path) -> None:
    """The list of files was one JSON once; the archive and its hash stay what they are."""
    running = Service(tmp_path / "data")
    running.start()
    try:
        release = running.client.release_check_in(berth(tmp_path, "7.0"))
        lost = running.client.release_check_in(berth(tmp_path, "7.1"))
        running.stop()
        for one in (release, lost):
            folder = tmp_path / "data" / "shelf" / one.sha256
            (folder / "contents.jsonl").rename(folder / "contents.json")
            (folder / "texts.json").unlink()
        (tmp_path / "data" / "shelf" / lost.sha256 / "archive").write_bytes(b"rotten")
        running.start()
        assert [f.path for f in running.client.release_files("berth-7.0").items] == [
            "README.md",
            "index.php",
            "install.txt",
        ]
        assert running.client.release_read("berth-7.0").text == "Unpack it.\n"
        assert running.client.release_show("berth-7.0").sha256 == release.sha256
        with pytest.raises(ServiceError, match="cannot be read any more"):
            running.client.release_files("berth-7.1")
    finally:
        running.stop()


def test_what_an_operator_knows_better_is_kept_beside_what_was_read(service: Service, tmp_path: Path) -> None:
    client = service.client
    release = client.release_check_in(berth(tmp_path, "6.0"))
    read = release.findings["php"]
    told = client.release_correct(release.sha256, {"php": "8.3", "extensions": "gd, MBSTRING", "writable": ""})
    assert told.findings["php"] == "8.3" and told.findings["extensions"] == ["gd", "mbstring"]
    assert told.findings["corrected"]["php"]["was"] == read and told.findings["corrected"]["php"]["by"] == "token"
    compared = client.release_compare("berth-6.0", client.release_check_in(berth(tmp_path, "6.1")).sha256)
    assert ("8.3", read) in {(n.before, n.after) for n in compared.needs}, "what is planned and compared goes by it"
    with pytest.raises(ServiceError) as caught:
        client.release_correct(release.sha256, {"php": "new", "installers": "none.php", "name": "x"})
    for words in ("'new' is no version", "none.php is not a file of the release", "name cannot be corrected"):
        assert words in caught.value.fault.message
    back = service.cli("release", "correct", "berth-6.0", "--as-read", "php")
    assert (
        back.returncode == 0
        and f"{read} or newer" in back.stdout
        and "extensions is gd, mbstring by token" in back.stdout
    )
    assert service.cli("release", "correct", "berth-6.0", "php").returncode == 2
    told = service.cli(
        "release", "correct", "berth-6.0", "php_settings=memory_limit=128 MB, max_execution_time=60", "first_login=none"
    )
    assert "memory_limit 128M" in told.stdout and "nothing was found that signs anybody in" in told.stdout, told.stderr
    assert client.release_show("berth-6.0").findings["php_settings"] == {
        "max_execution_time": "60",
        "memory_limit": "128M",
    }
    wrong = service.cli("release", "correct", "berth-6.0", "php_settings=memory=12", "first_login=me")
    assert wrong.returncode != 0 and "memory_limit=128M" in wrong.stderr and "asked, published" in wrong.stderr
