"""Whom a password is given: servers that a letter named, servers that somebody says yes to, certificates that a check has pinned."""

from __future__ import annotations

import socket
import ssl
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from highshelf.core.errors import FetchError
from highshelf.core.origins import Origins
from highshelf.drivers.http.fetch import HttpFetch
from highshelf.practice.servers.ftp import make_certificate
from highshelf.schemas.models import AccountChange, PlanNew
from highshelf.store.store import Store
from highshelf.store.tables import AccountRow
from tests.support import Hosting, Service

OTHER = "SHA256:" + "A" * 43
OTHER_CERTIFICATE = "SHA256:" + "ab" * 32


@pytest.mark.parametrize(
    ("key", "other"), [("ferry", OTHER), ("choir", OTHER_CERTIFICATE), ("regatta", OTHER_CERTIFICATE)]
)
def test_the_identity_of_the_letter_is_compared_before_the_password_is_sent(
    clean: Hosting, service: Service, key: str, other: str
) -> None:
    with service.client as client:
        client.account_add(clean.new_account(key, fingerprint=other))
        refused = client.account_check(key).fault
        assert refused is not None and refused.code == "fingerprint-changed" and "nothing was sent" in refused.hint
        shown = str(refused.context["now"])
        client.account_change(key, AccountChange(fingerprint=f"{other} {shown}"))
        assert client.account_check(key).state == "done"
        assert client.account_show(key).fingerprint == shown, "from now on it is the one that was seen"


@pytest.mark.parametrize("key", ["ferry", "choir", "yard"])
def test_a_new_server_can_be_made_to_wait_for_a_yes(clean: Hosting, service: Service, key: str) -> None:
    with service.client as client:
        client.account_add(clean.new_account(key, confirm_server=True))
        refused = client.account_check(key).fault
        assert refused is not None and refused.code == "unknown-server" and "nothing was sent" in refused.hint
        assert client.account_show(key).fingerprint == ""
        if key == "yard":
            assert "plain FTP" in refused.message
        assert client.account_check(key, accept_identity=True).state == "done"
        assert bool(client.account_show(key).fingerprint) == (key != "yard")
        assert client.record_list(key).items[0].kind == "identity-accepted"
        if key != "yard":
            assert client.account_check(key).state == "done", "known now"


def test_a_job_asks_no_unknown_server_either(clean: Hosting, service: Service, tidebook: Path) -> None:
    with service.client as client:
        client.account_add(clean.new_account("ferry", confirm_server=True))
        client.release_check_in(tidebook)
        seen = client.plan_preview(PlanNew(account="ferry", release="tidebook"))
        assert seen.fault is not None and seen.fault.code == "unknown-server"


def test_a_certificate_of_the_hosts_own_is_pinned_by_the_check_and_only_that_one_is_taken(
    clean: Hosting, service: Service, tidebook: Path
) -> None:
    with service.client as client:
        client.account_add(clean.new_account("birds"))
        survey = client.account_check("birds")
        told = next(line for line in survey.lines if line.topic == "site.certificate")
        pinned = client.account_show("birds").certificate
        assert "pinned" in told.text and pinned.startswith("SHA256:") and survey.state == "done"
        store = Store(service.data)
        store.change(AccountRow, "birds", certificate=OTHER_CERTIFICATE)
        store.close()
        changed = client.account_check("birds")
        told = next(line for line in changed.lines if line.topic == "site.certificate")
        assert told.state == "bad" and "another one than the check before saw" in told.text
        assert client.account_show("birds").certificate == OTHER_CERTIFICATE, "it is not taken by itself"
        assert client.account_check("birds", accept_identity=True).state == "done"
        assert client.account_show("birds").certificate == pinned


@contextmanager
def showing(certificate: Path) -> Iterator[tuple[int, list[bytes]]]:
    """A TLS server with a certificate of its own making; what it was told."""
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(certificate)
    heard: list[bytes] = []
    with socket.create_server(("127.0.0.1", 0)) as server:

        def work() -> None:
            while True:
                try:
                    raw, _ = server.accept()
                except OSError:
                    return
                try:
                    with context.wrap_socket(raw, server_side=True) as line:
                        heard.append(line.recv(65536))
                        line.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 4\r\nConnection: close\r\n\r\ntide")
                except OSError:
                    continue

        threading.Thread(target=work, daemon=True).start()
        yield server.getsockname()[1], heard
        server.shutdown(socket.SHUT_RDWR)


def test_nothing_is_said_to_a_certificate_that_was_not_seen_before(tmp_path: Path) -> None:
    make_certificate(tmp_path / "one.pem", "birds.saltmarsh.example")
    site = "https://birds.saltmarsh.example/"
    with showing(tmp_path / "one.pem") as (port, heard):
        from highshelf.drivers.wire.outside import SocketOutside

        seen = SocketOutside().certificate("127.0.0.1", port, "birds.saltmarsh.example")
        assert seen is not None and seen.problem
        for certificate in ("", OTHER_CERTIFICATE):
            with (
                HttpFetch(
                    Origins.of(site), address=site, reach=f"127.0.0.1:{port}", certificate=certificate
                ) as conversation,
                pytest.raises(FetchError, match="certificate"),
            ):
                conversation.post(site, [("password", "Very-Secret-Word-1")])
        assert b"".join(heard) == b"", "the password stayed here"
        with HttpFetch(
            Origins.of(site), address=site, reach=f"127.0.0.1:{port}", certificate=seen.sha256
        ) as conversation:
            assert conversation.get(site).html == "tide"
