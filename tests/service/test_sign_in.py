"""Signing in to the console: cookie, foreign pages, what is served to whom."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from tests.support import Service

GOOD = "heron tide plank seven"
OWN = {"Sec-Fetch-Site": "same-origin"}


@pytest.fixture(scope="module")
def service(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Service]:
    running = Service(tmp_path_factory.mktemp("door") / "data")
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="module")
def mara(service: Service) -> Iterator[httpx.Client]:
    """A browser that used the first operator's link."""
    with httpx.Client(base_url=f"http://localhost:{service.port}/api/v1") as browser:
        made = browser.post(
            "/session/accept", json={"code": service.welcome, "name": "mara", "password": GOOD}, headers=OWN
        )
        assert made.status_code == 201, made.text
        browser.headers["X-High-Shelf"] = made.json()["csrf"]
        yield browser


def fresh(service: Service) -> httpx.Client:
    return httpx.Client(base_url=f"http://localhost:{service.port}/api/v1")


def test_the_link_works_once_and_the_cookie_is_kept_from_scripts_and_other_sites(
    service: Service, mara: httpx.Client
) -> None:
    with fresh(service) as other:
        answer = other.post(
            "/session/accept", json={"code": service.welcome, "name": "tomas", "password": GOOD}, headers=OWN
        )
        assert (answer.status_code, answer.json()["code"]) == (401, "sign-in")
        answer = other.post("/session", json={"name": "mara", "password": GOOD}, headers=OWN)
        cookie = answer.headers["Set-Cookie"]
        assert f"highshelf-{service.port}=" in cookie
        assert {"HttpOnly", "SameSite=strict", "Path=/"} <= set(cookie.split("; "))
        assert "Secure" not in cookie
    # Nobody's word on how it was asked is believed, unless whoever started the service said whose.
    proxied = {**OWN, "X-Forwarded-Proto": "https"}
    with fresh(service) as other:
        answer = other.post("/session", json={"name": "mara", "password": GOOD}, headers=proxied)
        assert "Secure" not in answer.headers["Set-Cookie"] and "__Host" not in answer.headers["Set-Cookie"]


def test_a_session_answers_and_says_who_it_is(mara: httpx.Client) -> None:
    assert mara.get("/session").json()["operator"] == "mara"
    assert mara.get("/accounts").json() == {"items": [], "total": 0}


def test_a_wrong_password_gets_neither_cookie_nor_a_reason(service: Service, mara: httpx.Client) -> None:
    with fresh(service) as other:
        for name in ("mara", "nobody"):
            answer = other.post("/session", json={"name": name, "password": "wrong wrong wrong"}, headers=OWN)
            assert answer.status_code == 401 and "Set-Cookie" not in answer.headers
        assert other.get("/accounts").status_code == 401


@pytest.mark.parametrize(
    "headers",
    [
        {"Sec-Fetch-Site": "cross-site"},
        {"Sec-Fetch-Site": "same-site"},
        {"Sec-Fetch-Site": "none"},
        {"Origin": "http://evil.saltmarsh.example"},
        {"Origin": "null"},
        {"X-High-Shelf": ""},
        {"X-High-Shelf": "guessed"},
        {"Sec-Fetch-Site": "cross-site", "Origin": "own"},
    ],
)
def test_requests_of_other_sites_pages_change_nothing(
    service: Service, mara: httpx.Client, headers: dict[str, str]
) -> None:
    given = {k: (f"http://localhost:{service.port}" if v == "own" else v) for k, v in headers.items()}
    csrf = mara.headers.pop("X-High-Shelf")
    try:
        for method, path, body in (
            ("POST", "/operators/invite", {"name": "intruder"}),
            ("DELETE", "/session", None),
            ("POST", "/accounts", {"name": "x"}),
        ):
            answer = mara.request(method, path, json=body, headers=given)
            assert (answer.status_code, answer.json()["code"]) == (403, "foreign-page"), (path, given)
    finally:
        mara.headers["X-High-Shelf"] = csrf
    assert mara.get("/session").json()["operator"] == "mara"


@pytest.mark.parametrize("way", ["site", "origin", "word"])
def test_the_consoles_own_requests_pass(service: Service, mara: httpx.Client, way: str) -> None:
    csrf = mara.headers.pop("X-High-Shelf")
    headers = {
        "site": OWN,
        "origin": {"Origin": f"http://localhost:{service.port}"},
        "word": {"X-High-Shelf": csrf},
    }[way]
    try:
        answer = mara.post("/operators/invite", json={"name": "tomas"}, headers=headers)
    finally:
        mara.headers["X-High-Shelf"] = csrf
    assert answer.status_code == 201
    assert re.fullmatch(rf"http://localhost:{service.port}/welcome#\S{{20,}}", answer.json()["link"])


def test_signing_in_by_another_sites_page_is_refused(service: Service, mara: httpx.Client) -> None:
    with fresh(service) as other:
        answer = other.post(
            "/session", json={"name": "mara", "password": GOOD}, headers={"Sec-Fetch-Site": "cross-site"}
        )
        assert answer.status_code == 403 and "Set-Cookie" not in answer.headers


