"""Looking at an installation once more: ordinary use is nothing wrong, and what somebody did to it is named."""

from __future__ import annotations

import os
import random
import shutil
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import pytest

from highshelf.client import Client
from highshelf.core.errors import HighShelfError
from highshelf.schemas.models import PlanNew, SeenAgain
from tests.support import WHOLE, Hosting, Service, until


@dataclass(frozen=True)
class Site:
    """An installation that is looked at again and again."""

    hosting: Hosting
    service: Service
    client: Client
    customer: str
    number: str
    root: Path
    database: str

    def looked(self) -> list[SeenAgain]:
        job = self.service.wait(self.client.installation_recheck(self.number).id)
        assert (job.kind, job.state) == ("recheck", "done"), job.error
        found = self.client.installation_show(self.number).rechecked
        assert found is not None and found.job == job.id
        return found.seen

    def wrong(self) -> dict[str, str]:
        return {one.name: one.told for one in self.looked() if one.state == "wrong"}

    def answer(self, folder: str) -> str:
        address = self.client.installation_show(self.number).address + ("" if folder == "." else folder + "/")
        with self.hosting.fetch(self.customer) as fetch:
            try:
                found = fetch.get(address)
            except HighShelfError as fault:
                return fault.message
        return f"status {found.status} {len(found.html)} bytes {found.html}"

    def put(self, path: str, text: str, mode: int = 0o644) -> Path:
        file = self.root / path
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(text)
        file.chmod(mode)
        self.hosting.own(self.customer)
        return file


@pytest.fixture(params=["ferry", "choir"])
def site(request: pytest.FixtureRequest, clean: Hosting, service: Service, tidebook: Path) -> Site:
    customer: str = request.param
    client = service.client
    client.account_add(clean.new_account(customer))
    made = client.release_check_in(tidebook)
    plan = client.plan_make(PlanNew(account=customer, release=made.sha256[:12], at="/diary"))
    job = service.wait(client.job_start(plan.id).id)
    assert job.state == "done", job.error
    found = client.installation_show(job.installation)
    return Site(clean, service, client, customer, found.id, clean.root(customer) / "diary", found.database)


def front(site: Site) -> Path:
    return site.root / "index.php"


def put_in_place(site: Site, file: Path, text: str, mark: str) -> None:
    """Another program in place of one; until PHP has seen that it is another one, the old one answers.

    Args:
        mark: what is seen of its answer then: a status, or words.
    """
    file.write_text(text)
    until(
        lambda: mark in site.answer(str(file.parent.relative_to(site.root))), "PHP never looked at the file again", 30
    )


def a_listing(site: Site) -> None:
    (site.root / ".htaccess").write_text("Options +Indexes\n")
    site.put("pictures/pier.txt", "a pier")


def a_dump(site: Site) -> None:
    site.put("backup-monday.sql", "CREATE TABLE keepers (id INT);\nINSERT INTO keepers VALUES (1);\n")


def a_checkout(site: Site) -> None:
    site.put(".git/HEAD", "ref: refs/heads/main\n")


def a_program(site: Site) -> None:
    site.put("uploads/pier.php", "<?php echo 'hello';")


def an_installer(site: Site) -> None:
    site.put("install/index.php", "<?php echo '<form method=post><input type=password name=p></form>';")


def an_edit(site: Site) -> None:
    front(site).write_text("<?php /* somebody was here */ ?>" + front(site).read_text())


def a_loss(site: Site) -> None:
    lost = next(p for p in sorted(site.root.rglob("*.php")) if "config" not in p.name and p != front(site))
    lost.unlink()


def an_open_folder(site: Site) -> None:
    next(p for p in site.root.iterdir() if p.is_dir()).chmod(0o777)


def an_open_program(site: Site) -> None:
    front(site).chmod(0o666)


def a_fault(site: Site) -> None:
    """As PHP shows it where the host lets it."""
    told = "<br />\\n<b>Warning</b>:  low tide in <b>/srv/diary/index.php</b> on line <b>1</b><br />"
    put_in_place(
        site,
        front(site),
        f'<?php echo "{told}"; ?><title>Diary</title><p>A diary of tides, for visitors.</p>',
        "low tide",
    )


def elsewhere(site: Site) -> None:
    put_in_place(site, front(site), "<?php header('Location: http://127.0.0.9:1/'); exit; ?>", "127.0.0.9")


def an_error(site: Site) -> None:
    put_in_place(site, front(site), "<?php http_response_code(500); exit('no'); ?>", "status 500")


def nothing_at_all(site: Site) -> None:
    put_in_place(site, front(site), "<?php exit; ?>", " 0 bytes")


def another_password(site: Site) -> None:
    prefix = site.client.installation_show(site.number).facts["prefix"]
    site.hosting.sql(f"DELETE FROM `{site.database}`.{prefix}keepers")


def fewer_tables(site: Site) -> None:
    prefix = site.client.installation_show(site.number).facts["prefix"]
    site.hosting.sql(f"DROP TABLE `{site.database}`.{prefix}facts")


def settings_of(site: Site) -> Path:
    return next(p for p in site.root.rglob("*.php") if "settings" in p.name and "example" not in p.name)


def a_copy_of_settings(site: Site) -> None:
    shutil.copy(settings_of(site), site.root / "settings.php.bak")
    (site.root / "settings.php.bak").chmod(0o644)


def sources_as_text(site: Site) -> None:
    rules = site.root / ".htaccess"
    rules.write_text(rules.read_text() + "\n<Files *.php>\nForceType text/plain\n</Files>\n")


