"""The whole job by each way that files can go over: every one ends with the same tree, and nothing of ours left."""

from __future__ import annotations

import re
import secrets
import shutil
import time
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.practice.host import PANEL_UPLOAD_BYTES
from highshelf.practice.packing import write_zip
from highshelf.practice.seedledger.build import build_archive
from highshelf.schemas.models import PlanNew
from tests.drivers.ftp_servers import server
from tests.drivers.placing_faults import corpus
from tests.support import Hosting, Service, until


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory, tidebook: Path) -> Iterator[Service]:
    """One service for all, with the release packed in every form."""
    running = Service(tmp_path_factory.mktemp("ways") / "data", options=("--pack-all",))
    running.start()
    with running.client as client:
        release = client.release_check_in(tidebook)
        until(lambda: len(client.release_show(release.sha256).forms) == 3, "it was never packed")
    yield running
    running.stop()


@pytest.fixture
def account(clean: Hosting, service: Service) -> Callable[..., str]:
    """Adds an account of a customer under a name of its own."""

    def add(key: str, **more: object) -> str:
        name = f"{key}-{secrets.token_hex(3)}"
        service.client.account_add(clean.new_account(key, name=name, **more))
        return name

    return add


def tree_of(root: Path) -> set[str]:
    return {str(p.relative_to(root)) for p in root.rglob("*") if p.is_file()}


@pytest.mark.parametrize(
    ("key", "way", "more", "told"),
    [
        ("ferry", "", {}, "(tar.xz) brought over and unpacked"),
        ("ferry", "shell-unzip", {}, "unpacked over the shell (unzip)"),
        ("ferry", "files", {}, "392 files brought over one by one"),
        ("choir", "files", {"helper": False}, "392 files brought over one by one"),
        ("seeds", "files", {"helper": False}, "no hashes can be had from this host"),
        ("seeds", "files", {}, "392 files are identical with the release (SHA-256)"),
        ("choir", "", {"helper": False}, "unpacked by the panel (392 files)"),
        ("choir", "", {}, "unpacked through the helper (392 files)"),
        ("seeds", "helper-tar", {}, "unpacked through the helper (392 files)"),
        ("choir", "helper", {}, "unpacked through the helper (392 entries)"),
    ],
    ids=[
        "stream",
        "unzip",
        "files-over-ssh",
        "files-over-ftps",
        "files-in-a-chroot",
        "files-hashed-by-php",
        "panel",
        "helper",
        "helper-sftp",
        "helper-zip",
    ],
)
def test_each_way_ends_with_a_proven_installation(
    clean: Hosting,
    service: Service,
    account: Callable[..., str],
    key: str,
    way: str,
    more: dict[str, object],
    told: str,
) -> None:
    name = account(key, **more)
    before = clean.picture(key)["tree"]
    found = service.installed(service.install("tidebook", name, "/diary", way=way))
    with service.client as client:
        texts = [e.text for e in client.job_log(found.job).items]
    assert any(told in text for text in texts), texts
    root = clean.root(key) / "diary"
    assert (root / "data/.htaccess").read_text() == "Require all denied\n"
    assert len([p for p in tree_of(root) if p.startswith("tides/")]) == 364
    # PHP's opcode cache looks at times alone. A panel unpacks as it likes.
    assert told.endswith("by the panel (392 files)") or time.time() - (root / "index.php").stat().st_mtime < 600
    modes = {p.stat().st_mode & 0o777 for p in root.rglob("*.json")}
    assert modes == {0o644} and clean.leftovers() == []
    after = clean.picture(key)["tree"]
    inside = str(root.relative_to(clean.home(key)))
    assert {n: v for n, v in after.items() if n in before and n != str(Path(inside).parent)} == {
        n: v for n, v in before.items() if n != str(Path(inside).parent)
    }


