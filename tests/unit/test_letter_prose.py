"""Letters as hosts write them by hand: running text over the ends of lines, addresses for the time before, one password for two."""

from __future__ import annotations

import pytest

from highshelf.core.letter.propose import propose
from highshelf.core.letter.read import read_letter

GERMAN = """
Guten Tag Frau Petersen,

vielen Dank für Ihre Bestellung. Ihr Webspace-Paket "Priel M" wurde soeben freigeschaltet.

== Ihre Zugangsdaten ==

Kundennummer ......... 4711-22
Vertragsdomain ....... moewennest.saltmarsh.example

FTP / SFTP
   Servername:     ftp17.prielhosting.example
   Benutzername:   w0148ab2
   Kennwort:       Qz!7rt-Lm#2.
   Anschluss:      22 (SFTP), 21 (FTP mit TLS)
   Startverzeichnis: /html

Datenbank
   Datenbankserver: db-3.prielhosting.example:3307
   (Datenbanken legen Sie bitte im Kundenbereich an.)

Kundenbereich: https://kunden.prielhosting.example/
   Login: 4711-22
   Passwort: siehe Ihr Kundenkonto

Solange Ihre Domain noch nicht auf uns zeigt, erreichen Sie Ihre Seiten unter
http://w0148ab2.web17.prielhosting.example/.

Nameserver: ns1.prielhosting.example, ns2.prielhosting.example

Mit freundlichen Grüßen
"""
FRENCH = """
Bonjour,

Votre hébergement vient d'être créé. Conservez ce message.

| Élément              | Valeur                              |
|----------------------|-------------------------------------|
| Serveur FTP (FTPS)   | ftp.vasiere-web.example             |
| Identifiant FTP      | chorale_42                          |
| Mot de passe FTP     | Mare3-Haute«9                       |
| Port                 | 990 (TLS implicite)                 |
| Répertoire web       | /www                                |
| Adresse du site      | https://chorale.saltmarsh.example   |
| Espace client        | https://client.vasiere-web.example  |
| Serveur MySQL        | localhost                           |

Adresse provisoire : http://chorale.tmp.vasiere-web.example
Serveurs DNS : dns1.vasiere-web.example / dns2.vasiere-web.example

Cordialement
"""
SPANISH = """
Estimado cliente:

Su plan de alojamiento ya está activo. Guarde este correo.

Dominio: semillas.saltmarsh.example
Dirección IP del servidor: 192.0.2.44
Panel de control -> https://panel.marisma.example:8443
Usuario del panel -> semillas
Contraseña del panel -> Llave_de-mar7;

Acceso SSH/SFTP -> sftp://semillas@192.0.2.44:2222
(la contraseña es la misma que la del panel)

Carpeta pública: public
URL temporal: http://192.0.2.44/~semillas/
"""
ENGLISH = """
Subject: Your new hosting account is ready
To: keeper@boats.saltmarsh.example

Hi Mara,

here's everything you need to get going. Log in to the control panel at <https://my.tidewayhost.example/login> with the username
boatyard and the password "fA7(kelp)Rope," (including the comma).

For uploading use FTPS (explicit TLS) - host: server9.tidewayhost.example, user: boatyard@boats.saltmarsh.example, same password, port 21.
Upload your files into the folder httpdocs.

Until DNS has been updated you can preview the site at http://boatyard.server9.tidewayhost.example/ .
MySQL hostname: mysql.tidewayhost.example

Cheers, the Tideway team
"""

CASES = {
    "german": (
        GERMAN,
        {
            "name": "moewennest", "title": "", "transfer": "sftp://w0148ab2@ftp17.prielhosting.example:22",
            "password": "Qz!7rt-Lm#2.", "root": "/html", "address": "http://w0148ab2.web17.prielhosting.example/",
            "panel": "https://kunden.prielhosting.example/", "panel_login": "4711-22",
            "database_host": "db-3.prielhosting.example:3307", "missing": (),
        },
    ),
    "french": (
        FRENCH,
        {
            "name": "chorale", "transfer": "ftps-implicit://chorale_42@ftp.vasiere-web.example:990",
            "password": "Mare3-Haute«9", "root": "/www", "address": "http://chorale.tmp.vasiere-web.example",
            "panel": "https://client.vasiere-web.example", "database_host": "localhost", "missing": (),
        },
    ),
    "spanish": (
        SPANISH,
        {
            "name": "semillas", "transfer": "sftp://semillas@192.0.2.44:2222", "password": "Llave_de-mar7;",
            "root": "public", "address": "http://192.0.2.44/~semillas/", "panel": "https://panel.marisma.example:8443",
            "panel_login": "semillas", "panel_password": "", "missing": (),
        },
    ),
    "english": (
        ENGLISH,
        {
            "transfer": "ftps://boatyard@boats.saltmarsh.example@server9.tidewayhost.example:21", "root": "httpdocs",
            "address": "http://boatyard.server9.tidewayhost.example/", "panel": "https://my.tidewayhost.example/login",
            "panel_login": "boatyard", "database_host": "mysql.tidewayhost.example", "missing": (),
        },
    ),
}  # fmt: skip


@pytest.mark.parametrize("language", CASES)
def test_a_letter_in_running_text_is_read(language: str) -> None:
    text, wanted = CASES[language]
    found = propose(read_letter(text))
    assert {name: getattr(found, name) for name in wanted} == wanted


def test_every_value_names_the_line_it_stands_in_and_no_line_shows_a_password() -> None:
    for text, wanted in CASES.values():
        for said in read_letter(text).found:
            assert 1 <= said.line <= len(text.splitlines())
            assert str(wanted.get("password", "\0")) not in said.where
            if not said.secret and said.name not in ("transfer.kind", "transfer.port", "panel.login", "nameserver"):
                assert said.text.split("://")[-1].strip("/").split(":")[0] in text
