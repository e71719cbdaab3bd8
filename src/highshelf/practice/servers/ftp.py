"""ProFTPD: plain FTP and explicit FTPS; over TLS a data connection must reuse the control connection's session."""

from __future__ import annotations

import datetime
import pwd
import subprocess
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from highshelf.practice.layout import LOOPBACK, Layout
from highshelf.practice.servers.probe import port_answers
from highshelf.practice.supervise import Daemon


def prepare(layout: Layout, passwords: dict[str, str]) -> Daemon:
    etc = layout.etc / "ftp"
    etc.mkdir(parents=True, exist_ok=True)
    _certificate(etc / "server.pem")
    users = etc / "users"
    users.touch(mode=0o600)
    users.write_text("".join(_line(layout.login(c), passwords[c.key]) for c in layout.customers if c.access == "ftps"))
    config = etc / "proftpd.conf"
    config.write_text(
        CONFIG.format(
            address=LOOPBACK,
            port=layout.port("ftp"),
            low=layout.port("passive"),
            high=layout.port("passive") + 60,
            etc=etc,
            run=layout.run,
            logs=layout.logs,
        )
    )
    port = layout.port("ftp")
    return Daemon("proftpd", ["/usr/sbin/proftpd", "-n", "-q", "-c", str(config)], lambda: port_answers(port))


def _line(login: str, password: str) -> str:
    entry = pwd.getpwnam(login)
    hashed = subprocess.run(
        ["openssl", "passwd", "-6", "-stdin"], input=password, capture_output=True, text=True, check=True
    ).stdout.strip()
    return f"{login}:{hashed}:{entry.pw_uid}:{entry.pw_gid}::{entry.pw_dir}:/bin/false\n"


def _certificate(path: Path) -> None:
    """A self-signed certificate, as small hosting companies have them on their transfer servers."""
    if path.exists():
        return
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "ftp.saltmarsh.example")])
    now = datetime.datetime.now(datetime.UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=825))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName("ftp.saltmarsh.example")]), critical=False)
        .sign(key, hashes.SHA256())
    )
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    path.touch(mode=0o600)
    path.write_bytes(private + certificate.public_bytes(serialization.Encoding.PEM))


CONFIG = """ModulePath /usr/lib/proftpd
LoadModule mod_tls.c
ServerName "Saltmarsh Web Co-op"
ServerType standalone
DefaultAddress {address}
SocketBindTight on
Port {port}
User nobody
Group nogroup
PidFile {run}/proftpd.pid
ScoreboardFile {run}/proftpd.scoreboard
DelayEngine off
WtmpLog off
SystemLog {logs}/proftpd.log
TransferLog none
UseReverseDNS off
UseIPv6 off
AuthOrder mod_auth_file.c
AuthUserFile {etc}/users
RequireValidShell off
DefaultRoot ~
Umask 022
AllowOverwrite on
AllowStoreRestart on
AllowRetrieveRestart on
MaxInstances 40
MaxClientsPerUser 10
PassivePorts {low} {high}
TimeoutIdle 120
<IfModule mod_tls.c>
  TLSEngine on
  TLSRequired off
  TLSProtocol TLSv1.2 TLSv1.3
  TLSRSACertificateFile {etc}/none
  TLSLog {logs}/proftpd-tls.log
</IfModule>
""".replace(
    "  TLSRSACertificateFile {etc}/none\n",
    "  TLSECCertificateFile {etc}/server.pem\n  TLSECCertificateKeyFile {etc}/server.pem\n",
)
