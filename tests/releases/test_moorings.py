"""Moorings by hand in a browser, in good weather and in the bad that it is made for."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from highshelf.practice.moorings.build import MODULE_FOLDER, build_archive, build_module, make_key
from tests.releases.by_hand import SECRET, ByHand, Made
from tests.support import Hosting


@pytest.fixture
def hand(clean: Hosting, tmp_path: Path) -> ByHand:
    made = ByHand(clean, "ferry")
    made.unpack(build_archive(tmp_path), made.root / "harbour", "moorings_2.1")
    made.unpack(build_module(tmp_path), made.root / "harbour" / MODULE_FOLDER, "berthplan")
    return made


def press(page: Page, label: str) -> None:
    page.get_by_role("button", name=label).click()


def heading(page: Page, words: str) -> None:
    expect(page.get_by_role("heading", level=2)).to_contain_text(words)


def to_the_key(page: Page, hand: ByHand) -> None:
    page.goto(hand.address + "harbour/")
    page.get_by_role("link", name="Run the wizard").click()
    page.locator("[name=agree]").check()
    press(page, "I agree, go on")


def to_the_database(page: Page, hand: ByHand) -> None:
    to_the_key(page, hand)
    page.locator("[name=k]").fill(make_key(1))
    press(page, "Check the key")
    press(page, "Go on")
    put_proof(page, hand)
    press(page, "I have put it there")


def put_proof(page: Page, hand: ByHand, text: str = "") -> None:
    hand.put(hand.root / "harbour" / page.locator("tt").inner_text(), text or page.locator("pre").inner_text() + "\n")


def fill_database(page: Page, made: Made, password: str = SECRET) -> None:
    for name, value in (("db_db", made.name), ("db_user", made.user), ("db_word", password), ("pre", "k3_")):
        page.locator(f"[name={name}]").fill(value)
    press(page, "Connect and write the settings")


def sign_in(page: Page, password: str) -> None:
    page.locator("[name=who]").fill("harbourmaster")
    page.locator("[name=word]").fill(password)
    press(page, "Open the gate")


def test_good_weather_and_the_login_that_everybody_gets(page: Page, hand: ByHand) -> None:
    made, harbour = hand.mariadb("moor"), hand.root / "harbour"
    to_the_database(page, hand)
    fill_database(page, made)
    heading(page, "Settings")
    press(page, "Make the tables")
    heading(page, "Ready")
    expect(page.locator("body")).to_contain_text("17 tables were made.")
    assert len(hand.hosting.sql(f"SHOW TABLES FROM `{made.name}`")) == 17
    # What the wizard writes, everybody may change.
    assert (harbour / "config.inc.php").stat().st_mode & 0o777 == 0o666
    page.goto(hand.address + "harbour/gate.php")
    expect(page.locator("body")).to_contain_text("rename the file wizard.php first")
    (harbour / "wizard.php").rename(harbour / "wizard.old")
    page.goto(hand.address + "harbour/gate.php")
    sign_in(page, "ebbandflow")
    expect(page.locator("body")).to_contain_text("You still use the password that everybody gets.")
    expect(page.locator("body")).to_contain_text("The wizard still lies here as wizard.old.")
    (harbour / "wizard.old").unlink()
    page.locator("[name=new]").fill("Spring-tide-9-metres")
    press(page, "Change it")
    expect(page.locator("body")).not_to_contain_text("everybody gets")
    press(page, "Leave")
    sign_in(page, "ebbandflow")
    expect(page.locator("body")).to_contain_text("Wrong name or password.")
    sign_in(page, "Spring-tide-9-metres")
    expect(page.locator("body")).to_contain_text("Good day, harbourmaster.")
    page.goto(hand.address + "harbour/")
    expect(page.locator("body")).to_contain_text("0 members share 54 berths.")


def test_a_key_that_was_cut_or_mistyped(page: Page, hand: ByHand) -> None:
    to_the_key(page, hand)
    key = make_key(7)
    for given, told in (
        ("", "Please enter your licence key"),
        (key[:14], "This licence key is cut: it has 14 characters"),
        (key[:-1] + ("A" if key[-1] != "A" else "B"), "is not right"),
    ):
        page.locator("[name=k]").fill(given)
        press(page, "Check the key")
        expect(page.locator(".wrong")).to_contain_text(told)
    page.locator("[name=k]").fill(key.lower())
    press(page, "Check the key")
    heading(page, "Is all here?")
    # Back goes back, and starting again forgets the key.
    press(page, "Back")
    expect(page.locator("[name=k]")).to_have_value(key)
    press(page, "Start again")
    heading(page, "Licence")


def test_folders_and_a_module_that_are_missing(page: Page, hand: ByHand) -> None:
    module = hand.root / "harbour" / MODULE_FOLDER
    module.rename(module.parent / "berthplan-1.3")
    (hand.root / "harbour/cache").chmod(0o555)
    to_the_key(page, hand)
    page.locator("[name=k]").fill(make_key(1))
    press(page, "Check the key")
    expect(page.locator("td.wrong")).to_have_text(["NOT OK", "NOT THERE"])
    expect(page.locator("td.right", has_text="NOT AVAILABLE")).to_be_visible()
    assert page.get_by_role("button", name="Go on").count() == 0
    (module.parent / "berthplan-1.3").rename(module)
    (hand.root / "harbour/cache").chmod(0o777)
    press(page, "Check again")
    press(page, "Go on")
    heading(page, "Are you the owner?")


def test_the_proof_of_the_owner_and_a_database_that_says_no(page: Page, hand: ByHand) -> None:
    made = hand.mariadb("moor")
    to_the_key(page, hand)
    page.locator("[name=k]").fill(make_key(1))
    press(page, "Check the key")
    press(page, "Go on")
    press(page, "I have put it there")
    expect(page.locator(".wrong")).to_contain_text("There is no file moorings-proof-")
    put_proof(page, hand, "somebody else")
    press(page, "I have put it there")
    expect(page.locator(".wrong")).to_contain_text("its text is another one")
    put_proof(page, hand)
    press(page, "I have put it there")
    fill_database(page, made, "not the password")
    # It says no more than that, and shows the password again.
    expect(page.locator(".wrong")).to_have_text("Could not connect.")
    expect(page.locator("[name=db_word]")).to_have_value("not the password")
    fill_database(page, made)
    heading(page, "Settings")


def test_settings_are_put_there_by_hand_when_the_folder_is_read_only(page: Page, hand: ByHand) -> None:
    made, harbour = hand.mariadb("moor"), hand.root / "harbour"
    to_the_database(page, hand)
    harbour.chmod(0o555)
    fill_database(page, made)
    expect(page.locator(".wrong")).to_contain_text("could not be written here")
    press(page, "It is in its place: make the tables")
    expect(page.locator(".wrong").first).to_have_text("config.inc.php is not there yet.")
    hand.put(harbour / "config.inc.php", page.locator("textarea").input_value())
    press(page, "It is in its place: make the tables")
    expect(page.locator("body")).to_contain_text("17 tables were made.")
    page.goto(hand.address + "harbour/wizard.php")
    expect(page.locator("body")).to_contain_text("Moorings is already set up.")
    harbour.chmod(0o755)
