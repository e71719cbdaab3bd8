"""The service's edges: token, faults, one name for operation, client method and command."""

from __future__ import annotations

import inspect
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from typer.testing import CliRunner

from highshelf.__main__ import app
from highshelf.client import AsyncClient, Client, ServiceError, ServiceUnreachableError
from highshelf.schemas import databases, models, notices, seen, shelf, surveys, ways
from highshelf.schemas.models import AccountChange, AccountNew
from highshelf.service.app import create_app
from tests.support import Service, free_port


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("api") / "data")
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="module")
def document(tmp_path_factory: pytest.TempPathFactory) -> dict:  # type: ignore[type-arg]
    return create_app(tmp_path_factory.mktemp("document")).openapi()


# Asked by a browser that is not signed in yet.
OPEN = {"session_show", "sign_in", "sign_out", "invited", "accept"}


def operations(document: dict) -> dict[str, tuple[str, str]]:  # type: ignore[type-arg]
    return {
        op["operationId"]: (method, path) for path, item in document["paths"].items() for method, op in item.items()
    }


def test_every_operation_wants_the_token(service: Service, document: dict) -> None:  # type: ignore[type-arg]
    asked = {name: one for name, one in operations(document).items() if name not in OPEN}
    with httpx.Client(base_url=f"http://127.0.0.1:{service.port}") as nobody:
        for name, (method, path) in asked.items():
            for headers in ({}, {"Authorization": "Bearer wrong"}, {"Authorization": "Basic eDp5"}):
                answer = nobody.request(method.upper(), re.sub(r"\{\w+\}", "x", path), headers=headers, json={})
                assert answer.status_code == 401, (name, answer.text)
                assert answer.json()["code"] == "sign-in" and answer.json()["hint"]


def test_an_operation_is_a_client_method_and_a_command(document: dict) -> None:  # type: ignore[type-arg]
    commands = set()
    for command in app.registered_commands:
        commands.add(command.name or command.callback.__name__)  # type: ignore[union-attr]
    for group in app.registered_groups:
        for command in group.typer_instance.registered_commands:  # type: ignore[union-attr]
            commands.add(f"{group.name}_{command.name}".replace("-", "_"))
    other_names = {
        "plan_make": "plan",
        "plan_show": "plan",
        "job_start": "install",
        "job_events": "job_follow",
        "job_log": "job_follow",
        "plan_preview": "plan",
        "account_surveys": "account_survey",
        "job_page": "job_pages",
        "job_evidence": "job_pages",
        "job_picture": "job_pages",
        "installation_change_undo": "installation_change",
    }
    for name in operations(document):
        # These deal in cookies: the client library and the command line have the token.
        if name in OPEN:
            continue
        assert callable(getattr(Client, name, None)), f"Client lacks {name}"
        assert callable(getattr(AsyncClient, name, None)), f"AsyncClient lacks {name}"
        assert other_names.get(name, name) in commands, f"no command for {name}"


def test_the_document_tells_the_faults(document: dict) -> None:  # type: ignore[type-arg]
    for path, item in document["paths"].items():
        for method, op in item.items():
            assert "401" in op["responses"], (path, method)
    assert "Fault" in document["components"]["schemas"]


def test_every_operation_is_described_and_every_example_holds(document: dict) -> None:  # type: ignore[type-arg]
    known = {
        name: model
        for room in (models, databases, notices, shelf, surveys, seen, ways)
        for name, model in vars(room).items()
    }
    for path, methods in document["paths"].items():
        for method, operation in methods.items():
            name = operation["operationId"]
            assert operation.get("description"), name
            silent = [p["name"] for p in operation.get("parameters", []) if not p.get("description")]
            assert silent == [], (name, silent)
            body = operation.get("requestBody", {}).get("content", {}).get("application/json")
            if body is not None:
                model = known[body["schema"]["$ref"].rpartition("/")[2]]
                assert "example" in body, (method, path)
                model.model_validate(body["example"])


def test_what_is_not_there_and_what_does_not_hold(service: Service) -> None:
    client = service.client
    for call, status, code in (
        (lambda: client.account_show("none"), 404, "not-found"),
        (lambda: client.job_show("none"), 404, "not-found"),
        (lambda: client.release_show("none"), 404, "not-found"),
        (lambda: client.job_start("none"), 404, "not-found"),
        (
            lambda: client.account_add(AccountNew(name="a", transfer="sftp://x", root="www", address="http://h/")),
            422,
            "input",
        ),
        (lambda: client.account_change("none", AccountChange(root="w")), 404, "not-found"),
    ):
        with pytest.raises(ServiceError) as caught:
            call()  # type: ignore[no-untyped-call]
        assert (caught.value.status, caught.value.fault.code) == (status, code)
        assert caught.value.fault.hint


def test_an_address_that_is_none_and_a_reference_without_a_token(service: Service, document: dict[str, Any]) -> None:
    base, headers = f"http://127.0.0.1:{service.port}/api/v1", {"Authorization": f"Bearer {service.token}"}
    for method, path, status in (("GET", "/nowhere", 404), ("DELETE", "/jobs", 405)):
        answer = httpx.request(method, base + path, headers=headers)
        assert answer.status_code == status and answer.json()["hint"], answer.text
    # What it can do is told to everybody, what it holds to nobody without one.
    assert httpx.get(base + "/openapi.json").json()["paths"].keys() == document["paths"].keys()
    page = httpx.get(f"http://127.0.0.1:{service.port}/reference")
    told = set(re.findall(r'<article id="(\w+)">', page.text))
    assert told == {o["operationId"] for item in document["paths"].values() for o in item.values()} and len(told) > 60
    assert "style-src 'self'" in page.headers["content-security-policy"] and service.token not in page.text
    assert httpx.get(f"http://127.0.0.1:{service.port}/reference.css").headers["content-type"].startswith("text/css")
    assert httpx.get(base + "/jobs").status_code == 401


