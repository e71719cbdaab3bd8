"""Lists: parts, order and filters are the service's, for every noun alike."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from pydantic import SecretStr

from highshelf.client import Client, Part, ServiceError
from highshelf.schemas.models import AccountNew
from tests.support import Service

COUNT = 23


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("lists") / "data")
    running.start()
    with running.client as client:
        for number in range(COUNT):
            client.account_add(
                AccountNew(
                    name=f"yard-{number:02}",
                    # Alike by threes, so that equals have to be told apart.
                    title=f"Boat Yard {number % 3} 50%_off",
                    transfer=f"sftp://keeper%2F{number}@files{number}.saltmarsh.example:22",
                    password=SecretStr("x"),
                    root="www",
                    address=f"https://yard{number}.saltmarsh.example/",
                )
            )
    yield running
    running.stop()


@pytest.fixture
def client(service: Service) -> Iterator[Client]:
    with service.client as found:
        yield found


@pytest.mark.parametrize("sort", ["name", "-name", "title", "-title", "address", "transfer", "checked"])
def test_the_parts_are_the_whole_without_overlap(client: Client, sort: str) -> None:
    names = []
    for offset in range(0, COUNT + 7, 7):
        found = client.account_list(Part(limit=7, offset=offset, sort=sort))
        assert found.total == COUNT
        names += [a.name for a in found.items]
    assert sorted(names) == [f"yard-{n:02}" for n in range(COUNT)]
    if sort.endswith("name"):
        assert names == sorted(names, reverse=sort.startswith("-"))


@pytest.mark.parametrize(
    ("text", "fits"),
    [("YARD-07", 1), ("files2", 4), ("yard 1", 8), ("50%_off", COUNT), ("%", COUNT), ("_off", COUNT), ("50__off", 0)],
)
def test_the_filter_takes_text_as_it_is(client: Client, text: str, fits: int) -> None:
    found = client.account_list(Part(q=text, limit=5))
    assert found.total == fits and len(found.items) == min(5, fits)


def test_a_column_that_is_none_is_refused_with_those_there_are(client: Client) -> None:
    for call in (client.account_list, client.release_list, client.installation_list):
        with pytest.raises(ServiceError) as caught:
            call(part=Part(sort="colour"))  # type: ignore[call-arg]
        assert caught.value.status == 422 and "by " in caught.value.fault.hint
    with pytest.raises(ServiceError) as caught:
        client.account_list(Part(limit=0))
    assert caught.value.status == 422


def test_a_login_with_odd_characters_comes_back_as_it_was_given(client: Client) -> None:
    assert client.account_show("yard-03").transfer == "sftp://keeper%2F3@files3.saltmarsh.example:22"


def test_the_command_line_says_how_a_list_goes_on(service: Service) -> None:
    """In a pipe: a row a line, tabs between the cells, no head; what is said about the list goes to the other stream."""
    shown = service.cli("account", "list", "--limit", "5", "--sort=-name")
    assert [line.split("\t")[0] for line in shown.stdout.splitlines()] == [f"yard-{n}" for n in (22, 21, 20, 19, 18)]
    assert "1 to 5 of 23; --offset 5 shows the next" in shown.stderr
    last = service.cli("account", "list", "--limit", "5", "--offset", "20", "--find", "yard")
    assert "yard-22" in last.stdout and "shows the next" not in last.stderr
    none = service.cli("account", "list", "--find", "nobody")
    assert none.stdout == "" and "No account fits." in none.stderr
    lines = service.cli("account", "list", "--limit", "5", "--jsonl").stdout.splitlines()
    assert [json.loads(line)["name"] for line in lines] == [f"yard-{n:02}" for n in range(5)]
    quiet = service.cli("account", "list", "-q")
    assert (quiet.returncode, quiet.stdout, quiet.stderr) == (0, "", "")


def test_the_files_of_a_release_and_taking_it_off_the_shelf(service: Service, client: Client, tmp_path: Path) -> None:
    path = tmp_path / "quay-1.0.zip"
    with zipfile.ZipFile(path, "w") as archive:
        for number in range(12):
            archive.writestr(f"quay-1.0/pages/p{number:02}.php", "<?php " + "x" * (100 - number))
        archive.writestr("quay-1.0/.htaccess", "Deny from all")
    release = client.release_check_in(path)
    found = client.release_files(release.sha256, Part(limit=5, q="PAGES"))
    assert (found.total, [f.path for f in found.items][:2]) == (12, ["pages/p00.php", "pages/p01.php"])
    smallest = client.release_files("quay", Part(limit=1, sort="size")).items[0]
    assert (smallest.path, smallest.size_bytes) == (".htaccess", 13)
    assert client.release_files("quay", Part(limit=1, sort="-size")).items[0].path == "pages/p00.php"
    assert "pages/p11.php" in service.cli("release", "files", "quay").stdout
    assert service.cli("release", "remove", "quay-1.0").returncode == 0
    assert client.release_list().total == 0
    assert not list((service.data / "shelf").iterdir())
    with pytest.raises(ServiceError) as caught:
        client.release_files("quay")
    assert caught.value.fault.code == "not-found"
    # The same bytes can be checked in anew.
    assert client.release_check_in(path).sha256 == release.sha256


def test_the_values_that_can_be_set(service: Service) -> None:
    names = [v["name"] for v in service.cli_json("value", "list")["items"]]
    assert "site.title" in names and "site.address" not in names
    assert "the site's title" in service.cli("value", "list").stdout


def test_links_lead_through_the_whole_list(service: Service) -> None:
    names, path = [], "/api/v1/accounts?limit=9&sort=-name"
    headers = {"Authorization": f"Bearer {service.token}"}
    with httpx.Client(base_url=f"http://127.0.0.1:{service.port}", headers=headers) as plain:
        while path:
            answer = plain.get(path)
            names += [one["name"] for one in answer.json()["items"]]
            path = answer.links.get("next", {}).get("url", "")
        assert names == [f"yard-{n:02}" for n in reversed(range(COUNT))]
        before = plain.get(answer.links["prev"]["url"])
        assert [one["name"] for one in before.json()["items"]] == names[
            -len(answer.json()["items"]) - 9 : -len(answer.json()["items"])
        ]


def test_the_head_of_an_answer_is_that_of_the_answer(service: Service) -> None:
    headers = {"Authorization": f"Bearer {service.token}"}
    with httpx.Client(base_url=f"http://127.0.0.1:{service.port}/api/v1", headers=headers) as plain:
        for path in ("/accounts", "/accounts/yard-03", "/accounts/nobody", "/health"):
            head, whole = plain.head(path), plain.get(path)
            assert (head.status_code, head.content) == (whole.status_code, b"")
            assert head.headers["content-length"] == whole.headers["content-length"]
        assert plain.head("/watch").status_code == 405
        nobody = plain.head("/accounts", headers={"Authorization": "Bearer wrong"})
        assert nobody.status_code == 401 and nobody.headers["www-authenticate"].startswith("Bearer")
