"""Logins of every kind, and the traps that transfer servers set."""

from __future__ import annotations

import os
import select
import subprocess
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from highshelf.core.account import Credential, Transfer
from highshelf.core.errors import (
    FingerprintError,
    LineDroppedError,
    LoginRefusedError,
    MissingFileError,
    SpaceError,
    TooManyError,
    TransferError,
    UnreachableError,
)
from highshelf.core.ports import Order
from highshelf.drivers.ftp import files as ftp_module
from highshelf.drivers.ftp import tls
from highshelf.drivers.ftp.files import FtpFiles
from highshelf.drivers.ftp.listing import long_entry
from highshelf.drivers.sftp.connection import SftpFiles, SshConnection
from tests.drivers.ftp_servers import login_at, server
from tests.support import Hosting

PORT = 26760


@pytest.fixture
def locked_key(clean: Hosting, tmp_path: Path) -> Iterator[Path]:
    """A private key with the passphrase `ebb and flow` that the museum's account takes."""
    key = tmp_path / "id"
    subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "ebb and flow", "-f", str(key)], check=True)
    allowed = clean.layout.etc / "ssh" / f"authorized.{clean.customer('ferry')['login']}"
    before = allowed.read_text()
    allowed.write_text(before + key.with_suffix(".pub").read_text())
    yield key
    allowed.write_text(before)


def test_a_key_opens_with_its_passphrase_only(clean: Hosting, locked_key: Path) -> None:
    login, text = clean.login("ferry"), locked_key.read_text()
    ssh = SshConnection(login, Credential(key=text, passphrase="ebb and flow"))
    assert "www" in [e.name for e in SftpFiles(ssh).entries("")]
    ssh.close()
    for passphrase, part in (("", "needs its passphrase"), ("flood", "does not open with this passphrase")):
        with pytest.raises(LoginRefusedError) as caught:
            SshConnection(login, Credential(key=text, passphrase=passphrase))
        assert part in caught.value.message
    with pytest.raises(LoginRefusedError) as unread:
        SshConnection(login, Credential(key=locked_key.with_suffix(".pub").read_text()))
    assert ".pub" in unread.value.hint


