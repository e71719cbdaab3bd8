"""The host helper under attack, and at work, on a real web server."""

from __future__ import annotations

import contextlib
import hashlib
import hmac
import io
import os
import re
import shutil
import signal
import tarfile
import threading
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any

import pytest

from highshelf.core.errors import HelperBusyError, HelperError
from highshelf.core.origins import Origins
from highshelf.drivers.archive.repack import repack
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.drivers.helper import client as helper_module
from highshelf.drivers.helper.client import HostHelper
from highshelf.drivers.helper.host_php import PhpThroughHelper
from highshelf.drivers.http.fetch import HttpFetch
from tests.support import Hosting, until


class Bench:
    """A helper on a customer's site, with its list of outstanding files."""

    def __init__(self, hosting: Hosting, key: str = "choir") -> None:
        customer = hosting.customer(key)
        self.hosting = hosting
        self.root, self.home, self.seen_root = hosting.root(key), hosting.home(key), customer["root"]
        self.address = customer["address"]
        self.files = FtpFiles(hosting.login(key), password=hosting.password(key))
        self.fetch = HttpFetch(Origins.of(self.address), address=self.address, reach=customer["reach"])
        self.outstanding: list[str] = []
        self.files.make_folder("hold")
        self.files.make_folder("hold/tree")
        self.helper = self.make()

    def make(self) -> HostHelper:
        return HostHelper(
            self.files,
            self.fetch,
            folder=self.seen_root,
            address=self.address,
            reaches=("../hold", "."),
            outstanding=self.outstanding.append,
            gone=self.outstanding.remove,
        )

    def url(self) -> str:
        return self.address + self.outstanding[0].rsplit("/", 1)[-1]

    def key(self) -> str:
        text = (self.root / self.outstanding[0].rsplit("/", 1)[-1]).read_text()
        return str(re.search(r"HELPER_KEY = '(\w+)'", text)[1])  # type: ignore[index]

    def ask(self, body: bytes, nonce: str, moment: int, key: str, method: str = "POST") -> tuple[int, bytes]:
        seal = hmac.new(
            key.encode(), method.encode() + b"\n" + body + f"\n{nonce}\n{moment}".encode(), hashlib.sha256
        ).hexdigest()
        headers = {"X-Helper-Nonce": nonce, "X-Helper-Time": str(moment), "X-Helper-Seal": seal}
        status, _, answer = self.fetch.send_json(self.url(), body, headers)
        return status, answer


@pytest.fixture
def bench(clean: Hosting) -> Iterator[Bench]:
    made = Bench(clean)
    yield made
    _cleared(made)


@pytest.fixture
def foreign(clean: Hosting) -> Iterator[Bench]:
    """Where PHP runs as another user than the login."""
    made = Bench(clean, "yard")
    yield made
    _cleared(made)


def _cleared(made: Bench) -> None:
    made.helper.remove()
    made.files.close()
    made.fetch.close()
    shutil.rmtree(made.home / "hold")


def test_it_reports_and_leaves_nothing_behind(bench: Bench) -> None:
    report = bench.helper.call("report", {})
    assert re.match(r"\d+\.\d+", report["php"])
    assert report["user"]["id"] == report["owner"] == (bench.root / "index.html").stat().st_uid
    assert bench.outstanding and list(bench.root.glob("hs-*"))
    bench.helper.remove()
    assert bench.outstanding == []
    assert list(bench.root.glob("hs-*")) == []


def test_forged_replayed_and_late_requests_are_refused(bench: Bench) -> None:
    bench.helper.call("report", {})
    now, key = int(time.time()), bench.key()
    assert bench.ask(b"{}", "a" * 32, now, "0" * 64) == (403, b'{"refused":"signature"}')
    assert bench.ask(b"{}", "b" * 32, now, key)[0] == 200
    assert bench.ask(b"{}", "b" * 32, now, key) == (403, b'{"refused":"replay"}')
    assert bench.ask(b"{}", "c" * 32, now - 4000, key) == (403, b'{"refused":"time"}')
    assert bench.ask(b"{}", "../../x", now, key) == (403, b'{"refused":"nonce"}')
    assert bench.ask(b"{}", "d" * 32, now, key, method="GET") == (403, b'{"refused":"signature"}')
    assert bench.fetch.get(bench.url()).status == 403


