"""A check-in in a process of its own (`worker.py`): its memory and its crashes are not the service's."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from highshelf.core.errors import ArchiveError, CancelledError, FaultError
from highshelf.core.ports import CancelToken

Told = Callable[[int, int], None]


def check_in(
    sources: Sequence[tuple[Path, str, str]],
    words: Sequence[str],
    folder: Path,
    *,
    told: Told | None = None,
    cancel: CancelToken | None = None,
) -> dict[str, Any]:
    """Read archives into `folder`: `contents.jsonl`, `texts.json` and, unless every host takes it as it is, `payload.zip`.

    Args:
        sources: archive, what people call it, and the folder of the release that it belongs in ("" for its root).

    Returns:
        `format`, `wrapper` (of what is sent to hosts), `files`, `unpacked_bytes`, `findings`.

    Raises:
        ArchiveError: see `reader`; CancelledError.
    """
    order = {
        "parts": [{"path": str(path), "file_name": name, "folder": folder} for path, name, folder in sources],
        "words": list(words),
        "folder": str(folder),
    }
    worker = subprocess.Popen(
        [sys.executable, "-m", "highshelf.drivers.archive.worker"],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )
    assert worker.stdin is not None and worker.stdout is not None and worker.stderr is not None
    try:
        worker.stdin.write(json.dumps(order))
        worker.stdin.close()
        for line in worker.stdout:
            said = json.loads(line)
            if "fault" in said:
                raise ArchiveError(said["fault"]["message"], hint=said["fault"]["hint"], **said["fault"]["context"])
            if "done" in said:
                return dict(said["done"])
            if cancel is not None and cancel.cancelled:
                raise CancelledError("the check-in was cancelled")
            if told is not None:
                told(said["files"], said["bytes"])
        trouble = worker.stderr.read()[-400:]
        code = worker.wait()
        if "MemoryError" in trouble or code < 0:
            raise ArchiveError(
                f"{sources[0][1]} cannot be read: its reader came to its limit of memory or was stopped ({code})",
                hint="pack it again as a plain zip",
            )
        raise FaultError(f"the reader of archives ended with {code}: {trouble}")
    finally:
        worker.kill()
        worker.wait()
        worker.stdout.close()
        worker.stderr.close()
