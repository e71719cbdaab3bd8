"""Where the service is and who asks, as the environment tells it: for programs of one's own as for the command line.

`HIGHSHELF_URL` is the service's address, `HIGHSHELF_TOKEN` an operator's token, `HIGHSHELF_TOKEN_FILE` a file with one. Where no address is
given, a profile tells both (`HIGHSHELF_PROFILE`, else the one that `highshelf profile use` chose); else what the service on this machine wrote
into its data folder (`HIGHSHELF_DATA`). A profile's token goes to the profile's address and nowhere else.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from highshelf.client.profiles import Profile

USUAL_URL = "http://127.0.0.1:7117"


def data_folder() -> Path:
    return Path(os.environ.get("HIGHSHELF_DATA") or Path.home() / ".local/share/highshelf")


def service_url() -> str:
    """HIGHSHELF_URL, else the profile's, else what the running service wrote into its data folder, else the usual address.

    Raises:
        ProfileError: the profile that is asked for is not there.
    """
    if given := os.environ.get("HIGHSHELF_URL"):
        return given
    if (profile := _profile()) is not None:
        return profile.url
    note = data_folder() / "address"
    return note.read_text().strip() if note.exists() else USUAL_URL


def token_file() -> Path:
    if given := os.environ.get("HIGHSHELF_TOKEN_FILE"):
        return Path(given)
    profile = None if os.environ.get("HIGHSHELF_URL") else _profile()
    return Path(profile.token_file).expanduser() if profile is not None else data_folder() / "token"


def operator_token() -> str:
    """HIGHSHELF_TOKEN, else what stands in the token's file.

    Raises:
        OSError: there is no such file, or it cannot be read.
        ProfileError: the profile that is asked for is not there.
    """
    return os.environ.get("HIGHSHELF_TOKEN") or token_file().read_text().strip()


def _profile() -> Profile | None:
    # HIGHSHELF_DATA names another place on this machine: the used profile is not meant then.
    if os.environ.get("HIGHSHELF_DATA") and not os.environ.get("HIGHSHELF_PROFILE"):
        return None
    from highshelf.client.profiles import current

    return current()
