"""Services elsewhere: by an option, by the environment, by a profile. A token goes to the service that it is for, and nowhere else."""

from __future__ import annotations

import json
import os
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from highshelf.client import Client
from tests.support import Service


@pytest.fixture
def elsewhere(service: Service, tmp_path: Path) -> dict[str, str]:
    """The environment of somebody on another machine: no data folder of a service, no token."""
    kept = {k: v for k, v in os.environ.items() if not k.startswith("HIGHSHELF_")}
    return {**kept, "HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path / "kept")}


def say(environment: dict[str, str], *words: str, **more: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "highshelf", *words]
    return subprocess.run(command, env={**environment, **more}, capture_output=True, text=True, timeout=60)


def test_a_service_elsewhere_is_asked_by_its_name(service: Service, elsewhere: dict[str, str], tmp_path: Path) -> None:
    token, url = tmp_path / "word", f"http://127.0.0.1:{service.port}"
    token.write_text(service.token)
    assert "no-token" in say(elsewhere, "health").stderr
    added = say(elsewhere, "profile", "add", "shed", url, str(token), "--use")
    assert added.returncode == 0, added.stderr
    assert url in say(elsewhere, "health").stdout
    kept = tmp_path / "kept/highshelf/profiles.json"
    assert stat.S_IMODE(kept.stat().st_mode) == 0o600 and service.token not in kept.read_text()
    assert say(elsewhere, "profile", "list").stdout == f"shed\t{url}\t{token}\tused\n"
    assert json.loads(say(elsewhere, "profile", "list", "--json").stdout)["items"][0]["used"] is True

    assert say(elsewhere, "profile", "use", "none").returncode == 0
    assert say(elsewhere, "health").returncode != 0
    # Wherever the option stands, and over what the environment says.
    for words in (("--profile", "shed", "health"), ("health", "--profile=shed")):
        done = say(elsewhere, *words, HIGHSHELF_URL="http://127.0.0.1:9", HIGHSHELF_TOKEN="another")
        assert done.returncode == 0, done.stderr
    assert say(elsewhere, "health", HIGHSHELF_PROFILE="shed").returncode == 0
    assert say(elsewhere, "health", "--url", url, "--token-file", str(token)).returncode == 0
    program = "from highshelf.client import Client; print(Client.from_environment().health().version)"
    asked = subprocess.run(
        [sys.executable, "-c", program], env={**elsewhere, "HIGHSHELF_PROFILE": "shed"}, capture_output=True, text=True
    )
    assert asked.returncode == 0 and asked.stdout.startswith("0."), asked.stderr

    assert say(elsewhere, "profile", "remove", "shed").returncode == 0
    assert token.exists() and say(elsewhere, "health", "--profile", "shed").returncode == 2


def test_the_token_of_one_service_is_not_sent_to_another(
    elsewhere: dict[str, str], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    token = tmp_path / "word"
    token.write_text("of-the-shed")
    assert (
        say(elsewhere, "profile", "add", "shed", "https://shed.saltmarsh.example", str(token), "--use").returncode == 0
    )
    for name in [n for n in os.environ if n.startswith("HIGHSHELF_")]:
        monkeypatch.delenv(name)
    for name in ("HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(name, elsewhere[name])
    assert Client.from_environment().url == "https://shed.saltmarsh.example"
    monkeypatch.setenv("HIGHSHELF_URL", "https://quay.saltmarsh.example")
    with pytest.raises(OSError):
        Client.from_environment()


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["add", "shed", "http://shed.saltmarsh.example", "WORD"], "in the clear"),
        (["add", "shed", "shed.saltmarsh.example", "WORD"], "looks like https://"),
        (["add", "a shed", "https://shed.saltmarsh.example", "WORD"], "no name for a profile"),
        (["add", "shed", "https://shed.saltmarsh.example", "/nowhere"], "there is no file"),
        (["use", "quay"], "none yet"),
        (["remove", "quay"], "none yet"),
    ],
)
def test_what_cannot_be_one_is_refused(elsewhere: dict[str, str], tmp_path: Path, words: list[str], told: str) -> None:
    (tmp_path / "word").write_text("a word")
    done = say(elsewhere, "profile", *(str(tmp_path / "word") if w == "WORD" else w for w in words))
    assert done.returncode == 2 and told in done.stderr, done.stderr
    assert not (tmp_path / "kept/highshelf/profiles.json").exists()


def test_an_option_without_its_value_is_said(elsewhere: dict[str, str]) -> None:
    done = say(elsewhere, "account", "list", "--url")
    assert done.returncode == 2 and "--url wants a value" in done.stderr
