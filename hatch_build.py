"""A package without the console's built pages would have no console, and nobody would see it until it is opened."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface

PAGE = "src/highshelf/service/static/index.html"


class ConsoleHook(BuildHookInterface[Any]):
    """Refuses a wheel or an archive of sources whose console was not built. An editable install serves what is built later."""

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        if version != "editable" and not (Path(self.root) / PAGE).is_file():
            raise RuntimeError(
                f"{PAGE} is missing: the console is not built. "
                "`npm ci && npm run build` in console/ builds it; bin/demo and bin/test do so as well."
            )
