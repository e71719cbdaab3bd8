"""ProFTPD: explicit FTPS (plain FTP is taken too), implicit FTPS, and an old server that has plain FTP only.

Over TLS a data connection must reuse the control connection's session.
"""

from __future__ import annotations

import datetime
import ipaddress
import pwd
import subprocess
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from highshelf.practice.layout import Customer, Layout
from highshelf.practice.servers.probe import port_answers
from highshelf.practice.supervise import Daemon


def prepare(layout: Layout, passwords: dict[str, str]) -> Daemon:
    etc = layout.etc / "ftp"
    etc.mkdir(parents=True, exist_ok=True)
    make_certificate(etc / "server.pem", "ftp.saltmarsh.example")
    for access in ("ftps", "ftps-implicit", "ftp"):
        users = etc / f"users.{access}"
        users.touch(mode=0o600)
        users.write_text("".join(_line(layout, c, passwords[c.key]) for c in layout.customers if c.access == access))
    config = etc / "proftpd.conf"
    config.write_text(
        CONFIG.format(
            address=layout.host,
            port=layout.port("ftp"),
            implicit=layout.port("ftp-implicit"),
            plain=layout.port("ftp-plain"),
            low=layout.port("passive"),
            high=layout.port("passive") + 60,
            etc=etc,
            run=layout.run,
            logs=layout.logs,
        )
    )
    ports = [layout.port(n) for n in ("ftp", "ftp-implicit", "ftp-plain")]
    command = ["/usr/sbin/proftpd", "-n", "-q", "-c", str(config)]
    return Daemon("proftpd", command, lambda: all(port_answers(p, layout.host) for p in ports))


def _line(layout: Layout, customer: Customer, password: str) -> str:
    login = layout.login(customer)
    entry = pwd.getpwnam(login)
    lands = layout.document_root(customer) if customer.lands_in_root else layout.home(customer)
    hashed = subprocess.run(
        ["openssl", "passwd", "-6", "-stdin"], input=password, capture_output=True, text=True, check=True
    ).stdout.strip()
    return f"{login}:{hashed}:{entry.pw_uid}:{entry.pw_gid}::{lands}:/bin/false\n"


def make_certificate(path: Path, host: str, number: str = "") -> None:
    """A self-signed certificate, as small hosting companies have them on their transfer servers. Key and certificate in one file."""
    if path.exists():
        return
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, host)])
    names: list[x509.GeneralName] = [x509.DNSName(host)]
    if number:
        names.append(x509.IPAddress(ipaddress.ip_address(number)))
    now = datetime.datetime.now(datetime.UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=825))
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
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
MaxInstances 40
AuthUserFile {etc}/users.ftps
Umask 022
<Global>
  AuthOrder mod_auth_file.c
  RequireValidShell off
  DefaultRoot ~
  AllowOverwrite on
  AllowStoreRestart on
  AllowRetrieveRestart on
  MaxClientsPerUser 10
  PassivePorts {low} {high}
  TimeoutIdle 120
  TLSProtocol TLSv1.2 TLSv1.3
  TLSECCertificateFile {etc}/server.pem
  TLSECCertificateKeyFile {etc}/server.pem
  TLSLog {logs}/proftpd-tls.log
</Global>
TLSEngine on
TLSRequired off
<VirtualHost {address}>
  ServerName "Saltmarsh Web Co-op, TLS"
  Port {implicit}
  AuthUserFile {etc}/users.ftps-implicit
  Umask 022
  TLSEngine on
  TLSRequired on
  TLSOptions UseImplicitSSL
</VirtualHost>
<VirtualHost {address}>
  ServerName "Saltmarsh Web Co-op, old server"
  Port {plain}
  AuthUserFile {etc}/users.ftp
  Umask 027 027
  TLSEngine off
</VirtualHost>
"""