def test_the_plan_says_which_way_and_why_and_which_are_open(service: Service, account: Callable[..., str]) -> None:
    ferry, seeds = account("ferry"), account("seeds")
    shown = service.cli("plan", "tidebook", ferry, "--at", "/diary")
    assert "shell-stream" in shown.stdout and "as tar.xz instead of" in shown.stdout
    assert "tar c . | xz | ssh" in shown.stdout
    other = service.cli("plan", "tidebook", ferry, "--at", "/diary", "--way", "files")
    assert "way            files, about " in other.stdout, other.stdout
    assert "if it fails    shell-stream (about " in other.stdout, other.stdout
    unknown = service.cli("plan", "tidebook", ferry, "--way", "pigeon")
    assert unknown.returncode == 2 and "shell-stream" in unknown.stderr
    with pytest.raises(ServiceError) as fault:
        service.client.plan_make(PlanNew(account=seeds, release="tidebook", way="shell-unzip"))
    assert "not open" in fault.value.fault.message and "helper-tar, helper, panel, files" in fault.value.fault.hint


def test_where_php_is_another_user_what_the_installer_needs_is_opened_and_closed_again(
    clean: Hosting, service: Service, account: Callable[..., str]
) -> None:
    name = account("yard")
    assert service.client.account_check(name).state == "done"
    found = service.installed(service.install("tidebook", name, "/diary"))
    with service.client as client:
        texts = [e.text for e in client.job_log(found.job).items]
    assert any("unpacked by the panel (392 files)" in text for text in texts), texts
    root = clean.root("yard") / "diary"
    # What the application writes to later stays open, as far as it has to be; the folder of the installation is closed again.
    assert any("opened for its group" in text for text in texts), texts
    assert root.stat().st_mode & 0o022 == 0
    opened = {
        p.name: p.stat().st_mode & 0o777 for p in root.rglob("*") if not p.is_symlink() and p.stat().st_mode & 0o002
    }
    assert opened == {"data": 0o757}, opened
    assert (root / "settings.php").stat().st_uid != root.stat().st_uid, "written by PHP's own user"
    assert "PHP writes to" in service.client.installation_sheet(found.id).decode() and clean.leftovers() == []


def test_a_way_that_fails_gives_place_to_the_next_without_starting_over(
    clean: Hosting, service: Service, account: Callable[..., str]
) -> None:
    """The packed form is damaged after the plan was made, as by a bad disk here or a broken tool there."""
    name = account("ferry")
    with service.client as client:
        plan = client.plan_make(PlanNew(account=name, release="tidebook", at="/diary"))
        assert [w.name for w in plan.ways][:2] == ["shell-stream", "shell-unzip"] and plan.ways[0].seconds > 0
        packed = service.data / "shelf" / plan.release / f"payload.{plan.way.archive}"
        whole = packed.read_bytes()
        packed.write_bytes(whole[:2000] + bytes(2000) + whole[4000:])
        try:
            job = service.wait(client.job_start(plan.id).id)
        finally:
            packed.write_bytes(whole)
        texts = [e.text for e in client.job_log(job.id).items]
    assert job.state == "done", job.error
    assert any(t.startswith("shell-stream failed: ") and "going on by shell-unzip" in t for t in texts), texts
    assert clean.leftovers() == []


def shut_out_the_helper(clean: Hosting, service: Service, name: str) -> None:
    """The check saw it at work; since then somebody has shut it out."""
    assert service.client.account_check(name).state == "done"
    (clean.root("choir") / ".htaccess").write_text(
        '<FilesMatch "^hs-[0-9a-f]+[.]php$">\nRequire all denied\n</FilesMatch>\n'
    )
    clean.own("choir")


def test_a_host_that_runs_the_helper_no_more_ends_the_way_not_the_job(
    clean: Hosting, service: Service, account: Callable[..., str]
) -> None:
    name = account("choir")
    shut_out_the_helper(clean, service, name)
    found = service.installed(service.install("tidebook", name, "/diary", way="helper-tar"))
    with service.client as client:
        texts = [e.text for e in client.job_log(found.job).items]
    failed = next(t for t in texts if t.startswith("helper-tar failed: "))
    # Not by another way that asks the same of it.
    assert "403" in failed and "going on by panel" in failed, failed
    assert any("unpacked by the panel (392 files)" in t for t in texts)
    assert any(t.startswith("going on without the helper: ") for t in texts), texts
    assert clean.leftovers() == []