def test_the_list_of_nonces_is_not_served(bench: Bench) -> None:
    bench.helper.call("report", {})
    name = bench.url().rpartition("/")[2].removesuffix(".php") + ".seen.txt"
    assert (bench.root / name).read_text().strip() != "" and ".php" not in name
    assert bench.fetch.get(bench.address + name).status == 403


def test_only_its_owner_may_read_it_where_php_is_its_owner(bench: Bench) -> None:
    bench.helper.call("report", {})
    assert (bench.root / bench.url().rpartition("/")[2]).stat().st_mode & 0o777 == 0o600
    assert bench.helper.call("report", {})["php"]


def test_another_user_may_read_it_where_php_is_one_and_that_is_remembered(foreign: Bench) -> None:
    helper_module._READ_BY_OTHERS.discard(foreign.address)
    assert foreign.helper.call("report", {})["php"]
    assert foreign.address in helper_module._READ_BY_OTHERS
    assert (foreign.root / foreign.url().rpartition("/")[2]).stat().st_mode & 0o777 == 0o644


class OnTheWay:
    """Somebody between us and the host, who answers in its place."""

    def __init__(self, fetch: HttpFetch, told: str, answer: bytes) -> None:
        self._fetch, self._told, self._answer = fetch, told, answer

    def __getattr__(self, name: str) -> Any:
        return getattr(self._fetch, name)

    def send_json(self, url: str, body: bytes, headers: Any) -> tuple[int, dict[str, str], bytes]:
        return 403, {"x-helper-time": self._told, "x-helper-seal": "0" * 64}, self._answer


@pytest.mark.parametrize("told", ["in ten years", "9" * 30, "1"])
@pytest.mark.parametrize("why", ["expired", "time", "nonce file"])
def test_a_forged_refusal_is_believed_in_nothing(bench: Bench, told: str, why: str) -> None:
    if told == "in ten years":
        told = str(int(time.time()) + 10 * 365 * 86400)
    bench.helper._fetch = OnTheWay(bench.fetch, told, f'{{"refused":"{why}"}}'.encode())  # type: ignore[assignment]
    with pytest.raises(HelperError):
        bench.helper.call("report", {})
    placed = list(bench.root.glob("hs-*.php"))
    ends = [int(re.search(r"HELPER_UNTIL = (\d+)", p.read_text())[1]) for p in placed]  # type: ignore[index]
    assert len(ends) == 1 and ends[0] <= time.time() + helper_module.LIFETIME_SECONDS + 5
    assert list(bench.root.glob("*.seen.*")) == []


