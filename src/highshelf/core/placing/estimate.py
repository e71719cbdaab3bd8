"""How long a way would take: what the plan shows, and what the choice among equals goes by.

The parts of a second that hosts need were measured on a shared two-core machine: 1,803 files of 39 MB were unpacked by unzip in
0.5 s, by tar in 0.7 s, by ZipArchive in 0.9 s, and hashed in 0.4 s.
"""

from __future__ import annotations

from dataclasses import dataclass

# Until something went over this account's line, a middling one is supposed; and a host on the other side of a continent.
USUAL_BYTES_PER_SECOND, USUAL_RTT_SECONDS = 1_250_000.0, 0.04
UNPACK_SECONDS_A_FILE, HASH_SECONDS_A_FILE = 0.0004, 0.0002
# What a host in a computing centre fetches from another, mostly; and the questions whether it is done.
HOST_BYTES_PER_SECOND, FETCH_TRIPS = 5_000_000.0, 20
FETCH_PIECE_SECONDS = 2.0
# Round trips: of logging in again and a command; of the helper's upload, first word and three calls.
SHELL_TRIPS, HELPER_TRIPS, STREAM_TRIPS = 10, 24, 8
# The panel: signing in, two pages and two forms; then listings and a sample, since it hashes nothing.
PANEL_TRIPS = 60
# Opening, writing, closing over SFTP; over FTP, in a row, the line, TLS on it, the store with its end.
SFTP_TRIPS_A_FILE, FTP_TRIPS_A_FILE, FTPS_TRIPS_A_FILE = 3, 2, 3
SFTP_LANES, FTP_LANES = 48, 8
# What a server does for a small file, one after the other, however many are in flight.
FILE_SECONDS = 0.004


@dataclass(frozen=True)
class Line:
    """The line to an account; None where it was not measured yet."""

    rtt_seconds: float | None = None
    bytes_per_second: float | None = None

    @property
    def rtt(self) -> float:
        return USUAL_RTT_SECONDS if self.rtt_seconds is None else self.rtt_seconds

    @property
    def rate(self) -> float:
        return self.bytes_per_second or USUAL_BYTES_PER_SECOND


def seconds_of(way: str, *, up_bytes: int, files: int, kind: str, line: Line, connections: int = 0) -> float:
    """Seconds until the files of a release lie on the host and are compared.

    Args:
        up_bytes: what goes over the line by this way; `kind`: sftp, ftps, ftps-implicit or ftp.
        connections: how many the account allows, 0 when that is not known.
    """
    sent, hashed = up_bytes / line.rate, files * HASH_SECONDS_A_FILE
    if way == "files":
        return _file_by_file(up_bytes, files, kind, line, connections)
    if way == "shell-fetch":
        return up_bytes / HOST_BYTES_PER_SECOND + FETCH_TRIPS * line.rtt + files * UNPACK_SECONDS_A_FILE + hashed
    if way == "shell-stream":
        return sent + STREAM_TRIPS * line.rtt + hashed
    if way == "helper-fetch":
        # Piece by piece, each with a question of its own.
        pieces = 2 + up_bytes / HOST_BYTES_PER_SECOND / FETCH_PIECE_SECONDS
        sent = up_bytes / HOST_BYTES_PER_SECOND + pieces * 2 * line.rtt
    trips = PANEL_TRIPS if way == "panel" else HELPER_TRIPS if way.startswith("helper") else SHELL_TRIPS
    # What is unpacked while it comes is done with when the last of it is here.
    unpacking = 0 if way == "helper-tar" else files * UNPACK_SECONDS_A_FILE
    return sent + trips * line.rtt + unpacking + hashed


def _file_by_file(up_bytes: int, files: int, kind: str, line: Line, connections: int) -> float:
    if kind == "sftp":
        lanes, trips = SFTP_LANES, SFTP_TRIPS_A_FILE
    else:
        lanes = min(FTP_LANES, connections or FTP_LANES)
        trips = FTP_TRIPS_A_FILE if kind == "ftp" else FTPS_TRIPS_A_FILE
    waiting = files * trips * line.rtt / lanes
    return max(up_bytes / line.rate, files * FILE_SECONDS) + waiting + STREAM_TRIPS * line.rtt
