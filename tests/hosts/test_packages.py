"""Releases that only name their packages: the package manager of PHP projects brings them on the host."""

from __future__ import annotations

import json
import os
import subprocess
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.practice.packing import write_zip
from highshelf.practice.tidebook.build import contents
from highshelf.schemas.models import PlanNew
from tests.support import Hosting, Service, until

PRIMER = """kind: application
name: tidebook-unpacked
recognise: [composer.lock]
packages: {at_least: "%s"}
"""


@pytest.fixture(scope="module")
def release(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Tidebook with a package that lies in the release as an archive: nobody has to be asked in the network."""
    folder = tmp_path_factory.mktemp("unpacked")
    (folder / "parts").mkdir()
    with zipfile.ZipFile(folder / "parts/almanac.zip", "w") as archive:
        told = {"name": "saltmarsh/almanac", "version": "1.2.0", "autoload": {"psr-4": {"Almanac\\": "src/"}}}
        archive.writestr("composer.json", json.dumps(told))
        archive.writestr("src/Moon.php", "<?php namespace Almanac; class Moon { const DAYS = 29.5; }")
    wanted = {
        "name": "saltmarsh/tidebook",
        "version": "1.4.2",
        "require": {"saltmarsh/almanac": "^1.2"},
        "repositories": [{"type": "artifact", "url": "parts"}, {"packagist.org": False}],
    }
    (folder / "composer.json").write_text(json.dumps(wanted))
    surroundings = {**os.environ, "COMPOSER_ALLOW_SUPERUSER": "1", "COMPOSER_HOME": str(folder / "home")}
    command = ["composer", "update", "--no-install", "--no-interaction", "-q"]
    subprocess.run(command, cwd=folder, env=surroundings, check=True, capture_output=True)
    more = {n: (folder / n).read_bytes() for n in ("composer.json", "composer.lock", "parts/almanac.zip")}
    return write_zip(folder / "tidebook-1.4.2.zip", {**dict(contents()), **more}, "tidebook-1.4.2")


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory, release: Path) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("packages") / "data", options=("--pack-all",))
    running.start()
    with running.client as client:
        found = client.release_check_in(release)
        until(lambda: len(client.release_show(found.sha256).forms) == 3, "it was never packed")
    yield running
    running.stop()


def with_primer(service: Service, least: str) -> None:
    folder = service.data / "primers"
    folder.mkdir(exist_ok=True)
    (folder / "tidebook-unpacked.yaml").write_text(PRIMER % least)


@pytest.mark.parametrize(("way", "at"), [("", "/diary"), ("shell-unzip", "/"), ("files", "/diary")])
def test_they_are_there_before_the_swap_and_known_afterwards(
    clean: Hosting, service: Service, way: str, at: str
) -> None:
    with_primer(service, "2.2")
    name, home, before = f"ferry-{way or 'best'}", clean.home("ferry"), clean.picture("ferry")["tree"]
    with service.client as client:
        client.account_add(clean.new_account("ferry", name=name))
        plan = client.plan_make(PlanNew(account=name, release="tidebook", at=at, way=way))  # type: ignore[arg-type]
        assert any("composer 2.2 or newer" in act.what for act in plan.acts)
        found = service.installed(service.wait(client.job_start(plan.id).id))
        texts = [e.text for e in client.job_log(found.job).items]
        assert any(t.startswith("packages brought by composer 2.") and "files in vendor/" in t for t in texts), texts
        seen = client.installation_inspect(found.id)
    vendor = clean.root("ferry") / at.strip("/") / "vendor"
    assert "29.5" in (vendor / "saltmarsh/almanac/src/Moon.php").read_text()
    assert {p.stat().st_mode & 0o777 for p in vendor.rglob("*") if p.is_file()} == {0o644}
    assert seen.unexplained == 0
    outside = {n: v for n, v in clean.picture("ferry")["tree"].items() if not (home / n).is_relative_to(home / "www")}
    assert outside == {n: v for n, v in before.items() if not n.startswith("www")}
    assert [d.why for d in seen.extra if d.path == "vendor/"] == ["brought by the package manager of PHP"]
    assert clean.leftovers() == []


def test_one_that_is_too_old_and_one_that_is_not_there_are_told(clean: Hosting, service: Service) -> None:
    with_primer(service, "19.3")
    before = clean.picture("ferry")
    with service.client as client:
        client.account_add(clean.new_account("ferry", name="ferry-old"))
        job = service.install("tidebook", "ferry-old", "/old")
        assert job.state == "failed" and job.error is not None
        assert "and 19.3 is wanted" in job.error["message"], job.error
        assert clean.picture("ferry") == before and clean.leftovers() == []
        client.account_add(clean.new_account("choir", name="choir-without"))
        with pytest.raises(ServiceError) as fault:
            client.plan_make(PlanNew(account="choir-without", release="tidebook"))
        assert "the account has no shell" in fault.value.fault.message and "vendor/" in fault.value.fault.hint
        plain = client.plan_make(PlanNew(account="choir-without", release="tidebook", primer="none"))
        assert any("does not bring them (vendor/)" in w for w in plain.warnings), plain.warnings


def test_what_it_says_when_it_fails_is_told_and_nothing_stays(
    clean: Hosting, service: Service, release: Path, tmp_path: Path
) -> None:
    """The archive that the lock names is another one."""
    with_primer(service, "2.2")
    before = clean.picture("ferry")
    with zipfile.ZipFile(release) as whole:
        files = {n.removeprefix("tidebook-1.4.2/"): whole.read(n) for n in whole.namelist() if not n.endswith("/")}
    files["parts/almanac.zip"] = b"not an archive"
    broken = write_zip(tmp_path / "tidebook-1.4.3.zip", files, "tidebook-1.4.3")
    with service.client as client:
        client.account_add(clean.new_account("ferry", name="ferry-broken"))
        job = service.install(client.release_check_in(broken).sha256, "ferry-broken", "/broken")
    assert (
        job.state == "failed" and job.error is not None and "the package manager of PHP failed" in job.error["message"]
    )
    assert "almanac" in job.error["message"] and "composer install" in job.error["hint"], job.error
    assert clean.picture("ferry") == before and clean.leftovers() == []
