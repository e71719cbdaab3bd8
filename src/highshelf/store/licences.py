"""Licence keys: whose, for what, and who uses them. The keys themselves lie in the strongbox.

Rules:
1. A key that is used is not used again, unless it was said that it may be used several times.
2. A job takes its key before it begins and gives it back when what it did was taken back.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from sqlmodel import col

from highshelf.core.errors import ConflictError, InputError
from highshelf.store.tables import LicenceRow

if TYPE_CHECKING:
    from highshelf.store.store import Store


def reference(licence: str) -> str:
    """Where a key is filed in the strongbox."""
    return f"licence/{licence}"


def licences_for(store: Store, application: str, account: str) -> Sequence[LicenceRow]:
    """All keys of an application that belong to an account, the oldest first."""
    return store.all(
        LicenceRow,
        col(LicenceRow.application) == application.lower(),
        col(LicenceRow.account) == account,
        order=col(LicenceRow.created_at),
    )


def keep_licence(store: Store, number: str, application: str, account: str, key: str, *, several: bool) -> LicenceRow:
    """File a key.

    Raises:
        InputError: it is empty or no single line. ConflictError: this key is filed already, for whoever.
    """
    key = key.strip()
    if not key or "\n" in key or len(key) > 4000:
        raise InputError("a licence key is one line", hint="give the key alone, without what stands around it")
    for row in store.all(LicenceRow, limit=100_000):
        if store.secret(reference(row.id)) == key:
            raise ConflictError(
                f"this key is filed already, as {row.id}: {row.application} for {row.account}",
                hint="keys belong to one customer each",
            )
    store.set_secret(reference(number), key)
    row = LicenceRow(
        id=number, application=application.lower(), account=account, ending=ending_of(key), several=several
    )
    return store.add(row)


def ending_of(key: str) -> str:
    """What is shown of a key: its last characters, at most a quarter of it."""
    return "…" + key[-min(4, max(1, len(key) // 4)) :]


def is_free(row: LicenceRow) -> bool:
    return row.several or not row.used_by


def take_licence(store: Store, number: str, job: str) -> str:
    """Take a key for a job and give it; a second call of the same job gives it again.

    Raises:
        NotFoundError: it was forgotten. ConflictError: somebody else has it.
    """
    with store.together():
        row = store.get(LicenceRow, number, "licence")
        if job not in row.used_by:
            if not is_free(row):
                raise ConflictError(
                    f"the licence key {row.ending} is used already, by {', '.join(row.used_by)}",
                    hint="file another key for this installation, or say that this one may be used several times: "
                    f"`highshelf licence change {row.id} --several`",
                )
            store.change(LicenceRow, number, used_by=[*row.used_by, job])
    return store.secret(reference(number))


def hand_over(store: Store, job: str, installation: str = "") -> None:
    """What a job took goes to its installation, or is free again when there is none."""
    with store.together():
        for row in store.all(LicenceRow, limit=100_000):
            if job in row.used_by:
                users = [u for u in row.used_by if u != job] + ([installation] if installation else [])
                store.change(LicenceRow, row.id, used_by=users)


def forget_licences(store: Store, account: str) -> None:
    """Forget every key of an account: whoever bears its name next is another customer."""
    for row in store.all(LicenceRow, col(LicenceRow.account) == account, limit=100_000):
        store.drop_secret(reference(row.id))
        store.delete(LicenceRow, row.id)
