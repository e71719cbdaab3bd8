"""Help, manual pages and the reference say the same, and every example in them is one that the commands take."""

from __future__ import annotations

import re
import shlex
import subprocess
import sys
from pathlib import Path

import click
import pytest
import typer

from highshelf.__main__ import app
from highshelf.cli.common import FAILED, USAGE, USAGE_CODES
from highshelf.cli.everywhere import SAID, take
from highshelf.cli.examples import EXAMPLES
from highshelf.cli.manual import commands, man_pages, reference
from highshelf.core.errors import HighShelfError
from highshelf.service import errors_told

ROOT = typer.main.get_command(app)
COMMANDS = {" ".join(path): command for path, command in commands(ROOT)}
DOCS = Path(__file__).resolve().parents[2] / "docs"


def test_every_command_has_an_example_and_every_example_a_command() -> None:
    assert set(EXAMPLES) == set(COMMANDS)


@pytest.mark.parametrize("line", [line for lines in EXAMPLES.values() for line in lines])
def test_an_example_is_what_its_command_takes(line: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    # What the options do to this process is over with the test.
    for name in ("HIGHSHELF_URL", "HIGHSHELF_TOKEN", "HIGHSHELF_TOKEN_FILE", "HIGHSHELF_PROFILE"):
        monkeypatch.setenv(name, "")
    monkeypatch.setattr(SAID, "lines", False)
    monkeypatch.setattr(SAID, "quiet", False)
    for name in re.findall(r"(?<![/\w])[\w.-]+\.(?:zip|txt|eml|csv|yaml|token|asc)\b", line):
        Path(name).write_text("a word")
    words = take(shlex.split(line.partition(" | ")[0]))
    known = next(
        path for path in sorted(COMMANDS, key=len, reverse=True) if f"{' '.join(words)} ".startswith(path + " ")
    )
    assert line in EXAMPLES[known]
    rest = words[len(known.split()) :]
    with click.Context(ROOT, info_name="highshelf") as around:  # type: ignore[arg-type,unused-ignore]
        made = COMMANDS[known].make_context(known, list(rest), parent=around)
    assert not made.args, "nothing is left over"


def test_the_reference_is_what_the_commands_say() -> None:
    told = (DOCS / "commands.md").read_text()
    assert told == reference(ROOT), "highshelf manual docs/commands.md --as markdown"


def test_the_manual_has_a_page_for_each_word_with_all_its_options() -> None:
    pages = man_pages(ROOT)
    assert set(pages) == {"highshelf.1", *(f"highshelf-{path.split()[0]}.1" for path in COMMANDS)}
    for path, command in COMMANDS.items():
        page = pages[f"highshelf-{path.split()[0]}.1"]
        assert page.startswith(".TH ") and f"highshelf {path}".upper() in page.replace("\\-", "-")
        for param in command.params:
            if param.param_type_name == "option" and param.name not in ("help", "as_json"):
                assert param.opts[0].replace("-", "\\-") in page, (path, param.opts)
    for page in pages.values():
        # A line that begins with a dot or an apostrophe is an order to man, and these are all that are given.
        orders = {line.split()[0] for line in page.splitlines() if line[:1] in (".", "'")}
        assert orders <= {".TH", ".SH", ".PP", ".TP", ".B", ".BR", ".nf", ".fi"}, orders


def test_help_ends_with_examples() -> None:
    done = subprocess.run([sys.executable, "-m", "highshelf", "job", "answer", "-h"], capture_output=True, text=True)
    assert done.returncode == 0 and "Examples:\n    highshelf job answer" in done.stdout, done.stdout


def test_the_reference_of_errors_is_what_the_code_has() -> None:
    assert (DOCS / "errors.md").read_text() == errors_told.reference(), (
        "python -m highshelf.service.errors_told > docs/errors.md"
    )
    assert (errors_told.FAILED, errors_told.USAGE, errors_told.USAGE_CODES) == (FAILED, USAGE, USAGE_CODES)
    drawn = {code for code, *_ in errors_told.rows()}
    kinds = [HighShelfError]
    for kind in kinds:
        kinds += kind.__subclasses__()
    of_the_tree = {kind.code for kind in kinds[1:] if kind.__module__ == HighShelfError.__module__}
    assert of_the_tree == drawn
