"""Names that a shell completes: accounts, releases, jobs, installations, licences, dumps and profiles, as the service knows them.

Nothing is said when it cannot be asked: a shell that waits for names must not be answered with an error.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import Any

from highshelf.client import Client, ServiceError
from highshelf.client.calls import Part
from highshelf.client.environment import operator_token, service_url
from highshelf.client.profiles import ProfileError, profiles

MOST = 60
Names = Callable[[Client, str], Iterator[str]]


def _accounts(client: Client, begun: str) -> Iterator[str]:
    yield from (one.name for one in client.account_list(Part(limit=MOST, q=begun)).items)


def _releases(client: Client, begun: str) -> Iterator[str]:
    # The version is no part of the name that is searched.
    for one in client.release_list(Part(limit=MOST, q=begun.partition("-")[0])).items:
        yield from (one.name, f"{one.name}-{one.version}")


def _jobs(client: Client, begun: str) -> Iterator[str]:
    yield from (one.id for one in client.job_list(part=Part(limit=MOST)).items)


def _installations(client: Client, begun: str) -> Iterator[str]:
    yield from (one.id for one in client.installation_list(part=Part(limit=MOST)).items)


def _licences(client: Client, begun: str) -> Iterator[str]:
    yield from (one.id for one in client.licence_list(Part(limit=MOST)).items)


def _dumps(client: Client, begun: str) -> Iterator[str]:
    yield from (one.id for one in client.dump_list(Part(limit=MOST)).items)


BY_PARAMETER: dict[str, Names] = {
    "account": _accounts,
    "names": _accounts,
    "ref": _releases,
    "release": _releases,
    "old": _releases,
    "new": _releases,
    "job_id": _jobs,
    "installation": _installations,
    "licence": _licences,
    "dump": _dumps,
}


def names_for(group: str, parameter: str) -> Callable[[Any, Any, str], list[str]] | None:
    """What completes a parameter of a group's commands, or None."""
    if (group, parameter) == ("profile", "name"):
        return lambda ctx, param, begun: [name for name in _profiles() if name.startswith(begun)]
    found = _accounts if (group, parameter) in (("account", "name"), ("site", "name")) else BY_PARAMETER.get(parameter)
    return None if found is None else lambda ctx, param, begun: _asked(found, begun)


def _asked(names: Names, begun: str) -> list[str]:
    with (
        suppress(ServiceError, ProfileError, OSError, ValueError),
        Client(service_url(), operator_token()) as client,
    ):
        return list(dict.fromkeys(name for name in names(client, begun) if name.startswith(begun)))
    return []


def _profiles() -> list[str]:
    with suppress(ProfileError, OSError):
        return sorted(profiles())
    return []
