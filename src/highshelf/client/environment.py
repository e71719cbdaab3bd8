"""Where the service is and who asks, as the environment tells it: for programs of one's own as for the command line.

`HIGHSHELF_URL` is the service's address, `HIGHSHELF_TOKEN` an operator's token, `HIGHSHELF_TOKEN_FILE` a file with one; where these are left
out, what the service on this machine wrote into its data folder (`HIGHSHELF_DATA`).
"""

from __future__ import annotations

import os
from pathlib import Path

USUAL_URL = "http://127.0.0.1:7117"


def data_folder() -> Path:
    return Path(os.environ.get("HIGHSHELF_DATA") or Path.home() / ".local/share/highshelf")


def service_url() -> str:
    """HIGHSHELF_URL, else what the running service wrote into its data folder, else the usual address."""
    note = data_folder() / "address"
    return os.environ.get("HIGHSHELF_URL") or (note.read_text().strip() if note.exists() else USUAL_URL)


def token_file() -> Path:
    return Path(os.environ.get("HIGHSHELF_TOKEN_FILE") or data_folder() / "token")


def operator_token() -> str:
    """HIGHSHELF_TOKEN, else what stands in the token's file.

    Raises:
        OSError: there is no such file, or it cannot be read.
    """
    return os.environ.get("HIGHSHELF_TOKEN") or token_file().read_text().strip()
