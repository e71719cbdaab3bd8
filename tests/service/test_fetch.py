"""Releases fetched from their makers' site: real https on loopback, with lines that are slow or break."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from pydantic import SecretStr

from highshelf.client import ServiceError
from highshelf.core.errors import ArchiveError, FetchError, InputError
from highshelf.core.inside import Inside
from highshelf.core.ports import CancelToken
from highshelf.drivers.http.download import HttpsDownload
from highshelf.schemas.shelf import FetchNew, FetchOut
from tests.support import Hosting, Service, until

QUAY, TIDE = "quaystore-3.2.0.zip", "tidebook-1.4.2.zip"


def serving(hosting: Hosting, data: Path, *more: str) -> Service:
    made = Service(data, options=("--authority", str(hosting.layout.vendor_authority), *more))
    made.inside = ""
    made.start()
    return made


@pytest.fixture
def service(hosting: Hosting, tmp_path: Path) -> Iterator[Service]:
    """A service that may ask the makers' site, which is inside our own network."""
    port = hosting.layout.port("vendor")
    running = serving(hosting, tmp_path / "data", "--inside", f"127.0.0.1:{port}")
    yield running
    running.stop()


@pytest.fixture
def makers(hosting: Hosting) -> str:
    return hosting.layout.vendor_address


def fetched(service: Service, address: str, **more: object) -> FetchOut:
    with service.client as client:
        return client.release_fetch(FetchNew.model_validate({"address": address, "wait_seconds": 60, **more}))


def refused(found: FetchOut, *words: str) -> None:
    assert found.state == "failed" and found.fault is not None, found
    said = f"{found.fault.message} {found.fault.hint}"
    assert all(word in said for word in words), said


def drafts(service: Service) -> list[Path]:
    return list((service.data / "shelf").glob("fetch-*"))


def test_a_release_is_fetched_compared_and_says_where_it_came_from(service: Service, makers: str) -> None:
    told = service.cli(
        "release", "fetch", f"{makers}files/{QUAY}", "--checksum-address", f"{makers}files/SHA256SUMS",
        "--signature-address", f"{makers}files/{QUAY}.asc", "--key-address", f"{makers}files/key.asc",
    )  # fmt: skip
    assert told.returncode == 0, told.stderr
    assert "Quaystore 3.2.0" in told.stdout and f"{makers}files/{QUAY}" in told.stdout
    assert f"sha256 as in {makers}files/SHA256SUMS" in told.stdout and "signed by" in told.stdout
    assert "Chandler's Row Software" in told.stdout
    with service.client as client:
        release = client.release_list().items[0]
        assert release.origin["address"] == f"{makers}files/{QUAY}" and len(release.origin["compared"]) == 2
        assert client.release_fetches(unfinished=True).total == 0
    # The same bytes twice are one release.
    again = fetched(service, f"{makers}files/{QUAY}")
    assert again.release == release.sha256 and service.client.release_list().total == 1
    assert drafts(service) == []


def test_what_does_not_fit_is_not_checked_in(service: Service, makers: str) -> None:
    address = f"{makers}files/{QUAY}"
    refused(fetched(service, address, checksum="0" * 64), "not what its makers published", "ask its makers")
    other = {"signature_address": f"{makers}files/{TIDE}.asc", "key_address": f"{makers}files/key.asc"}
    refused(fetched(service, address, **other), "signature does not fit")
    refused(fetched(service, f"{makers}files/key.asc"), "not an archive")
    refused(fetched(service, f"{makers}files/none.zip"), "no such file")
    refused(fetched(service, address, checksum_address=f"{makers}"), "no checksum")
    assert service.client.release_list().total == 0 and drafts(service) == []
    told = service.cli("release", "fetch", address, "--checksum", "0" * 64)
    assert told.returncode == 1 and "not what its makers published" in told.stderr


@pytest.mark.parametrize(
    ("more", "word"),
    [
        ({"address": "http://downloads.example/a.zip"}, "not https"),
        ({"checksum": "abc"}, "no checksum"),
        ({"headers": {"Host": "elsewhere"}}, "Host is set"),
        ({"signature_address": "https://downloads.example/a.asc"}, "public key"),
    ],
)
def test_orders_that_cannot_be_are_refused_at_once(service: Service, more: dict[str, object], word: str) -> None:
    with pytest.raises(ServiceError) as fault:
        fetched(service, **{"address": "https://downloads.example/a.zip", **more})  # type: ignore[arg-type]
    assert word in fault.value.fault.message


def registered(makers: str, authority: Path) -> str:
    """What the registration gives, as a person gets it in a browser."""
    import ssl

    with httpx.Client(verify=ssl.create_default_context(cafile=authority), trust_env=False) as browser:
        assert browser.post(f"{makers}register", data={"who": "Keeper"}).status_code == 422
        page = browser.post(
            f"{makers}register", data={"who": "Keeper", "mail": "k@ferry.saltmarsh.example", "agree": "yes"}
        )
    return re.findall(r"<code>(.+?)</code>", page.text)[0]


def test_behind_a_registration_a_cookie_or_a_header_signs_in(service: Service, hosting: Hosting, makers: str) -> None:
    address = f"{makers}members/{QUAY}"
    refused(fetched(service, address), "not an archive", "web page", "sign-in")
    key = registered(makers, hosting.layout.vendor_authority)
    told = service.cli("release", "fetch", address, "--sign-in", "-", text=f"Cookie: crow_pass={key}\n")
    assert told.returncode == 0 and "Quaystore" in told.stdout, told.stderr
    found = fetched(
        service, f"{makers}members/{TIDE}", headers={"Authorization": SecretStr(f"Bearer {key}").get_secret_value()}
    )
    assert found.state == "done", found.fault
    # Nowhere in the clear, and no longer than it takes.
    kept = [p for p in service.data.rglob("*") if p.is_file()] + [service.log]
    assert [p.name for p in kept if key.encode() in p.read_bytes()] == []


