"""The route that takes many accounts from one CSV file: all faults at once, and nothing kept while there is one."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterator
from typing import Any

from fastapi import APIRouter
from pydantic import ValidationError

from highshelf.core.account import check_address, check_database_host, check_reach, parse_transfer
from highshelf.core.errors import HighShelfError, InputError
from highshelf.core.identity import check_fingerprint
from highshelf.schemas.models import AccountNew
from highshelf.schemas.surveys import ImportAsk, ImportFault, ImportOut, ImportRow
from highshelf.service.accounts import check_new, keep
from highshelf.service.deps import In, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.tables import AccountRow

router = APIRouter(prefix="/accounts", tags=["accounts"], responses=RESPONSES)
COLUMNS = tuple(AccountNew.model_fields)
NEEDED = ("name", "transfer", "address")
SWITCHED = ("helper", "agent", "confirm_server")
SWITCHES = {"yes": True, "no": False, "true": True, "false": False, "1": True, "0": False, "": None}
NAME_RULE = "small letters, digits and hyphens only, 40 at the most, beginning with a letter or digit"
MOST_ROWS, MOST_CHARS = 5000, 5_000_000
CHECKS: dict[str, Callable[[str], Any]] = {
    "transfer": parse_transfer,
    "address": check_address,
    "panel": lambda text: check_address(text, "panel address") if text else None,
    "reach": check_reach,
    "fingerprint": check_fingerprint,
    "database_host": check_database_host,
}


@router.post("/import", operation_id="account_import")
def take(ask: ImportAsk, room: In, who: Who) -> ImportOut:
    """Check the accounts of a CSV file, and keep them when that is asked and there is no fault. Nothing is contacted."""
    lines = _lines(ask.text.get_secret_value())
    header, rows = lines[0], lines[1:]
    faults = list(_header_faults(header))
    known: dict[str, int] = {}
    accounts: list[tuple[int, AccountNew]] = []
    for number, cells in rows:
        given = {n: c.strip() if n not in ("key", "password") else c for n, c in zip(header[1], cells, strict=False)}
        if len(cells) > len(header[1]):
            faults.append(
                ImportFault(line=number, column="", message=f"{len(cells)} cells, but {len(header[1])} columns")
            )
        found = list(_row_faults(room, number, given, known))
        new = _account(room, number, {n: v for n, v in given.items() if n in COLUMNS}, found)
        faults += found
        if new is not None:
            accounts.append((number, new))
    if ask.keep and not faults:
        for _, new in accounts:
            keep(room, new)
    shown = [ImportRow(line=n, name=a.name, title=a.title, transfer=a.transfer, address=a.address) for n, a in accounts]
    kept = len(accounts) if ask.keep and not faults else 0
    return ImportOut(rows=shown, faults=sorted(faults, key=lambda f: f.line), kept=kept)


def _lines(text: str) -> list[tuple[int, list[str]]]:
    """Line number and cells; the heading first, its names in our writing. Raises InputError."""
    if len(text) > MOST_CHARS:
        raise InputError(f"the file has {len(text)} characters, more than {MOST_CHARS}", hint="cut it in parts")
    text = text.removeprefix("\ufeff")
    first = next((line for line in text.splitlines() if line.strip()), "")
    mark = max(",;\t", key=first.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=mark)
    found, start = [], 1
    try:
        for cells in reader:
            if any(c.strip() for c in cells):
                found.append((start, cells))
            start = reader.line_num + 1
    except csv.Error as fault:
        raise InputError(f"line {reader.line_num} is no CSV: {fault}", hint="is a quotation mark missing?") from None
    if len(found) < 2:
        raise InputError(
            "the file holds no accounts",
            hint="a heading line (name, title, transfer, password, address, …), then a line for each account",
        )
    if len(found) - 1 > MOST_ROWS:
        raise InputError(f"the file holds {len(found) - 1} accounts, more than {MOST_ROWS}", hint="cut it in parts")
    number, header = found[0]
    names = ["_".join(c.strip().lower().replace("-", " ").split()) for c in header]
    return [(number, names), *found[1:]]


def _header_faults(header: tuple[int, list[str]]) -> Iterator[ImportFault]:
    number, names = header
    for name in names:
        if name not in COLUMNS:
            told = f"there is no such column; there are {', '.join(COLUMNS)}"
            yield ImportFault(line=number, column=name, message=told)
        elif names.count(name) > 1:
            yield ImportFault(line=number, column=name, message="the column is there twice")
    for name in NEEDED:
        if name not in names:
            yield ImportFault(line=number, column=name, message="the column is missing")


def _row_faults(room: In, number: int, given: dict[str, str], known: dict[str, int]) -> Iterator[ImportFault]:
    """What is wrong with each cell by itself; secrets are never in a message."""
    for column in NEEDED:
        if column in given and not given[column]:
            yield ImportFault(line=number, column=column, message="is empty")
    for column, check in CHECKS.items():
        if given.get(column):
            try:
                check(given[column])
            except InputError as fault:
                yield ImportFault(line=number, column=column, message=str(fault))
    for column in SWITCHED:
        if given.get(column, "").lower() not in SWITCHES:
            yield ImportFault(line=number, column=column, message=f"{given[column]!r} is neither yes nor no")
    name = given.get("name", "")
    if name in known:
        yield ImportFault(line=number, column="name", message=f"{name} stands in line {known[name]} already")
    elif name and room.store.find(AccountRow, name) is not None:
        yield ImportFault(line=number, column="name", message=f"there is an account {name} already")
    known.setdefault(name, number)
    if not given.get("password") and not given.get("key") and not SWITCHES.get(given.get("agent", "").lower()):
        yield ImportFault(line=number, column="password", message="neither password nor key is given")


def _account(room: In, number: int, given: dict[str, str], faults: list[ImportFault]) -> AccountNew | None:
    """The account of a row; what is wrong with it beyond what is in `faults` is added there."""
    values: dict[str, Any] = {n: v for n, v in given.items() if v != "" and n not in SWITCHED}
    for column in SWITCHED:
        if (switch := SWITCHES.get(given.get(column, "").lower())) is not None:
            values[column] = switch
    told = {f.column for f in faults}
    try:
        new = AccountNew.model_validate(values)
        if not faults:
            check_new(room, new)
    except ValidationError as fault:
        for one in fault.errors():
            column = str(one["loc"][0])
            if column not in told and given.get(column):
                message = NAME_RULE if column == "name" else one["msg"]
                faults.append(ImportFault(line=number, column=column, message=message))
        return None
    except HighShelfError as fault:
        faults.append(ImportFault(line=number, column="", message=str(fault)))
        return None
    return None if faults else new
