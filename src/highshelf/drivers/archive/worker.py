"""`python -m highshelf.drivers.archive.worker`: a check-in in a process of its own, so that no archive can fill the
service's memory or bring it down.

In: one JSON object on stdin (`Order`). Out: lines of JSON on stdout: `{"files": …, "bytes": …}` now and then, at the end
`{"done": …}` or `{"fault": …}`. The files go into the order's folder: `contents.jsonl`, `texts.json`, `payload.zip`.
"""

from __future__ import annotations

import json
import resource
import sys
import time
from dataclasses import asdict
from pathlib import Path
from typing import Any

from highshelf.core.errors import HighShelfError
from highshelf.core.release.contents import Contents, to_lines
from highshelf.core.release.findings import find
from highshelf.core.release.joining import Part, join
from highshelf.drivers.archive.reader import Read, make_payload, read_archive

# Address space, not memory in use: the interpreter and its libraries take about 150 MB of it by themselves.
MAX_ADDRESS_SPACE_BYTES = 1 << 30
TELL_SECONDS = 0.2


def main() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MAX_ADDRESS_SPACE_BYTES, MAX_ADDRESS_SPACE_BYTES))
    order = json.loads(sys.stdin.read())
    # bzip2 unpacks about 10 MB a second here; whatever takes ten times as long is stuck.
    seconds = 300 + sum(Path(p["path"]).stat().st_size for p in order["parts"]) // 1_000_000
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    try:
        _say(done=check_in(order))
    except HighShelfError as fault:
        _say(fault={"code": fault.code, "message": fault.message, "hint": fault.hint, "context": fault.context})
    except MemoryError:
        _say(
            fault={
                "code": "archive",
                "message": "the archive wants more memory than a check-in may take",
                "hint": "pack it again as a plain zip",
                "context": {},
            }
        )


def _say(**what: Any) -> None:
    print(json.dumps(what), flush=True)


def check_in(order: dict[str, Any]) -> dict[str, Any]:
    """Read all parts of an order, join them, write what was found.

    Args:
        order: `parts` (each `path`, `file_name`, `folder`), `words`, `folder` (where the results go).
    """
    folder = Path(order["folder"])
    words = frozenset(order["words"])
    reads: list[tuple[Part, Read]] = []
    told = _Teller()
    for part in order["parts"]:
        read = read_archive(Path(part["path"]), part["file_name"], words, told)
        reads.append((Part(part["file_name"], part["folder"], read.laid, tuple(read.clues)), read))
    parts = [part for part, _ in reads]
    joined = join(parts)
    first = reads[0][1]
    format = first.format if len(reads) == 1 else "payload"
    findings = find(joined.contents, parts[0].file_name, joined.clues, wrapper=first.contents.wrapper)
    shipped = first.contents.wrapper if format != "payload" else ""
    if format != "zip":
        prefix = shipped + "/" if shipped else ""
        places = [[tuple(prefix + p for p in paths) for paths in one] for one in joined.places]
        make_payload(
            [(Path(p["path"]), place) for p, place in zip(order["parts"], places, strict=True)], folder / "payload.zip"
        )
    with (folder / "contents.jsonl").open("w", encoding="utf-8") as out:
        out.writelines(to_lines(Contents(shipped, joined.contents.files)))
    texts = {joined.path_of(i, path): text for i, (_, read) in enumerate(reads) for path, text in read.texts.items()}
    (folder / "texts.json").write_text(json.dumps({p: t.decode("utf-8", "replace") for p, t in texts.items()}))
    noted = [n for _, read in reads for n in read.notes]
    return {
        "format": format,
        "wrapper": shipped,
        "files": len(joined.contents.files),
        "unpacked_bytes": joined.contents.unpacked_bytes,
        "findings": asdict(findings)
        | {
            "packed": first.packed
            if len(reads) == 1
            else f"{len(reads)} archives ({', '.join(r.packed for _, r in reads)})",
            "notes": noted,
        },
    }


class _Teller:
    """Progress, at most a few lines a second."""

    def __init__(self) -> None:
        self._next = 0.0

    def __call__(self, files: int, size: int) -> None:
        if (now := time.monotonic()) >= self._next:
            self._next = now + TELL_SECONDS
            _say(files=files, bytes=size)


if __name__ == "__main__":
    main()
