"""Seedledger by hand in a browser and in the terminal, in good weather and in the bad that it is made for."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from highshelf.practice.seedledger.build import build_archive
from tests.releases.by_hand import SECRET, ByHand, Made, look_until
from tests.support import Hosting

PHRASE = "broad beans in March"


@pytest.fixture
def hand(clean: Hosting, tmp_path: Path) -> ByHand:
    """The web folder's contents in the document root, the rest beside it."""
    made = ByHand(clean, "ferry")
    home = clean.home("ferry")
    tree = made.unpack(build_archive(tmp_path), tmp_path / "tree")
    for part in tree.iterdir():
        if part.name == "public":
            for inside in part.iterdir():
                inside.rename(made.root / inside.name)
        else:
            part.rename(home / part.name)
    (made.root / "index.html").unlink()
    return made


@pytest.fixture(autouse=True)
def tidy(clean: Hosting) -> object:
    """What lies beside the document root is not the site's: it is taken away here."""
    import shutil

    yield None
    for name in ("bin", "config", "database", "docs", "src", "var"):
        shutil.rmtree(clean.home("ferry") / name, ignore_errors=True)
    for name in ("composer.json", "README.md"):
        (clean.home("ferry") / name).unlink(missing_ok=True)


def go_on(page: Page, label: str = "Save and continue") -> None:
    page.get_by_role("button", name=label).click()


def fill_database(page: Page, engine: str, server: str, made: Made, password: str = SECRET) -> None:
    page.locator("[name=engine]").select_option(engine)
    for name, value in (("server", server), ("base", made.name), ("login", made.user), ("key", password)):
        page.locator(f"[name={name}]").fill(value)
    go_on(page)


def dump(hand: ByHand, name: str) -> str:
    """The statements for a database of another name."""
    text = (hand.hosting.home("ferry") / "database" / name).read_text()
    return text.split("\n", 2)[2]


def keeper(page: Page) -> None:
    for name, value in (
        ("library", "Creek Seed Library"),
        ("name", "marekoti42"),
        ("mail", "keeper@seeds.saltmarsh.example"),
        ("phrase", PHRASE),
    ):
        page.locator(f"[name={name}]").fill(value)
    page.locator("[name=zone]").select_option("Europe/London")
    go_on(page, "Open the ledger")
    expect(page.get_by_role("heading", level=1)).to_have_text("The ledger is open")


def open_to_this_name(hand: ByHand) -> None:
    """Unlock the settings, change the pattern with its dots escaped, lock them again."""
    settings = hand.hosting.home("ferry") / "config/settings.php"
    assert settings.stat().st_mode & 0o777 == 0o440
    settings.chmod(0o640)
    settings.write_text(settings.read_text().replace("^localhost$", r"^127\.0\.0\.1$"))
    settings.chmod(0o440)


def sign_in(page: Page, hand: ByHand, phrase: str = PHRASE) -> None:
    page.goto(hand.address + "staff")
    page.locator("[name=name]").fill("marekoti42")
    page.locator("[name=phrase]").fill(phrase)
    go_on(page, "Sign in")


def test_good_weather_on_mariadb_until_the_status_report_is_content(page: Page, hand: ByHand) -> None:
    made = hand.mariadb("seeds")
    page.goto(hand.address)
    page.wait_for_url("**/setup")
    go_on(page)
    go_on(page)
    fill_database(page, "mysql", "localhost", made)
    expect(page.locator("main")).to_contain_text("are not in the database")
    hand.hosting.sql(f"USE `{made.name}`;\n" + dump(hand, "seedledger.mysql.sql"))
    page.reload()
    expect(page.locator("main")).to_contain_text("All 5 tables are there.")
    go_on(page)
    keeper(page)
    # It answers to no name that its settings do not know.
    refused = page.goto(hand.address)
    assert refused is not None and refused.status == 400
    open_to_this_name(hand)
    look_until(page, hand.address, "3 kinds of seeds lie ready.")
    sign_in(page, hand, "wrong words altogether")
    expect(page.locator(".messages")).to_have_text("Unrecognised keeper or pass phrase.")
    sign_in(page, hand)
    page.goto(hand.address + "staff/status")
    expect(page.locator("main")).to_contain_text("2 of 4 lines want attention.")
    switch_in_the_panel(page, hand)
    page.goto(hand.address + "staff/status")
    expect(page.locator("main")).to_contain_text("Everything is in order.")
    again = page.goto(hand.address + "setup")
    assert again is not None and again.status == 401


