"""Routes of primers: which there are, what stands in them, whether one holds."""

from __future__ import annotations

from fastapi import APIRouter

from highshelf.core.account import Account
from highshelf.core.errors import InputError, NotFoundError
from highshelf.core.primers.models import READ, PanelPrimer
from highshelf.core.primers.reading import examine_primer, read_primer
from highshelf.engine.bench import account_of
from highshelf.engine.panels import panel_password, try_panel
from highshelf.schemas.models import Listing
from highshelf.schemas.shelf import PanelTriedOut, PanelTriesOut, PanelTry, PrimerOut, PrimerText
from highshelf.service.deps import In, Who
from highshelf.service.faults import RESPONSES
from highshelf.store.tables import AccountRow

router = APIRouter(prefix="/primers", tags=["primers"], responses=RESPONSES)


def primer_out(name: str, own: bool, text: str, *, whole: bool = False) -> PrimerOut:
    primer, faults = examine_primer(text)
    if primer is not None and name and name.removeprefix("panel-") != primer.name:
        faults = [*faults, f"line 1: name: is {primer.name}, but the file is called {name}.yaml"]
    return PrimerOut(
        name=primer.name if primer else name.removeprefix("panel-"),
        kind=primer.kind if primer else ("panel" if name.startswith("panel-") else "application"),
        own=own,
        recognise=list(primer.recognise) if primer else [],
        faults=faults,
        text=text if whole else "",
    )


@router.get("", operation_id="primer_list")
def listing(room: In, who: Who) -> Listing[PrimerOut]:
    """All primers: those that ship, and the operators' own in the data folder, which win."""
    found = [primer_out(*one) for one in room.drivers.primer_texts()]
    return Listing(items=found, total=len(found))


@router.post("/check", operation_id="primer_check")
def check(ask: PrimerText, room: In, who: Who) -> PrimerOut:
    """Whether a primer's text holds: all faults at once, each with its line. Nothing is kept."""
    return primer_out("", True, ask.text)


@router.post("/try", operation_id="primer_try")
def try_out(ask: PanelTry, room: In, who: Who) -> PanelTriesOut:
    """Sign in to an account's panel as a primer says, and do what only looks: nothing there is made, changed or deleted."""
    account = account_of(room.store.get(AccountRow, ask.account, "account"))
    if not account.panel:
        hint = f"`highshelf account change {account.name} --panel ADDRESS` gives it one"
        raise InputError(f"the account {account.name} has no panel", hint=hint)
    primer = _primer_to_try(room, account, ask.text)
    tried = try_panel(room.drivers, account, primer, panel_password(room.store, account.name))
    tasks = [PanelTriedOut(task=one.task, verdict=one.verdict, told=one.told) for one in tried]
    return PanelTriesOut(account=account.name, panel=account.panel, primer=primer.name, tasks=tasks)


def _primer_to_try(room: In, account: Account, text: str) -> PanelPrimer:
    """Raises InputError, PrimerError."""
    if text:
        primer = read_primer(text, "this primer")
        if not isinstance(primer, PanelPrimer):
            raise InputError("this is an application's primer", hint="give a panel's: it begins with `kind: panel`")
        return primer
    if account.panel_primer in ("", READ):
        raise InputError(
            f"the account {account.name} uses no panel primer",
            hint="give one with --file; `highshelf account check` says what reading the panel would come to",
        )
    return room.drivers.panel_primer(account.panel_primer)


@router.get("/{name}", operation_id="primer_show")
def show(name: str, room: In, who: Who) -> PrimerOut:
    """A primer with its text; panels' by their name too."""
    for found in room.drivers.primer_texts():
        if found[0] in (name, f"panel-{name}"):
            return primer_out(*found, whole=True)
    raise NotFoundError(f"there is no primer {name}", hint="`highshelf primer list` shows what there is")
