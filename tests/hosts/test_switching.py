"""Extensions of PHP that an installer misses: switched on in the panel, asked for where neighbours share them, off again when taken back."""

from __future__ import annotations

import zipfile
from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.practice.panel.switches import Switches
from highshelf.practice.servers.php import switches_file
from highshelf.schemas.models import JobOut, PlanNew
from tests.support import Hosting, Service

CHECKS = """<?php
function page(string $title, string $main): void { echo "<!doctype html><html lang=en><head><title>$title</title></head><body><h1>$title</h1>$main</body></html>"; exit; }
if (is_file(__DIR__ . '/lock.json')) { page('Lockkeeper', '<p>The lock holds ' . bcadd('1', '2') . ' boats.</p>'); }
$there = extension_loaded('bcmath');
if ($_SERVER['REQUEST_METHOD'] === 'POST' && $there && trim($_POST['title'] ?? '') !== '') {
    if (%END%) { page('Lockkeeper', '<p class="error">The installation failed: no gate was found.</p>'); }
    file_put_contents(__DIR__ . '/lock.json', json_encode(['title' => $_POST['title']]));
    page('Lockkeeper is installed', '<p>The installation is complete.</p><p><a href="./">Open the site</a></p>');
}
page('Install Lockkeeper', '<table><tr><td>PHP</td><td>OK</td></tr><tr><td>PHP extension BCMath</td><td>' . ($there ? 'OK' : 'Missing') . '</td></tr></table>'
    . ($there ? '<form method=post><label>Site title <input name=title required></label><button>Install</button></form>' : '<p class="error">Something required is missing.</p>'));
"""


def lockkeeper(folder: Path, how: str = "checks", *, ends_well: bool = True) -> Path:
    """An application that checks for the extension, or just uses it."""
    code = CHECKS.replace("%END%", "false" if ends_well else "true")
    if how == "uses":
        code = code.replace("$there = extension_loaded('bcmath');", "$there = bcadd('1', '1') === '2';")
    path = folder / f"lockkeeper-1.{int(ends_well)}{len(how)}.zip"
    with zipfile.ZipFile(path, "w") as box:
        name = path.stem
        box.writestr(f"{name}/install.php", code)
        box.writestr(f"{name}/index.php", "<?php if (!is_file(__DIR__ . '/lock.json')) { header('Location: install.php'); exit; } echo '<!doctype html><html lang=en><head><title>Lockkeeper</title></head><body><h1>Lockkeeper</h1><p>The lock holds ' . bcadd('1', '2') . ' boats.</p></body></html>';\n")  # fmt: skip
        box.writestr(f"{name}/README.txt", "Lockkeeper 1. Needs PHP 8.0.\n")
    return path


def is_on(clean: Hosting, key: str) -> tuple[str, ...]:
    layout = clean.layout
    customer = next(c for c in layout.customers if c.key == key)
    return Switches(switches_file(layout, layout.login(customer)), layout.run / "fpm.pid").read()[1]


def start(service: Service, archive: Path, at: str, key: str = "choir", **settings: str) -> JobOut:
    client = service.client
    made = client.release_check_in(archive)
    wish = PlanNew(account=key, release=made.sha256[:12], at=at, database="none", settings=settings)
    return service.wait(client.job_start(client.plan_make(wish).id).id, seconds=120)


@pytest.mark.parametrize("how", ["checks", "uses"])
def test_what_is_missed_is_switched_on_where_nobody_else_is_known(
    clean: Hosting, service: Service, tmp_path: Path, how: str
) -> None:
    service.client.account_add(clean.new_account("choir"))
    service.client.account_check("choir")
    job = start(service, lockkeeper(tmp_path, how), "/lock")
    told = [e.text for e in service.client.job_log(job.id).items]
    assert job.state == "done", "\n".join([str(job.error), *told])
    assert any("bcmath switched on in the panel, for the whole account" in t for t in told), told
    assert is_on(clean, "choir") == ("bcmath",)


def test_neighbours_are_named_and_a_yes_is_waited_for(clean: Hosting, service: Service, tmp_path: Path) -> None:
    client = service.client
    client.account_add(clean.new_account("choir"))
    client.account_check("choir")
    first = start(service, lockkeeper(tmp_path), "/lock", **{"php.switches": "yes"})
    assert first.state == "done", first.error
    Switches(
        switches_file(clean.layout, clean.layout.login(clean._known("choir"))), clean.layout.run / "fpm.pid"
    ).write("Europe/Paris", ("calendar",))
    second = start(service, lockkeeper(tmp_path), "/second")
    assert second.state == "waiting" and second.question is not None, second
    assert second.question.value == "php.switches" and "/lock/" in second.question.text, second.question
    assert is_on(clean, "choir") == ("calendar",)
    client.job_answer(second.id, second.question.id, "yes")
    done = service.wait(second.id, seconds=120)
    told = [e.text for e in client.job_log(done.id).items]
    assert done.state == "done", "\n".join([str(done.error), *told])
    # What else stood on that page of the panel is as it was.
    assert is_on(clean, "choir") == ("bcmath", "calendar")


def test_a_no_leaves_it_off_and_says_what_is_missing(clean: Hosting, service: Service, tmp_path: Path) -> None:
    service.client.account_add(clean.new_account("choir"))
    service.client.account_check("choir")
    job = start(service, lockkeeper(tmp_path), "/lock", **{"php.switches": "no"})
    assert job.state == "failed" and "BCMath" in str(job.error), job.error
    assert is_on(clean, "choir") == ()


def test_a_job_that_is_taken_back_switches_it_off_again(clean: Hosting, service: Service, tmp_path: Path) -> None:
    service.client.account_add(clean.new_account("choir"))
    service.client.account_check("choir")
    job = start(service, lockkeeper(tmp_path, ends_well=False), "/lock")
    told = [e.text for e in service.client.job_log(job.id).items]
    assert job.state == "failed" and any("bcmath switched on" in t for t in told), told
    assert is_on(clean, "choir") == ()
    assert not (clean.root("choir") / "lock").exists()


def test_ask_asks_and_what_is_neither_is_refused(clean: Hosting, service: Service, tmp_path: Path) -> None:
    client = service.client
    client.account_add(clean.new_account("choir"))
    client.account_check("choir")
    job = start(service, lockkeeper(tmp_path), "/lock", **{"php.switches": "ask"})
    assert job.state == "waiting" and job.question is not None and job.question.options == ["yes", "no"]
    client.job_answer(job.id, job.question.id, "no")
    ended = service.wait(job.id)
    assert ended.state == "failed" and "BCMath" in str(ended.error) and is_on(clean, "choir") == ()
    with pytest.raises(ServiceError) as refused:
        start(service, lockkeeper(tmp_path), "/lock", **{"php.switches": "maybe"})
    assert "none of yes, no, ask" in refused.value.fault.message
