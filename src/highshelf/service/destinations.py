"""Where an account's secrets go. Who may change that must not thereby get them: a password that was given for one server is
not sent to another one, unless it is said anew for that.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import SecretStr
from sqlmodel import col

from highshelf.core.errors import ConflictError, InputError
from highshelf.core.origins import origin_of
from highshelf.service.deps import Rooms
from highshelf.store.tables import AccountRow, JobRow

TRANSFER = ("transfer_kind", "transfer_host", "transfer_port")


def check_destination(
    room: Rooms, before: AccountRow, fields: Mapping[str, Any], given: Mapping[str, Any]
) -> dict[str, str]:
    """What of an account's destinations a change leads elsewhere: transfer, panel, address, reach -> what is written down of it.

    Raises:
        InputError: a secret would go to another server, and was not said anew.
        ConflictError: a job is under way that sends secrets there.
    """
    now = {n: fields.get(n, getattr(before, n)) for n in (*TRANSFER, "panel", "address", "reach")}
    found: dict[str, str] = {}
    server = tuple(getattr(before, n) for n in TRANSFER), tuple(now[n] for n in TRANSFER)
    if server[0] != server[1]:
        found["transfer"] = f"files go to {_server(server[1])}, no longer to {_server(server[0])}"
    for name in ("panel", "address", "reach"):
        if now[name] != getattr(before, name) and not (name == "panel" and not now[name]):
            found[name] = f"{name} is {now[name] or 'nothing'} now, before it was {getattr(before, name) or 'nothing'}"
    if found and (
        jobs := room.store.all(JobRow, col(JobRow.account) == before.name, col(JobRow.finished_at).is_(None))
    ):
        raise ConflictError(
            f"the job {jobs[0].id} is under way on {before.name}: its secrets would go elsewhere",
            hint="wait for it, or cancel it; then change the account",
        )
    if "transfer" in found:
        _said_anew(room, before.name, given, found["transfer"])
    if "panel" in found and before.panel and _origin(before.panel) != _origin(now["panel"]):
        _panel_said_anew(room, before.name, given, found["panel"])
    return found


def _server(parts: tuple[Any, ...]) -> str:
    return f"{parts[0]}://{parts[1]}:{parts[2]}"


def _origin(address: str) -> object:
    try:
        return origin_of(address)
    except ValueError:
        return address


def _is_said(given: Mapping[str, Any], name: str) -> bool:
    secret = given.get(name)
    return isinstance(secret, SecretStr) and bool(secret.get_secret_value())


def _said_anew(room: Rooms, account: str, given: Mapping[str, Any], told: str) -> None:
    """A key opens nothing elsewhere: what it signs is bound to the server's own exchange (RFC 4252, 7). A password does."""
    if room.store.secret(f"account/{account}/transfer") and not _is_said(given, "password"):
        raise InputError(
            f"{told}: the password was given for the other server, and is not sent to this one",
            hint="give the password in the same change",
        )


def _panel_said_anew(room: Rooms, account: str, given: Mapping[str, Any], told: str) -> None:
    own = bool(room.store.secret(f"account/{account}/panel"))
    if not _is_said(given, "panel_password") and (own or not _is_said(given, "password")):
        raise InputError(
            f"{told}: the password was given for the other panel, and is not sent to this one",
            hint="give the panel's password in the same change",
        )
