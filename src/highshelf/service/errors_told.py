"""Print the reference of errors, made from the tree in `core/errors.py` (`python -m highshelf.service.errors_told > docs/errors.md`)."""

from __future__ import annotations

import re
from collections.abc import Iterator

from highshelf.core import errors
from highshelf.core.errors import HighShelfError
from highshelf.service.faults import BY_CODE, RESPONSES, STATUS

# What a command ends with (cli/common.py; a test holds both to each other).
FAILED, USAGE, USAGE_CODES = 1, 2, {"input", "not-found"}
HEAD = """# Errors

Made by `python -m highshelf.service.errors_told > docs/errors.md`; a test holds it to the code.

Every error has a code that stays the same, one sentence that names the thing, mostly a hint what to do about it, and says whether the same
call may succeed later without a change (*again later*). The command line shows code, sentence and hint, and with `--json` the same as an object on
standard error; the API answers with `application/problem+json`; the console shows the same text. No error holds a secret.

A command ends with 0 when it is done, 1 when something failed, 2 for wrong usage or a name that is not there, 3 when a job waits
for an answer or rests.

| code | what it is | API | command ends with | again later |
|---|---|---|---|---|
"""
LINE = re.compile(r"^[ |`]*-\s+(\w+Error)\s+(.+)$", re.M)
BEHIND = re.compile(r"\s*\((?:exit|HTTP|retryable)[^)]*\)$")


def rows() -> Iterator[tuple[str, str, int, int, bool]]:
    """(code, what it is, status, exit code, whether it may succeed later) of every error, as the tree is drawn."""
    for name, what in LINE.findall(errors.__doc__ or ""):
        kind: type[HighShelfError] = getattr(errors, name)
        status = BY_CODE.get(kind.code) or next(s for base, s in STATUS if issubclass(kind, base))
        yield kind.code, BEHIND.sub("", what), status, USAGE if kind.code in USAGE_CODES else FAILED, kind.retryable


def reference() -> str:
    """The errors as Markdown, then the answers of the API by their status."""
    lines = [
        f"| `{code}` | {what} | {status} | {ends} | {'yes' if again else ''} |"
        for code, what, status, ends, again in rows()
    ]
    answers = [
        f"| {status} | {told['description']} |" for status, told in sorted(RESPONSES.items(), key=lambda r: int(r[0]))
    ]
    return HEAD + "\n".join([*lines, "", "| status | what it means |", "|---|---|", *answers]) + "\n"


if __name__ == "__main__":
    print(reference(), end="")
