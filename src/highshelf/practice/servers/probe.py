"""Is somebody listening?"""

from __future__ import annotations

import socket

from highshelf.practice.layout import LOOPBACK


def port_answers(port: int, host: str = LOOPBACK) -> bool:
    with socket.socket() as probe:
        probe.settimeout(0.3)
        return probe.connect_ex((host, port)) == 0
