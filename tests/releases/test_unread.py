"""Applications in languages that nobody here can read: what their fields are for stands in their sources alone."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from pathlib import Path

from tests.support import Hosting, Service

FOLDER = Path(__file__).parent / "unread"


def packed(name: str, folder: Path, wrapper: str, change: Callable[[str], str] = str) -> Path:
    """The application as a zip; `change`: another text of each file."""
    made = folder / f"{wrapper}.zip"
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        for path in sorted((FOLDER / name).rglob("*")):
            if path.is_file():
                archive.writestr(f"{wrapper}/{path.relative_to(FOLDER / name)}", change(path.read_text("utf-8")))
    return made


def test_a_form_in_finnish_is_filled_by_what_its_source_does_with_it(
    clean: Hosting, service: Service, tmp_path: Path
) -> None:
    service.client.account_add(clean.new_account("seeds"))
    checked = service.cli_json("release", "check-in", str(packed("varasto", tmp_path, "varasto-1.4")))
    done = service.cli("install", checked["sha256"][:12], "seeds", "--at", "/varasto", "--set", "field.kilpi=Hyllyt")
    assert done.returncode == 0, done.stdout + done.stderr
    found = service.client.installation_list().items[0]
    people = clean.sql(f"SELECT tunnus, osoite FROM `{found.database}`.v_hoitajat")
    assert people == [[found.admin_name, clean.new_account("seeds").email]]
    assert clean.sql(f"SELECT arvo FROM `{found.database}`.v_asetukset") == [["Hyllyt"]]
    assert not (clean.root("seeds") / "varasto/asennus.php").exists(), "what was walked is the installer"
    assert (clean.root("seeds") / "varasto/tiedot.php").stat().st_mode & 0o777 == 0o600


def test_a_wizard_in_hungarian_is_walked_by_its_source(clean: Hosting, service: Service, tmp_path: Path) -> None:
    service.client.account_add(clean.new_account("seeds"))
    checked = service.cli_json("release", "check-in", str(packed("raktar", tmp_path, "raktar-0.9")))
    done = service.cli("install", checked["sha256"][:12], "seeds", "--at", "/raktar")
    assert done.returncode == 0, done.stdout + done.stderr
    found = service.client.installation_list().items[0]
    prefix = clean.sql(f"SHOW TABLES FROM `{found.database}` LIKE '%olvasok'")[0][0].removesuffix("olvasok")
    people = clean.sql(f"SELECT nev, level FROM `{found.database}`.{prefix}olvasok")
    assert people == [[found.admin_name, clean.new_account("seeds").email]]
    assert (clean.root("seeds") / "raktar/adat/beall.json").stat().st_mode & 0o777 == 0o600


def test_of_two_buttons_that_nobody_can_read_a_person_tells_which_leads_on(
    clean: Hosting, service: Service, tmp_path: Path
) -> None:
    def with_a_way_back(text: str) -> str:
        back = '<a></a><button name="v" value="1">Vissza</button> <input type="submit" value="Mehet">'
        return text.replace("Elé írva", "Elé").replace('<input type="submit" value="Tovább">', back)

    service.client.account_add(clean.new_account("seeds"))
    archive = packed("raktar", tmp_path, "raktar-0.9", with_a_way_back)
    checked = service.cli_json("release", "check-in", str(archive))
    asked = service.cli("install", checked["sha256"][:12], "seeds", "--at", "/raktar")
    assert asked.returncode == 3, asked.stdout + asked.stderr
    assert "Which of these leads on" in asked.stdout + asked.stderr
    assert "Vissza" in asked.stdout + asked.stderr and "Mehet" in asked.stdout + asked.stderr
    job = service.client.job_list().items[0]
    # The second page has the same two, and what led on before leads on again.
    answered = service.cli("job", "answer", job.id, "Mehet")
    assert answered.returncode == 0, answered.stdout + answered.stderr
    assert service.client.installation_list().items[0].admin_name