def test_a_helper_that_is_refused_is_known_before_the_archive_is_over(
    clean: Hosting, service: Service, account: Callable[..., str], tmp_path: Path
) -> None:
    name = account("choir", pace_kb=300)
    with service.client as client:
        release = client.release_check_in(write_zip(tmp_path / "yard-1.0.zip", corpus(), "yard-1.0")).sha256
        until(lambda: len(client.release_show(release).forms) == 3, "it was never packed")
        shut_out_the_helper(clean, service, name)
        before = clean.picture("choir")
        plan = client.plan_make(PlanNew(account=name, release=release, at="/diary", way="helper-tar"))
        job = service.wait(client.job_start(plan.id).id)
        events = client.job_log(job.id).items
        packed = client.release_show(release).forms[plan.way.archive]
    # It has no installer, and is taken back: what is looked at is how it came there.
    assert job.state == "failed" and job.error is not None and job.error["leg"] == "walk", job.error
    texts = [e.text for e in events]
    failed = next(i for i, t in enumerate(texts) if t.startswith("helper-tar failed: "))
    assert max((e.data.get("bytes", 0) for e in events[:failed]), default=0) < packed
    assert any("unpacked by the panel" in t for t in texts)
    assert clean.picture("choir") == before and clean.leftovers() == []


def test_an_account_that_allows_one_connection_is_unpacked_after_the_archive(
    clean: Hosting, service: Service, account: Callable[..., str], tmp_path: Path
) -> None:
    port = clean.layout.base_port + 310
    transfer = clean.customer("choir")["transfer"]
    with server("vsftpd", "ftps", port, tmp_path / "vsftpd", most=1):
        name = account("choir", transfer=re.sub(r":\d+$", f":{port}", transfer), pace_kb=60)
        found = service.installed(service.install("tidebook", name, "/diary", way="helper-tar"))
        with service.client as client:
            texts = [e.text for e in client.job_log(found.job).items]
            assert client.account_show(name).limits["connections"] == 1
    over = next(i for i, t in enumerate(texts) if "brought over" in t)
    unpacked = next(i for i, t in enumerate(texts) if "unpacked through the helper (392 files)" in t)
    assert over < unpacked, texts
    assert clean.leftovers() == []


def test_a_job_rests_without_a_byte_and_goes_on_where_it_was(
    clean: Hosting, service: Service, account: Callable[..., str]
) -> None:
    name = account("choir", pace_kb=40)
    with service.client as client:
        plan = client.plan_make(PlanNew(account=name, release="tidebook", at="/diary", way="helper"))
        assert plan.pace_bytes == 40_000
        job = client.job_start(plan.id).id

        def held() -> int:
            return sum(p.stat().st_size for p in clean.home("choir").rglob("archive.zip"))

        until(lambda: held() > 20_000, "nothing went over")
        assert client.job_pause(job).paused
        until(lambda: client.job_show(job).state == "paused", "it never came to rest", 10)
        there = held()
        with pytest.raises(ServiceError) as fault:
            client.account_remove(name)
        assert fault.value.fault.code == "conflict"
        service.stop()
        service.start()
    with service.client as client:
        assert client.job_show(job).state == "paused" and held() == there
        began = time.monotonic()
        assert not client.job_resume(job).paused
        done = service.wait(job)
        texts = [e.text for e in client.job_log(job).items]
    assert done.state == "done", done.error
    assert any("going on from" in t for t in texts) and any("kB/s" in t or "MB/s" in t for t in texts), "\n".join(texts)
    size = plan_size(service, plan.release)
    assert time.monotonic() - began > (size - there) / 40_000 * 0.8
    with pytest.raises(ServiceError):
        service.client.job_resume(job)
    assert clean.leftovers() == []


def plan_size(service: Service, release: str) -> int:
    return service.client.release_show(release).size_bytes


def test_a_job_that_rests_can_be_cancelled_and_is_taken_back(
    clean: Hosting, service: Service, account: Callable[..., str]
) -> None:
    name = account("ferry", pace_kb=20)
    before = clean.picture("ferry")
    with service.client as client:
        job = client.job_start(client.plan_make(PlanNew(account=name, release="tidebook", at="/diary")).id).id
        until(lambda: list(clean.home("ferry").rglob("archive.part")), "nothing went over")
        client.job_pause(job)
        until(lambda: client.job_show(job).state == "paused", "it never came to rest", 10)
        client.job_cancel(job)
        ended = service.wait(job, ("cancelled",))
    assert ended.state == "cancelled" and clean.picture("ferry") == before and clean.leftovers() == []