def test_what_signs_in_is_not_sent_where_a_redirect_leads(hosting: Hosting, makers: str, tmp_path: Path) -> None:
    key = registered(makers, hosting.layout.vendor_authority)
    port = hosting.layout.port("vendor")
    elsewhere = f"{makers}away/https://localhost:{port}/members/{QUAY}"
    driver = HttpsDownload(Inside(("127.0.0.1", "localhost")), hosting.layout.vendor_authority)

    def brought(address: str) -> bytes:
        target = tmp_path / "came"
        driver.fetch(
            address, target, headers={"Cookie": f"crow_pass={key}"}, tag="", limit_bytes=1 << 20,
            told=lambda *_: None, cancel=CancelToken(),
        )  # fmt: skip
        return target.read_bytes()

    assert brought(f"{makers}members/{QUAY}").startswith(b"PK")
    assert brought(elsewhere).startswith(b"<!doctype html>")


def test_our_own_network_is_not_asked_unless_it_was_said(
    service: Service, hosting: Hosting, makers: str, tmp_path: Path
) -> None:
    refused(fetched(service, f"{makers}away/https://127.0.0.2/berth.zip"), "not the internet", "--inside 127.0.0.2:443")
    refused(fetched(service, f"{makers}away/http://127.0.0.1:1/berth.zip"), "not https")
    strict = serving(hosting, tmp_path / "strict")
    try:
        refused(fetched(strict, f"{makers}files/{QUAY}"), "not the internet", "--inside")
    finally:
        strict.stop()


def test_a_certificate_that_nobody_vouches_for_is_refused(hosting: Hosting, makers: str, tmp_path: Path) -> None:
    driver = HttpsDownload(Inside(("127.0.0.1",)))
    with pytest.raises(ArchiveError, match="certificate of 127") as fault:
        driver.text(f"{makers}files/SHA256SUMS", {})
    assert "--authority" in fault.value.hint


def test_a_line_that_breaks_is_taken_up_where_it_broke(service: Service, makers: str) -> None:
    found = fetched(service, f"{makers}broken/{TIDE}?after=40000", checksum_address=f"{makers}files/SHA256SUMS")
    assert found.state == "done", found.fault
    # 118 kB in pieces of 40: two times taken up again, none of the bytes twice.
    assert found.tries == 2 and found.done_bytes == found.total_bytes


def test_a_line_that_only_ever_begins_anew_is_given_up(service: Service, makers: str) -> None:
    found = fetched(service, f"{makers}stubborn/{TIDE}?after=40000")
    refused(found, "the line broke")
    assert found.tries >= 3 and drafts(service) == []


def test_a_restart_of_the_service_goes_on_with_what_is_there(service: Service, makers: str) -> None:
    with service.client as client:
        begun = client.release_fetch(FetchNew(address=f"{makers}slow/{TIDE}?kilobytes=40"))
        until(lambda: any(d.stat().st_size > 20_000 for d in drafts(service)), "nothing came over")
    service.kill()
    had = drafts(service)[0].stat().st_size
    service.start()
    with service.client as client:
        seen: list[int] = []

        def ended() -> bool:
            seen.extend(d.stat().st_size for d in drafts(service))
            return client.release_fetch_show(begun.id).state == "done"

        until(ended, "it never ended")
        # The file was gone on with, not begun anew.
        assert min(seen) >= had and len(set(seen)) > 1
        assert client.release_show(client.release_fetch_show(begun.id).release).name == "tidebook"


def test_a_fetch_can_be_stopped(service: Service, makers: str) -> None:
    begun = service.cli_json("release", "fetch", f"{makers}slow/{TIDE}?kilobytes=10", "--no-wait")
    until(lambda: drafts(service) != [], "nothing came over")
    listed = service.cli("release", "fetches", "--unfinished")
    assert begun["id"] in listed.stdout and "fetching" in listed.stdout
    assert service.cli("release", "fetch-cancel", begun["id"]).returncode == 0
    until(lambda: service.client.release_fetch_show(begun["id"]).state == "cancelled", "it went on", 5)
    assert drafts(service) == []
    with pytest.raises(ServiceError) as fault:
        service.client.release_fetch_cancel(begun["id"])
    assert fault.value.fault.code == "conflict"


def test_a_limit_is_kept_whatever_a_server_says_of_its_length(hosting: Hosting, makers: str, tmp_path: Path) -> None:
    driver = HttpsDownload(Inside(("127.0.0.1",)), hosting.layout.vendor_authority)

    def bring(address: str, limit: int) -> None:
        driver.fetch(
            address,
            tmp_path / "came",
            headers={},
            tag="",
            limit_bytes=limit,
            told=lambda *_: None,
            cancel=CancelToken(),
        )

    with pytest.raises(ArchiveError, match="larger than"):
        bring(f"{makers}files/{TIDE}", 50_000)
    with pytest.raises(FetchError, match="line broke"):
        bring(f"{makers}broken/{TIDE}?after=10000", 1 << 20)
    with pytest.raises(InputError, match="not the internet"):
        HttpsDownload(Inside(), hosting.layout.vendor_authority).text(f"{makers}files/SHA256SUMS", {})
