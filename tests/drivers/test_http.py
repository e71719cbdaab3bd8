"""Conversations with real sites: the override, the closed list of origins, cookies that survive."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from highshelf.core.errors import FetchError
from highshelf.core.origins import ForeignOriginError, Origins
from highshelf.drivers.http.fetch import HttpFetch
from tests.support import Hosting, free_port


@pytest.fixture
def site(clean: Hosting) -> Iterator[tuple[str, str, Path]]:
    """The choir's address, which resolves nowhere, where to reach it, and its document root."""
    customer = clean.customer("choir")
    yield customer["address"], customer["reach"], clean.root("choir")


def test_a_name_that_resolves_nowhere_is_spoken_to_its_server(site: tuple[str, str, Path]) -> None:
    address, reach, root = site
    (root / "who.php").write_text(
        "<?php echo $_SERVER['HTTP_HOST'], ' ', $_SERVER['REQUEST_METHOD'], ' ', $_POST['ä'] ?? '-';"
    )
    with HttpFetch(Origins.of(address), address=address, reach=reach) as fetch:
        assert fetch.get(address + "who.php").html == f"{address.split('/')[2]} GET -"
        assert fetch.post(address + "who.php", [("ä", "grün & blau")]).html.endswith("POST grün & blau")
        assert fetch.post(address + "who.php", [("ä", "grün & blau")], multipart=True).html.endswith("POST grün & blau")
    with HttpFetch(Origins.of(address)) as fetch, pytest.raises(FetchError) as caught:
        fetch.get(address)
    assert "leads nowhere yet" in caught.value.message
    assert "where it is reached" in caught.value.hint and caught.value.retryable


def test_no_redirect_leaves_the_list(clean: Hosting, site: tuple[str, str, Path]) -> None:
    address, reach, root = site
    inner = clean.customer("ferry")["panel"]
    for foreign in (inner, "http://elsewhere.example/", "https://choir.saltmarsh.example/"):
        (root / "away.php").write_text(f"<?php header('Location: {foreign}', true, 302);")
        with (
            HttpFetch(Origins.of(address), address=address, reach=reach) as fetch,
            pytest.raises(ForeignOriginError) as caught,
        ):
            fetch.get(address + "away.php?" + foreign)
        assert foreign.split("/")[2].split(":")[0] in caught.value.message and not caught.value.retryable


def test_a_circle_of_redirects_ends(site: tuple[str, str, Path]) -> None:
    address, reach, root = site
    (root / "round.php").write_text("<?php header('Location: round.php?' . rand());")
    with HttpFetch(Origins.of(address), address=address, reach=reach) as fetch, pytest.raises(FetchError) as caught:
        fetch.get(address + "round.php")
    assert "circle" in caught.value.message


def test_cookies_survive_a_restart_and_stay_with_their_site(site: tuple[str, str, Path]) -> None:
    address, reach, root = site
    (root / "count.php").write_text("<?php session_start(); echo ++$_SESSION['n'];")
    with HttpFetch(Origins.of(address), address=address, reach=reach) as first:
        assert [first.get(address + "count.php").html for _ in range(2)] == ["1", "2"]
        kept = first.cookies()
    with HttpFetch(Origins.of(address), address=address, reach=reach) as second:
        second.restore(kept)
        assert second.get(address + "count.php").html == "3"
    with HttpFetch(Origins.of(address), address=address, reach=reach) as stranger:
        assert stranger.get(address + "count.php").html == "1"


def test_an_unreachable_server_is_named() -> None:
    address = f"http://127.0.0.1:{free_port()}/"
    with HttpFetch(Origins.of(address)) as fetch, pytest.raises(FetchError) as caught:
        fetch.get(address)
    assert address.split("/")[2] in caught.value.message


def test_old_charsets_are_read(site: tuple[str, str, Path]) -> None:
    address, reach, root = site
    (root / "old.html").write_bytes("<meta charset=iso-8859-1><p>Gästebuch</p>".encode("latin-1"))
    with HttpFetch(Origins.of(address), address=address, reach=reach) as fetch:
        assert "Gästebuch" in fetch.get(address + "old.html").html