OLD = {
    "index.php": "<?php echo 'the old front';",
    "install/notes.txt": "ours",
    "shop/index.php": "<?php echo 'neighbour';",
}


@pytest.mark.parametrize("key", ["ferry", "choir", "seeds"])
def test_what_is_replaced_is_kept_and_comes_back_when_the_job_is_cancelled(
    clean: Hosting, service: Service, account: Callable[..., str], key: str
) -> None:
    name = account(key)
    root = clean.root(key)
    for path, text in OLD.items():
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_text(text)
    clean.own(key)
    before = clean.picture(key)
    with service.client as client:
        with pytest.raises(ServiceError) as fault:
            client.plan_make(PlanNew(account=name, release="tidebook", at="/"))
        assert "another application stands there" in fault.value.fault.message and "replace" in fault.value.fault.hint
        with pytest.raises(ServiceError) as fault:
            client.plan_make(PlanNew(account=name, release="tidebook", at="/", if_there="beside"))
        assert "index.php, install" in fault.value.fault.message
        merged = client.plan_make(PlanNew(account=name, release="tidebook", at="/", if_there="merge"))
        assert merged.touches == ["index.html", "index.php"]
        plan = client.plan_make(PlanNew(account=name, release="tidebook", at="/", if_there="replace"))
        assert {"index.php", "install", "shop"} <= set(plan.touches)
        job = client.job_start(plan.id).id

        def swapped() -> bool:
            assert client.job_show(job).error is None, client.job_show(job).error
            return any(a.name == "swap" and a.state == "done" for a in client.job_show(job).acts)

        until(swapped, "it was never swapped in", 60)
        # Beside the document root or in it; other folders go meanwhile.
        kept = {p for base in (clean.home(key), clean.root(key)) for p in base.glob(".hs-kept-*/old/shop/index.php")}
        assert len(kept) == 1 and kept.pop().read_text() == OLD["shop/index.php"]
        client.job_cancel(job)
        service.wait(job, ("cancelled", "failed"))
    assert clean.picture(key) == before and clean.leftovers() == []


@pytest.mark.parametrize(
    ("key", "more", "how"),
    [
        ("ferry", {}, "SHA-256 by the shell there"),
        ("choir", {}, "SHA-256 by PHP there"),
        ("seeds", {"helper": False}, "names and sizes"),
    ],
    ids=["shell", "helper", "listing"],
)
def test_an_installation_is_compared_with_its_release_later(
    clean: Hosting, service: Service, account: Callable[..., str], key: str, more: dict[str, object], how: str
) -> None:
    found = service.installed(service.install("tidebook", account(key, **more), "/diary"))
    root = clean.root(key) / "diary"
    with service.client as client:
        first = client.installation_inspect(found.id)
        assert first.how.startswith(how), first.how
        # Its readme was shut to visitors.
        assert (first.unexplained, [d.path for d in first.changed]) == (0, [".htaccess"]), first
        assert {d.why for d in first.missing} == {"tidied away"} and first.same > 380
        whys = {d.path: d.why for d in first.extra}
        assert "its configuration" in whys.values(), whys
        (root / "index.php").write_text("<?php // defaced, and longer than before")
        (root / ".htaccess").unlink()
        (root / "shell.php").write_text("<?php // not the release's")
        (root / "cuckoo").mkdir()
        for name in ("a.php", "b.php"):
            (root / "cuckoo" / name).write_text("<?php")
        clean.own(key)
        second = client.installation_inspect(found.id)
    assert [d.path for d in second.changed if not d.why] == ["index.php"]
    assert [d.path for d in second.missing if not d.why] == [".htaccess"]
    assert {d.path: d.count for d in second.extra if not d.why} == {"shell.php": 1, "cuckoo/": 2}
    told = service.cli("installation", "inspect", found.id)
    assert told.returncode == 1 and "cuckoo/ (2 files)" in told.stdout and "not explained" in told.stdout, told.stdout
    if key == "seeds":
        same_size = (root / "tides/index.php") if (root / "tides/index.php").exists() else next(root.rglob("*.json"))
        content = same_size.read_bytes()
        same_size.write_bytes(content[:-1] + b"~")
        with service.client as client:
            assert client.installation_inspect(found.id).unread > 300
            read = client.installation_inspect(found.id, read=True)
        assert len(read.changed) == 2 and read.unread == 0
    assert clean.leftovers() == []