def test_an_agent_opens_a_login_without_any_secret_kept(
    clean: Hosting, locked_key: Path, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.delenv("SSH_AUTH_SOCK", raising=False)
    with pytest.raises(LoginRefusedError) as without:
        SshConnection(clean.login("ferry"), Credential(agent=True))
    assert "SSH_AUTH_SOCK" in without.value.hint
    socket = tmp_path / "agent"
    agent = subprocess.Popen(["ssh-agent", "-D", "-a", str(socket)], stdout=subprocess.DEVNULL)
    try:
        while not socket.exists():
            time.sleep(0.01)
        monkeypatch.setenv("SSH_AUTH_SOCK", str(socket))
        teller = tmp_path / "teller"
        teller.write_text("#!/bin/sh\necho 'ebb and flow'\n")
        teller.chmod(0o700)
        environment = {**os.environ, "SSH_ASKPASS": str(teller), "SSH_ASKPASS_REQUIRE": "force"}
        subprocess.run(["ssh-add", "-q", str(locked_key)], env=environment, check=True, stdin=subprocess.DEVNULL)
        ssh = SshConnection(clean.login("ferry"), Credential(agent=True))
        assert SftpFiles(ssh).stat("www") is not None
        ssh.close()
    finally:
        agent.terminate()
        agent.wait()


def test_tls_from_the_first_byte_is_pinned_and_the_wrong_port_is_explained(clean: Hosting) -> None:
    login, password = clean.login("regatta"), clean.password("regatta")
    first = FtpFiles(login, password=password)
    pinned = first.fingerprint
    assert first.facts().encryption.startswith("TLSv1.") and first.entries("")
    first.close()
    FtpFiles(login, password=password, fingerprint=pinned).close()
    with pytest.raises(FingerprintError) as changed:
        FtpFiles(login, password=password, fingerprint="SHA256:another")
    assert pinned in changed.value.message
    with pytest.raises(UnreachableError) as wrong:
        FtpFiles(replace(login, port=clean.layout.port("ftp")), password=password)
    assert "first byte" in wrong.value.hint


def test_a_port_that_does_not_speak_ssh_is_told_at_once(clean: Hosting) -> None:
    wrong = replace(clean.login("ferry"), port=clean.layout.port("ftp"))
    with pytest.raises(UnreachableError) as caught:
        SshConnection(wrong, Credential(clean.password("ferry")))
    assert not isinstance(caught.value, TooManyError) and "SSH" in caught.value.message + caught.value.hint


def test_a_server_without_tls_says_what_to_try(clean: Hosting) -> None:
    with pytest.raises(UnreachableError) as caught:
        FtpFiles(replace(clean.login("yard"), kind="ftps"), password=clean.password("yard"))
    assert "offers no TLS" in caught.value.hint


def test_a_server_that_wants_tls_says_so_to_a_plain_login(clean: Hosting, tmp_path: Path) -> None:
    with server("vsftpd", "ftps", PORT, tmp_path / "server"), pytest.raises(LoginRefusedError) as caught:
        FtpFiles(login_at(clean, "ferry", "ftp", PORT), password=clean.password("ferry"))
    assert "ftps://" in caught.value.hint


def test_plain_ftp_tells_that_the_server_offers_better(clean: Hosting) -> None:
    files = FtpFiles(replace(clean.login("choir"), kind="ftp"), password=clean.password("choir"))
    assert files.facts().offers == ("ftps",)
    files.close()
    bare = FtpFiles(clean.login("yard"), password=clean.password("yard"))
    assert bare.facts().offers == ()
    bare.close()


@pytest.mark.parametrize("name", ["vsftpd", "pure-ftpd"])
@pytest.mark.parametrize("kind", ["ftp", "ftps"])
def test_too_many_connections_are_told_with_the_servers_own_number(
    clean: Hosting, tmp_path: Path, name: str, kind: Transfer
) -> None:
    login, password = login_at(clean, "ferry", kind, PORT), clean.password("ferry")
    with server(name, kind, PORT, tmp_path / "server", most=2):
        held = [FtpFiles(login, password=password) for _ in range(2)]
        with pytest.raises(TooManyError) as caught:
            FtpFiles(login, password=password)
        assert caught.value.retryable and caught.value.context["told"]
        assert caught.value.context["allowed"] in (0, 2)
        for files in held:
            files.close()


def test_proftpd_says_how_many_it_allows(clean: Hosting) -> None:
    login, password = clean.login("choir"), clean.password("choir")
    held = [FtpFiles(login, password=password) for _ in range(10)]
    with pytest.raises(TooManyError) as caught:
        FtpFiles(login, password=password)
    assert caught.value.context["allowed"] == 10
    for files in held:
        files.close()


def test_a_line_that_was_dropped_in_a_silence_is_opened_again(
    clean: Hosting, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(ftp_module, "IDLE_SECONDS", 0.5)
    with server("vsftpd", "ftps", PORT, tmp_path / "server", idle_seconds=1):
        files = FtpFiles(login_at(clean, "ferry", "ftps", PORT), password=clean.password("ferry"))
        assert files.entries("www") and files.idle_dropped_seconds is None
        # The server's own clock has to run: nothing can be waited for but the end of its patience.
        _until_dropped(files)
        assert files.entries("www")
        # The server counts whole seconds, and its second may have begun before our last word was sent.
        assert files.idle_dropped_seconds is not None and files.idle_dropped_seconds > 0.8
        files.close()


def _until_dropped(files: FtpFiles) -> None:
    # The server says goodbye (421), or just goes: either way there is something to read.
    assert files._ftp.sock is not None and select.select([files._ftp.sock], [], [], 15)[0]


def test_a_wrong_passive_address_is_not_followed(clean: Hosting, tmp_path: Path) -> None:
    with server("pure-ftpd", "ftps", PORT, tmp_path / "server", passive_address="10.9.8.7"):
        files = FtpFiles(login_at(clean, "ferry", "ftps", PORT), password=clean.password("ferry"))
        assert "10,9,8,7" in files._ftp.sendcmd("PASV")
        files.write("www/tide.txt", b"high at noon")
        assert files.read("www/tide.txt") == b"high at noon"
        files.close()


def test_a_full_quota_is_told_as_that(clean: Hosting, tmp_path: Path) -> None:
    with server("pure-ftpd", "ftps", PORT, tmp_path / "server", quota_megabytes=1):
        files = FtpFiles(login_at(clean, "ferry", "ftps", PORT), password=clean.password("ferry"))
        with pytest.raises(SpaceError) as caught:
            for number in range(4):
                files.write(f"www/part{number}", os.urandom(600_000))
        assert "quota" in caught.value.message
        files.close()


@pytest.mark.parametrize("where", ["choir", "yard", "vsftpd", "pure-ftpd"])
def test_odd_names_come_and_go_whole(clean: Hosting, tmp_path: Path, where: str) -> None:
    names = ["two words.txt", "  ahead", "Größe ✓.txt", "-rf", "[brackets]", "semi;colon=1; x", "->arrow", ".dot"]
    if where in ("choir", "yard"):
        _odd_names(FtpFiles(clean.login(where), password=clean.password(where)), clean.customer(where)["root"], names)
        return
    with server(where, "ftp", PORT, tmp_path / "server"):
        _odd_names(FtpFiles(login_at(clean, "ferry", "ftp", PORT), password=clean.password("ferry")), "www", names)


def _odd_names(files: FtpFiles, root: str, names: list[str]) -> None:
    files.make_folder(f"{root}/odd")
    for name in names:
        files.write(f"{root}/odd/{name}", name.encode())
    assert {e.name for e in files.entries(f"{root}/odd")} == set(names)
    for name in names:
        assert files.read(f"{root}/odd/{name}") == name.encode()
        entry = files.stat(f"{root}/odd/{name}")
        assert entry is not None and entry.size_bytes == len(name.encode())
        files.remove(f"{root}/odd/{name}")
    files.remove_folder(f"{root}/odd")
    with pytest.raises(TransferError):
        files.write(f"{root}/two\nlines", b"")
    with pytest.raises(MissingFileError):
        files.remove(f"{root}/odd/none")
    files.close()


@pytest.mark.parametrize(
    ("line", "expected"),
    [
        ("-rw-r--r--   1 ferry    web          1234 Nov 23 10:15 index.php", ("index.php", "file", 1234, 0o644)),
        ("drwxr-x---  14 1002     33           4096 Jan  3  2025 two words", ("two words", "folder", 4096, 0o750)),
        ("-rw-r--r-- 1 ferry 88 Mar 1 09:00 no-group", ("no-group", "file", 88, 0o644)),
        ("-rw-r--r-- 1 a b 88 23. Nov 10:15 de", None),
        ("-rw-r--r-- 1 a b 88 2026-11-23 10:15 iso", ("iso", "file", 88, 0o644)),
        ("lrwxrwxrwx 1 a b 7 Nov 23 10:15 www -> htdocs", ("www", "link", 7, 0o777)),
        ("11-23-26  03:14PM       <DIR>          wwwroot", ("wwwroot", "folder", 0, None)),
        ("11-23-2026  15:14             20481 default.htm", ("default.htm", "file", 20481, None)),
        ("total 88", None),
    ],
)
def test_listings_of_several_families_are_read(line: str, expected: tuple[str, str, int, int | None] | None) -> None:
    found = long_entry(line)
    if expected is None:
        assert found is None or found.name == "de"
    else:
        assert found is not None
        assert (found.name, found.kind, found.size_bytes, found.mode) == expected


def test_a_server_that_is_gone_says_nothing_of_what_stands_there(clean: Hosting, tmp_path: Path) -> None:
    """A file that cannot be asked for is not a file that is gone: what of ours lies there stays on the list."""
    with server("vsftpd", "ftp", PORT, tmp_path / "server"):
        files = FtpFiles(login_at(clean, "ferry", "ftp", PORT), password=clean.password("ferry"))
        assert files.stat("www") is not None
    for _ in range(2):
        with pytest.raises((LineDroppedError, UnreachableError)):
            files.stat("www")
        with pytest.raises((LineDroppedError, UnreachableError)):
            files.remove("www/never.php")
    files.close()


def test_a_server_that_answers_two_orders_at_once_and_not_many_is_asked_one_by_one(
    clean: Hosting, monkeypatch: pytest.MonkeyPatch
) -> None:
    """ProFTPD, when all of them come in one record of TLS."""
    monkeypatch.setattr(ftp_module, "SMALL_SECONDS", 1.0)
    monkeypatch.setattr(ftp_module, "_UNANSWERED", Counter())
    monkeypatch.setattr(
        tls.Client, "put_together", lambda self, lines: self.sock.sendall("".join(f"{x}\r\n" for x in lines).encode())
    )
    folders = [f"htdocs/{n:02d}-{'tide-table-' * 20}" for n in range(32)]
    files = FtpFiles(clean.login("choir"), password=clean.password("choir"))
    left = folders
    for _ in range(2):
        # Once may have been the line.
        with pytest.raises(LineDroppedError):
            files.bulk([Order("make_folder", path) for path in folders])
        left = [path for path in folders if files.stat(path) is None]
        assert 0 < len(left) < 32
    assert files.bulk([Order("make_folder", path) for path in left]) == [None] * len(left)
    files.close()
    again = FtpFiles(clean.login("choir"), password=clean.password("choir"))
    assert again.bulk([Order("remove_folder", path) for path in folders]) == [None] * 32
    again.close()


def test_another_server_at_the_same_place_is_asked_anew_what_it_can(clean: Hosting, tmp_path: Path) -> None:
    login, password = login_at(clean, "ferry", "ftp", PORT), clean.password("ferry")
    for name in ("pure-ftpd", "vsftpd", "pure-ftpd"):
        with server(name, "ftp", PORT, tmp_path / name):
            for _ in range(2):
                # The second login knows what the first one found out: whether orders may go out together, and which there are.
                files = FtpFiles(login, password=password)
                orders = [Order("make_folder", "www/tides"), Order("remove_folder", "www/tides")]
                assert files.bulk(orders) == [None, None]
                there = files.stat("www")
                assert there is not None and there.kind == "folder" and files.stat("www/tides") is None
                files.close()
