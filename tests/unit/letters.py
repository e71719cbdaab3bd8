"""Welcome letters of hosts that do not exist, in many layouts, with what stands in each."""

from __future__ import annotations

LETTERS: dict[str, tuple[str, dict[str, str]]] = {
    "english, aligned with spaces": (
        """Saltmarsh Web Co-op

Dear Saltings Choir,

your webspace is ready.

Customer number:    20533
Login:              sm20533x06a71
Password:           aCcj3yrs8hwTD5ry
FTP with TLS:       127.0.0.1, port 27421
Document root:      htdocs
Address:            http://choir.saltmarsh.example:27480/
Control panel:      http://127.0.0.1:27490/ (customer number and the same password)
Database server:    localhost

The domain choir.saltmarsh.example will follow as soon as the name servers know it.
Until then the web server that answers to it is 127.0.0.1, port 27480.
""",
        {
            "title": "Saltings Choir",
            "transfer.kind": "ftps",
            "transfer.host": "127.0.0.1",
            "transfer.port": "27421",
            "transfer.login": "sm20533x06a71",
            "transfer.password": "aCcj3yrs8hwTD5ry",
            "root": "htdocs",
            "address": "http://choir.saltmarsh.example:27480/",
            "web.host": "127.0.0.1:27480",
            "panel": "http://127.0.0.1:27490/",
            "panel.login": "20533",
            "customer": "20533",
            "database.host": "localhost",
        },
    ),
    "german, sections underlined": (
        """Sehr geehrte Damen und Herren,

vielen Dank für Ihre Bestellung. Hier Ihre Zugangsdaten:

Kundennummer ........ 77120
Domain .............. bootswerft.saltmarsh.example

FTP-Zugang
----------
Server:        ftp.saltmarsh.example
Benutzername:  web77120
Passwort:      Kx9!mq.Tz
Startverzeichnis: /html

Kundenmenü
----------
https://kunden.saltmarsh.example/
Benutzer: 77120
Kennwort: anders-9Qw

E-Mail
------
Posteingangsserver: imap.saltmarsh.example
Benutzername: info@bootswerft.saltmarsh.example
Passwort: mail-PW-1

MySQL-Server: db7.saltmarsh.example
Nameserver: ns1.saltmarsh.example, ns2.saltmarsh.example
""",
        {
            "transfer.kind": "ftp",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "web77120",
            "transfer.password": "Kx9!mq.Tz",
            "root": "/html",
            "address": "https://bootswerft.saltmarsh.example/",
            "panel": "https://kunden.saltmarsh.example/",
            "panel.login": "77120",
            "panel.password": "anders-9Qw",
            "customer": "77120",
            "database.host": "db7.saltmarsh.example",
            "nameserver": "ns1.saltmarsh.example, ns2.saltmarsh.example",
        },
    ),
    "french, bullets": (
        """Bonjour Musée du bac,

Votre hébergement est prêt.

Accès SFTP :
 - Serveur : sftp.saltmarsh.example
 - Port : 2222
 - Identifiant : musee
 - Mot de passe : « p@ss:Mot9 »
 - Répertoire : www

Adresse provisoire : http://musee.tmp.saltmarsh.example
Nom de domaine : musee-bac.saltmarsh.example

Panneau de contrôle : https://panneau.saltmarsh.example:8443 (mêmes identifiants)
""",
        {
            "title": "Musée du bac",
            "transfer.kind": "sftp",
            "transfer.host": "sftp.saltmarsh.example",
            "transfer.port": "2222",
            "transfer.login": "musee",
            "transfer.password": "p@ss:Mot9",
            "root": "www",
            "address": "https://musee-bac.saltmarsh.example/",
            "temporary": "http://musee.tmp.saltmarsh.example",
            "panel": "https://panneau.saltmarsh.example:8443",
            "panel.login": "musee",
        },
    ),
    "spanish, a table with bars": (
        """Hola Biblioteca de Semillas,

| Servicio | Servidor | Usuario | Contraseña |
|----------|----------|---------|------------|
| FTP      | ftp.saltmarsh.example | semillas | Zx81-qq |
| Panel de control | https://panel.saltmarsh.example | semillas-adm | Otra.77 |
| Correo   | mail.saltmarsh.example | info | Correo1 |

Directorio: public_html
Dominio: semillas.saltmarsh.example
""",
        {
            "title": "Biblioteca de Semillas",
            "transfer.kind": "ftp",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "semillas",
            "transfer.password": "Zx81-qq",
            "root": "public_html",
            "address": "https://semillas.saltmarsh.example/",
            "panel": "https://panel.saltmarsh.example",
            "panel.login": "semillas-adm",
            "panel.password": "Otra.77",
        },
    ),
    "english, sentences": (
        """Hello there,

your account has been opened. Your FTP server is ftp3.saltmarsh.example and your user name is yard42. The password is hT7-kkw9.
You can reach your control panel at https://cp.saltmarsh.example:2083/. Put your files into the folder public_html.
Until the domain yard.saltmarsh.example points to us, use the preview address http://203.0.113.9/~yard42/ instead.
""",
        {
            "transfer.kind": "ftp",
            "transfer.host": "ftp3.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "yard42",
            "transfer.password": "hT7-kkw9",
            "root": "public_html",
            "address": "https://yard.saltmarsh.example/",
            "temporary": "http://203.0.113.9/~yard42/",
            "panel": "https://cp.saltmarsh.example:2083/",
        },
    ),
    "english, values in the next line": (
        """Welcome Ferry Museum!

SFTP host:
  files.saltmarsh.example
SFTP port:
  22
Username:
  ferry
Password:
  a;b,c.d
Website URL:
  https://ferry.saltmarsh.example
Web root:
  /var/www/ferry/public
""",
        {
            "title": "Ferry Museum",
            "transfer.kind": "sftp",
            "transfer.host": "files.saltmarsh.example",
            "transfer.port": "22",
            "transfer.login": "ferry",
            "transfer.password": "a;b,c.d",
            "root": "/var/www/ferry/public",
            "address": "https://ferry.saltmarsh.example",
        },
    ),
    "english, every line ends with a full stop": (
        """Dear customer,
Server: ftp.saltmarsh.example.
Login: keeper.
Password: Secret77x.
Directory: web.
Web site: www.keeper.saltmarsh.example.
""",
        {
            "transfer.kind": "ftp",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "keeper",
            "transfer.password": "Secret77x",
            "root": "web",
            "address": "https://www.keeper.saltmarsh.example/",
        },
    ),
    "german, all in one line": (
        """FTP: ftp.saltmarsh.example, Benutzer: k1, Passwort: Ab9xx / Webspace: https://k1.saltmarsh.example
SSH: nicht verfügbar
""",
        {
            "transfer.kind": "ftp",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "k1",
            "transfer.password": "Ab9xx",
            "address": "https://k1.saltmarsh.example",
        },
    ),
    "html with a table": (
        """<html><body><h2>Welcome to your webspace</h2><p>Hello Boat Yard,</p><table><tr><th>Service</th><th>Value</th></tr>
<tr><td>SFTP server</td><td>sftp.saltmarsh.example</td></tr><tr><td>SFTP port</td><td>2222</td></tr><tr><td>SFTP user</td><td>yard&amp;co</td></tr><tr><td>SFTP password</td><td>&lt;Tide&gt;9!</td></tr>
<tr><td>Control panel</td><td><a href="https://x">https://cp.saltmarsh.example:8443</a></td></tr><tr><td>Panel user</td><td>C-4711</td></tr><tr><td>Panel password</td><td>pp.22</td></tr></table><p>Your site: https://yard.saltmarsh.example<br>Web root: yard.saltmarsh.example/public</p></body></html>""",
        {
            "title": "Boat Yard",
            "transfer.kind": "sftp",
            "transfer.host": "sftp.saltmarsh.example",
            "transfer.port": "2222",
            "transfer.login": "yard&co",
            "transfer.password": "<Tide>9!",
            "root": "yard.saltmarsh.example/public",
            "address": "https://yard.saltmarsh.example",
            "panel": "https://cp.saltmarsh.example:8443",
            "panel.login": "C-4711",
            "panel.password": "pp.22",
        },
    ),
    "a quoted mail with bullets": (
        """> Hi,
>
> here is what you need:
>
> * Host: web12.saltmarsh.example (SSH/SFTP, port 22)
> * User: ferry
> * Pass: 'Quay,;9'
> * Path: ~/www/
> * Database admin: https://db.saltmarsh.example/pma
> * MySQL host: localhost, DB name: ferry1, DB user: ferry1, DB password: dbpw
> * Webmail: https://mail.saltmarsh.example
""",
        {
            "transfer.kind": "sftp",
            "transfer.host": "web12.saltmarsh.example",
            "transfer.port": "22",
            "transfer.login": "ferry",
            "transfer.password": "Quay,;9",
            "root": "~/www",
            "database.host": "localhost",
            "database.name": "ferry1",
            "database.user": "ferry1",
            "database.password": "dbpw",
        },
    ),
    "german, sentences": (
        """Hallo liebe Seglerinnen,

euer Webspace ist eingerichtet. Der FTP-Server lautet ftp.saltmarsh.example (bitte mit TLS), der Benutzername ist web99 und das Passwort lautet "Ebbe+Flut7".
Das Kundencenter erreicht ihr unter https://kc.saltmarsh.example, Kundennummer 88123, Passwort wie FTP.
Die Dateien gehören in das Verzeichnis /htdocs. Bis die Domain segler.saltmarsh.example umgezogen ist, gilt die vorläufige Adresse http://web99.saltmarsh.example.
""",
        {
            "title": "Seglerinnen",
            "transfer.kind": "ftps",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "web99",
            "transfer.password": "Ebbe+Flut7",
            "root": "/htdocs",
            "address": "https://segler.saltmarsh.example/",
            "temporary": "http://web99.saltmarsh.example",
            "panel": "https://kc.saltmarsh.example",
            "panel.login": "88123",
            "customer": "88123",
        },
    ),
    "spanish, sentences": (
        """Estimado cliente:

Le damos la bienvenida. Su servidor FTP es ftp.saltmarsh.example, su usuario es coro y su contraseña es M4rea.alta.
El panel de control está en https://panel.saltmarsh.example:2222/ (usuario: coro-admin, contraseña: Otra-2x).
Su sitio web es http://coro.saltmarsh.example. La carpeta pública es public_html.
Servidores de nombres: ns1.saltmarsh.example y ns2.saltmarsh.example
""",
        {
            "transfer.kind": "ftp",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "coro",
            "transfer.password": "M4rea.alta",
            "root": "public_html",
            "address": "http://coro.saltmarsh.example",
            "panel": "https://panel.saltmarsh.example:2222/",
            "panel.login": "coro-admin",
            "panel.password": "Otra-2x",
            "nameserver": "ns1.saltmarsh.example, ns2.saltmarsh.example",
        },
    ),
    "a table without lines": (
        """Access data for Creek Seed Library

                Server                     Port    User        Password
FTP             ftp.saltmarsh.example      21      seeds       pl41n
FTPS            ftps.saltmarsh.example     990     seeds       pl41n
SSH             ssh.saltmarsh.example      2200    seeds-sh    Sh3ll!
E-mail (IMAP)   imap.saltmarsh.example     993     info        m4il

Website  https://seeds.saltmarsh.example
Docroot  web
""",
        {
            "transfer.kind": "sftp",
            "transfer.host": "ssh.saltmarsh.example",
            "transfer.port": "2200",
            "transfer.login": "seeds-sh",
            "transfer.password": "Sh3ll!",
            "root": "web",
            "address": "https://seeds.saltmarsh.example",
        },
    ),
    "names and equals signs": (
        """FTP_HOST=ftp.saltmarsh.example
FTP_USER=u100
FTP_PASS=a=b=c
FTP_PORT=21
DOCUMENT_ROOT=/httpdocs
SITE_URL=https://u100.saltmarsh.example/
PANEL_URL=https://panel.saltmarsh.example/
PANEL_USER=u100-panel
PANEL_PASS=zzz9
""",
        {
            "transfer.kind": "ftp",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "u100",
            "transfer.password": "a=b=c",
            "root": "/httpdocs",
            "address": "https://u100.saltmarsh.example/",
            "panel": "https://panel.saltmarsh.example/",
            "panel.login": "u100-panel",
            "panel.password": "zzz9",
        },
    ),
    "french, dots between": (
        """Cher client,

   Nom de domaine ......... chorale.saltmarsh.example
   Serveur FTP ............ ftp.saltmarsh.example
   Utilisateur FTP ........ chorale
   Mot de passe FTP ....... F0in.vert.
   Dossier web ............ /www
   Espace client .......... https://client.saltmarsh.example
   Identifiant client ..... CH-88
   Mot de passe client .... Autre-8
   Serveur MySQL .......... sql3.saltmarsh.example
   Serveur IMAP ........... imap.saltmarsh.example
""",
        {
            "transfer.kind": "ftp",
            "transfer.host": "ftp.saltmarsh.example",
            "transfer.port": "21",
            "transfer.login": "chorale",
            "transfer.password": "F0in.vert.",
            "root": "/www",
            "address": "https://chorale.saltmarsh.example/",
            "panel": "https://client.saltmarsh.example",
            "panel.login": "CH-88",
            "panel.password": "Autre-8",
            "customer": "CH-88",
            "database.host": "sql3.saltmarsh.example",
        },
    ),
    "english, numbered sections": (
        """== 1. Control Panel ==
Address: panel.saltmarsh.example
Login: 20417
Password: Heron-1

== 2. File access ==
Protocol: SFTP or FTPS
Address: files.saltmarsh.example
Login: f20417
Password: Heron-2
Port: 22 (SFTP) / 21 (FTPS)

== 3. Mail ==
Address: mail.saltmarsh.example
Login: post
Password: Heron-3

== 4. Database ==
Server: mysql5.saltmarsh.example
Name: db20417
User: u20417
Password: Heron-4

== 5. Your website ==
Address: www.ferry.saltmarsh.example
Temporary address: http://20417.preview.saltmarsh.example/
Folder: html
""",
        {
            "transfer.kind": "sftp",
            "transfer.host": "files.saltmarsh.example",
            "transfer.port": "22",
            "transfer.login": "f20417",
            "transfer.password": "Heron-2",
            "root": "html",
            "address": "https://www.ferry.saltmarsh.example/",
            "temporary": "http://20417.preview.saltmarsh.example/",
            "panel": "https://panel.saltmarsh.example/",
            "panel.login": "20417",
            "panel.password": "Heron-1",
            "database.host": "mysql5.saltmarsh.example",
            "database.name": "db20417",
            "database.user": "u20417",
            "database.password": "Heron-4",
        },
    ),
}
