"""The site's own lines: does its name lead here, what certificate is shown, who answers when PHP calls its address."""

from __future__ import annotations

import base64
import ipaddress
import re
from collections.abc import Callable, Mapping
from typing import Any
from urllib.parse import urlsplit

from highshelf.core.account import Account
from highshelf.core.ports import Certificate, Outside
from highshelf.core.survey.lines import State, Survey


def tell_name(survey: Survey, account: Account, outside: Outside) -> None:
    """Whether the public name points here yet."""
    host = urlsplit(account.address).hostname or ""
    if _is_number(host):
        survey.say("site.name", "the address is a number, no name", "from the address", data=None)
        return
    there = outside.resolve(host)
    wanted_host = account.reach.rpartition(":")[0].strip("[]") if account.reach else account.transfer.host
    wanted = outside.resolve(wanted_host) if not _is_number(wanted_host) else (wanted_host,)
    how = f"names: {host} was looked up"
    data = {"name": host, "leads_to": list(there), "server": list(wanted), "here": bool(set(there) & set(wanted))}
    if not there:
        survey.say("site.name", f"{host} leads nowhere yet", how, "heed", data)
    elif data["here"]:
        survey.say("site.name", f"{host} leads here ({', '.join(there)})", how, data=data)
    elif account.reach:
        text = f"{host} still leads to {', '.join(there)}, not to {wanted_host}"
        survey.say("site.name", text, how, "heed", data)
    else:
        # Files and pages are often served by two machines: only the root's proof decides, and it went this way.
        survey.say("site.name", f"{host} leads to {', '.join(there)}", how, data={**data, "here": True})


def _shown(account: Account, outside: Outside) -> tuple[Certificate | None, str]:
    """The certificate at the site's address, or where it is reached; and that place."""
    parts = urlsplit(account.address)
    host, port = parts.hostname or "", parts.port or 443
    if account.reach:
        host, _, number = account.reach.rpartition(":")
        port = int(number)
    return outside.certificate(host.strip("[]"), port, parts.hostname or ""), f"{host}:{port}"


def certificate_to_pin(account: Account, outside: Outside) -> str:
    """What is to be taken from now on at the place that stands for an https address; "" where the certificate proves itself."""
    if not account.reach or not account.address.startswith("https:"):
        return ""
    seen, _ = _shown(account, outside)
    return seen.sha256 if seen is not None and seen.problem else ""


def tell_certificate(survey: Survey, account: Account, outside: Outside, pin: Callable[[str], None]) -> None:
    """What a browser would say of the site's certificate. One that proves nothing is pinned where the address is reached elsewhere."""
    if not account.address.startswith("https:"):
        survey.say("site.certificate", "none: the address is not https", "from the address", "heed", data=None)
        return
    name = urlsplit(account.address).hostname or ""
    seen, where = _shown(account, outside)
    how = f"web: TLS with {where}"
    if seen is None:
        survey.say("site.certificate", "no TLS answers there", how, "bad", data=None)
    elif seen.problem:
        told = f"browsers refuse it: {seen.problem} (for {seen.subject or 'no name'}, until {seen.ends_at})"
        state: State = "heed"
        if account.reach and account.certificate in ("", seen.sha256):
            pin(seen.sha256)
            told += f"; pinned: only this one is spoken to ({seen.sha256[:23]}…)"
        elif account.reach:
            told += (
                f"; it is another one than the check before saw ({account.certificate[:23]}…): nothing is sent to it. "
                "Ask the host, then check with --accept-identity"
            )
            state = "bad"
        survey.say("site.certificate", told, how, state, {"problem": seen.problem, "sha256": seen.sha256})
    else:
        if account.certificate:
            pin("")
        text = f"right for {name}, by {seen.issuer}, until {seen.ends_at}"
        survey.say("site.certificate", text, how, data={"problem": "", "sha256": seen.sha256})


def tell_self(survey: Survey, answer: Mapping[str, Any] | None, word: str, address: str, how: str) -> None:
    """Who answers when the host calls the site's own address. `answer` is as host_call in host_report.php gives it."""
    host = urlsplit(address).hostname or address
    if answer is None or answer.get("reached") is None:
        survey.say("site.self", "not known: nothing there may open connections", how, "unknown")
        return
    resolved = str(answer.get("resolved") or "")
    lead = f" (it takes {host} for {resolved})" if resolved and resolved != host else ""
    if not answer["reached"]:
        text = f"reaches nothing{lead}: an application that calls its own address gets no answer"
        survey.say("site.self", text, how, "heed", {"here": False, "resolved": resolved})
        return
    body = base64.b64decode(answer.get("answer", ""))
    if word.encode() in body:
        survey.say("site.self", "reaches this account", how, data={"here": True, "resolved": resolved})
        return
    status = re.match(rb"HTTP/\S+ (\d+)", body)
    told = f"status {status[1].decode()}" if status else "something else"
    text = f"reaches another server{lead}, which answers {told}: an application that calls its own address reaches that one"
    survey.say("site.self", text, how, "heed", {"here": False, "resolved": resolved})


def _is_number(host: str) -> bool:
    try:
        ipaddress.ip_address(host)
    except ValueError:
        return False
    return True
