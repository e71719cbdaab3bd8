"""What a shell tells: one command, one answer of lines."""

from __future__ import annotations

import re
import shlex
from collections.abc import Mapping

from highshelf.core.errors import HighShelfError
from highshelf.core.ports import Shell
from highshelf.core.sizes import size_text
from highshelf.core.survey.lines import Survey

TOOLS = (
    "tar",
    "unzip",
    "zstd",
    "xz",
    "bzip2",
    "gzip",
    "php",
    "curl",
    "wget",
    "composer",
    "sha256sum",
    "mysql",
    "mariadb",
    "psql",
)
HOW = "shell"
MARK = "hs:"
# Each line is name=value; what is missing prints nothing. Works in any POSIX shell.
SCRIPT = r"""
say() { printf 'hs:%s=%s\n' "$1" "$(printf '%s' "$2" | tr '\n' ' ')"; }
say user "$(id -un 2>/dev/null)"; say uid "$(id -u 2>/dev/null)"; say groups "$(id -Gn 2>/dev/null)"; say home "$HOME"; say here "$(pwd -P)"
for t in %TOOLS%; do p=$(command -v "$t" 2>/dev/null) && say "tool.$t" "$p"; done
for t in tar unzip zstd xz curl; do command -v $t >/dev/null 2>&1 && say "version.$t" "$($t --version 2>/dev/null </dev/null | head -n 1)"; done
command -v unzip >/dev/null 2>&1 && say version.unzip "$(unzip -v 2>/dev/null </dev/null | head -n 1)"
command -v php >/dev/null 2>&1 && say version.php "$(php -r 'echo PHP_VERSION;' 2>/dev/null </dev/null)"
command -v composer >/dev/null 2>&1 && say version.composer "$(composer -V --no-ansi 2>/dev/null </dev/null | grep -i version | head -n 1)"
say df "$(df -Pk . 2>/dev/null | tail -n 1)"
say quota "$(quota -w 2>/dev/null | tail -n 1)"
echo hs:end=
"""


def ask_shell(shell: Shell) -> dict[str, str] | None:
    """Name -> value, or None where no commands are run (SFTP-only accounts answer with a sentence)."""
    try:
        ran = shell.run(SCRIPT.replace("%TOOLS%", " ".join(TOOLS)), timeout_seconds=40)
    except HighShelfError:
        return None
    told = dict(
        line.removeprefix(MARK).partition("=")[::2] for line in ran.output.splitlines() if line.startswith(MARK)
    )
    return told if "end" in told else None


def tell_shell(survey: Survey, told: Mapping[str, str] | None, kind: str) -> None:
    """The shell's own lines, and the room left."""
    if told is None:
        why = "a command was tried" if kind == "sftp" else "this kind of login has none"
        survey.say("shell.login", "none", why, data=False)
        return
    survey.say("shell.login", "runs commands", f"{HOW}: a command was run", data=True)
    survey.say(
        "shell.user",
        f"{told.get('user', '')} (id {told.get('uid', '')}), groups {told.get('groups', '').strip()}",
        f"{HOW}: id",
        data={"name": told.get("user", ""), "id": _number(told.get("uid", "")), "home": told.get("here", "")},
    )
    tools = {
        n.removeprefix("tool."): told.get(n.replace("tool.", "version."), "") for n in told if n.startswith("tool.")
    }
    short = [f"{name} {number}".strip() for name, text in tools.items() if (number := _version(text)) is not None]
    survey.say("shell.tools", ", ".join(short) or "none of those that help", f"{HOW}: command -v", data=sorted(tools))
    if "php" in tools:
        php = told.get("version.php", "").strip()
        survey.say("shell.php", php or "does not run", f"{HOW}: php", "fine" if php else "heed", php or None)
    else:
        survey.say("shell.php", "none", f"{HOW}: command -v", data=None)
    composer = _version(told.get("version.composer", "")) if "composer" in tools else None
    text = f"composer {composer}".strip() if composer is not None else "none"
    survey.say(
        "shell.composer", text, f"{HOW}: composer --version" if composer else f"{HOW}: command -v", data=composer
    )
    _tell_room(survey, told)


def _tell_room(survey: Survey, told: Mapping[str, str]) -> None:
    parts = told.get("df", "").split()
    # df -P: file system, blocks, used, available, capacity, mounted on; a name with blanks shifts the first.
    numbers = re.search(r"\s(\d+)\s+(\d+)\s+(\d+)\s+\d+%", told.get("df", ""))
    if parts and numbers:
        free = int(numbers[3]) * 1024
        survey.say("space.free", size_text(free), f"{HOW}: df -Pk", "bad" if free < 50_000_000 else "fine", free)
    quota = re.search(r"\s(\d+)\*?\s+(\d+)\s+(\d+)", told.get("quota", ""))
    limit = int(quota[3]) or int(quota[2]) if quota else 0
    if quota and limit:
        used, whole = int(quota[1]) * 1024, limit * 1024
        text = f"{size_text(used)} of {size_text(whole)} used"
        full = whole - used < 50_000_000
        survey.say("space.quota", text, f"{HOW}: quota", "bad" if full else "fine", {"used": used, "limit": whole})
    else:
        survey.say("space.quota", "none is told", f"{HOW}: quota", "unknown")


def _number(text: str) -> int | None:
    return int(text) if text.strip().isdigit() else None


def _version(text: str) -> str | None:
    found = re.search(r"\d+\.\d+(?:\.\d+)*", text)
    return found[0] if found else ""


def path_seen(shell: Shell, path: str, name: str) -> str:
    """Where the shell sees a folder: its absolute path, when the file `name` in it can be read there; "" otherwise."""
    try:
        ran = shell.run(
            f"cd -- {shlex.quote(path)} && test -r {shlex.quote(name)} && printf 'hs:at=%s' \"$(pwd -P)\"",
            timeout_seconds=20,
        )
    except HighShelfError:
        return ""
    return ran.output.partition("hs:at=")[2].strip() if "hs:at=" in ran.output else ""


def self_by_curl(shell: Shell, url: str) -> dict[str, object] | None:
    """Who answers when the host calls an address, as host_call in host_report.php tells it."""
    try:
        ran = shell.run(f"curl -sk -m 8 -o - -D - {shlex.quote(url)} | head -c 4096 | base64", timeout_seconds=20)
    except HighShelfError:
        return None
    text = "".join(ran.output.split())
    return {"reached": bool(text), "answer": text, "resolved": ""}
