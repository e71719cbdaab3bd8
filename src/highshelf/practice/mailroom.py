"""The practice host's mailroom: takes every letter (RFC 5321) and keeps it as a file, so that what would be sent can be read.

    python -m highshelf.practice.mailroom CONFIG    a JSON file: host, port, folder

A login is `keeper` with the word in the settings, where there is one; an address that begins with `nobody` is refused.
"""

from __future__ import annotations

import base64
import json
import socketserver
import sys
from pathlib import Path

MOST_BYTES = 1 << 20


class Mailroom(socketserver.ThreadingTCPServer):
    """Letters lie in `folder` as 1.eml, 2.eml, … in the order in which they came."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, host: str, port: int, folder: Path, password: str = "") -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.folder, self.password = folder, password
        super().__init__((host, port), _Talk)

    def keep(self, letter: bytes) -> None:
        number = len(list(self.folder.glob("*.eml"))) + 1
        draft = self.folder / f".{number}.draft"
        draft.write_bytes(letter)
        draft.replace(self.folder / f"{number}.eml")


class _Talk(socketserver.StreamRequestHandler):
    server: Mailroom

    def handle(self) -> None:
        self._in = not self.server.password
        self._to: list[str] = []
        self._say("220 mailroom of Saltmarsh Web Co-op")
        while line := self.rfile.readline(4096):
            text = line.decode("utf-8", "replace").strip()
            verb = text.partition(" ")[0].upper()
            if verb == "QUIT":
                self._say("221 until the next tide")
                return
            self._answer(verb, text)

    def _answer(self, verb: str, text: str) -> None:
        if verb == "EHLO":
            self._say(
                "250-mailroom\r\n250-8BITMIME\r\n250 AUTH PLAIN"
                if self.server.password
                else "250-mailroom\r\n250 8BITMIME"
            )
        elif verb == "AUTH":
            self._sign_in(text)
        elif verb == "MAIL" and not self._in:
            self._say("530 sign in first")
        elif verb == "RCPT" and "<nobody" in text.lower():
            self._say("550 nobody of that name lives here")
        elif verb == "DATA":
            self._take()
        else:
            self._say("250 well")

    def _sign_in(self, text: str) -> None:
        given = base64.b64decode(text.split()[-1] + "==").split(b"\0")
        self._in = given[1:] == [b"keeper", self.server.password.encode()]
        self._say("235 come in" if self._in else "535 not with this word")

    def _take(self) -> None:
        self._say("354 go on")
        lines: list[bytes] = []
        while (line := self.rfile.readline(4096)) and line.rstrip(b"\r\n") != b".":
            # A dot that begins a line was doubled (RFC 5321, 4.5.2).
            lines.append(line[1:] if line.startswith(b"..") else line)
            if sum(map(len, lines)) > MOST_BYTES:
                self._say("552 too long")
                return
        self.server.keep(b"".join(lines))
        self._say("250 kept")

    def _say(self, text: str) -> None:
        self.wfile.write(text.encode() + b"\r\n")


def main() -> None:
    settings = json.loads(Path(sys.argv[1]).read_text())
    with Mailroom(settings["host"], settings["port"], Path(settings["folder"])) as room:
        room.serve_forever()


if __name__ == "__main__":
    main()