# The job comes as far as the installer's question for the title, and waits there.
WAITS = {"site.title": "?"}


@pytest.mark.parametrize(("key", "at"), [("choir", "/ledger"), ("choir", "/"), ("seeds", "/ledger")])
def test_the_address_shows_the_web_folder_and_the_rest_is_not_served(
    clean: Hosting, service: Service, account: Callable[..., str], tmp_path: Path, key: str, at: str
) -> None:
    """What was placed is looked at while the job waits for an answer; then it is taken back."""
    # Where PHP may make links, these are taken.
    name, before = account(key, helper=key == "seeds"), clean.picture(key)["tree"]
    root = clean.root(key) / at.strip("/")
    with service.client as client:
        client.release_check_in(build_archive(tmp_path))
        unknown = client.plan_make(PlanNew(account=name, release="seedledger", at=at))
        assert any("it sees all of" in text for text in unknown.warnings), unknown.warnings
        assert client.account_check(name).state == "done"
        plan = client.plan_make(PlanNew(account=name, release="seedledger", at=at, settings=WAITS))
        assert not any("it sees all of" in text for text in plan.warnings)
        assert any("lead every address there into public/" in act.what for act in plan.acts)
        job = client.job_start(plan.id)
        ended = service.wait(job.id)
        assert ended.state == "waiting", ended.error
        assert {a.name: a.state for a in client.job_show(job.id).acts if a.leg == "place"}["swap"] == "done", ended
    address = clean.customer(key)["address"] + at.strip("/") + ("/" if at != "/" else "")
    fetch = clean.fetch(key, address)
    shown = fetch.get(address)
    assert shown.status == 200 and "Setting up" in shown.html and "/public/" not in shown.url, shown.url
    asset = next(p for p in (root / "public/assets").rglob("*") if p.is_file())
    assert fetch.get(address + str(asset.relative_to(root / "public"))).html == asset.read_text()
    for path in ("config/settings.sample.php", "bin/ledger", "README.md", "composer.json", ".htaccess"):
        content = (root / path).read_text()
        assert content[:40] not in fetch.get(address + path).html, path
    fetch.close()
    service.client.job_cancel(job.id)
    assert service.wait(job.id, ("cancelled",)).finished_at is not None
    assert clean.picture(key)["tree"] == before


@pytest.mark.parametrize("at", ["/ledger", "/"], ids=["one-link", "a-link-for-every-name"])
@pytest.mark.parametrize("key", ["ferry", "choir"], ids=["by-the-login", "by-php"])
def test_links_show_the_web_folder_of_what_stands_beside_the_document_root(
    clean: Hosting, service: Service, account: Callable[..., str], tmp_path: Path, key: str, at: str
) -> None:
    """As above; where the login makes links, or PHP through the helper, and the web server follows them."""
    name, home, before = account(key), clean.home(key), clean.picture(key)["tree"]
    customer, root = clean.customer(key), clean.root(key)
    with service.client as client:
        client.release_check_in(build_archive(tmp_path))
        assert client.account_check(name).state == "done"
        plan = client.plan_make(PlanNew(account=name, release="seedledger", at=at, settings=WAITS))
        assert (
            any(f"{root.name} shows what lies in seedledger/public, by links" in a.what for a in plan.acts) or at != "/"
        )
        job = client.job_start(plan.id)
        assert service.wait(job.id).state == "waiting"
        acts = {a.name: a for a in client.job_show(job.id).acts if a.leg == "place"}
        assert acts["swap"].state == "done" and "links to seedledger/public" in acts["swap"].told
    shown = root / at.strip("/")
    if at == "/":
        assert (shown / "index.php").is_symlink() and not shown.is_symlink()
        assert (shown / "index.php").resolve() == home / "seedledger/public/index.php"
    else:
        assert shown.is_symlink() and shown.resolve() == home / "seedledger/public"
    assert (home / "seedledger/config/settings.sample.php").is_file() and not (root / "config").exists()
    address = customer["address"] + at.strip("/") + ("/" if at != "/" else "")
    with clean.fetch(key, address) as fetch:
        page = fetch.get(address)
        assert page.status == 200 and "Setting up" in page.html and "/public/" not in page.html
        asset = next(p for p in (home / "seedledger/public/assets").rglob("*") if p.is_file())
        assert fetch.get(address + str(asset.relative_to(home / "seedledger/public"))).html == asset.read_text()
        for path in ("config/settings.sample.php", "bin/ledger", "README.md"):
            kept_back = (home / "seedledger" / path).read_text()
            assert kept_back[:40] not in fetch.get(address + path).html, path
    service.client.job_cancel(job.id)
    assert service.wait(job.id, ("cancelled",)).finished_at is not None
    assert clean.picture(key)["tree"] == before


