"""Quaystore by hand in a browser, in good weather and in the bad that it is made for."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from highshelf.practice.quaystore.build import build_archive
from tests.releases.by_hand import SECRET, ByHand, Made
from tests.support import Hosting

WRAPPER = "Quaystore_3.2.0+full"
KEEPER_PASSWORD = "Ropes-and-fenders-12"


@pytest.fixture
def hand(clean: Hosting, tmp_path: Path) -> ByHand:
    made = ByHand(clean, "ferry")
    made.unpack(build_archive(tmp_path), made.root / "shop", WRAPPER)
    return made


def to_the_steps(page: Page, hand: ByHand) -> None:
    page.goto(hand.address + "shop/")
    page.get_by_role("button", name="Let us begin").click()
    page.get_by_label("I agree to these terms").check()
    page.get_by_role("button", name="Continue").click()


def fill_database(page: Page, made: Made, password: str = SECRET) -> None:
    page.get_by_label("Name of the database").fill(made.name)
    page.get_by_label("Database user", exact=True).fill(made.user)
    page.get_by_label("Password of this user").fill(password)


def to_the_letters(page: Page, made: Made) -> None:
    """From the database's page over all pages to the letters."""
    fill_database(page, made)
    page.get_by_label("Encrypt the connection").uncheck()
    page.get_by_role("button", name="Test the connection").click()
    expect(page.get_by_role("status")).to_have_text("The connection works.")
    page.get_by_role("button", name="Next").click()
    page.get_by_label("A chandlery").check()
    page.get_by_label("sample goods").uncheck()
    page.get_by_role("button", name="Next").click()
    page.get_by_label("Name of the shop").fill("Ferry Museum Shop")
    page.get_by_label("customers get letters from").fill("shop@ferry.saltmarsh.example")
    page.get_by_label("Currency").select_option("GBP")
    page.get_by_role("button", name="Next").click()
    page.get_by_label("Login of the shopkeeper").fill("marekoti42")
    page.get_by_label("Shopkeeper's own e-mail address").fill("keeper@ferry.saltmarsh.example")
    page.get_by_label("Password", exact=True).fill(KEEPER_PASSWORD)
    page.get_by_label("The same again").fill("something else")
    page.get_by_role("button", name="Next").click()
    expect(page.get_by_role("status")).to_have_text("The two passwords differ.")
    page.get_by_label("Password", exact=True).fill(KEEPER_PASSWORD)
    page.get_by_label("The same again").fill(KEEPER_PASSWORD)
    page.get_by_role("button", name="Next").click()
    expect(page.get_by_role("heading", name="Letters")).to_be_visible()


def build(page: Page) -> str:
    page.get_by_label("Go on only when a test letter was sent").uncheck()
    page.get_by_role("button", name="Next").click()
    page.get_by_role("button", name="Build the shop").click()
    expect(page.get_by_role("heading", name="The shop stands")).to_be_visible()
    return page.locator("code").inner_text()


def test_good_weather_from_the_first_page_to_the_office(page: Page, hand: ByHand) -> None:
    made, shop = hand.mariadb("quay"), hand.root / "shop"
    to_the_steps(page, hand)
    page.get_by_role("link", name="Continue").click()
    to_the_letters(page, made)
    assert len(build(page)) == 10
    assert len(hand.hosting.sql(f"SHOW TABLES FROM `{made.name}`")) == 12
    # Locked three times over: by its name, by the setup that is still there, and without the right password.
    page.goto(hand.address + "shop/office/")
    expect(page.locator("body")).to_contain_text("Rename the folder office")
    (shop / "office").rename(shop / "wheelhouse")
    page.goto(hand.address + "shop/wheelhouse/")
    expect(page.locator("body")).to_contain_text("Remove the folder setup first")
    again = page.goto(hand.address + "shop/setup/")
    assert again is not None and again.status == 404
    shutil.rmtree(shop / "setup")
    page.goto(hand.address + "shop/wheelhouse/")
    for password, told in (("wrong", "do not belong together"), (KEEPER_PASSWORD, "README.txt lies in")):
        page.get_by_placeholder("Login or e-mail").fill("marekoti42")
        page.get_by_placeholder("Password").fill(password)
        page.get_by_role("button", name="Come in").click()
        expect(page.locator("body")).to_contain_text(told)
    for name in ("README.txt", "LIESMICH.txt", "LISEZMOI.txt"):
        (shop / name).unlink()
    (shop / "settings/shop.php").chmod(0o600)
    page.reload()
    expect(page.locator("body")).to_contain_text("Nothing is left to do.")
    page.goto(hand.address + "shop/")
    expect(page.get_by_role("heading")).to_have_text("Ferry Museum Shop")


def test_a_red_check_shuts_the_way_until_it_is_mended_and_looked_at_again(page: Page, hand: ByHand) -> None:
    (hand.root / "shop/storage").chmod(0o555)
    to_the_steps(page, hand)
    expect(page.locator("li.failed")).to_have_text("Folder storage can be written missing")
    # The recommended one that is missing shuts nothing.
    expect(page.locator("li.note")).to_contain_text("Extension imagick missing (only recommended)")
    assert page.get_by_role("link", name="Continue").count() == 0
    refused = page.goto(hand.address + "shop/setup/steps.php")
    assert refused is not None and refused.url.endswith("?page=checks")
    (hand.root / "shop/storage").chmod(0o755)
    page.get_by_role("link", name="Refresh").click()
    page.get_by_role("link", name="Continue").click()
    expect(page.get_by_role("heading", name="Database")).to_be_visible()


def test_the_test_of_the_connection_gates_the_way(page: Page, hand: ByHand) -> None:
    made = hand.mariadb("quay")
    to_the_steps(page, hand)
    page.get_by_role("link", name="Continue").click()
    onward, test = page.get_by_role("button", name="Next"), page.get_by_role("button", name="Test the connection")
    fill_database(page, made, "not the password")
    expect(onward).to_be_disabled()
    test.click()
    expect(page.get_by_role("status")).to_contain_text("No connection")
    expect(onward).to_be_disabled()
    page.get_by_label("Password of this user").fill(SECRET)
    test.click()
    # The box that is ticked from the start asks for something the host's server has not.
    expect(page.get_by_role("status")).to_have_text("The connection is not encrypted.")
    page.get_by_label("Encrypt the connection").uncheck()
    test.click()
    expect(onward).to_be_enabled()
    page.get_by_label("Database server").fill("elsewhere")
    expect(onward).to_be_disabled()


def test_letters_hang_and_a_ticked_box_makes_next_do_nothing(page: Page, hand: ByHand) -> None:
    made = hand.mariadb("quay")
    to_the_steps(page, hand)
    page.get_by_role("link", name="Continue").click()
    to_the_letters(page, made)
    page.get_by_role("button", name="Next").click()
    expect(page.get_by_role("heading", name="Letters")).to_be_visible()
    answered: list[str] = []
    page.on("response", lambda r: answered.append(r.url))
    with page.expect_request("**/talk.php?do=letter"):
        page.get_by_role("button", name="Send a test letter").click()
    expect(page.get_by_role("status")).to_have_text("The letter is on its way…")
    build(page)
    # The shop stands while no answer about the letter has come yet.
    assert any("do=install" in url for url in answered) and not any("do=letter" in url for url in answered)
    assert hand.hosting.sql(f"SELECT login FROM `{made.name}`.q_crew") == [["marekoti42"]]