def settings_lost(site: Site) -> None:
    settings_of(site).unlink()


def open_settings(site: Site) -> None:
    settings_of(site).chmod(0o666)


def a_look_at_php(site: Site) -> None:
    site.put("look.php", "<?php phpinfo();")


def another_end(site: Site) -> None:
    site.put("theme/waves/wave.phtml", "<?php echo 1;")


def pictures_that_run(site: Site) -> None:
    site.put("uploads/.htaccess", "AddHandler application/x-httpd-php .jpg\n")


def something_before_each_page(site: Site) -> None:
    site.put(".user.ini", "auto_prepend_file = uploads/pier.jpg\n")


def a_data_file(site: Site) -> None:
    site.put("keepers.sqlite", "SQLite format 3 and so on")


def an_archive(site: Site) -> None:
    site.put("whole-site.zip", "PK and so on, all of it")


def a_file_of_names(site: Site) -> None:
    site.put(".env", "DB_PASSWORD=ebb-and-flow\n")


def a_draft_of_an_editor(site: Site) -> None:
    site.put("index.php.swp", "b0VIM and what was being written")


def an_error_that_says_it_is_fine(site: Site) -> None:
    put_in_place(
        site,
        front(site),
        "<?php echo '<title>Error</title><h1>Error</h1><p>Could not connect to the database.</p>'; exit; ?>",
        "Could not connect",
    )


def a_door_that_lets_everybody_in(site: Site) -> None:
    put_in_place(
        site,
        site.root / "staff" / "index.php",
        "<?php echo '<title>Staff</title><p>Welcome</p><a href=\"?out\">Sign out</a>'; exit; ?>",
        "Welcome",
    )


def no_database_user(site: Site) -> None:
    user = site.client.installation_show(site.number).database_user
    hosts = [r[0] for r in site.hosting.sql(f"SELECT Host FROM mysql.user WHERE User='{user}'")]
    for host in hosts:
        site.hosting.sql(f"ALTER USER '{user}'@'{host}' IDENTIFIED BY 'another-word-{os.getpid()}'")


SOME = 6


def a_page_behind(site: Site) -> None:
    put_in_place(site, site.root / "staff" / "index.php", "<?php http_response_code(500); echo 'lost';", "status 500")


SABOTAGES: list[tuple[Callable[[Site], None], str]] = [
    (a_page_behind, "pages"),
    (a_listing, "lists of folders"),
    (a_dump, "served"),
    (a_checkout, "served"),
    (a_program, "programs"),
    (an_installer, "installer"),
    (an_edit, "files of the application"),
    (a_loss, "files of the application"),
    (an_open_folder, "modes"),
    (an_open_program, "modes"),
    (a_fault, "front page"),
    (elsewhere, "front page"),
    (an_error, "front page"),
    (nothing_at_all, "front page"),
    (a_copy_of_settings, "served"),
    (sources_as_text, "rules"),
    (settings_lost, "settings"),
    (open_settings, "modes"),
    (a_look_at_php, "programs"),
    (another_end, "programs"),
    (pictures_that_run, "rules"),
    (something_before_each_page, "rules"),
    (a_data_file, "served"),
    (an_archive, "served"),
    (a_file_of_names, "served"),
    (a_draft_of_an_editor, "served"),
    (an_error_that_says_it_is_fine, "front page"),
    (a_door_that_lets_everybody_in, "administrator's login"),
    (another_password, "administrator's login"),
    (fewer_tables, "database"),
    (no_database_user, "database"),
]


def chosen(customer: str) -> list[tuple[Callable[[Site], None], str]]:
    """A handful of them, others for each customer; with HIGHSHELF_WHOLE=1 all of them (3 minutes a customer)."""
    return SABOTAGES if WHOLE else random.Random(customer).sample(SABOTAGES, SOME)


def test_use_is_nothing_wrong_and_what_somebody_did_is_named(site: Site, tmp_path: Path) -> None:
    assert site.wrong() == {}
    kept = tmp_path / "as-it-stood"
    shutil.copytree(site.root, kept, symlinks=True)
    # A week of use: what visitors upload, what the application remembers, and its log.
    for day in range(7):
        site.put(f"uploads/2026/pier-{day}.jpg", "a picture")
        site.put(f"data/cache/page-{day}.html", "a page")
    site.put("error_log", "PHP Notice: a tide table was not found\n")
    (site.root / "error_log").chmod(0o600)
    assert site.wrong() == {}
    missed = []
    for sabotage, name in chosen(site.customer):
        shutil.rmtree(site.root)
        shutil.copytree(kept, site.root, symlinks=True)
        owner = (site.hosting.home(site.customer) / "private").stat()
        os.chown(site.root, owner.st_uid, owner.st_gid)
        site.hosting.own(site.customer)
        sabotage(site)
        site.hosting.own(site.customer)
        found = site.wrong()
        if name not in found:
            missed.append(f"{sabotage.__name__}: {found}")
    assert not missed, "\n".join(missed)


@pytest.mark.parametrize("site", ["choir"], indirect=True)
def test_a_look_that_was_cut_off_leaves_nothing_on_the_host(site: Site) -> None:
    def asked() -> bool:
        """Whether the folder stands in which the login waits to be read."""
        return any(site.hosting.home(site.customer).rglob(".hs-hold-*"))

    job = site.client.installation_recheck(site.number).id
    until(asked, "the database was never asked", 60, longest_seconds=0.005)
    site.service.kill()
    assert asked(), "it was over already"
    site.service.start()
    ended = site.service.wait(job)
    assert ended.state == "done", ended.error
    assert site.hosting.leftovers() == []
