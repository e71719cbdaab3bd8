"""Which numbers are the internet; which servers are the ones that are meant."""

from __future__ import annotations

import ipaddress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from highshelf.core.errors import FingerprintError, InputError, UnknownServerError
from highshelf.core.identity import check_fingerprint, check_identity, fingerprints_in, normal
from highshelf.core.inside import Inside, is_internet, number_of

KEY = "SHA256:" + "AbCd0+/zAbCd0+/zAbCd0+/zAbCd0+/zAbCd0+/zAbC"
HEX = "5f" * 32
PAIRS = ":".join(["5F"] * 32)
MD5 = "MD5:" + ":".join(["a0"] * 16)


@pytest.mark.parametrize(
    "number",
    ["127.0.0.1", "10.1.2.3", "172.16.0.1", "192.168.1.1", "169.254.169.254", "100.64.0.1", "0.0.0.0", "::1", "::", "fe80::1", "fd00::1",
     "64:ff9b::7f00:1", "64:ff9b:1::a", "::127.0.0.1", "::ffff:10.0.0.1", "::ffff:7f00:1", "fec0::1", "192.88.99.1", "5f00::1", "3fff::1", "2002:7f00:1::1",
     "2001:db8::1", "198.51.100.7", "203.0.113.9", "192.0.2.1", "224.0.0.1", "ff02::1", "255.255.255.255", "240.0.0.1", "198.18.0.1"],
)  # fmt: skip
def test_what_is_no_internet(number: str) -> None:
    assert not is_internet(number_of(number)) and not Inside().admits("name.example", 443, number)


@pytest.mark.parametrize(
    "number", ["93.184.215.14", "1.1.1.1", "2606:4700::1111", "2a00:1450:4001::5", "::ffff:1.1.1.1"]
)
def test_what_is(number: str) -> None:
    assert is_internet(number_of(number))


@given(st.integers(0, 2**32 - 1))
def test_an_ipv4_number_in_ipv6_clothes_is_no_way_in(number: int) -> None:
    v4 = ipaddress.IPv4Address(number)
    mapped = ipaddress.IPv6Address(f"::ffff:{v4}")
    assert is_internet(number_of(str(mapped))) == is_internet(v4)
    for prefix in ("64:ff9b::", "2002:"):
        clothed = f"{prefix}{v4}" if prefix.endswith("::") else f"2002:{number >> 16:x}:{number & 0xFFFF:x}::1"
        assert not is_internet(number_of(clothed))


def test_letters_write_one_identity_in_many_ways() -> None:
    assert normal(PAIRS) == normal("SHA-256: " + PAIRS) == normal(f"SHA256:{HEX}") == f"SHA256:{HEX}"
    assert normal(KEY + "=") == KEY
    text = f"Our SSH server shows {KEY} (ED25519), older clients {MD5}.\nThe certificate for FTP: SHA-256 {PAIRS}\nagain {KEY}"
    assert fingerprints_in(text) == [KEY, "MD5:" + "a0" * 16, f"SHA256:{HEX}"]
    assert fingerprints_in("no:thing 12:34 SHA256:short and deadbeef") == []
    assert check_fingerprint(f" {KEY}\n{PAIRS} ") == f"{KEY} SHA256:{HEX}" and check_fingerprint(" ") == ""
    for odd in ("SHA256:short", f"{KEY} and more", "AA:BB"):
        with pytest.raises(InputError):
            check_fingerprint(odd)


def test_one_of_several_identities_has_to_fit() -> None:
    check_identity("h:22", f"{KEY} SHA256:{HEX}", ["SHA256:" + HEX], confirm=True)
    check_identity("h:22", MD5, [KEY, MD5.lower().replace("md5", "MD5")], confirm=False)
    check_identity("h:22", "", [KEY], confirm=False)
    with pytest.raises(FingerprintError, match="another identity"):
        check_identity("h:22", KEY, [f"SHA256:{HEX}"], confirm=False)
    with pytest.raises(FingerprintError):
        check_identity("h:21", KEY, [], confirm=False)
    with pytest.raises(UnknownServerError, match=r"is a new server.*SHA256"):
        check_identity("h:22", "", [KEY], confirm=True)
    with pytest.raises(UnknownServerError, match="no identity"):
        check_identity("h:21", "", [], confirm=True)
