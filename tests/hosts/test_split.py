"""A release whose web folder comes into the document root, and the rest of it into the folder above: no links there, no rules."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterator

import pytest

from highshelf.practice.packing import write_zip
from highshelf.practice.tidebook.build import contents
from highshelf.schemas.models import AccountChange, PlanNew
from tests.support import Hosting, Service, until

SHOWN = ("index.php", "install/", "staff/", "theme/", "tides/")
# Its web server follows neither links nor rules of ours.
KEY = "birds"


def _split(path: str, content: bytes) -> tuple[str, bytes]:
    """Tidebook with its program and settings out of the web's reach: every way to them goes up one folder more."""
    if not path.startswith(SHOWN):
        return path, content
    up = {
        b"__DIR__ . '/lib/": b"__DIR__ . '/../lib/",
        b"__DIR__ . '/settings.php'": b"__DIR__ . '/../settings.php'",
        b"__DIR__ . '/../lib/": b"__DIR__ . '/../../lib/",
        b"__DIR__ . '/../settings.php'": b"__DIR__ . '/../../settings.php'",
        b"dirname(__DIR__) . '/settings.php'": b"dirname(__DIR__, 2) . '/settings.php'",
        b"$root = dirname(__DIR__);": b"$root = dirname(__DIR__, 2);",
    }
    depth = path.count("/")
    for old, new in list(up.items())[:2] if depth == 0 else list(up.items())[2:]:
        content = content.replace(old, new)
    return f"public/{path}", content


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    folder = tmp_path_factory.mktemp("split")
    files = dict(_split(path, content) for path, content in contents().items())
    running = Service(folder / "data", options=("--pack-all",))
    running.start()
    with running.client as client:
        release = client.release_check_in(write_zip(folder / "tidebook-1.4.2.zip", files, "tidebook-1.4.2"))
        assert release.findings["web_folder"] == "public"
        until(lambda: len(client.release_show(release.sha256).forms) == 3, "it was never packed")
    yield running
    running.stop()


@pytest.fixture
def account(clean: Hosting, service: Service) -> Callable[..., str]:
    """A checked account of the customer, under a name of its own."""

    def add(**more: object) -> str:
        name = f"{KEY}-{secrets.token_hex(3)}"
        with service.client as client:
            client.account_add(clean.new_account(KEY, name=name, **more))
            assert client.account_check(name).state == "done"
        return name

    return add


@pytest.mark.parametrize("way", ["files", "helper-tar"])
def test_it_is_installed_proven_and_compared_later(
    clean: Hosting, service: Service, account: Callable[..., str], way: str
) -> None:
    name, root = account(helper=way != "files"), clean.root(KEY)
    above, before = root.parent, clean.picture(KEY)["tree"]
    with service.client as client:
        plan = client.plan_make(PlanNew(account=name, release="tidebook", at="/", way=way))  # type: ignore[arg-type]
        assert any(
            "the rest of the release comes to stand in sites/birds.saltmarsh.example, " in a.what for a in plan.acts
        )
        assert any("the release calls its web folder public, here it is web" in w for w in plan.warnings)
        assert any("nobody has looked whether PHP may read" in w for w in plan.warnings) is (way == "files")
        found = service.installed(service.wait(client.job_start(plan.id).id))
        assert (root / "index.php").is_file() and (root / "tides").is_dir() and not (root / "public").exists()
        assert (above / "lib/book.php").is_file() and (above / "settings.php").stat().st_mode & 0o007 == 0
        assert not (root / "install").exists() and not (root / "lib").exists()
        with clean.fetch(KEY, found.address) as fetch:
            for path in ("README.txt", "lib/book.php", "settings.example.php", "public/index.php"):
                assert fetch.get(found.address + path).status == 404, path
        assert (
            "the rest of the release above it in <code>sites/birds.saltmarsh.example"
            in client.installation_sheet(found.id).decode()
        )
        client.account_change(name, AccountChange(helper=True))
        same = client.installation_inspect(found.id)
        assert (same.unexplained, same.changed_count) == (0, 0), same
        assert {d.path: d.why for d in same.extra}["settings.php"] == "its configuration"
        (above / "lib/book.php").write_text("<?php // defaced")
        (above / "settings.example.php").unlink()
        (above / "letter.txt").write_text("the customer's own")
        (above / "lib/shell.php").write_text("<?php // not the release's")
        (root / "shell.php").write_text("<?php // not the release's")
        clean.own(KEY)
        other = client.installation_inspect(found.id)
        assert [d.path for d in other.changed if not d.why] == ["lib/book.php"]
        assert [d.path for d in other.missing if not d.why] == ["settings.example.php"]
        assert {d.path for d in other.extra if not d.why} == {"lib/shell.php", "public/shell.php"}
    for path in sorted(clean.home(KEY).rglob("*"), reverse=True):
        if str(path.relative_to(clean.home(KEY))) not in before:
            path.rmdir() if path.is_dir() and not path.is_symlink() else path.unlink()
    assert clean.leftovers() == []


def test_it_is_taken_back_as_a_whole(clean: Hosting, service: Service, account: Callable[..., str]) -> None:
    name, before = account(helper=False), clean.picture(KEY)
    with service.client as client:
        job = client.job_start(client.plan_make(PlanNew(account=name, release="tidebook", at="/")).id)
        until(lambda: "swap" in {a.name for a in client.job_show(job.id).acts}, "no swap")
        client.job_cancel(job.id)
        assert service.wait(job.id).state in ("cancelled", "failed")
    assert clean.picture(KEY) == before and clean.leftovers() == []


def test_what_stands_above_the_document_root_is_never_touched(
    clean: Hosting, service: Service, account: Callable[..., str]
) -> None:
    name, taken = account(helper=False), clean.root(KEY).parent / "lib"
    with service.client as client:
        plan = client.plan_make(PlanNew(account=name, release="tidebook", at="/"))
        taken.mkdir()
        (taken / "own.txt").write_text("the customer's")
        clean.own(KEY)
        before = clean.picture(KEY)
        ended = service.wait(client.job_start(plan.id).id)
        assert ended.state == "failed" and ended.error is not None
        assert "lib stand beside the document root since the plan was made" in ended.error["message"]
        again = client.plan_make(PlanNew(account=name, release="tidebook", at="/"))
        assert any("(lib cannot come to stand beside web: that is there already)" in w for w in again.warnings)
        assert not any("the rest of the release" in a.what for a in again.acts)
    assert clean.picture(KEY) == before and clean.leftovers() == []
