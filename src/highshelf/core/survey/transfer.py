"""The transfer login's lines."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from highshelf.core.account import TRANSFER_NAMES, Account
from highshelf.core.ports import HostFiles, Outside
from highshelf.core.sizes import size_text
from highshelf.core.survey.lines import Survey

HOW = "transfer"


def tell_transfer(
    survey: Survey, account: Account, files: HostFiles, fingerprint: str, limits: Mapping[str, Any], outside: Outside
) -> None:
    login, facts, can = account.transfer, files.facts(), files.capabilities
    survey.say("transfer.login", f"{login.address}, {TRANSFER_NAMES[login.kind]}", f"{HOW}: logged in", data=login.kind)
    if facts.software:
        survey.say("transfer.software", facts.software, f"{HOW}: its greeting", data=facts.software)
    if fingerprint:
        new = "first seen now, and pinned" if not account.fingerprint else "as pinned"
        survey.say("transfer.identity", f"{fingerprint} ({new})", f"{HOW}: shown at the start", data=fingerprint)
    else:
        survey.say("transfer.identity", "none: plain FTP has none", f"{HOW}: kind of login", "heed", data="")
    _tell_encryption(survey, account, facts.encryption, facts.offers, outside)
    survey.say("transfer.landing", facts.landing, f"{HOW}: asked", data=facts.landing)
    abilities = [
        w
        for w, yes in (("rename over", can.atomic_replace), ("modes", can.chmod), ("go on in a file", can.append))
        if yes
    ]
    lists = {"machine": "exact listings", "long": "listings in columns (read by their usual form)"}.get(
        facts.listing, ""
    )
    survey.say("transfer.can", ", ".join([*abilities, *([lists] if lists else [])]), f"{HOW}: asked", data=abilities)
    if facts.free_bytes is not None:
        survey.say(
            "space.free",
            size_text(facts.free_bytes),
            f"{HOW}: asked",
            "bad" if facts.free_bytes < 50_000_000 else "fine",
            facts.free_bytes,
        )
    tell_limits(survey, limits)


def tell_limits(survey: Survey, limits: Mapping[str, Any]) -> None:
    parts = []
    if limits.get("connections"):
        parts.append(f"{limits['connections']} connections at once")
    if limits.get("pause_seconds"):
        parts.append(f"{limits['pause_seconds']:.0f} s of waiting after too many")
    if limits.get("idle_seconds"):
        parts.append(f"drops a line after {limits['idle_seconds']:.0f} s of silence")
    survey.say(
        "transfer.limits", ", ".join(parts) or "none met yet", "learned when the server said so", data=dict(limits)
    )


def _tell_encryption(survey: Survey, account: Account, used: str, offers: tuple[str, ...], outside: Outside) -> None:
    kind, host = account.transfer.kind, account.transfer.host
    if kind != "ftp":
        survey.say("transfer.encryption", used or "encrypted", f"{HOW}: agreed on", data=used or "yes")
        return
    better = []
    if "ftps" in offers:
        better.append("this server offers TLS on the same port: change the transfer to ftps://")
    greeting = outside.greeting(host, 22)
    if greeting is not None and greeting.startswith("SSH-"):
        better.append("an SSH server answers at port 22: ask the host whether the login works there (sftp://)")
    text = "none: the password and every file travel in the clear; " + (
        "; ".join(better) or "ask the host for FTPS or SFTP"
    )
    survey.say("transfer.encryption", text, f"{HOW}: what the server offers, and port 22", "heed", {"better": better})
