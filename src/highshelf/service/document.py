"""Print the service's OpenAPI document; the console's types are generated from it (`python -m highshelf.service.document`)."""

from __future__ import annotations

import json
from pathlib import Path

from highshelf.service.app import create_app

if __name__ == "__main__":
    # The folder is opened when the service starts, which it does not here.
    print(json.dumps(create_app(Path("unused")).openapi(), indent=1))
