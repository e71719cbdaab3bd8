"""What a survey finds: lines of one table, in a fixed order, each with how it was found out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any, Literal

State = Literal["fine", "heed", "bad", "unknown"]

# Topic -> the group it stands in and what people call it. The order here is the order of the table.
TOPICS: dict[str, tuple[str, str]] = {
    "transfer.login": ("Transfer", "Login"),
    "transfer.software": ("Transfer", "Server"),
    "transfer.identity": ("Transfer", "Identity"),
    "transfer.encryption": ("Transfer", "Encryption"),
    "transfer.landing": ("Transfer", "Lands in"),
    "transfer.can": ("Transfer", "Can do"),
    "transfer.limits": ("Transfer", "Limits learned"),
    "shell.login": ("Shell", "Shell"),
    "shell.user": ("Shell", "Runs as"),
    "shell.tools": ("Shell", "Tools"),
    "shell.php": ("Shell", "PHP there"),
    "shell.composer": ("Shell", "Package manager of PHP"),
    "space.free": ("Room", "Free"),
    "space.quota": ("Room", "Quota"),
    "site.root": ("Site", "Document root"),
    "site.address": ("Site", "Address"),
    "site.name": ("Site", "Public name"),
    "site.certificate": ("Site", "Certificate"),
    "site.self": ("Site", "Calls its own address"),
    "site.others": ("Site", "Further sites"),
    "site.beside": ("Site", "Beside the root"),
    "site.refused": ("Site", "Names refused there"),
    "web.server": ("Web server", "Software"),
    "web.htaccess": ("Web server", ".htaccess"),
    "web.rewriting": ("Web server", "Rewriting"),
    "web.links": ("Web server", "Links out of the root"),
    "web.user_ini": ("Web server", ".user.ini"),
    "php.version": ("PHP", "Version"),
    "php.handler": ("PHP", "Runs by"),
    "php.user": ("PHP", "Runs as"),
    "php.writes": ("PHP", "Can write"),
    "php.extensions": ("PHP", "Extensions"),
    "php.memory": ("PHP", "Memory"),
    "php.upload": ("PHP", "Upload"),
    "php.post": ("PHP", "Form"),
    "php.time": ("PHP", "Execution time"),
    "php.input_time": ("PHP", "Input time"),
    "php.pinned": ("PHP", "Pinned by the host"),
    "php.opcache": ("PHP", "Opcache"),
    "php.timezone": ("PHP", "Time zone"),
    "php.errors": ("PHP", "Error display"),
    "php.basedir": ("PHP", "Confined to"),
    "php.disabled": ("PHP", "Switched off"),
    "database.server": ("Database", "Reached from PHP"),
    "panel.login": ("Panel", "Sign-in"),
    "neighbours": ("Neighbours", "Other applications"),
    "placing": ("What it means", "Placing"),
    "undoing": ("What it means", "Undoing"),
}


@dataclass(frozen=True)
class Line:
    """One line of a survey.

    Attributes:
        topic: a key of TOPICS.
        text: for people.
        how: how it was found out, such as `shell: df -Pk` or `helper`.
        state: `heed` wants attention, `bad` will stop jobs, `unknown` could not be found out this way.
        data: the same for programs, JSON-able; None when unknown.
    """

    topic: str
    text: str
    how: str
    state: State = "fine"
    data: Any = None

    def to_dict(self) -> dict[str, Any]:
        return asdict(self)


class Survey:
    """The lines found so far; a topic that is found out again replaces the line before."""

    def __init__(self, told: Callable[[Line], None] = lambda _: None) -> None:
        self._lines: dict[str, Line] = {}
        self._told = told

    def say(self, topic: str, text: str, how: str, state: State = "fine", data: Any = None) -> None:
        assert topic in TOPICS, topic
        line = Line(topic, text, how, state, data)
        self._lines[topic] = line
        self._told(line)

    def unknown(self, topics: tuple[str, ...], why: str) -> None:
        """Say of each topic without a line that it is not known, and why."""
        for topic in topics:
            if topic not in self._lines:
                self.say(topic, "not known", why, "unknown")

    def data(self, topic: str) -> Any:
        line = self._lines.get(topic)
        return line.data if line is not None else None

    def has(self, topic: str) -> bool:
        return topic in self._lines

    @property
    def lines(self) -> list[Line]:
        order = list(TOPICS)
        return sorted(self._lines.values(), key=lambda line: order.index(line.topic))
