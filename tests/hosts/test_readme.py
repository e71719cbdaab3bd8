"""What the README and the tour show as printed is what is printed: each sample is run, and compared but for ids, names and ports."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

import pytest

from tests.support import Hosting, Service, until

ROOT = Path(__file__).resolve().parents[2]
TOUR, README = ROOT / "docs/tour.md", ROOT / "README.md"
BEFORE_COMMENT = re.compile(r"\s{3,}\S.*$")
# What is another at every run: ids, names, ports, versions of the machine's own PHP.
ANOTHER = (
    (re.compile(r"\b[0-9a-f]{12}\b"), "ID"),
    (re.compile(r"administrator \S+ signed"), "administrator NAME signed"),
    (re.compile(r":\d{5}\b"), ":PORT"),
    (re.compile(r"PHP 8\.\d+\.\d+"), "PHP X"),
)


@dataclass(frozen=True)
class Sample:
    """A command, and the lines that a text shows after it; `…` stands for lines, or for the rest of one."""

    where: str
    command: str
    shown: tuple[str, ...]


def samples(path: Path) -> list[Sample]:
    """Indented blocks of a text that follow one with a command."""
    found, command, blocks = [], "", re.split(r"\n(?=\S|\n)", path.read_text("utf-8"))
    for block in (b.strip("\n") for b in blocks):
        lines = [line[4:] for line in block.splitlines() if line.startswith("    ")]
        if not lines or len(lines) < len(block.splitlines()):
            command = command if not block.strip() or not block.strip().startswith("**") else ""
            continue
        told = [BEFORE_COMMENT.sub("", line) for line in lines if line.startswith("highshelf ")]
        if told:
            command = told[-1]
        elif command:
            found.append(Sample(f"{path.name}: {command}", command, tuple(lines)))
            command = ""
    return found


def plain(text: str) -> list[str]:
    for pattern, name in ANOTHER:
        text = pattern.sub(name, text)
    # How wide a column is depends on which rows there are.
    return [re.sub(r"(?<=\S) {2,}", "  ", line).rstrip() for line in text.splitlines() if line.strip()]


def beside(line: str, other: str) -> bool:
    """Whether another line may stand before this one: these two legs are at work side by side."""
    legs = (line[2:].split(" ")[0], other[2:].split(" ")[0])
    return legs in (("place", "database"), ("database", "place"))


def shows(sample: Sample, printed: str) -> str:
    """The first line of the sample that was not printed there, "" when all were, in this order and with nothing left out but where `…` says so."""
    lines, at, anywhere = plain(printed), 0, True
    for line in plain("\n".join(sample.shown)):
        if line == "…":
            anywhere = True
            continue
        begin, cut, _ = line.partition("…")
        fits = [n for n in range(at, len(lines)) if (lines[n].startswith(begin) if cut else lines[n] == line)]
        if not fits or not (anywhere or all(beside(line, between) for between in lines[at : fits[0]])):
            return line
        at, anywhere = fits[0] + 1, False
    return ""


@pytest.fixture
def toured(clean: Hosting, service: Service, tidebook: Path) -> Service:
    """As `bin/demo` leaves it, as far as the samples go."""
    with service.client as client:
        client.release_check_in(tidebook)
        client.account_add(clean.new_account("choir"))
        assert client.account_check("choir").state == "done"
        # Until its form is packed, the release goes another way.
        until(lambda: bool(client.release_show("tidebook").forms), "it was never packed")
    return service


def test_what_is_shown_is_what_is_printed(toured: Service) -> None:
    printed: list[tuple[str, str]] = []
    for sample in samples(TOUR):
        done = toured.cli(*sample.command.split()[1:])
        printed.append((sample.command, done.stdout + done.stderr))
        assert not (missed := shows(sample, printed[-1][1])), f"{sample.where}\nmissed: {missed}\n{printed[-1][1]}"
    assert len(printed) == 3
    shown = samples(README)
    assert shown
    for sample in shown:
        assert any(not shows(sample, text) for command, text in printed if command == sample.command), sample.where


def test_a_sample_that_is_not_printed_is_noticed() -> None:
    sample = Sample("here", "highshelf x", ("one", "…", "three f…"))
    assert shows(sample, "zero\none\ntwo\nthree four\n") == ""
    assert shows(sample, "one\ntwo\n") == "three f…"
    assert shows(Sample("here", "highshelf x", ("one", "three")), "one\ntwo\nthree\n") == "three"
    both = Sample("here", "highshelf x", ("✓ place     one", "✓ place     two"))
    assert shows(both, "✓ place     one\n✓ database  made\n✓ place     two\n") == ""
    assert shows(both, "✓ place     one\n✓ walk      through\n✓ place     two\n") == "✓ place  two"
