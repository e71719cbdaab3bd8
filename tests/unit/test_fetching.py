"""Which addresses a release may come from, whose checksum is meant, and what a server's answer means."""

from __future__ import annotations

import hashlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from highshelf.core.errors import ArchiveError, InputError
from highshelf.core.inside import Inside
from highshelf.core.release.fetching import (
    Answer,
    check_headers,
    check_source,
    checksum_kind,
    compare_checksum,
    file_name_of,
    find_checksum,
    judge_answer,
)

A, B = hashlib.sha256(b"a").hexdigest(), hashlib.sha256(b"b").hexdigest()
MD5 = hashlib.md5(b"a").hexdigest()


@pytest.mark.parametrize(
    "number",
    ["127.0.0.1", "10.1.2.3", "172.16.0.1", "192.168.1.1", "169.254.169.254", "100.64.0.1", "0.0.0.0", "::1", "fe80::1",
     "fc00::1", "::ffff:10.0.0.1", "224.0.0.1", "192.0.2.1", "fe80::1%eth0"],
)  # fmt: skip
def test_our_own_network_is_not_asked(number: str) -> None:
    assert not Inside().admits("downloads.example", 443, number)


@pytest.mark.parametrize("number", ["93.184.216.34", "2606:2800:220:1::1", "::ffff:93.184.216.34"])
def test_the_internet_is(number: str) -> None:
    assert Inside().admits("downloads.example", 443, number)


def test_what_was_allowed_is_asked_and_nothing_beside_it() -> None:
    allowed = Inside(("127.0.0.1:8443", "store.saltmarsh.example", "10.9.0.0/16"))
    assert allowed.admits("127.0.0.1", 8443, "127.0.0.1")
    assert not allowed.admits("127.0.0.1", 8080, "127.0.0.1")
    assert allowed.admits("store.saltmarsh.example", 443, "192.168.4.4")
    assert allowed.admits("x.example", 443, "10.9.200.1") and not allowed.admits("x.example", 443, "10.8.0.1")


@pytest.mark.parametrize(
    ("given", "word"),
    [
        ("http://downloads.example/a.zip", "not https"),
        ("ftp://downloads.example/a.zip", "no https address"),
        ("https://keeper:pw@downloads.example/a.zip", "login"),
        ("https:///a.zip", "no https address"),
        ("https://downloads.example:99999/a.zip", "no address"),
        ("https://[broken/a.zip", "no address"),
        ("berth.zip", "no https address"),
    ],
)
def test_addresses_that_cannot_be(given: str, word: str) -> None:
    with pytest.raises(InputError) as fault:
        check_source(given)
    assert word in fault.value.message and fault.value.hint
    assert "pw" not in str(fault.value)


def test_a_fragment_is_not_sent_and_blanks_around_do_not_matter() -> None:
    assert check_source("  https://downloads.example/a.zip#top ") == "https://downloads.example/a.zip"


def test_headers_all_faults_at_once() -> None:
    with pytest.raises(InputError) as fault:
        check_headers({"Host": "x", "Bad Name": "x", "Cookie": "a\r\nEvil: 1", "Authorization": ""})
    for part in ("Host is set", "'Bad Name' is no name", "value of Cookie", "value of Authorization"):
        assert part in fault.value.message
    assert check_headers({"Cookie": "pass=1; x=2"}) == {"Cookie": "pass=1; x=2"}


@pytest.mark.parametrize(
    ("address", "disposition", "name"),
    [
        ("https://d.example/files/berth-2.4.zip?key=1", "", "berth-2.4.zip"),
        ("https://d.example/download.php?id=7", 'attachment; filename="berth 2.4.zip"', "berth 2.4.zip"),
        ("https://d.example/x", "attachment; filename=berth.zip; size=1", "berth.zip"),
        ("https://d.example/x", "attachment; filename=\"x.zip\"; filename*=UTF-8''b%C3%A4rth.zip", "bärth.zip"),
        ("https://d.example/x", 'attachment; filename="../../etc/passwd"', "_.._etc_passwd"),
        ("https://d.example/", "", "download"),
    ],
)
def test_what_a_download_is_called(address: str, disposition: str, name: str) -> None:
    assert file_name_of(address, disposition) == name


@pytest.mark.parametrize(
    "text",
    [
        f"{A}  berth.zip\n{B}  berth.tar.gz\n",
        f"{B} *other.zip\n{A} *berth.zip\n",
        f"SHA256 (berth.zip) = {A}\nSHA256 (other.zip) = {B}\n",
        f"{A}\n",
        f"berth.zip: {A.upper()}",
        f"<tr><td>berth.zip</td><td>{A}</td></tr>\n<tr><td>big.zip</td><td>{B}</td></tr>",
        f"{MD5}  berth.zip\n{A}  berth.zip\n",
        f"./{'dist/berth.zip'} {A}\n{B}  dist/other.zip",
    ],
)
def test_the_checksum_of_a_file_is_found(text: str) -> None:
    assert find_checksum(text, "berth.zip") == ("sha256", A)


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("nothing here", "no checksum"),
        (f"{A}  other.zip\n{B}  more.zip", "has none for"),
        (f"{A}  berth.zip\n{B}  berth.zip", "several"),
        (f"{A}  my-berth.zip\n{B}  berth.zip.asc", "has none for"),
    ],
)
def test_a_checksum_that_is_not_there_is_not_guessed(text: str, word: str) -> None:
    with pytest.raises(InputError, match=word):
        find_checksum(text, "berth.zip")


@given(st.text(max_size=400))
def test_any_text_is_read_or_refused(text: str) -> None:
    try:
        kind, digest = find_checksum(text, "berth.zip")
        assert checksum_kind(digest) == kind
    except InputError:
        pass


def test_weak_checksums_are_told_as_weak_and_wrong_ones_refused() -> None:
    assert "not against forgery" in compare_checksum("md5", MD5.upper(), MD5, "MD5SUMS")
    assert "forgery" not in compare_checksum("sha256", A, A, "SHA256SUMS")
    with pytest.raises(ArchiveError, match="not what its makers published"):
        compare_checksum("sha256", A, B, "SHA256SUMS")
    with pytest.raises(InputError, match="no checksum"):
        checksum_kind("abc")


def test_what_a_servers_answer_means() -> None:
    def said(status: int, length: int | None = None, range: str = "") -> Answer:
        return Answer(status, length, range, "", "")

    assert judge_answer(said(200, 500), 0) == (0, 500)
    assert judge_answer(said(206, 400, "bytes 100-499/500"), 100) == (100, 500)
    # Another piece than was asked for, or a server that ignored the question: from the beginning.
    assert judge_answer(said(206, 400, "bytes 0-499/500"), 100)[0] == 0
    assert judge_answer(said(200, 500), 100) == (0, 500)
    assert judge_answer(said(416, None, "bytes */100"), 100) == (100, 100)
    assert judge_answer(said(416, None, "bytes */90"), 100)[0] == 0
    for status, word in ((401, "sign-in"), (403, "sign-in"), (404, "no such file"), (500, "status 500")):
        with pytest.raises(ArchiveError, match=word):
            judge_answer(said(status), 0)