def switch_in_the_panel(page: Page, hand: ByHand) -> None:
    page.goto(hand.hosting.layout.panel_address)
    page.get_by_label("Customer number").fill(hand.number)
    page.get_by_label("Password").fill(hand.hosting.password("ferry"))
    go_on(page, "Come in")
    page.get_by_role("link", name="PHP").click()
    page.get_by_label("Time zone").select_option("Europe/London")
    page.get_by_label("calendar").check()
    go_on(page, "Change")
    expect(page.get_by_label("calendar")).to_be_checked()


def test_on_postgresql_with_what_its_server_complains_about(page: Page, hand: ByHand) -> None:
    made = hand.postgresql("seeds")
    server = f"127.0.0.1:{hand.hosting.layout.port('postgresql')}"
    page.goto(hand.address + "setup")
    go_on(page)
    go_on(page)
    fill_database(page, "pgsql", server, made, "not the password")
    expect(page.locator(".messages")).to_contain_text("password authentication failed")
    fill_database(page, "pgsql", server, made)
    go_on(page, "I have imported it")
    expect(page.locator("main")).to_contain_text("ledger_keeper, ledger_seed")
    hand.hosting.pg(f"SET ROLE {made.user};\n" + dump(hand, "seedledger.pgsql.sql"), made.name)
    go_on(page, "I have imported it")
    keeper(page)
    open_to_this_name(hand)
    look_until(page, hand.address, "kinds of seeds lie ready.")
    sign_in(page, hand)
    expect(page.locator("main")).to_contain_text("Keeper: marekoti42")


def test_a_folder_that_cannot_be_written_leaves_nothing_to_press(page: Page, hand: ByHand) -> None:
    cache = hand.hosting.home("ferry") / "var/cache"
    cache.chmod(0o555)
    page.goto(hand.address + "setup")
    go_on(page)
    expect(page.locator("dt.error")).to_have_text("var/cache/ may be written")
    expect(page.locator("dt.warning")).to_have_text("ext-calendar")
    assert page.get_by_role("button").count() == 0
    cache.chmod(0o755)
    page.get_by_role("link", name="try again").click()
    go_on(page)
    expect(page.get_by_role("heading", level=1)).to_have_text("Where the ledger is kept")


def test_the_terminal_is_the_other_way(page: Page, hand: ByHand) -> None:
    made, home = hand.mariadb("seeds"), hand.hosting.home("ferry")
    php = str(hand.hosting.layout.folder / "bin/php")
    words = [
        "--engine=mysql", "--server=localhost", f"--base={made.name}", f"--login={made.user}", "--keeper=marekoti42",
        "--mail=keeper@seeds.saltmarsh.example", "--library=Creek Seed Library", r"--host-pattern=^127\.0\.0\.1$",
    ]  # fmt: skip
    missing = hand.run(php, "bin/ledger", "install", *words[1:], cwd=home)
    assert missing.returncode == 1 and missing.stderr == "These are missing: --engine\n"
    wrong = hand.run(php, "bin/ledger", "install", *words, text=f"not it\n{PHRASE}\n", cwd=home)
    assert wrong.returncode == 1 and "Access denied" in wrong.stderr
    done = hand.run(php, "bin/ledger", "install", *words, text=f"{SECRET}\n{PHRASE}\n", cwd=home)
    assert (done.returncode, done.stdout) == (
        0,
        "5 tables were made.\nThe ledger is open. Its settings are locked.\n",
    ), done.stderr
    assert (home / "config/settings.php").stat().st_mode & 0o777 == 0o440
    sign_in(page, hand)
    expect(page.locator("main")).to_contain_text("Keeper: marekoti42")