def test_a_wrong_token_is_not_helped_by_a_cookie(mara: httpx.Client) -> None:
    assert mara.get("/accounts", headers={"Authorization": "Bearer wrong"}).status_code == 401
    assert mara.get("/accounts", headers={"Authorization": "Basic eDp5"}).status_code == 401


def test_a_session_that_is_ended_is_refused_at_once_and_its_line_is_cut(service: Service, mara: httpx.Client) -> None:
    with fresh(service) as other:
        number = other.post("/session", json={"name": "mara", "password": GOOD}, headers=OWN).json()["session"]
        assert other.get("/accounts").status_code == 200
        with other.stream("GET", "/watch", timeout=20) as line:
            assert line.status_code == 200
            assert mara.delete(f"/sessions/{number}").status_code == 204
            assert other.get("/accounts").status_code == 401
            # Cut at the next beat, without an error.
            assert "event: end" not in "".join(line.iter_text())
    assert number not in [s["id"] for s in mara.get("/sessions").json()["items"]]


def test_the_command_line_invites_lists_and_ends(service: Service, mara: httpx.Client) -> None:
    link = service.cli_json("operator", "invite", "tomas")["link"]
    with fresh(service) as other:
        code = link.partition("#")[2]
        assert other.post("/session/invited", json={"code": code}, headers=OWN).json()["operator"] == "tomas"
        made = other.post("/session/accept", json={"code": code, "name": "", "password": GOOD}, headers=OWN)
        assert made.json()["operator"] == "tomas"
        assert [o["name"] for o in service.cli_json("operator", "list")["items"]] == ["mara", "tomas"]
        sessions = service.cli_json("session", "list", "--operator", "tomas")["items"]
        assert len(sessions) == 1
        assert service.cli("session", "end", sessions[0]["id"]).returncode == 0
        assert other.get("/session").json()["operator"] == ""
        assert service.cli("operator", "remove", "tomas").returncode == 0
        answer = other.post("/session", json={"name": "tomas", "password": GOOD}, headers=OWN)
        assert answer.status_code == 401
    assert "only operator" in service.cli("operator", "remove", "mara").stderr


def test_too_many_wrong_passwords_make_wait(service: Service, mara: httpx.Client) -> None:
    with fresh(service) as other:
        for _ in range(5):
            other.post("/session", json={"name": "guess", "password": "wrong wrong wrong"}, headers=OWN)
        answer = other.post("/session", json={"name": "guess", "password": "wrong wrong wrong"}, headers=OWN)
        assert (answer.status_code, answer.json()["code"]) == (429, "throttled")
        assert int(answer.headers["Retry-After"]) > 0 and answer.json()["retryable"]
        assert other.post("/session", json={"name": "mara", "password": GOOD}, headers=OWN).status_code == 200


def test_sessions_outlast_a_restart(tmp_path: Path) -> None:
    service = Service(tmp_path / "data")
    service.start()
    try:
        with fresh(service) as browser:
            accepted = {"code": service.welcome, "name": "mara", "password": GOOD}
            browser.post("/session/accept", json=accepted, headers=OWN)
            service.stop()
            service.start()
            assert browser.get("/session").json()["operator"] == "mara"
        assert "welcome#" not in service.log.read_text().rpartition("service ")[2]
    finally:
        service.stop()


def test_what_is_served_keeps_browsers_within_bounds(service: Service) -> None:
    base = f"http://localhost:{service.port}"
    page = httpx.get(base + "/", headers={"Accept": "text/html"})
    policy = page.headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy and "frame-ancestors 'none'" in policy
    assert "unsafe" not in policy and "data:" not in policy and "*" not in policy
    assert not re.search(r"<script(?![^>]*\bsrc=)|<style|\son\w+=|\sstyle=", page.text)
    assert page.headers["Cache-Control"] == "no-cache"
    asset = httpx.get(base + re.findall(r'src="(/assets/[^"]+)"', page.text)[0])
    assert asset.status_code == 200 and "immutable" in asset.headers["Cache-Control"]
    # Nobody learns what calls there are before it is known who asks.
    assert httpx.get(base + "/api/v1/none").status_code == 401
    for path, accept in (("/assets/none.js", "*/*"), ("/api/none", "text/html")):
        missing = httpx.get(base + path, headers={"Accept": accept})
        assert missing.status_code == 404 and "<html" not in missing.text, path
    deep = httpx.get(base + "/accounts/choir", headers={"Accept": "text/html"})
    assert deep.status_code == 200 and deep.text == page.text
    for path in ("/", "/api/v1/session"):
        headers = httpx.get(base + path).headers
        assert headers["X-Content-Type-Options"] == "nosniff" and headers["Referrer-Policy"] == "same-origin"
    assert httpx.get(base + "/api/v1/session").headers["Cache-Control"] == "no-store"
