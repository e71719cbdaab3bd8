"""What a driver saw at an address; can be saved and replayed."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import asdict, dataclass, field


@dataclass(frozen=True)
class Snapshot:
    """One answer. `url` is where redirects ended; `headers` have lower-case names; `html` is decoded text."""

    url: str
    status: int
    html: str
    headers: dict[str, str] = field(default_factory=dict)

    def to_json(self) -> str:
        return json.dumps(asdict(self))

    @classmethod
    def from_json(cls, text: str) -> Snapshot:
        return cls(**json.loads(text))

    def redacted(self, redact: Callable[[str], str]) -> Snapshot:
        """The same without secrets; cookies never belong to what is kept."""
        headers = {k: redact(v) for k, v in self.headers.items() if k != "set-cookie"}
        return Snapshot(redact(self.url), self.status, redact(self.html), headers)