def test_a_clock_that_is_years_off_is_no_clock(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    real = time.time
    monkeypatch.setattr(helper_module.time, "time", lambda: real() - 5 * 86400)
    with pytest.raises(HelperError, match="hours ahead"):
        bench.helper.call("report", {})


def test_a_key_is_good_for_so_many_requests_and_then_there_is_a_new_one(
    bench: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(helper_module.USES, "report", 3)
    keys = set()
    for _ in range(7):
        assert bench.helper.call("report", {})["php"]
        keys.add(bench.key())
    assert len(keys) == 3
    now, nonces = int(time.time()), [f"{n:032x}" for n in range(4)]
    assert [bench.ask(b"{}", nonce, now, bench.key())[0] for nonce in nonces][-1] == 403


def test_a_file_is_not_used_beyond_our_own_time(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    bench.helper.call("report", {})
    first, now = bench.key(), time.monotonic()
    monkeypatch.setattr(helper_module.time, "monotonic", lambda: now + helper_module.LIFETIME_SECONDS + 1)
    with pytest.raises(HelperError, match="over"):
        bench.helper.ask("report", {})
    assert bench.helper.call("report", {})["php"] and bench.key() != first


@pytest.mark.parametrize("where", ["tree", "tree/a", "tree/a/b"])
def test_it_goes_through_no_link(bench: Bench, where: str) -> None:
    """A link that somebody has put into our folder leads nowhere, whether what lies behind it is there yet or not."""
    hold, outside = bench.home / "hold", bench.home / "private"
    with zipfile.ZipFile(hold / "archive.zip", "w") as archive:
        archive.writestr("a/b/c/new/file.txt", "ours")
    link = hold / where
    shutil.rmtree(link, ignore_errors=True)
    link.parent.mkdir(parents=True, exist_ok=True)
    link.symlink_to(outside)
    with pytest.raises(HelperError, match="leaves the folder"):
        bench.helper.call("unpack", {})
    assert list(outside.rglob("*.txt")) == []


def test_it_writes_new_files_only(bench: Bench) -> None:
    """What somebody made a second name of stays as it is: the file is made anew, not written into."""
    hold, theirs = bench.home / "hold", bench.home / "private" / "theirs.txt"
    theirs.write_text("theirs")
    (hold / "tree" / "a.txt").hardlink_to(theirs)
    (hold / "tree" / "b.txt").symlink_to(theirs)
    with zipfile.ZipFile(hold / "archive.zip", "w") as archive:
        archive.writestr("a.txt", "ours")
        archive.writestr("b.txt", "ours too")
    bench.helper.call("unpack", {})
    assert theirs.read_text() == "theirs"
    assert (hold / "tree" / "a.txt").read_text() == "ours" and not (hold / "tree" / "b.txt").is_symlink()


def test_an_expired_helper_does_nothing(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(helper_module, "LIFETIME_SECONDS", -5)
    with pytest.raises(HelperError) as caught:
        bench.helper.call("report", {})
    assert "expired" in caught.value.message


def test_a_helper_of_a_host_whose_clock_is_far_ahead_still_works(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    real = time.time
    monkeypatch.setattr(helper_module.time, "time", lambda: real() - 7200)
    assert bench.helper.call("report", {})["php"]
    bench.helper.remove()
    assert list(bench.root.glob("hs-*")) == []


def test_paths_do_not_leave_the_folders(bench: Bench) -> None:
    for inside in ("../htdocs", "tree/../../private", "/etc", "tree/./x", "tree//x"):
        with pytest.raises(HelperError):
            bench.helper.call("hashes", {"folder": 0, "inside": inside})
    with pytest.raises(HelperError):
        bench.helper.call("hashes", {"folder": 7, "inside": "tree"})
    (bench.hosting.home("choir") / "hold" / "tree" / "out").symlink_to("/etc")
    with pytest.raises(HelperError):
        bench.helper.call("hashes", {"folder": 0, "inside": "tree/out"})
    (bench.hosting.home("choir") / "hold" / "tree" / "out").unlink()


def test_a_link_leads_only_to_what_is_ours(bench: Bench) -> None:
    made, beside = bench.home / "hold/tree/shown", {"shows": 0, "shows_inside": "tree"}
    wanted = {"folder": 0, "inside": "tree/shown", **beside}
    for to in ("/etc", "../../etc", "../tree/../../private", "tree/..", "..", "", "../tre", "ee"):
        with pytest.raises(HelperError, match="leaves the folders"):
            bench.helper.call("link", {**wanted, "to": to})
    with pytest.raises(HelperError, match="leaves the folder"):
        bench.helper.call("link", {**wanted, "to": "../private", "shows_inside": "../private"})
    with pytest.raises(HelperError, match="leaves the folder"):
        bench.helper.call("link", {**wanted, "to": "../hold/tree", "inside": "../private/shown"})
    assert not made.is_symlink()
    for _ in range(2):
        # Twice, as when the answer to the first was lost.
        assert bench.helper.call("link", {**wanted, "to": "../../hold/tree"}) == {"made": True}
    assert str(made.readlink()) == "../../hold/tree" and made.resolve() == bench.home / "hold/tree"
    made.unlink()


def test_an_archive_cannot_write_outside(bench: Bench) -> None:
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w") as made:
        made.writestr("../../htdocs/evil.php", "<?php echo 1;")
    bench.files.write("hold/archive.zip", archive.getvalue())
    with pytest.raises(HelperError):
        bench.helper.call("unpack", {"next": 0})
    assert not (bench.root / "evil.php").exists()


SOURCES = {
    **{f"pages/part{n:03d}/{'long-' * (n % 45)}name.php": b"<?php // %d\n" % n * (n * 7 % 900) for n in range(120)},
    "pictures/harbour.jpg": Random(3).randbytes(3_000_000),
    ".htaccess": b"Require all denied\n",
    "leer/öl und wasser.txt": b"",
}


@pytest.fixture(scope="module")
def packed(tmp_path_factory: pytest.TempPathFactory) -> bytes:
    """SOURCES as the release's tar.gz form, which has some members."""
    folder = tmp_path_factory.mktemp("packed")
    with zipfile.ZipFile(folder / "a.zip", "w") as made:
        for name, content in SOURCES.items():
            made.writestr(f"w/{name}", content)
    repack(folder / "a.zip", "w/", "tar.gz", folder / "a.tar.gz")
    return (folder / "a.tar.gz").read_bytes()


def test_it_unpacks_what_has_arrived_so_far(bench: Bench, packed: bytes) -> None:
    assert packed.count(b"\x1f\x8b\x08\x00\x00\x00\x00\x00") > 3
    dice, sent, following = Random(4), 0, {}
    answer: dict[str, Any] = {"done": False}
    files = 0
    while not answer["done"]:
        # A cut at any byte, in a header, in a name, in a file; and twice the same piece.
        sent = min(len(packed), sent + dice.randint(1, 400_000))
        bench.files.write("hold/archive.tar", packed[:sent])
        answer = bench.helper.call("untar", {"next": following, "inside": "tree/w"})
        assert not answer["damaged"]
        assert answer["done"] or sent < len(packed) or answer["next"] != following
        following, files = answer["next"], files + answer["files"]
    tree = bench.hosting.home("choir") / "hold/tree/w"
    assert {str(p.relative_to(tree)): p.read_bytes() for p in tree.rglob("*") if p.is_file()} == SOURCES
    assert files == len(SOURCES)
    told = bench.helper.call("hashes", {"folder": 0, "inside": "tree/w", "modes": True, "all": True})
    digest = hashlib.sha256()
    for name in sorted(SOURCES, key=str.encode):
        digest.update(f"{hashlib.sha256(SOURCES[name]).hexdigest()}  ./{name}\0".encode())
    assert told["all"] == digest.hexdigest() and told["done"] and told["hashes"] == {}


def test_a_packed_archive_that_is_damaged_is_told_and_what_came_before_stays(bench: Bench, packed: bytes) -> None:
    damaged = bytearray(packed)
    damaged[len(packed) // 2] ^= 0x40
    bench.files.write("hold/archive.tar", bytes(damaged))
    first = bench.helper.call("untar", {"next": {}, "inside": "tree"})
    assert first["damaged"] and not first["done"] and 0 < first["next"]["at"] <= len(packed) // 2
    again = bench.helper.call("untar", {"next": first["next"], "inside": "tree"})
    assert again["damaged"] and again["next"] == first["next"]
    bench.files.write("hold/archive.tar", packed)
    assert bench.helper.call("untar", {"next": first["next"], "inside": "tree"})["done"]
    assert (bench.hosting.home("choir") / "hold/tree/pictures/harbour.jpg").read_bytes() == SOURCES[
        "pictures/harbour.jpg"
    ]


def test_a_packed_archive_cannot_write_outside(bench: Bench) -> None:
    for name in ("../../htdocs/evil.php", "/tmp/evil.php", "a/../../../htdocs/evil.php"):
        made = io.BytesIO()
        with tarfile.open(fileobj=made, mode="w:gz") as tar:
            info = tarfile.TarInfo(name)
            info.size = 4
            tar.addfile(info, io.BytesIO(b"evil"))
        bench.files.write("hold/archive.tar", made.getvalue())
        with pytest.raises(HelperError):
            bench.helper.call("untar", {"next": {}, "inside": "tree"})
        with pytest.raises(HelperError):
            bench.helper.call("untar", {"next": {"path": name, "left": 4}, "inside": "tree"})
    assert not (bench.root / "evil.php").exists()


def test_it_unpacks_hashes_and_sets_modes(bench: Bench) -> None:
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w") as made:
        made.writestr("a/.htaccess", "Require all denied")
        made.writestr("a/b.php", "<?php")
        made.writestr("a/empty/", "")
    bench.files.write("hold/archive.zip", archive.getvalue())
    assert bench.helper.call("unpack", {"next": 0}) == {"next": 3, "all": 3}
    answer = bench.helper.call("hashes", {"folder": 0, "inside": "tree/a", "modes": True})
    assert answer["hashes"] == {
        ".htaccess": hashlib.sha256(b"Require all denied").hexdigest(),
        "b.php": hashlib.sha256(b"<?php").hexdigest(),
    }
    assert answer["done"] and answer["last"] == "b.php"
    assert (bench.hosting.home("choir") / "hold/tree/a/b.php").stat().st_mode & 0o777 == 0o644


def test_a_database_login_is_tried_from_the_host_and_its_file_is_gone(bench: Bench) -> None:
    php = PhpThroughHelper(
        bench.helper, bench.files, "hold/login.json", bench.outstanding.append, bench.outstanding.remove
    )
    wanted = {
        "host": "localhost",
        "port": 3306,
        "name": "none",
        "user": "nobody",
        "password": "wrong-word",
        "write": False,
    }
    answer = php.database_login(wanted)
    assert not answer["ok"]
    assert "Access denied" in answer["error"]
    assert not (bench.hosting.home("choir") / "hold/login.json").exists()


def test_a_host_that_does_not_run_it_is_told_apart(bench: Bench) -> None:
    bench.helper._address = bench.address + "elsewhere/"
    with pytest.raises(HelperError) as caught:
        bench.helper.call("report", {})
    assert "does not run the helper" in caught.value.message


def test_a_helper_of_a_host_whose_clock_is_behind_still_works(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    real = time.time
    monkeypatch.setattr(helper_module.time, "time", lambda: real() + 7200)
    assert bench.helper.call("report", {})["php"]
    bench.helper.remove()
    assert list(bench.root.glob("hs-*")) == []


def test_of_two_equal_requests_at_once_one_counts(bench: Bench) -> None:
    bench.helper.call("report", {})
    key, now = bench.key(), int(time.time())
    for turn in range(5):
        answers: list[tuple[int, bytes]] = []
        gate = threading.Barrier(4)

        def ask(
            nonce: str = f"{turn:032x}", gate: threading.Barrier = gate, answers: list[tuple[int, bytes]] = answers
        ) -> None:
            gate.wait()
            answers.append(bench.ask(b"{}", nonce, now, key))

        threads = [threading.Thread(target=ask) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert sorted(status for status, _ in answers) == [200, 403, 403, 403]
        assert {body for status, body in answers if status == 403} == {b'{"refused":"replay"}'}


def test_different_requests_at_once_are_all_answered(bench: Bench) -> None:
    bench.helper.call("report", {})
    key, now = bench.key(), int(time.time())
    seen: list[int] = []
    threads = [
        threading.Thread(target=lambda n=n: seen.append(bench.ask(b"{}", f"{n:032x}", now, key)[0]))
        for n in range(100, 106)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert seen == [200] * 6


def test_a_forged_or_exchanged_reply_is_not_believed(bench: Bench) -> None:
    honest = bench.fetch.send_json
    before: list[tuple[int, object, bytes]] = []

    def changed(url: str, body: bytes, headers: object) -> object:
        status, told, answer = honest(url, body, headers)  # type: ignore[arg-type]
        before.append((status, told, answer))
        return status, told, answer.replace(b'"unpacks":true', b'"unpacks":false')

    bench.fetch.send_json = changed  # type: ignore[method-assign,assignment]
    with pytest.raises(HelperError) as forged:
        bench.helper.call("report", {})
    assert "does not run the helper" in forged.value.message
    # An honest reply to an earlier question is no answer to this one.
    bench.fetch.send_json = lambda *_: before[0]  # type: ignore[method-assign,assignment]
    with pytest.raises(HelperError):
        bench.helper.call("report", {})


def test_killed_in_the_middle_it_goes_on_where_it_was(bench: Bench) -> None:
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w", zipfile.ZIP_STORED) as made:
        for number in range(6000):
            made.writestr(f"n{number:05d}.php", f"<?php // {number}")
    bench.files.write("hold/archive.zip", archive.getvalue())
    failed: list[HelperError] = []
    # It stands there: only one that was just put there is asked twice.
    assert bench.helper.call("unpack", {"next": 6000})["all"] == 6000

    def work() -> None:
        try:
            bench.helper.call("unpack", {"next": 0})
        except HelperError as fault:
            failed.append(fault)

    thread = threading.Thread(target=work)
    thread.start()
    tree = bench.home / "hold" / "tree"
    until(lambda: sum(1 for _ in tree.iterdir()) > 200, "nothing was unpacked")
    for pid in _php_of(bench.root.stat().st_uid):
        os.kill(pid, signal.SIGKILL)
    thread.join()
    assert failed and failed[0].context["status"] in (500, 502, 503, 504)
    answers = [{"next": 0, "all": 6000}]

    def whole() -> bool:
        """One slice more; a web server that lost its PHP asks for it again only after a while."""
        with contextlib.suppress(HelperBusyError):
            answers.append(bench.helper.call("unpack", {"next": answers[-1]["next"]}))
        return answers[-1]["next"] == answers[-1]["all"]

    until(whole, "it never went on", 90)
    assert sum(1 for _ in tree.iterdir()) == 6000
    assert (tree / "n05999.php").read_text() == "<?php // 5999"


def _php_of(user: int) -> list[int]:
    """The PHP workers that run as this user: the practice host's, whose users are its own."""
    found = []
    for entry in Path("/proc").iterdir():
        try:
            if entry.name.isdigit() and entry.stat().st_uid == user and b"php-fpm" in (entry / "cmdline").read_bytes():
                found.append(int(entry.name))
        except OSError:
            continue
    return found


def test_a_scanner_that_takes_it_away_is_told_as_that(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    honest = bench.files.write

    def scanned(path: str, content: bytes, mode: int | None = None) -> None:
        honest(path, content, mode)
        if path.endswith(".php"):
            (bench.home / path).unlink()

    monkeypatch.setattr(bench.files, "write", scanned)
    with pytest.raises(HelperError) as caught:
        bench.helper.call("report", {})
    assert "scanner" in caught.value.message and "helper-text" in caught.value.hint
    bench.helper.remove()
    assert bench.outstanding == []


def test_where_php_is_another_user_it_works_and_leaves_nothing(foreign: Bench) -> None:
    report = foreign.helper.call("report", {})
    assert report["user"]["name"] == "www-data" and report["owner"] == foreign.root.stat().st_uid
    now, key = int(time.time()), foreign.key()
    assert foreign.ask(b"{}", "e" * 32, now, key)[0] == 200
    assert foreign.ask(b"{}", "e" * 32, now, key) == (403, b'{"refused":"replay"}')
    assert len(list(foreign.root.glob("hs-*"))) == 2
    foreign.helper.remove()
    assert list(foreign.root.glob("hs-*")) == [] and foreign.outstanding == []
