"""Lists of words that ship with the code, read with libyaml where PyYAML was built with it: ten times as fast."""

from __future__ import annotations

from importlib import resources
from typing import Any

import yaml

LOADER: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)


def shipped(package: str, name: str = "words.yaml") -> Any:
    """What a YAML file beside a module holds."""
    return yaml.load(resources.files(package).joinpath(name).read_text(encoding="utf-8"), Loader=LOADER)