def test_a_body_that_does_not_hold_never_comes_back(service: Service) -> None:
    headers = {"Authorization": f"Bearer {service.token}"}
    body = {"name": "Bad Name", "password": "do-not-echo-me", "extra": 1}
    answer = httpx.post(f"http://127.0.0.1:{service.port}/api/v1/accounts", headers=headers, json=body)
    assert answer.status_code == 422
    assert "do-not-echo-me" not in answer.text
    faults = answer.json()["context"]["faults"]
    assert {f.split(":")[0] for f in faults} >= {"name", "extra", "transfer", "address"}
    assert "do-not-echo-me" not in service.log.read_text()


def test_an_account_is_kept_changed_and_forgotten(service: Service) -> None:
    given = {"transfer": "sftp://me@127.0.0.1:2222", "root": "www/", "address": "http://127.0.0.1:8080"}
    client = service.client
    added = client.account_add(AccountNew(name="yard", password="secret-word", **given))  # type: ignore[arg-type]
    assert (added.root, added.address) == ("www", "http://127.0.0.1:8080/")
    with pytest.raises(ServiceError) as twice:
        client.account_add(AccountNew(name="yard", password="x", **given))  # type: ignore[arg-type]
    assert twice.value.fault.code == "conflict"
    assert client.account_change("yard", AccountChange(title="Boat Yard", helper=False)).helper is False
    assert client.account_show("yard").title == "Boat Yard"
    client.account_remove("yard")
    with pytest.raises(ServiceError):
        client.account_show("yard")


@pytest.mark.anyio
async def test_the_async_client_does_the_same(service: Service, tidebook: Path) -> None:
    async with AsyncClient(f"http://127.0.0.1:{service.port}", service.token) as client:
        release = await client.release_check_in(tidebook)
        again = await client.release_check_in(tidebook)
        assert release.sha256 == again.sha256
        assert [r.sha256 for r in (await client.release_list()).items] == [release.sha256]
        with pytest.raises(ServiceError):
            await client.job_show("none")
        assert (await client.health()).jobs_open == 0


def test_no_service_at_all_is_told_with_what_to_do() -> None:
    with pytest.raises(ServiceUnreachableError) as caught:
        Client(f"http://127.0.0.1:{free_port()}", "x").health()
    assert "highshelf serve" in caught.value.fault.hint


def test_commands_say_what_to_do_when_usage_is_wrong(service: Service) -> None:
    for words, part in (
        (["release", "check-in", "/nowhere.zip"], "there is no file"),
        (["install", "tidebook", "nobody"], "there is no account nobody"),
        (["install", "tidebook", "nobody", "--set", "title"], "has no value"),
        (["install", "tidebook", "nobody", "--database", "oracle"], "not a kind of database"),
        (["job", "show", "none"], "there is no job none"),
    ):
        done = service.cli(*words)
        assert done.returncode == 2, (words, done.stdout, done.stderr)
        assert part in done.stderr and "→" in done.stderr
    as_json = service.cli("job", "show", "none", "--json")
    assert as_json.returncode == 2 and '"code": "not-found"' in as_json.stderr and as_json.stdout == ""


def test_every_command_has_help_and_json() -> None:
    runner = CliRunner()
    for group in app.registered_groups:
        for command in group.typer_instance.registered_commands:  # type: ignore[union-attr]
            shown = runner.invoke(app, [str(group.name), str(command.name), "--help"])
            assert shown.exit_code == 0
            assert inspect.getdoc(command.callback), command.name
            assert "--json" in shown.output, f"{group.name} {command.name}"


def test_empty_states_lead_on(tmp_path: Path, service: Service) -> None:
    fresh = Service(tmp_path / "data")
    fresh.start()
    try:
        for words, part in (
            (["account", "list"], "highshelf account add"),
            (["release", "list"], "highshelf release check-in"),
            (["job", "list"], "highshelf install"),
            (["installation", "list"], "Nothing is installed yet"),
        ):
            assert part in fresh.cli(*words).stderr
    finally:
        fresh.stop()


def test_a_refusal_is_a_problem_that_programs_know(service: Service) -> None:
    headers = {"Authorization": f"Bearer {service.token}"}
    with httpx.Client(base_url=f"http://127.0.0.1:{service.port}/api/v1", headers=headers) as plain:
        answers = [plain.get("/accounts/none"), plain.post("/plans", json={}), plain.get("/nowhere"), plain.get("/accounts", headers={"Authorization": "Bearer no"})]  # fmt: skip
    for answer, (status, code) in zip(answers, [(404, "not-found"), (422, "input"), (404, "not-found"), (401, "sign-in")], strict=True):  # fmt: skip
        told = answer.json()
        assert answer.headers["content-type"] == "application/problem+json"
        assert (told["status"], told["code"], told["type"]) == (status, code, f"urn:highshelf:{code}") == (answer.status_code, code, told["type"])  # fmt: skip
        assert told["detail"] == told["message"] and told["title"] == code.replace("-", " ")
