"""The host helper under attack, and at work, on a real web server."""

from __future__ import annotations

import hashlib
import hmac
import io
import re
import time
import zipfile
from collections.abc import Iterator

import pytest

from highshelf.core.errors import HelperError
from highshelf.core.origins import Origins
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.drivers.helper import client as helper_module
from highshelf.drivers.helper.client import HostHelper
from highshelf.drivers.helper.host_php import PhpThroughHelper
from highshelf.drivers.http.fetch import HttpFetch
from tests.support import Hosting


class Bench:
    """A helper on the FTPS customer's site, with its list of outstanding files."""

    def __init__(self, hosting: Hosting) -> None:
        customer = hosting.customer("choir")
        self.hosting = hosting
        self.root = hosting.root("choir")
        self.address = customer["address"]
        self.files = FtpFiles(hosting.login("choir"), password=hosting.password("choir"))
        self.fetch = HttpFetch(Origins.of(self.address), address=self.address, reach=customer["reach"])
        self.outstanding: list[str] = []
        self.files.make_folder("hold")
        self.files.make_folder("hold/tree")
        self.helper = self.make()

    def make(self) -> HostHelper:
        return HostHelper(
            self.files,
            self.fetch,
            folder="htdocs",
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
    made.helper.remove()
    made.files.close()
    made.fetch.close()
    for path in sorted((clean.home("choir") / "hold").rglob("*"), reverse=True):
        path.rmdir() if path.is_dir() else path.unlink()
    (clean.home("choir") / "hold").rmdir()


def test_it_reports_and_leaves_nothing_behind(bench: Bench) -> None:
    report = bench.helper.call("report", {})
    assert re.match(r"\d+\.\d+", report["php"])
    assert report["user"] == report["owner"] == (bench.root / "index.html").stat().st_uid
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
    seen = bench.fetch.get(bench.url() + ".seen.php")
    assert seen.html.strip() == ""


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


def test_an_archive_cannot_write_outside(bench: Bench) -> None:
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w") as made:
        made.writestr("../../htdocs/evil.php", "<?php echo 1;")
    bench.files.write("hold/archive.zip", archive.getvalue())
    with pytest.raises(HelperError):
        bench.helper.call("unpack", {"next": 0})
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
    assert answer == {
        "hashes": {
            ".htaccess": hashlib.sha256(b"Require all denied").hexdigest(),
            "b.php": hashlib.sha256(b"<?php").hexdigest(),
        },
        "done": True,
    }
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


def test_its_source_has_no_eval_no_exec_and_no_syntax_newer_than_7_2() -> None:
    text = "".join(helper_module.part(p) for parts in helper_module.PARTS.values() for p in parts)
    for word in ("eval(", "exec(", "system(", "passthru", "popen", "base64_decode", "include", "create_function"):
        # `$link->exec(` is SQL.
        assert word not in text.replace("->exec(", ""), word
    newer = [
        r"\bfn\s*\(",
        r"\?->",
        r"\bmatch\s*\(",
        r"\?\?=",
        r"\benum\b",
        r"\breadonly\b",
        r"function \w+\([^)]*\w\|\w",
        r"\bstatic fn\b",
        r"#\[",
        r"\bstr_contains\b",
    ]
    found = [pattern for pattern in newer if re.search(pattern, text)]
    # Typed properties (7.4) are `public int $x` in a class; there are no classes at all.
    assert found == [] and "class " not in text
