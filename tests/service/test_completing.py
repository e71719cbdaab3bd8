"""What a shell is told when it completes a word: commands, options, and the names that the service knows."""

from __future__ import annotations

import os
import pty
import re
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

import pytest

from highshelf.schemas.models import AccountNew
from tests.service.test_shelf import berth
from tests.support import Service

HIGHSHELF = Path(sys.executable).with_name("highshelf")


def completed(service: Service, line: str) -> list[str]:
    """What bash is offered for the last word of a line."""
    words = line.split(" ")
    environment = {
        **service.environment,
        "_HIGHSHELF_COMPLETE": "complete_bash",
        "COMP_WORDS": line,
        "COMP_CWORD": str(len(words) - 1),
    }
    done = subprocess.run([HIGHSHELF], env=environment, capture_output=True, text=True, timeout=60)
    assert done.stderr == ""
    return done.stdout.split()


@pytest.fixture
def known(service: Service, tmp_path: Path) -> Service:
    for name in ("ferry", "ferry-west", "choir"):
        service.client.account_add(
            AccountNew(
                name=name,
                title=name,
                transfer="sftp://keeper@files.saltmarsh.example:22",
                password="x",  # type: ignore[arg-type]
                root="www",
                address=f"https://{name}.saltmarsh.example/",
            )
        )
    service.client.release_check_in(berth(tmp_path, "6.0"))
    return service


def test_names_are_completed_as_the_service_knows_them(known: Service) -> None:
    assert completed(known, "highshelf account show fe") == ["ferry", "ferry-west"]
    assert completed(known, "highshelf account check cho") == ["choir"]
    assert completed(known, "highshelf release show be") == ["berth", "berth-6.0"]
    assert completed(known, "highshelf install berth-") == ["berth-6.0"]
    assert completed(known, "highshelf install berth-6.0 ferry-") == ["ferry-west"]
    assert completed(known, "highshelf job fol") == ["follow"]
    assert completed(known, "highshelf job show x") == []


def test_a_shell_is_told_no_error_when_nobody_answers(known: Service) -> None:
    known.environment["HIGHSHELF_URL"] = "http://127.0.0.1:9"
    assert completed(known, "highshelf account show fe") == []


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_each_shell_gets_its_script(shell: str) -> None:
    done = subprocess.run(
        [HIGHSHELF, "--show-completion", shell],
        env={**os.environ, "_TYPER_COMPLETE_TEST_DISABLE_SHELL_DETECTION": "1"},
        capture_output=True,
        text=True,
        timeout=60,
    )
    assert done.returncode == 0 and "_HIGHSHELF_COMPLETE" in done.stdout, done.stderr


def on_a_terminal(service: Service, *words: str, **environment: str) -> str:
    """What a command prints on a terminal, with whatever it says to the terminal itself."""
    ours, theirs = pty.openpty()
    with subprocess.Popen(
        [sys.executable, "-m", "highshelf", *words],
        env={**service.environment, "TERM": "xterm-256color", **environment},
        stdin=theirs,
        stdout=theirs,
        stderr=theirs,
    ) as done:
        os.close(theirs)
        told = b""
        with suppress(OSError):
            while block := os.read(ours, 65_536):
                told += block
    os.close(ours)
    assert done.returncode is not None
    return told.decode()


def test_colours_are_for_terminals_that_want_them(known: Service) -> None:
    for words in (("account", "list"), ("account", "show", "nobody"), ("release", "show", "berth")):
        assert "\x1b[" in on_a_terminal(known, *words), words
        bare = [on_a_terminal(known, *words, **{name: value}) for name, value in (("NO_COLOR", "1"), ("TERM", "dumb"))]
        for told in bare:
            assert not re.search(r"\x1b\[[0-9;]*[34]\d", told), (words, told)
        assert "\x1b" not in bare[1], "a dumb terminal is told nothing but text"
