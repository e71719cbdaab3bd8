"""First answers to requests that may be sent again, sealed as secrets are: an answer may hold one.

Rules:
1. A key is written down before the request is carried out, and its answer afterwards. What was cut off between the two is told, not done again.
2. Only what was carried out is kept; a refusal made nothing, and the same key may be tried again.
3. After a day nobody sends a request again: it goes.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass
from datetime import timedelta

from sqlmodel import col, delete

from highshelf.store.database import session_on
from highshelf.store.store import Store
from highshelf.store.tables import SecretRow, now

KEPT_FOR = timedelta(days=1)
START = "repeat/"


@dataclass(frozen=True)
class Kept:
    """A request by its `mark` (a hash of what was asked), and its answer; `status` 0 while there is none."""

    mark: str
    status: int = 0
    headers: tuple[tuple[str, str], ...] = ()
    body: str = ""


def ref_of(who: str, key: str) -> str:
    """Where the answer to somebody's key is kept: another's key of the same text is another one."""
    return START + hashlib.sha256(f"{who}\n{key}".encode()).hexdigest()


def begin(store: Store, ref: str, mark: str) -> Kept | None:
    """What is known of this key; None when it is new, and is written down now."""
    with session_on(store.engine) as session:
        session.exec(
            delete(SecretRow).where(col(SecretRow.ref).startswith(START), col(SecretRow.created_at) < now() - KEPT_FOR)
        )
        row = session.get(SecretRow, ref)
    if row is not None:
        found = json.loads(store.strongbox.open(ref, row.nonce, row.sealed))
        return Kept(**{**found, "headers": tuple((n, v) for n, v in found["headers"])})
    end(store, ref, Kept(mark))
    return None


def end(store: Store, ref: str, kept: Kept) -> None:
    # Not by the way of single secrets: an answer is no word that is masked in other texts.
    nonce, sealed = store.strongbox.seal(ref, json.dumps(asdict(kept)))
    with session_on(store.engine) as session:
        session.merge(SecretRow(ref=ref, nonce=nonce, sealed=sealed, created_at=now()))


def drop(store: Store, ref: str) -> None:
    """Nothing came of it: the key may be used again."""
    store.drop_secret(ref)
