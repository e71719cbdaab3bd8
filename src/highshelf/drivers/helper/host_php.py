"""HostPhp, over the shell or through the helper: the same PHP function either way."""

from __future__ import annotations

import base64
import json
import posixpath
import shlex
from collections.abc import Callable, Mapping
from typing import Any

from highshelf.core.errors import HelperError, ShellError
from highshelf.core.ports import Helper, HostFiles, Shell
from highshelf.drivers.helper.client import part, take_away

DUMPS = ("database_dump.php", "database_dump_postgresql.php")
# What one slice is at the most, packed; PHP ends it at 8 MB of statements and one more row.
MOST_SLICE_BYTES = 256 << 20


READ = "json_decode(stream_get_contents(STDIN), true)"


class PhpOverShell:
    """`php -r` on the host; what is secret goes in over the encrypted connection's standard input."""

    def __init__(self, shell: Shell) -> None:
        self._shell = shell

    def report(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        return self._call("host_report", "host_report.php", wanted)

    def database_login(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        return self._call("database_login", "database_login.php", wanted)

    def database_dump(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        source = part("database_login.php") + "".join(map(part, DUMPS))
        answer = self._run(
            f"{source}$taken = database_dump({READ}); $taken['text'] = base64_encode($taken['text'] ?? '');",
            "$taken",
            wanted,
        )
        return {**answer, "text": base64.b64decode(answer["text"])}

    def _call(self, function: str, source: str, wanted: Mapping[str, Any]) -> dict[str, Any]:
        return self._run(part(source), f"{function}({READ})", wanted)

    def _run(self, source: str, told: str, wanted: Mapping[str, Any]) -> dict[str, Any]:
        script = source + f"echo json_encode({told}, JSON_INVALID_UTF8_SUBSTITUTE);"
        ran = self._shell.run(f"php -r {shlex.quote(script)}", text=json.dumps(dict(wanted)))
        if ran.status != 0 or "{" not in ran.output:
            raise ShellError(f"PHP on the host's shell did not answer: {(ran.complaint or ran.output).strip()[:200]}")
        answer: dict[str, Any] = json.loads(ran.output[ran.output.index("{") :])
        return answer


class PhpThroughHelper:
    """The helper; what is secret travels as a file only the owner can read, over the file transfer."""

    def __init__(
        self,
        helper: Helper,
        files: HostFiles,
        path: str,
        outstanding: Callable[[str], None],
        gone: Callable[[str], None],
    ) -> None:
        self._helper, self._files, self._path = helper, files, path
        self._outstanding, self._gone = outstanding, gone

    def report(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        return self._helper.call("report", wanted)

    def database_login(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        return self._with_login("login", wanted)

    def database_dump(self, wanted: Mapping[str, Any]) -> dict[str, Any]:
        slice_path = posixpath.join(posixpath.dirname(self._path), "slice.gz")
        self._outstanding(slice_path)
        try:
            answer = self._with_login("dump", wanted)
            text = self._files.read(slice_path, MOST_SLICE_BYTES) if answer["ok"] else b""
            if len(text) != answer.get("slice_bytes", 0):
                raise HelperError("what was taken of the database did not come over whole")
            return {**answer, "text": text}
        finally:
            take_away(self._files, slice_path)
            self._gone(slice_path)

    def _with_login(self, capability: str, wanted: Mapping[str, Any]) -> dict[str, Any]:
        self._outstanding(self._path)
        try:
            self._files.write(self._path, json.dumps(dict(wanted)).encode(), 0o600)
            return self._helper.call(capability, {})
        finally:
            take_away(self._files, self._path)
            self._gone(self._path)
