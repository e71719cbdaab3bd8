"""Questions for the name of what an application is about, and those for another name; written down before any was read."""

from __future__ import annotations

import pytest

from highshelf.core.pages.page import Field
from highshelf.core.walk.namesakes import asks_for_its_address, asks_for_its_name, names_something

ITS_NAME = (
    "What do you want to call your club?",
    "What should the wiki be called?",
    "Name your shop",
    "How shall the register be named?",
    "Wie soll Ihr Verein heißen?",
    "Wie heißt die Schule?",
    "Wie möchten Sie das Archiv nennen?",
    "Comment s'appelle votre association ?",
    "Quel nom donner au site ?",
    "Nom de l'établissement",
    "¿Cómo se llama su asociación?",
    "Nombre del instituto",
    "¿Qué nombre tendrá el sitio?",
    "Come si chiama l'associazione?",
    "Nome dell'istituto",
    "Che nome vuoi dare al sito?",
    "Como se chama a sua escola?",
    "Nome da instituição",
    "Que nome terá o site?",
    "Hoe heet uw vereniging?",
    "Naam van de school",
    "Welke naam krijgt de site?",
    "Jak nazywa się twoja szkoła?",
    "Nazwa placówki",
    "Jaką nazwę ma mieć witryna?",
)
ANOTHER = (
    "What should we call you?",
    "Wie heißen Sie?",
    "Comment vous appelez-vous ?",
    "¿Cómo se llama usted?",
    "Come ti chiami?",
    "Hoe heet u?",
    "Jak się nazywasz?",
    "Name of the database",
    "Nom de l'utilisateur",
    "Naam van de gebruiker",
    "Name of the cookie",
    "Name of the log file",
    "Nazwa użytkownika",
    "Nombre del usuario",
    "Nome del server",
    "What is the database called?",
    "Wie heißt die Datenbank?",
)


OF_SOMETHING = (
    "Helpline name",
    "Rota name:",
    "Brewery name",
    "Kanzleiname",
    "Praxisname",
    "Stichtingsnaam",
    "Name der Kanzlei",
    "Nom de la paroisse",
    "Nombre de la consulta",
)
OF_ANOTHER_THING = (
    "Cookie name",
    "Bucket name",
    "Host name",
    "Domain name",
    "City name",
    "Display name",
    "Middle name",
    "From name",
    "Role name",
    "Gruppenname",
    "Absendername",
    "Anzeigename",
    "Nachname",
    "Dateiname",
    "Sitzungsname",
    "Groepsnaam",
    "Weergavenaam",
    "Achternaam",
    "Bestandsnaam",
    "Name of the cookie",
    "Nom de l'utilisateur",
)


@pytest.mark.parametrize("label", OF_SOMETHING)
def test_a_name_of_something_nobody_knows(label: str) -> None:
    assert names_something(Field(name="x", kind="text", label=label))


@pytest.mark.parametrize("label", OF_ANOTHER_THING)
def test_a_name_of_what_is_known_to_have_one(label: str) -> None:
    assert not names_something(Field(name="x", kind="text", label=label))


@pytest.mark.parametrize("label", ITS_NAME)
def test_the_name_of_what_it_is_about(label: str) -> None:
    assert asks_for_its_name(Field(name="x", kind="text", label=label))


@pytest.mark.parametrize("label", ANOTHER)
def test_another_name(label: str) -> None:
    assert not asks_for_its_name(Field(name="x", kind="text", label=label))


@pytest.mark.parametrize(
    ("label", "value", "its"),
    [
        ("Address of this board", "http://www.mysite.invalid/board", True),
        ("Adresse de ce forum", "https://votre-site.example/forum", True),
        ("Adresse des Archivs", "http://localhost/archiv", True),
        ("Address of the update server", "https://updates.pier.saltmarsh.net/", False),
        ("Address of your company", "", False),
        ("Picture of the quay", "http://example.com/quay.png", False),
    ],
)
def test_an_address_that_nobody_has_waits_to_be_changed(label: str, value: str, its: bool) -> None:
    assert asks_for_its_address(Field(name="x", kind="text", label=label, value=value)) is its
