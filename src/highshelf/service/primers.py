"""Routes of primers: which there are, what stands in them, whether one holds."""

from __future__ import annotations

from fastapi import APIRouter

from highshelf.core.errors import NotFoundError
from highshelf.core.primers.reading import examine_primer
from highshelf.schemas.models import Listing
from highshelf.schemas.shelf import PrimerOut, PrimerText
from highshelf.service.deps import In, Who
from highshelf.service.faults import RESPONSES

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


@router.get("/{name}", operation_id="primer_show")
def show(name: str, room: In, who: Who) -> PrimerOut:
    """A primer with its text; panels' by their name too."""
    for found in room.drivers.primer_texts():
        if found[0] in (name, f"panel-{name}"):
            return primer_out(*found, whole=True)
    raise NotFoundError(f"there is no primer {name}", hint="`highshelf primer list` shows what there is")