@pytest.mark.parametrize("key", ["ferry", "choir"], ids=["by-the-login", "by-php"])
def test_what_links_show_is_taken_back_as_a_whole(
    clean: Hosting, service: Service, account: Callable[..., str], tmp_path: Path, key: str
) -> None:
    name, before = account(key), clean.picture(key)
    with service.client as client:
        client.release_check_in(build_archive(tmp_path))
        assert client.account_check(name).state == "done"
        for at in ("/", "/ledger"):
            plan = client.plan_make(PlanNew(account=name, release="seedledger", at=at))
            (clean.home(key) / "seedledger").mkdir()
            taken = service.wait(client.job_start(plan.id).id)
            assert taken.state == "failed" and taken.error is not None
            assert "seedledger is there since the plan was made" in taken.error["message"]
            (clean.home(key) / "seedledger").rmdir()
            job = client.job_start(client.plan_make(PlanNew(account=name, release="seedledger", at=at)).id)
            until(lambda job=job: "swap" in {a.name for a in client.job_show(job.id).acts}, "no swap")  # type: ignore[misc]
            client.job_cancel(job.id)
            assert service.wait(job.id).state in ("cancelled", "failed")
            assert clean.picture(key) == before and clean.leftovers() == []


def padded(release: Path, target: Path, size: int) -> Path:
    """The release with so many bytes more that cannot be packed."""
    shutil.copy(release, target)
    with zipfile.ZipFile(target, "a", zipfile.ZIP_STORED) as archive:
        archive.writestr("tidebook-1.4.2/pictures/estuary.bin", secrets.token_bytes(size))
    return target


@pytest.mark.parametrize("way", ["helper-tar", "helper"])
def test_where_the_server_limits_each_connection_an_archive_goes_over_in_slices(
    clean: Hosting, service: Service, account: Callable[..., str], tidebook: Path, tmp_path: Path, way: str
) -> None:
    # From here on, this and the next are the newest Tidebook for everybody.
    large, before = padded(tidebook, tmp_path / "tidebook-1.4.3.zip", 12_000_000), clean.picture("choir")["tree"]
    limit = clean.home("choir") / ".ftpaccess"
    limit.write_text("TransferRate STOR 350\n")
    try:
        with service.client as client:
            release = client.release_check_in(large)
            until(lambda: len(client.release_show(release.sha256).forms) == 3, "it was never packed", 90)
            job = service.install(release.sha256, account("choir"), "/diary", way=way)
            texts = [e.text for e in client.job_log(job.id).items]
    finally:
        limit.unlink()
    assert job.state == "done", job.error
    assert any("over 4 connections" in t for t in texts), "\n".join(texts)
    assert not any("going on by" in t for t in texts), texts
    after = clean.picture("choir")["tree"]
    assert {n: v for n, v in after.items() if "/diary" not in n} == before
    assert clean.leftovers() == []


def test_a_panel_that_takes_no_file_of_that_size_gives_place_to_single_files(
    clean: Hosting, service: Service, account: Callable[..., str], tidebook: Path, tmp_path: Path
) -> None:
    large = padded(tidebook, tmp_path / "tidebook-1.4.3.zip", PANEL_UPLOAD_BYTES)
    name = account("choir", helper=False)
    with service.client as client:
        release = client.release_check_in(large)
        job = service.install(release.sha256, name, "/diary")
        texts = [e.text for e in client.job_log(job.id).items]
    assert job.state == "done", job.error
    refused = (
        "panel failed: the panel refuses (upload): Files of more than 24 MB cannot be sent here.; going on by files"
    )
    assert any(t.startswith(refused) for t in texts), texts
    assert clean.leftovers() == []
