"""Choices between a file and a server for an application's data, in eight languages; what each should be was written down first."""

from __future__ import annotations

from html import escape

import pytest

from highshelf.core.pages.reader import read
from highshelf.core.pages.snapshot import Snapshot
from highshelf.core.walk.fill import fill
from highshelf.core.walk.knowledge import Knowledge
from tests.garden.installer import SITE
from tests.garden.walk import VALUES

# The question, the choice that stands there, the other one; and whether the other one is ours, as a database was made.
CHOICES = [
    ("Where to keep data", "In files (SQLite), for up to ten people", "On a database server", True),
    ("Storage", "SQLite", "Server", True),
    ("Data are kept in", "a single file", "a database server", True),
    ("Database", "Embedded database (SQLite)", "External database server", True),
    ("Database", "SQLite", "MySQL", True),
    ("Speicherung", "in Dateien", "auf einem Datenbankserver", True),
    ("Datenbank", "Eingebaut (SQLite)", "Vorhandener Datenbankserver", True),
    ("Stockage", "Fichiers", "Serveur de base de données", True),
    ("Almacenamiento", "Archivos", "Servidor de base de datos", True),
    ("Archiviazione", "In un file", "Su un server di database", True),
    ("Armazenamento", "Ficheiros", "Servidor de base de dados", True),
    ("Opslag", "Bestanden", "Databaseserver", True),
    ("Dane", "Pliki", "Serwer bazy danych", True),
    ("Sessions", "Files", "Database server", False),
    ("Where to keep the cache", "In files", "On the database server", False),
    ("Uploads", "Local files", "File server", False),
    ("Logs go to", "a file", "a log server", False),
    ("Sitzungen", "Dateien", "Datenbankserver", False),
    ("Mail is kept in", "files", "the mail server's database", False),
]


@pytest.mark.parametrize("dress", ["radio", "select"])
@pytest.mark.parametrize(("asked", "stands", "other", "ours"), CHOICES)
def test_a_server_is_chosen_where_a_database_was_made(
    asked: str, stands: str, other: str, ours: bool, dress: str
) -> None:
    if dress == "radio":
        choice = f"<fieldset><legend>{asked}</legend><label><input type=radio name=k value=1 checked> {escape(stands)}</label>"
        choice += f"<label><input type=radio name=k value=2> {escape(other)}</label></fieldset>"
    else:
        choice = f"<label>{asked} <select name=k><option value=1 selected>{escape(stands)}</option><option value=2>{escape(other)}</option></select></label>"
    html = f"<html><title>Setup</title><body><form method=post action='/setup/'>{choice}<label>Title <input name=t></label><button>OK</button></form></body></html>"
    page = read(Snapshot(SITE + "setup/", 200, html))
    filled = fill(page.real_forms[0], page, Knowledge({**VALUES, "database.kind": "mariadb"}, SITE, ("/setup/",)))
    assert isinstance(filled, tuple)
    assert dict(filled[0])["k"] == ("2" if ours else "1")
