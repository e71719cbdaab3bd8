"""What an installer's last page asks people to do, out of its own words."""

from __future__ import annotations

import pytest

from highshelf.core.tidy.asked import Wishes, wishes

FILES = frozenset(
    ["index.php", "office/index.php", "setup/index.php", "core/load.php", "README.txt", "LIESMICH.txt", "docs/INSTALL.md", "settings/main.php"]
)  # fmt: skip


def asked(*sentences: str) -> Wishes:
    return wishes(sentences, FILES, ["setup"])


@pytest.mark.parametrize(
    "sentence",
    [
        "Rename the folder office to something only you know.",
        "For your safety, please rename office/ now.",
        "Benennen Sie den Ordner office um.",
        "Der Ordner office muss umbenannt werden.",
        "Renommez le dossier office.",
        "Cambie el nombre de la carpeta office.",
        "Rinominare la cartella office.",
        "Renomeie a pasta office.",
        "Hernoem de map office.",
        "Zmień nazwę katalogu office.",
    ],
)
def test_a_folder_to_rename_is_understood_in_every_language(sentence: str) -> None:
    assert asked(sentence) == Wishes(rename=("office",))


def test_a_list_of_texts_goes_and_the_installer_is_left_to_whoever_removes_it() -> None:
    assert asked("Delete the folder setup, and README.txt, LIESMICH.txt and INSTALL.md.") == Wishes(
        remove=("README.txt", "LIESMICH.txt", "docs/INSTALL.md")
    )


def test_two_verbs_in_one_sentence_keep_to_their_names() -> None:
    found = asked("Rename the folder office and delete README.txt.")
    assert found == Wishes(rename=("office",), remove=("README.txt",))


@pytest.mark.parametrize(
    "sentence",
    [
        "Do not rename the folder office.",
        "Löschen Sie README.txt nicht.",
        "The folder office has your back office.",
        "Open README.txt for more.",
        "Delete everything.",
        "Rename the folder elsewhere.",
    ],
)
def test_what_is_not_asked_for_is_left_alone(sentence: str) -> None:
    assert asked(sentence) == Wishes()


def test_code_and_folders_of_code_are_left_to_people() -> None:
    assert asked("Remove index.php and core.") == Wishes(left=("index.php", "core"))
