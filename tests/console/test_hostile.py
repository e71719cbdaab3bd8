"""What hosts, archives, pages and operators say is text, whatever it looks like."""

from __future__ import annotations

import zipfile
from pathlib import Path

from playwright.sync_api import expect
from pydantic import SecretStr

from highshelf.client import Part
from highshelf.schemas.models import AccountNew
from tests.console.pages import Console
from tests.support import Hosting, Service

TRY = "document.body.dataset.owned='yes'"
IMAGE = f'<img src=x onerror="{TRY}">'
SCRIPT = f"<script>{TRY}</script>"
BREAK = f"'\"></textarea></title>{IMAGE}{{{{7*7}}}}{{@html 1}}${{7*7}}"
HOSTILE = SCRIPT + IMAGE + BREAK


def owned(console: Console) -> bool:
    return bool(
        console.page.evaluate(
            "document.body.dataset.owned === 'yes' || document.querySelectorAll('img[onerror]').length > 0"
        )
    )


def hostile_release(tidebook: Path, folder: Path) -> Path:
    """Tidebook with names in it, and a name of its own, that browsers would run."""
    path = folder / f"{IMAGE.replace('/', '')}-1.4.2.zip"
    with zipfile.ZipFile(tidebook) as source, zipfile.ZipFile(path, "w") as target:
        for item in source.infolist():
            target.writestr(item, source.read(item))
        inside = source.namelist()[0].split("/")[0]
        for name in (f"{IMAGE}.txt", "&lt;b&gt;&amp;.txt", "\u202egnp.php"):
            target.writestr(f"{inside}/data/{name.replace('/', '')}", "x")
    return path


def test_hostile_titles_names_and_labels_run_nothing(
    console: Console, clean: Hosting, service: Service, tidebook: Path, tmp_path: Path
) -> None:
    page = console.page
    console.become_first()
    archive = hostile_release(tidebook, tmp_path)
    with service.client as client:
        client.account_add(clean.new_account("choir", title=HOSTILE, email="keeper@choir.saltmarsh.example"))
        client.account_add(
            AccountNew(
                name="odd",
                title=IMAGE,
                transfer="sftp://%3Cimg%20src=x%20onerror=x%3E@127.0.0.1:1",
                password=SecretStr("x"),
                root=f"www{IMAGE}",
                address="http://127.0.0.1:1/",
                panel="http://127.0.0.1:1/",
                panel_login=SCRIPT,
            )
        )
        release = client.release_check_in(archive, ["odd-names"])
    job = service.install(release.sha256, "choir", "/diary", settings={"site.title": HOSTILE, "admin.fullname": IMAGE})
    # An installation that failed has the host's words in its fault.
    failed = service.install(release.sha256, "choir", "/second", settings={"database.name": "x" * 64})
    pages = ["/", "/accounts", "/accounts/choir", "/accounts/odd", "/shelf", f"/shelf/{release.sha256}?q=img", "/jobs"]
    pages += [
        f"/jobs/{job.id}",
        f"/jobs/{failed.id}",
        "/installations",
        f"/accounts?q={IMAGE}",
        "/jobs/new?account=choir",
    ]
    assert job.state == "done", job.error
    for path in [
        *pages,
        f"/installations/{job.installation}",
        f"/jobs/{IMAGE.replace('/', '')}",
        f"/accounts/{SCRIPT.replace('/', '')}",
    ]:
        console.open(path)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.wait_for_timeout(150)
        # What stands in a dialog is not to be seen before it is opened.
        for summary in page.locator("summary:visible").all():
            summary.click()
        assert not owned(console), path
    # It is shown as it is, not swallowed.
    console.open(f"/installations/{job.installation}")
    console.heading(HOSTILE)
    console.open(f"/shelf/{release.sha256}?q=img")
    expect(page.get_by_text(f"data/{IMAGE.replace('/', '')}.txt")).to_be_visible()
    console.open("/accounts")
    expect(page.get_by_role("cell", name=IMAGE, exact=True)).to_be_visible()
    assert [f for f in console.faults if "Content Security" in f] == []
    assert console.faults == []


def test_addresses_that_are_no_web_addresses_are_no_links(console: Console, service: Service, clean: Hosting) -> None:
    console.become_first()
    with service.client as client:
        client.account_add(clean.new_account("seeds"))
        assert client.account_list(Part(limit=1)).total == 1
    console.open("/accounts/seeds")
    console.heading("Creek Seed Library")
    links = console.page.locator("main a").evaluate_all("all => all.map(a => a.href)")
    assert links and all(link.startswith("http") for link in links)
    outside = console.page.locator("main a[target=_blank]")
    assert outside.count() >= 2
    assert set(outside.evaluate_all("all => all.map(a => a.rel)")) == {"noreferrer noopener"}


def test_an_injected_script_would_be_refused_by_the_policy(console: Console, service: Service) -> None:
    """The second wall: even markup that got into the page runs nothing."""
    console.become_first()
    console.page.evaluate("html => { document.querySelector('main').innerHTML = html }", SCRIPT + IMAGE)
    console.page.evaluate(
        "text => { const s = document.createElement('script'); s.textContent = text; document.body.append(s) }", TRY
    )
    console.page.wait_for_timeout(200)
    assert console.page.evaluate("document.body.dataset.owned") is None
    assert any("Content Security Policy" in fault for fault in console.faults)
