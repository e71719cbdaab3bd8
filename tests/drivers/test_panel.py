"""The panel driver against the stand-in panel, which makes real databases."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator

import pytest

from highshelf.core.errors import CancelledError, PanelError
from highshelf.core.origins import Origins
from highshelf.core.ports import CancelToken
from highshelf.core.primers.models import PanelPrimer
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.drivers.panel.forms import FormPanel
from highshelf.service.app import RealDrivers
from tests.support import Hosting


def panel_of(hosting: Hosting, password: str = "") -> FormPanel:
    customer = hosting.customer("ferry")
    primer: PanelPrimer = RealDrivers(hosting.layout.folder).panel_primer("saltmarsh")
    fetch = HttpFetch(Origins.of(customer["panel"]))
    return FormPanel(fetch, primer, customer["panel"], customer["number"], password or customer["password"])


@pytest.fixture
def panel(clean: Hosting) -> Iterator[FormPanel]:
    yield panel_of(clean)


def test_a_database_with_its_user_comes_and_goes(panel: FormPanel, hosting: Hosting) -> None:
    assert panel.databases() == []
    assert panel.create_database("tides").database == "tides-20417"
    assert panel.create_user("skipper", "a-long-enough-Word1") == "skipper-20417"
    panel.attach("tides-20417", "skipper-20417")
    assert hosting.databases() == (["tides-20417"], ["skipper-20417"])
    grants = hosting.sql("SHOW GRANTS FOR 'skipper-20417'@'%'")[-1][0]
    assert "CREATE TEMPORARY TABLES" in grants and "`tides-20417`.*" in grants
    panel.drop_database("tides-20417")
    panel.drop_user("skipper-20417")
    assert hosting.databases() == ([], [])


def test_its_refusals_are_told_in_its_own_words(panel: FormPanel, hosting: Hosting) -> None:
    panel.create_database("tides")
    for attempt, part in (
        (lambda: panel.create_database("tides"), "exists already"),
        (lambda: panel.create_database("Tides!"), "small letters"),
        (lambda: panel.create_database("a" * 40), "too long"),
        (lambda: panel.create_user("x1", "short"), "at least 10"),
        (lambda: panel.attach("none-20417", "nobody-20417"), "no form"),
    ):
        with pytest.raises(PanelError) as caught:
            attempt()
        assert part in caught.value.message
        assert caught.value.hint
    assert hosting.databases() == (["tides-20417"], [])


def test_a_wrong_password_at_the_door(clean: Hosting) -> None:
    with pytest.raises(PanelError) as caught:
        panel_of(clean, "wrong").databases()
    assert "do not belong together" in caught.value.message
    assert "panel password" in caught.value.hint


def test_names_are_whole_and_as_long_as_the_panel_lets_them(panel: FormPanel) -> None:
    assert panel.full_name("tides", "database") == "tides-20417"
    assert panel.longest("database") == 24 - len("-20417")
    assert len(panel.create_database("a" * panel.longest("database")).database) == 24


def test_a_used_up_package_refuses(panel: FormPanel, hosting: Hosting) -> None:
    for number in range(12):
        panel.create_database(f"d{number}")
    with pytest.raises(PanelError) as caught:
        panel.create_database("one_more")
    assert "allows 12 databases" in caught.value.message


def test_an_archive_is_brought_and_unpacked_where_it_lies(panel: FormPanel, clean: Hosting) -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("boats/.htaccess", "Require all denied\n")
    folder = clean.home("ferry") / "private"
    told: list[int] = []
    panel.send_file("private", "boats & more.zip", io.BytesIO(packed.getvalue()), packed.tell(), progress=told.append)
    assert (folder / "boats & more.zip").read_bytes() == packed.getvalue() and told[-1] == packed.tell()
    panel.unpack("private", "boats & more.zip")
    inside = folder / "boats/.htaccess"
    assert inside.read_text() == "Require all denied\n"
    assert inside.stat().st_uid == folder.stat().st_uid
    with pytest.raises(PanelError) as caught:
        panel.send_file("private/../../..", "boats.zip", io.BytesIO(b"x"), 1)
    assert "There is no folder" in caught.value.message
    with pytest.raises(PanelError) as caught:
        panel.unpack("private", "boats.zip")
    assert "no form as the primer describes it" in caught.value.message


def test_a_file_that_is_called_off_is_not_kept(panel: FormPanel, clean: Hosting) -> None:
    cancel, size = CancelToken(), 4_000_000

    def told(done: int) -> None:
        if done > size // 2:
            cancel.cancel()

    with pytest.raises(CancelledError):
        panel.send_file("private", "half.zip", io.BytesIO(bytes(size)), size, progress=told, cancel=cancel)
    assert panel.databases() == [] and not (clean.home("ferry") / "private/half.zip").exists()
