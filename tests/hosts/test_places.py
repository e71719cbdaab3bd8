"""Sites of an account, and one place in all views, on the practice host."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.client import ServiceError
from highshelf.schemas.models import PlanNew
from highshelf.schemas.surveys import Located, SiteNew
from tests.support import Hosting, Service


@pytest.fixture
def ready(clean: Hosting, service: Service) -> Iterator[Service]:
    """A service that knows every customer, checked."""
    with service.client as client:
        for customer in clean.layout.customers:
            client.account_add(clean.new_account(customer.key))
            assert client.account_check(customer.key).state == "done"
    yield service


def views(found: Located) -> dict[str, str]:
    return {v.view: v.path for v in found.views}


def test_a_path_has_an_address_and_an_address_a_path_in_every_view(clean: Hosting, ready: Service) -> None:
    with ready.client as client:
        for key in ("ferry", "choir", "yard", "regatta", "birds"):
            customer = clean.customer(key)
            real = clean.root(key) / "index.html"
            address = customer["address"] + "index.html"
            by_address = client.account_locate(key, address)
            seen = views(by_address)
            assert by_address.there and by_address.kind == "file"
            assert seen["transfer"] == (customer["root"] + "/index.html").removeprefix("./")
            assert seen["php"] == str(real) and seen["address"] == address
            assert ("shell" in seen) is customer["shell"]
            for path in seen.values():
                again = client.account_locate(key, path)
                assert views(again) == seen and again.there
            assert "answers 200" in by_address.told[-1]


def test_not_found_says_which_part_is_not_and_what_answers_instead(clean: Hosting, ready: Service) -> None:
    root = clean.root("ferry")
    (root / "Diary").mkdir()
    (root / "Diary" / "settings.php").write_text("<?php")
    (root / "shut").mkdir()
    (root / "shut" / ".htaccess").write_text("Require all denied\n")
    (root / ".htaccess").write_text("RewriteEngine On\nRewriteRule ^tide/ index.html [L]\n")
    address = clean.customer("ferry")["address"]
    cases = [
        ("www/diary/settings.php", False, "capital and small letters count"),
        ("www/Diary/setings.php", False, "did you mean settings.php?"),
        ("www/Diary/settings.php/more", False, "is a file: nothing can be in it"),
        (address + "tide/high", False, "answers 200"),
        (address + "shut/", True, "refuses it"),
        ("private", True, "no address shows it"),
    ]
    with ready.client as client:
        for what, there, part in cases:
            found = client.account_locate("ferry", what)
            assert found.there is there, what
            assert any(part in line for line in found.told), (what, found.told)
        for what, part in (
            ("http://elsewhere.saltmarsh.example/x", "none of this account's"),
            (f"http://127.0.0.1:{clean.layout.port('panel')}/", "not at port"),
            ("/etc/passwd", "outside what this account sees"),
            ("www/../../x", "leads out"),
        ):
            with pytest.raises(ServiceError) as caught:
                client.account_locate("ferry", what)
            assert part in caught.value.fault.message
    assert ready.cli("account", "locate", "ferry", "www/none").returncode == 1
    assert "shell" in ready.cli("account", "locate", "ferry", "www").stdout


def test_a_further_site_is_found_proven_and_installed_to(clean: Hosting, ready: Service, tidebook: Path) -> None:
    other = f"http://127.0.0.1:{clean.layout.base_port + 82}/"
    with ready.client as client:
        made = client.site_add("choir", SiteNew(address=other))
        assert (made.root, made.own) == ("htdocs", False) and made.proven_at is not None
        assert [s.address for s in client.site_list("choir").items] == [clean.customer("choir")["address"], other]
        for wrong, code in ((other, "conflict"), ("nowhere", "input"), (clean.customer("ferry")["address"], "target")):
            with pytest.raises(ServiceError) as caught:
                client.site_add("choir", SiteNew(address=wrong))
            assert caught.value.fault.code == code
        assert clean.leftovers() == []
        again = next(line for line in client.account_check("choir").lines if line.topic == "site.others")
        assert (again.text, again.state) == (f"{other} shows htdocs", "fine")
        assert (client.site_list("choir").items[1].proven_at or made.proven_at) > made.proven_at
        release = client.release_check_in(tidebook)
        plan = client.plan_make(PlanNew(account="choir", release=release.sha256, site=other, at="/book"))
        assert (plan.site, plan.address, plan.target) == (other, other + "book/", "htdocs/book")
        job = ready.wait(client.job_start(plan.id).id)
        assert ready.installed(job).address == other + "book/"
        with pytest.raises(ServiceError) as kept:
            client.site_remove("choir", other)
        assert "installation stands" in kept.value.fault.message
        with pytest.raises(ServiceError) as unknown:
            client.plan_make(PlanNew(account="choir", release=release.sha256, site="https://x.saltmarsh.example/"))
        assert unknown.value.fault.code == "not-found"
        client.site_add(
            "ferry",
            SiteNew(
                address=f"http://ferry.saltmarsh.example:{clean.layout.port('web')}/",
                reach=f"127.0.0.1:{clean.layout.port('web')}",
            ),
        )
        client.site_remove("ferry", f"http://ferry.saltmarsh.example:{clean.layout.port('web')}/")
        assert client.site_list("ferry").total == 1


def test_nothing_waits_in_a_folder_that_another_site_shows(clean: Hosting, ready: Service, tidebook: Path) -> None:
    """A subdomain's root inside the first site's: what stands beside it is public."""
    reach = f"127.0.0.1:{clean.layout.port('web')}"
    address = f"http://shop.choir.saltmarsh.example:{clean.layout.port('web')}/"
    with ready.client as client:
        client.account_add(clean.new_account("choir", name="choir-shop"))
        assert client.account_check("choir-shop").state == "done"
        client.site_add("choir-shop", SiteNew(address=address, root="htdocs/shop", reach=reach, make=True))
        release = client.release_check_in(tidebook)
        found = ready.installed(ready.install(release.sha256, "choir-shop", "/", site=address))
        texts = [e.text for e in client.job_log(found.job).items]
    assert any("holding folder htdocs/shop/.hs-hold-" in text for text in texts), texts
    assert (clean.root("choir") / "shop/index.php").is_file() and clean.leftovers() == []


def test_a_subdomain_is_made_in_the_panel_proven_and_installed_to(
    clean: Hosting, ready: Service, tidebook: Path
) -> None:
    reach = f"127.0.0.1:{clean.layout.port('web')}"
    address = f"http://tides.seeds.saltmarsh.example:{clean.layout.port('web')}/"
    with ready.client as client:
        # The login itself may make nothing beside its root: only the panel can.
        made = client.site_add("seeds", SiteNew(address=address, root="tides", reach=reach, make=True))
        assert (made.address, made.root) == (address, "tides")
        for wrong, part in (
            (f"http://Tides_.seeds.saltmarsh.example:{clean.layout.port('web')}/", "small letters"),
            ("http://moon.elsewhere.saltmarsh.example/", "lists no website"),
        ):
            with pytest.raises(ServiceError) as caught:
                client.site_add("seeds", SiteNew(address=wrong, root="other", reach=reach, make=True))
            assert part in caught.value.fault.message
        client.account_add(clean.new_account("ferry", name="bare", panel="", panel_primer=""))
        with pytest.raises(ServiceError) as bare:
            client.site_add("bare", SiteNew(address=address, reach=reach, make=True))
        assert bare.value.fault.code == "panel" and "by hand" in bare.value.fault.hint
        release = client.release_check_in(tidebook)
        job = ready.install(release.sha256, "seeds", "/", site=address)
        assert ready.installed(job).address == address
        assert (clean.home("seeds") / "tides/index.php").exists() and clean.leftovers() == []
        (clean.home("seeds") / "tides").rename(clean.home("seeds") / "ebb")
        lost = next(line for line in client.account_check("seeds").lines if line.topic == "site.others")
        assert lost.state == "heed" and "there is no such file or folder" in lost.text
        (clean.home("seeds") / "ebb").rename(clean.home("seeds") / "tides")
    shutil.rmtree(clean.home("seeds") / "tides")
    for left in ("other",):
        shutil.rmtree(clean.home("seeds") / left, ignore_errors=True)


def test_a_root_that_does_not_exist_yet_is_made_and_told_whether_it_is_shown(clean: Hosting, ready: Service) -> None:
    with ready.client as client:
        said = client.account_make_root("choir", "shop/web").text
        assert "made shop/web" in said and "in the panel" in said
        assert (clean.home("choir") / "shop/web").is_dir() and client.account_show("choir").root == "shop/web"
        with pytest.raises(ServiceError) as there:
            client.account_make_root("choir", "htdocs")
        assert there.value.fault.code == "conflict"
    for folder in ("shop/web", "shop"):
        (clean.home("choir") / folder).rmdir()
    clean.root("ferry").rename(clean.home("ferry") / "aside")
    try:
        with ready.client as client:
            assert "shows it" in client.account_make_root("ferry").text
    finally:
        clean.root("ferry").rmdir()
        (clean.home("ferry") / "aside").rename(clean.root("ferry"))


def test_the_text_for_support_names_the_account_and_nothing_secret(clean: Hosting, ready: Service) -> None:
    told = ready.cli("account", "helper-text", "birds").stdout
    customer = clean.customer("birds")
    assert customer["login"] in told and customer["address"] in told and customer["password"] not in told
    assert "no eval" in told and "SSH access" in told


def test_an_install_where_the_login_lands_in_the_root_itself(clean: Hosting, ready: Service, tidebook: Path) -> None:
    with ready.client as client:
        release = client.release_check_in(tidebook)
        # This server lets nobody make `lib` where a login lands, and the release brings one.
        with pytest.raises(ServiceError) as refused:
            client.plan_make(PlanNew(account="regatta", release=release.sha256))
        assert "folders called lib" in refused.value.fault.message and "choose a folder" in refused.value.fault.hint
        job = ready.install(release.sha256, "regatta", "/diary")
        assert ready.installed(job).address == clean.customer("regatta")["address"] + "diary/"
        assert clean.leftovers() == []


def test_what_a_survey_found_is_said_in_plans_and_is_met_where_it_can_be(
    clean: Hosting, ready: Service, tidebook: Path
) -> None:
    with ready.client as client:
        release = client.release_check_in(tidebook)
        birds = client.plan_make(PlanNew(account="birds", release=release.sha256)).warnings
        assert any(".htaccess is not honoured" in w for w in birds) and any("rewritten" in w for w in birds)
        yard = client.plan_make(PlanNew(account="yard", release=release.sha256)).warnings
        assert any("another user" in w for w in yard)
        job = ready.install(release.sha256, "yard")
        assert job.state == "done", job.error
        # The installer said what PHP may not write, and it was opened: no further than this host's PHP needs, and told.
        told = [e.text for e in client.job_log(job.id).items]
        opened = [t for t in told if "opened for" in t]
        assert opened and all("data" in t or "the folder of the installation" in t for t in opened), opened
        # Its own folder had to be open for the settings only.
        assert any("closed again: the folder of the installation" in t for t in told), told
        assert clean.root("yard").stat().st_mode & 0o022 == 0
