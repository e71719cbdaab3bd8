"""Names of the ways in which files go over; apart, so that a command's help needs no models."""

from typing import Literal

WayWanted = Literal[
    "",
    "shell-fetch",
    "shell-stream",
    "shell-unzip",
    "shell-tar",
    "shell-php",
    "helper-fetch",
    "helper-tar",
    "helper",
    "panel",
    "files",
]
"""How the files are to go over; "" is the best way that is open."""
